import type { Mesh } from '..'

/** A closed box around the middle, its faces outwards. */
export function boxMesh(size: [number, number, number] = [1, 1, 1]): Mesh {
  const [x, y, z] = size.map((v) => v / 2)
  const positions = new Float32Array([-x, -y, -z, x, -y, -z, x, y, -z, -x, y, -z, -x, -y, z, x, -y, z, x, y, z, -x, y, z])
  const indices = new Uint32Array([
    0, 2, 1, 0, 3, 2, 4, 5, 6, 4, 6, 7, 0, 1, 5, 0, 5, 4, 3, 7, 6, 3, 6, 2, 0, 4, 7, 0, 7, 3, 1, 2, 6, 1, 6, 5,
  ])
  return { positions, normals: null, indices, parts: [{ name: 'Top', firstTriangle: 6, triangleCount: 2 }] }
}
/** A sphere of rings, closed, its faces outwards. */
export function sphereMesh(radius: number, rings: number): Mesh {
  const positions: number[] = []
  const indices: number[] = []
  const around = rings * 2
  positions.push(0, radius, 0)
  for (let i = 1; i < rings; i++) {
    const a = (i / rings) * Math.PI
    for (let k = 0; k < around; k++) {
      const b = (k / around) * Math.PI * 2
      positions.push(radius * Math.sin(a) * Math.cos(b), radius * Math.cos(a), radius * Math.sin(a) * Math.sin(b))
    }
  }
  positions.push(0, -radius, 0)
  const at = (i: number, k: number) => 1 + (i - 1) * around + (k % around)
  const south = positions.length / 3 - 1
  for (let k = 0; k < around; k++) {
    indices.push(0, at(1, k + 1), at(1, k))
    for (let i = 1; i < rings - 1; i++) indices.push(at(i, k), at(i, k + 1), at(i + 1, k), at(i, k + 1), at(i + 1, k + 1), at(i + 1, k))
    indices.push(south, at(rings - 1, k), at(rings - 1, k + 1))
  }
  return { positions: new Float32Array(positions), normals: null, indices: new Uint32Array(indices), parts: [] }
}
