import type { Mesh } from './mesh'

/** Corners of a cell as bits: x, y, z. */
const EDGES: readonly (readonly [number, number])[] = [0, 1, 2, 3, 4, 5, 6, 7].flatMap((a) =>
  [1, 2, 4].flatMap((bit) => (a & bit ? [] : [[a, a | bit] as const])),
)
/**
 * The surface where a dense grid passes through zero, its inside being what is below, as a mesh of quads cut in two: one vertex in each cell
 * that it passes, in the middle of where it cuts the cell's edges (Gibson 1998, without her relaxation). `values`: nx · ny · nz samples, x
 * fastest; `place`: from a place of the grid to the mesh's space.
 */
export function surfaceNets(
  values: Float32Array,
  [nx, ny, nz]: readonly [number, number, number],
  place: (x: number, y: number, z: number) => readonly [number, number, number],
): Mesh {
  const vertexOf = new Int32Array(nx * ny * nz).fill(-1)
  const positions: number[] = []
  const at = (x: number, y: number, z: number) => x + nx * (y + ny * z)
  const offsets = Array.from({ length: 8 }, (_, c) => (c & 1) + nx * (((c >> 1) & 1) + ny * (c >> 2)))
  for (let z = 0; z + 1 < nz; z++)
    for (let y = 0; y + 1 < ny; y++)
      for (let x = 0; x + 1 < nx; x++) {
        const o = at(x, y, z)
        let inside = 0
        for (let c = 0; c < 8; c++) if (values[o + offsets[c]] < 0) inside |= 1 << c
        if (inside === 0 || inside === 255) continue
        let [cuts, sx, sy, sz] = [0, 0, 0, 0]
        for (const [a, b] of EDGES) {
          if (((inside >> a) & 1) === ((inside >> b) & 1)) continue
          const [va, vb] = [values[o + offsets[a]], values[o + offsets[b]]]
          const f = va / (va - vb)
          cuts++
          sx += (a & 1) + f * ((b & 1) - (a & 1))
          sy += ((a >> 1) & 1) + f * (((b >> 1) & 1) - ((a >> 1) & 1))
          sz += (a >> 2) + f * ((b >> 2) - (a >> 2))
        }
        vertexOf[o] = positions.length / 3
        positions.push(...place(x + sx / cuts, y + sy / cuts, z + sz / cuts))
      }
  const indices: number[] = []
  const quad = (a: number, b: number, c: number, d: number, outwards: boolean) => {
    if (a < 0 || b < 0 || c < 0 || d < 0) return
    if (outwards) indices.push(a, b, c, a, c, d)
    else indices.push(a, c, b, a, d, c)
  }
  // Around each edge of the grid that the surface cuts lie four cells.
  for (let z = 0; z < nz; z++)
    for (let y = 0; y < ny; y++)
      for (let x = 0; x < nx; x++) {
        const o = at(x, y, z)
        const here = values[o] < 0
        if (x + 1 < nx && y > 0 && z > 0 && here !== values[o + 1] < 0)
          quad(vertexOf[at(x, y - 1, z - 1)], vertexOf[at(x, y, z - 1)], vertexOf[o], vertexOf[at(x, y - 1, z)], here)
        if (y + 1 < ny && x > 0 && z > 0 && here !== values[o + nx] < 0)
          quad(vertexOf[at(x - 1, y, z - 1)], vertexOf[at(x - 1, y, z)], vertexOf[o], vertexOf[at(x, y, z - 1)], here)
        if (z + 1 < nz && x > 0 && y > 0 && here !== values[o + nx * ny] < 0)
          quad(vertexOf[at(x - 1, y - 1, z)], vertexOf[at(x, y - 1, z)], vertexOf[o], vertexOf[at(x - 1, y, z)], here)
      }
  const triangles = Uint32Array.from(indices)
  return {
    positions: Float32Array.from(positions),
    normals: null,
    indices: triangles,
    parts: [{ name: 'surface', firstTriangle: 0, triangleCount: triangles.length / 3 }],
  }
}
