import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { bodiesOf, boundsOf, type Contour, extrude, isClosed, type Mesh, runningAreas } from '..'

const square = (size: number, x = 0, y = 0): Contour => [x - size, y - size, x + size, y - size, x + size, y + size, x - size, y + size]
const circle = (r: number, n = 128): Contour =>
  Array.from({ length: n }, (_, i) => [r * Math.cos((i / n) * 2 * Math.PI), r * Math.sin((i / n) * 2 * Math.PI)]).flat()
const back = (c: Contour): Contour =>
  Array.from({ length: c.length / 2 }, (_, i) => [c[c.length - 2 - i * 2], c[c.length - 1 - i * 2]]).flat()
function volume(m: Mesh): number {
  const p = (v: number) => [...m.positions.subarray(v * 3, v * 3 + 3)]
  let sum = 0
  for (let t = 0; t < m.indices.length; t += 3) {
    const [a, b, c] = [p(m.indices[t]), p(m.indices[t + 1]), p(m.indices[t + 2])]
    sum += (a[0] * (b[1] * c[2] - b[2] * c[1]) + a[1] * (b[2] * c[0] - b[0] * c[2]) + a[2] * (b[0] * c[1] - b[1] * c[0])) / 6
  }
  return sum
}
const part = (m: Mesh, name: string) => {
  const p = m.parts.find((x) => x.name === name)
  if (!p) throw new Error(`no part ${name}`)
  const a = runningAreas(m)
  return a[p.firstTriangle + p.triangleCount - 1] - (p.firstTriangle ? a[p.firstTriangle - 1] : 0)
}

describe('extruding', () => {
  it('a square without a rim is a box', () => {
    const m = extrude([square(1)], { depth: 0.5, bevel: 0, steps: 1 })
    expect(isClosed(m)).toBe(true)
    expect(volume(m)).toBeCloseTo(2, 9)
    expect(m.parts.map((p) => p.name)).toEqual(['Front', 'Sides', 'Back'])
    expect([part(m, 'Front'), part(m, 'Sides'), part(m, 'Back')].map((x) => Number(x.toFixed(6)))).toEqual([4, 4, 4])
    expect(boundsOf(m)).toEqual({ min: [-1, -1, -0.25], max: [1, 1, 0.25] })
  })
  it('a hole stays a hole, whichever way the outlines run and in whatever order', () => {
    for (const list of [
      [square(2), square(1)],
      [square(2), back(square(1))],
      [back(square(1)), back(square(2))],
      [square(1), square(2)],
    ]) {
      const m = extrude(list, { depth: 1, bevel: 0, steps: 1 })
      expect(isClosed(m)).toBe(true)
      expect(volume(m)).toBeCloseTo(12, 6)
    }
  })
  it('an island in a hole is a body again, and neighbours are bodies of their own', () => {
    const b = bodiesOf([square(4), square(3), square(2), square(1), square(1, 9)])
    expect(b.map((x) => x.holes.length).sort()).toEqual([0, 1, 1])
    expect(volume(extrude([square(4), square(3), square(2), square(1), square(1, 9)], { depth: 1, bevel: 0, steps: 1 }))).toBeCloseTo(
      64 - 36 + 16 - 4 + 4,
      6,
    )
  })
  it('the rim is round: volume of a disc with a rounded edge by its closed form', () => {
    const r = 1,
      b = 0.2,
      depth = 0.6
    const m = extrude([circle(r, 512)], { depth, bevel: b, steps: 16 })
    expect(isClosed(m)).toBe(true)
    // Wall: π r² (depth − 2b); each rim: the disc of r − b, plus a quarter of a torus around it (Pappus).
    const rim = Math.PI * (r - b) ** 2 * b + 2 * Math.PI * ((r - b) * ((Math.PI * b * b) / 4) + b ** 3 / 3)
    expect(volume(m) / (Math.PI * r * r * (depth - 2 * b) + 2 * rim)).toBeCloseTo(1, 2)
    expect(Math.abs(boundsOf(m).max[2] - depth / 2)).toBeLessThan(1e-6)
  })
  it('a bevel deeper than half is held, outlines without area are left out, nothing is nothing', () => {
    expect(isClosed(extrude([square(1)], { depth: 0.2, bevel: 5, steps: 2 }))).toBe(true)
    expect(extrude([[0, 0, 1, 0, 2, 0]], { depth: 1, bevel: 0, steps: 1 }).indices.length).toBe(0)
    expect(extrude([], { depth: 1, bevel: 0.1, steps: 2 }).indices.length).toBe(0)
    expect(bodiesOf([[0, 0, 0, 0, 1, 0, 1, 1, 1, 1]])).toHaveLength(1)
    // A file may close an outline with its first point once more: no corner goes.
    expect(bodiesOf([[0, 0, 1, 0, 1, 1, 0, 1, 0, 0]])[0].outer).toHaveLength(8)
    expect(volume(extrude([[0, 0, 1, 0, 1, 1, 0, 1, 0, 0, 0, 0]], { depth: 2, bevel: 0, steps: 1 }))).toBeCloseTo(2, 9)
  })
  it('star-shaped outlines are closed and faced outwards (property)', () => {
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: 0.4, max: 1, noNaN: true }), { minLength: 5, maxLength: 30 }),
        fc.double({ min: 0, max: 0.02, noNaN: true }),
        (r, bevel) => {
          const c = r.flatMap((x, i) => [x * Math.cos((i / r.length) * 2 * Math.PI), x * Math.sin((i / r.length) * 2 * Math.PI)])
          const m = extrude([c], { depth: 0.2, bevel, steps: 2 })
          const flat = Math.abs(r.reduce((s, x, i) => s + x * r[(i + 1) % r.length] * Math.sin((2 * Math.PI) / r.length), 0) / 2) * 0.2
          return isClosed(m) && volume(m) > flat * 0.6 && volume(m) <= flat * 1.0001
        },
      ),
    )
  })
})
