import { describe, expect, it } from 'vitest'
import { compose, identity } from '../../engine'
import type { Vec3 } from '../../shot'
import { onScreen, type Screen } from './MoveHandle'
import { linesOf, pathOf, ring } from './outlines'

const length = ([x, y, z]: Vec3) => Math.hypot(x, y, z)
const screen: Screen = { pose: { place: [0, 0, 5], aim: [0, 0, 0], lens: 50 } as Screen['pose'], width: 800, height: 450, aspect: 16 / 9 }

describe('lines of outlines', () => {
  it('a ball is three great circles, in whatever space it is', () => {
    const m = compose([1, 2, 3], [0, 40, 0], [2, 2, 2])
    const lines = linesOf({ shape: 'ball', middle: [0.5, 0, 0], radius: 0.25 }, m)
    expect(lines).toHaveLength(3)
    const [middle] = linesOf({ shape: 'line', points: [[0.5, 0, 0]] }, m)[0]
    for (const points of lines) {
      expect(points[0].map((v, i) => v - points[points.length - 1][i]).every((d) => Math.abs(d) < 1e-9)).toBe(true)
      for (const p of points) expect(length([p[0] - middle[0], p[1] - middle[1], p[2] - middle[2]])).toBeCloseTo(0.5, 6)
    }
  })
  it('a box has twelve edges, a flat one four', () => {
    const edges = (half: Vec3) => linesOf({ shape: 'box', middle: [0, 0, 0], half }, identity()).reduce((n, l) => n + l.length - 1, 0)
    expect(edges([1, 2, 3])).toBe(12)
    expect(edges([1, 0, 3])).toBe(4)
  })
  it('a ring lies across its axis at its radius, whichever way that points', () => {
    for (const axis of [
      [0, 1, 0],
      [1, 0, 0],
      [0.6, 0, 0.8],
    ] as Vec3[])
      for (const p of ring([1, 1, 1], axis, 0.7)) {
        const d: Vec3 = [p[0] - 1, p[1] - 1, p[2] - 1]
        expect(length(d)).toBeCloseTo(0.7, 6)
        expect(d[0] * axis[0] + d[1] * axis[1] + d[2] * axis[2]).toBeCloseTo(0, 6)
      }
  })
})
describe('a path on the screen', () => {
  it('goes through the places, and lifts the pen for those behind the camera', () => {
    const d = pathOf(screen, [
      [-1, 0, 0],
      [0, 0, 0],
      [0, 0, 9],
      [1, 0, 0],
      [1, 1, 0],
    ])
    expect(d.match(/M/g)).toHaveLength(2)
    expect(d.match(/L/g)).toHaveLength(2)
    const middle = onScreen(screen, [0, 0, 0])
    expect(middle).toMatchObject({ x: 400, y: 225 })
    expect(d).toContain('L400.0,225.0')
  })
  it('is empty where nothing is seen', () => {
    expect(pathOf(screen, [[0, 0, 9]])).toBe('')
    expect(pathOf(screen, [])).toBe('')
  })
})
