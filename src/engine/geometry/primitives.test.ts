import { describe, expect, it } from 'vitest'
import { box, cone, disc, evenSphere, isClosed, type Mesh, runningAreas, sphere, torus, tube } from '..'

const area = (m: Mesh) => runningAreas(m).at(-1) as number
/** Volume by the divergence theorem; right only when closed and faced outwards. */
function volume(m: Mesh): number {
  const p = (v: number) => [...m.positions.subarray(v * 3, v * 3 + 3)]
  let sum = 0
  for (let t = 0; t < m.indices.length; t += 3) {
    const [a, b, c] = [p(m.indices[t]), p(m.indices[t + 1]), p(m.indices[t + 2])]
    sum += (a[0] * (b[1] * c[2] - b[2] * c[1]) + a[1] * (b[2] * c[0] - b[0] * c[2]) + a[2] * (b[0] * c[1] - b[1] * c[0])) / 6
  }
  return sum
}
const PI = Math.PI

describe('primitives', () => {
  it.each([
    ['box', box(2, 3, 4), 2 * (6 + 8 + 12), 24, 1e-6],
    ['sphere by rings', sphere(2, 96), 16 * PI, (32 / 3) * PI, 2e-3],
    ['even sphere', evenSphere(2, 32), 16 * PI, (32 / 3) * PI, 2e-3],
    ['cone', cone(1, 0, 2, 256), PI * (1 + Math.sqrt(5)), (2 / 3) * PI, 1e-3],
    ['drum', cone(1, 0.5, 2, 256), PI * (1 + 0.25 + 1.5 * Math.sqrt(4.25)), (PI * 2 * (1 + 0.5 + 0.25)) / 3, 1e-3],
    ['torus', torus(2, 0.5, 256), 4 * PI * PI * 2 * 0.5, 2 * PI * PI * 2 * 0.25, 1e-3],
  ] as const)('%s is closed, faces outwards, and has its area and volume', (_name, mesh, a, v, tolerance) => {
    expect(isClosed(mesh)).toBe(true)
    expect(Math.abs(area(mesh) / a - 1)).toBeLessThan(tolerance)
    expect(Math.abs(volume(mesh) / v - 1)).toBeLessThan(tolerance)
  })
  it.each([
    ['disc', disc(2, 0, 256), 4 * PI],
    ['ring', disc(2, 1, 256), 3 * PI],
    ['tube', tube(0.5, 3, 256), 3 * PI],
  ] as const)('%s is open and has its area', (_name, mesh, a) => {
    expect(isClosed(mesh)).toBe(false)
    expect(Math.abs(area(mesh) / a - 1)).toBeLessThan(1e-3)
  })
  it('normals are unit and lie on the side of the faces; no triangle is without area', () => {
    for (const m of [
      box(1, 2, 3),
      sphere(1, 12),
      evenSphere(1, 6),
      disc(1, 0, 12),
      disc(1, 0.4, 12),
      tube(1, 1, 12),
      cone(1, 0, 1, 12),
      cone(1, 0.5, 1, 12),
      torus(1, 0.3, 12),
    ]) {
      const n = m.normals as Float32Array
      for (let v = 0; v < n.length; v += 3) expect(Math.abs(n[v] ** 2 + n[v + 1] ** 2 + n[v + 2] ** 2 - 1)).toBeLessThan(1e-5)
      const areas = runningAreas(m)
      for (let t = 0; t < m.indices.length; t += 3) {
        expect(areas[t / 3] - (t ? areas[t / 3 - 1] : 0)).toBeGreaterThan(1e-6)
        const [a, b, c] = [0, 1, 2].map((k) => [...m.positions.subarray(m.indices[t + k] * 3, m.indices[t + k] * 3 + 3)])
        const u = b.map((x, k) => x - a[k]),
          w = c.map((x, k) => x - a[k])
        const f = [u[1] * w[2] - u[2] * w[1], u[2] * w[0] - u[0] * w[2], u[0] * w[1] - u[1] * w[0]]
        for (let k = 0; k < 3; k++)
          expect(f[0] * n[m.indices[t + k] * 3] + f[1] * n[m.indices[t + k] * 3 + 1] + f[2] * n[m.indices[t + k] * 3 + 2]).toBeGreaterThan(
            0,
          )
      }
    }
  })
  it('the even sphere has triangles of nearly one size, the ringed one does not', () => {
    const spread = (m: Mesh) => {
      const a = [...runningAreas(m)]
      const each = a.map((x, i) => x - (i ? a[i - 1] : 0))
      return Math.max(...each) / Math.min(...each)
    }
    expect(spread(evenSphere(1, 8))).toBeLessThan(2.1)
    expect(spread(sphere(1, 16))).toBeGreaterThan(5)
  })
  it('names its parts', () => {
    expect(box(1, 1, 1).parts.map((p) => p.name)).toEqual(['Top', 'Bottom', 'Front', 'Back', 'Right', 'Left'])
    expect(cone(1, 0, 1, 8).parts.map((p) => p.name)).toEqual(['Side', 'Base'])
    expect(box(1, 1, 1).parts.reduce((n, p) => n + p.triangleCount, 0)).toBe(12)
  })
})
