import type { Mesh } from '../../engine'
import { grouped } from '../../shot'
import { bad, LIMITS, type Read } from '../result'

const HEAD = 84
const RECORD = 50

/**
 * Whether bytes are a binary STL: the count in the head explains their length exactly. A text one begins with “solid” and holds “facet”.
 */
export function isBinaryStl(bytes: Uint8Array): boolean {
  return (
    bytes.byteLength >= HEAD &&
    bytes.byteLength === HEAD + RECORD * new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength).getUint32(80, true)
  )
}
/** Joins corners at the very same place, so that the mesh has edges and an inside; faces without area are left out. */
function joined(corners: Float32Array): { mesh: Mesh; flat: number } {
  const known = new Map<string, number>()
  const positions: number[] = []
  const indices: number[] = []
  let flat = 0
  for (let t = 0; t < corners.length; t += 9) {
    const tri = [0, 3, 6].map((o) => {
      const [x, y, z] = [corners[t + o] + 0, corners[t + o + 1] + 0, corners[t + o + 2] + 0]
      const key = `${x},${y},${z}`
      let v = known.get(key)
      if (v === undefined) {
        v = positions.push(x, y, z) / 3 - 1
        known.set(key, v)
      }
      return v
    })
    if (tri[0] === tri[1] || tri[1] === tri[2] || tri[2] === tri[0]) flat++
    else indices.push(...tri)
  }
  return { mesh: { positions: new Float32Array(positions), normals: null, indices: new Uint32Array(indices), parts: [] }, flat }
}
const finish = (corners: Float32Array): Read<Mesh> => {
  const { mesh, flat } = joined(corners)
  if (!mesh.indices.length) return bad('the file has no triangle with an area')
  return { ok: true, value: mesh, notes: flat ? [`left out: faces without area (${flat})`] : [] }
}

/** STL, binary or text: triangles alone. Normals of the file are not taken; they follow from the corners. */
export function readStl(bytes: Uint8Array): Read<Mesh> {
  if (isBinaryStl(bytes)) {
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
    const count = view.getUint32(80, true)
    if (count > LIMITS.triangles) return bad(`more than ${grouped(LIMITS.triangles)} triangles`, { byte: 80 })
    const corners = new Float32Array(count * 9)
    for (let t = 0; t < count; t++) {
      for (let k = 0; k < 9; k++) {
        const at = HEAD + t * RECORD + 12 + k * 4
        const x = view.getFloat32(at, true)
        if (!Number.isFinite(x)) return bad(`triangle ${t + 1} has a corner that is not a finite number`, { byte: at })
        corners[t * 9 + k] = x
      }
    }
    return finish(corners)
  }
  const lines = new TextDecoder().decode(bytes).split('\n')
  const corners: number[] = []
  let open = 0
  for (const [i, raw] of lines.entries()) {
    const w = raw.trim().split(/\s+/)
    if (w[0] === 'facet') {
      if (open % 3) return bad('a facet begins before the one before it has three corners', { line: i + 1 })
    } else if (w[0] === 'vertex') {
      if (w.length < 4) return bad('“vertex” needs three numbers', { line: i + 1 })
      for (let k = 1; k <= 3; k++) {
        const x = Number(w[k])
        if (!Number.isFinite(x)) return bad(`“${w[k].slice(0, 40)}” is not a finite number`, { line: i + 1 })
        corners.push(x)
      }
      open++
      if (open / 3 > LIMITS.triangles) return bad(`more than ${grouped(LIMITS.triangles)} triangles`, { line: i + 1 })
    } else if (w[0] && !['solid', 'endsolid', 'outer', 'endloop', 'endfacet'].includes(w[0]))
      return bad(`“${w[0].slice(0, 40)}” is not a line of a text STL file; is it cut short, or another format?`, { line: i + 1 })
  }
  if (open % 3) return bad('cut short: the last facet has no three corners', { line: lines.length })
  return finish(new Float32Array(corners))
}
