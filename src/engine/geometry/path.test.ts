import { describe, expect, it } from 'vitest'
import { alongPath, lineThrough, type Point } from './path'

const rows = (p: Float32Array) => Array.from({ length: p.length / 3 }, (_, i) => [...p.subarray(i * 3, i * 3 + 3)])
const ZIGZAG: Point[] = [
  [0, 0, 0],
  [1, 1, 0],
  [2, 0, 0.5],
  [2.1, 0, 0.5],
  [5, -2, 1],
]

describe('a path', () => {
  it('goes through its points, straight or in a curve, open or closed', () => {
    for (const smooth of [false, true])
      for (const closed of [false, true]) {
        const each = smooth ? 8 : 1
        const p = rows(alongPath(ZIGZAG, smooth, closed, 8))
        expect(p).toHaveLength((closed ? 5 : 4) * each + 1)
        ZIGZAG.forEach((q, i) => q.forEach((v, a) => expect(p[i * each][a]).toBeCloseTo(v, 6)))
        expect(p.at(-1)).toEqual(closed ? p[0] : [...p[4 * each]])
      }
  })
  it('in a curve has no corners: the direction changes little from piece to piece', () => {
    const p = rows(alongPath(ZIGZAG, true, false, 64))
    for (let i = 1; i < p.length - 1; i++) {
      const [a, b] = [p[i].map((v, k) => v - p[i - 1][k]), p[i + 1].map((v, k) => v - p[i][k])]
      const dot = a.reduce((s, v, k) => s + v * b[k], 0) / Math.hypot(...a) / Math.hypot(...b)
      expect(dot, `piece ${i}`).toBeGreaterThan(Math.cos((12 * Math.PI) / 180))
    }
  })
  it('through points on a circle stays near it; through points in a row it is that row', () => {
    const circle = Array.from({ length: 12 }, (_, i): Point => [Math.cos((i * Math.PI) / 6), 0, Math.sin((i * Math.PI) / 6)])
    for (const [x, , z] of rows(alongPath(circle, true, true, 10))) expect(Math.hypot(x, z)).toBeCloseTo(1, 2)
    for (const [x, y, z] of rows(
      alongPath(
        [
          [0, 0, 0],
          [1, 2, 3],
          [4, 8, 12],
        ],
        true,
        false,
        10,
      ),
    )) {
      expect(y).toBeCloseTo(2 * x, 5)
      expect(z).toBeCloseTo(3 * x, 5)
    }
  })
  it('with points on one another stays finite; with one point it is refused', () => {
    expect(
      [
        ...alongPath(
          [
            [1, 1, 1],
            [1, 1, 1],
            [2, 1, 1],
            [2, 1, 1],
          ],
          true,
          true,
          5,
        ),
      ].every(Number.isFinite),
    ).toBe(true)
    expect(() => alongPath([[0, 0, 0]], true, false, 4)).toThrow(/two points/)
  })
  it('is a mesh of pieces without area', () => {
    const m = lineThrough(alongPath(ZIGZAG, false, false, 1))
    expect([...m.indices]).toEqual([0, 1, 1, 1, 2, 2, 2, 3, 3, 3, 4, 4])
  })
})
