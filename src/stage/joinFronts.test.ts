import * as THREE from 'three'
import { describe, expect, it } from 'vitest'
import { halfTable, type MarchFront, type MarchLeft } from '../engine'
import { joinFronts, joinLefts } from './joinFronts'
import { aroundAll } from './shades'

const half = THREE.DataUtils.toHalfFloat
/** An even gas between two depths, of one pixel: it dims and shines by the metre. */
function slab(near: number, far: number, dims: number, shines: number, depths = 33): MarchFront {
  const step = (far - near) / (depths - 1)
  const data = new Uint16Array(depths * 4)
  for (let k = 0; k < depths; k++) {
    const left = Math.exp(-dims * k * step)
    const light = dims > 0 ? (shines / dims) * (1 - left) : shines * k * step
    for (let c = 0; c < 3; c++) data[k * 4 + c] = half(light)
    data[k * 4 + 3] = half(left)
  }
  return { width: 1, height: 1, depths, from: near, step, data }
}
const at = (f: MarchFront, depth: number) => {
  const k = Math.round((depth - f.from) / f.step)
  return { light: halfTable()[f.data[k * 4]], left: halfTable()[f.data[k * 4 + 3]] }
}
describe('what lies in front, of two gases', () => {
  it('of which one is behind the other: the nearer dims what the farther shines', () => {
    const near = slab(1, 2, 1.2, 0)
    const far = slab(3, 4, 0.5, 2)
    for (const f of [joinFronts(near, far), joinFronts(far, near)]) {
      expect(at(f, 2).left).toBeCloseTo(Math.exp(-1.2), 2)
      expect(at(f, 4).left).toBeCloseTo(Math.exp(-1.7), 2)
      expect(at(f, 4).light).toBeCloseTo(Math.exp(-1.2) * (2 / 0.5) * (1 - Math.exp(-0.5)), 2)
      expect(at(f, 1).left).toBe(1)
    }
  })
  it('that lie within each other are as one of both', () => {
    const f = joinFronts(slab(1, 3, 0.4, 0.5), slab(1, 3, 0.7, 0.2))
    const both = slab(1, 3, 1.1, 0.7)
    for (const depth of [1.5, 2, 3]) {
      expect(at(f, depth).left).toBeCloseTo(at(both, depth).left, 2)
      expect(at(f, depth).light).toBeCloseTo(at(both, depth).light, 1)
    }
  })
  it('leave of the light what both leave of it, at each depth', () => {
    const leftOf = ({ data, ...f }: MarchFront): MarchLeft => ({ ...f, left: data.filter((_, i) => i % 4 === 3) })
    for (const [a, b] of [
      [slab(1, 3, 0.4, 0), slab(2, 5, 0.7, 0, 40)],
      [slab(3, 4, 2, 0), slab(1, 2, 0.5, 0)],
    ]) {
      const f = joinLefts(leftOf(a), leftOf(b))
      const same = joinFronts(a, b)
      expect([f.from, f.step, f.depths]).toEqual([same.from, same.step, same.depths])
      const taken = (g: MarchFront, depth: number, dims: number) => dims * Math.min(g.step * (g.depths - 1), Math.max(0, depth - g.from))
      for (let k = 0; k < f.depths; k++) {
        const depth = f.from + k * f.step
        const [da, db] = a.from === 1 ? [0.4, 0.7] : [2, 0.5]
        expect(halfTable()[f.left[k]]).toBeCloseTo(Math.exp(-taken(a, depth, da) - taken(b, depth, db)), 2)
      }
    }
  })
  it('of different views do not go together', () => {
    expect(() => joinFronts(slab(1, 2, 1, 0), { ...slab(1, 2, 1, 0), width: 2 })).toThrow('two views')
  })
})
describe('the room of all gases', () => {
  it('holds each of them, and is that of one alone', () => {
    const one = { middle: [1, 2, 3], radius: 2 }
    expect(aroundAll([one])).toBe(one)
    const rooms = [one, { middle: [-4, 0, 0], radius: 1 }, { middle: [0, 9, -2], radius: 0.5 }]
    const all = aroundAll(rooms)
    for (const r of rooms)
      expect(Math.hypot(...r.middle.map((x, a) => x - all.middle[a])) + r.radius).toBeLessThanOrEqual(all.radius + 1e-9)
  })
})
