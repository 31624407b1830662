import type { Mesh, MeshPart } from '../../engine'
import { grouped } from '../../shot'
import { bad, LIMITS, type Read } from '../result'

/**
 * Wavefront OBJ: v, vn, f with any number of corners (fans), negative indices, o/g/usemtl as part names. Other lines are
 * counted and named. Vertices are split where they meet with different normals.
 */
export function readObj(text: string): Read<Mesh> {
  const v: number[] = []
  const n: number[] = []
  const corners = new Map<string, number>()
  const positions: number[] = []
  const normals: number[] = []
  const indices: number[] = []
  const parts: MeshPart[] = []
  const skipped = new Map<string, number>()
  let allNormals = true
  let line = 0
  let at = 0
  let partName = ''
  const beginPart = (name: string) => {
    partName = name
  }
  const currentPart = (): MeshPart | null => {
    if (!partName) return null
    const last = parts[parts.length - 1]
    if (last && last.name === partName && last.firstTriangle + last.triangleCount === indices.length / 3) return last
    const made = { name: partName, firstTriangle: indices.length / 3, triangleCount: 0 }
    parts.push(made)
    return made
  }
  while (at < text.length) {
    let end = text.indexOf('\n', at)
    if (end < 0) end = text.length
    line++
    const raw = text.slice(at, end).trim()
    at = end + 1
    if (!raw || raw[0] === '#') continue
    const w = raw.split(/\s+/)
    switch (w[0]) {
      case 'v':
      case 'vn': {
        if (w.length < 4) return bad(`“${w[0]}” needs three numbers`, { line })
        const list = w[0] === 'v' ? v : n
        for (let k = 1; k <= 3; k++) {
          const x = Number(w[k])
          if (!Number.isFinite(x)) return bad(`“${w[k].slice(0, 40)}” is not a finite number`, { line })
          list.push(x)
        }
        if (v.length / 3 > LIMITS.vertices) return bad(`more than ${grouped(LIMITS.vertices)} vertices`, { line })
        break
      }
      case 'f': {
        if (w.length < 4) return bad('a face needs at least three corners', { line })
        const face: number[] = []
        for (let k = 1; k < w.length; k++) {
          const [a, , c] = w[k].split('/')
          const vi = resolve(a, v.length / 3)
          if (vi === null)
            return bad(`corner “${w[k].slice(0, 40)}” names a vertex that is not there; the file has ${v.length / 3} so far`, { line })
          let ni = -1
          if (c) {
            const r = resolve(c, n.length / 3)
            if (r === null)
              return bad(`corner “${w[k].slice(0, 40)}” names a normal that is not there; the file has ${n.length / 3} so far`, { line })
            ni = r
          } else allNormals = false
          const key = `${vi}/${ni}`
          let corner = corners.get(key)
          if (corner === undefined) {
            corner = positions.length / 3
            corners.set(key, corner)
            positions.push(v[vi * 3], v[vi * 3 + 1], v[vi * 3 + 2])
            if (ni >= 0) normals.push(n[ni * 3], n[ni * 3 + 1], n[ni * 3 + 2])
            else normals.push(0, 0, 0)
          }
          face.push(corner)
        }
        const part = currentPart()
        for (let k = 2; k < face.length; k++) {
          indices.push(face[0], face[k - 1], face[k])
          if (part) part.triangleCount++
        }
        if (indices.length / 3 > LIMITS.triangles) return bad(`more than ${grouped(LIMITS.triangles)} triangles`, { line })
        break
      }
      case 'o':
      case 'g':
        beginPart(w.slice(1).join(' '))
        break
      case 'vt':
      case 's':
      case 'usemtl':
      case 'mtllib':
        skipped.set(w[0], (skipped.get(w[0]) ?? 0) + 1)
        break
      default:
        if (!/^[a-z_]+$/.test(w[0])) return bad(`“${w[0].slice(0, 40)}” is not a line of an OBJ file; is this another format?`, { line })
        skipped.set(w[0], (skipped.get(w[0]) ?? 0) + 1)
    }
  }
  if (!indices.length) return bad('no face: an OBJ file needs lines that begin with “f”', { line })
  const words: Record<string, string> = {
    vt: 'texture coordinates',
    s: 'smoothing groups',
    usemtl: 'material names',
    mtllib: 'material files',
  }
  return {
    ok: true,
    value: {
      positions: new Float32Array(positions),
      normals: allNormals ? new Float32Array(normals) : null,
      indices: new Uint32Array(indices),
      parts: merged(parts),
    },
    notes: [...skipped].map(([k, c]) => `not taken over: ${words[k] ?? `“${k}” lines`} (${c})`),
  }
}
const resolve = (word: string, count: number): number | null => {
  if (!/^-?\d+$/.test(word)) return null
  const i = Number(word)
  const at = i < 0 ? count + i : i - 1
  return at >= 0 && at < count ? at : null
}
/** One run a name: a name that comes again later keeps only its first run under the plain name. */
function merged(parts: MeshPart[]): MeshPart[] {
  const seen = new Map<string, number>()
  return parts
    .filter((p) => p.triangleCount > 0)
    .map((p) => {
      const again = (seen.get(p.name) ?? 0) + 1
      seen.set(p.name, again)
      return again === 1 ? p : { ...p, name: `${p.name} (${again})` }
    })
}
