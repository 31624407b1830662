import { describe, expect, it } from 'vitest'
import { boundsOf, box, evenSphere, isClosed, levelsOf, type Mesh, smoothNormals, torus } from '..'

const faces = (m: { indices: Uint32Array }) => m.indices.length / 3
const at = (m: Mesh, v: number) => [0, 1, 2].map((k) => m.positions[v * 3 + k])
/** A square of n by n cells in the plane y = 0, whose points are out of line by as much as they may. */
function sheet(n: number): Mesh {
  const positions = Float32Array.from({ length: (n + 1) ** 2 * 3 }, (_, i) => {
    const v = Math.floor(i / 3)
    return i % 3 === 1 ? 0 : (i % 3 === 0 ? v % (n + 1) : Math.floor(v / (n + 1))) / n
  })
  const cell = Array.from({ length: n * n }, (_, c) => (c % n) + (n + 1) * Math.floor(c / n))
  const indices = Uint32Array.from(cell.flatMap((a) => [a, a + n + 1, a + 1, a + 1, a + n + 1, a + n + 2]))
  return { positions, normals: null, indices, parts: [] }
}
function area(m: Mesh, indices: Uint32Array): number {
  let sum = 0
  for (let t = 0; t < indices.length; t += 3) {
    const [a, b, c] = [at(m, indices[t]), at(m, indices[t + 1]), at(m, indices[t + 2])]
    const [u, v] = [b.map((x, k) => x - a[k]), c.map((x, k) => x - a[k])]
    sum += 0.5 * Math.hypot(u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0])
  }
  return sum
}

describe('levels of a mesh', () => {
  it.each([
    ['a ball', evenSphere(1, 12)],
    ['a ring with seams', torus(1, 0.4, 40)],
  ])('of %s halve its faces, stay closed, and take corners of the mesh alone', (_, mesh) => {
    const levels = levelsOf(mesh)
    expect(levels[0].indices).toBe(mesh.indices)
    expect(levels.length).toBeGreaterThan(4)
    for (const [i, l] of levels.entries()) {
      if (i) expect(faces(l) / faces(levels[i - 1])).toBeLessThanOrEqual(0.5)
      if (i) expect(faces(l) / faces(levels[i - 1])).toBeGreaterThan(0.4)
      expect(isClosed({ ...mesh, indices: l.indices })).toBe(true)
      // Half as many faces have edges √2 as long.
      if (i) expect(l.coarser / levels[i - 1].coarser).toBeGreaterThan(1.1)
    }
    expect(levelsOf(mesh)).toBe(levels)
  })
  it('of a ball keep its size: the error goes with the square of the edges', () => {
    const ball = evenSphere(1, 16)
    for (const l of levelsOf(ball).slice(1, 5)) {
      let deepest = 0
      for (let t = 0; t < l.indices.length; t += 3) {
        const middle = [0, 1, 2].map((k) => [0, 1, 2].reduce((s, c) => s + ball.positions[l.indices[t + c] * 3 + k], 0) / 3)
        deepest = Math.max(deepest, 1 - Math.hypot(...middle))
      }
      // A regular face whose corners lie on the ball is e²/6 deep in its middle; uneven ones are up to six times as deep.
      const edge = Math.sqrt((16 * Math.PI) / (Math.sqrt(3) * faces(l)))
      expect(deepest).toBeLessThan(edge * edge)
    }
  })
  it('of a flat sheet keep its outline and its area to the last', () => {
    const m = sheet(12)
    const levels = levelsOf(m)
    expect(faces(levels[levels.length - 1])).toBeLessThan(30)
    for (const l of levels) expect(area(m, l.indices)).toBeCloseTo(1, 5)
  })
  it('of a box with hard edges keep them: no corner takes the normal of another side', () => {
    // Each side cut into four by four.
    const m = box(1, 1, 1)
    expect(levelsOf(m)).toHaveLength(1)
    // The six sides of a cube, from the places of one sheet.
    const turns = [
      (x: number, z: number) => [x, 0, z],
      (x: number, z: number) => [x, 1, 1 - z],
      (x: number, z: number) => [0, z, x],
      (x: number, z: number) => [1, 1 - z, x],
      (x: number, z: number) => [z, x, 0],
      (x: number, z: number) => [1 - z, x, 1],
    ]
    const sides = turns.map((turn) => {
      const part = sheet(8)
      const places = Array.from({ length: part.positions.length / 3 }, (_, v) => turn(at(part, v)[0], at(part, v)[2]))
      return { positions: Float32Array.from(places.flat()), indices: part.indices }
    })
    const n = sides[0].positions.length / 3
    const cube: Mesh = {
      positions: Float32Array.from(sides.flatMap((s) => [...s.positions])),
      normals: null,
      indices: Uint32Array.from(sides.flatMap((s, k) => [...s.indices].map((i) => i + k * n))),
      parts: [],
    }
    // Sides may look inwards; what counts is that each keeps its own.
    const sideOf = (v: number) => Math.floor(v / n)
    const normals = new Float32Array(cube.positions.length)
    for (let k = 0; k < 6; k++) {
      const side = { ...cube, indices: cube.indices.slice(k * sides[0].indices.length, (k + 1) * sides[0].indices.length) }
      const own = smoothNormals(side, cube.positions)
      for (let v = k * n; v < (k + 1) * n; v++) for (let a = 0; a < 3; a++) normals[v * 3 + a] = own[v * 3 + a]
    }
    const levels = levelsOf({ ...cube, normals })
    expect(levels.length).toBeGreaterThan(3)
    for (const l of levels) {
      for (let t = 0; t < l.indices.length; t += 3) expect(new Set([0, 1, 2].map((k) => sideOf(l.indices[t + k]))).size).toBe(1)
      const used = { ...cube, positions: Float32Array.from([...new Set(l.indices)].flatMap((v) => at(cube, v))) }
      expect(boundsOf(used).min).toEqual([0, 0, 0])
      expect(boundsOf(used).max).toEqual([1, 1, 1])
    }
  })
})
