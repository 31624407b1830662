import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { DepthOrder } from './depthOrder'

const coordinate = fc.float({ min: -50, max: 50, noNaN: true })
describe('the order by depth', () => {
  it('goes from the farthest to the nearest, each particle once, to a 65,536th of the depth (property)', () => {
    const sorter = new DepthOrder()
    fc.assert(
      fc.property(
        fc.array(fc.tuple(coordinate, coordinate, coordinate), { maxLength: 400 }),
        fc.tuple(coordinate, coordinate, coordinate),
        (points, place) => {
          const [x, y, z] = [0, 1, 2].map((a) => Float32Array.from(points, (p) => p[a]))
          const forward = [0.6, 0, 0.8] as const
          const order = [...sorter.of(x, y, z, points.length, place, forward)]
          expect([...order].sort((a, b) => a - b)).toEqual(points.map((_, i) => i))
          const depth = (i: number) => (x[i] - place[0]) * forward[0] + (z[i] - place[2]) * forward[2]
          const depths = order.map(depth)
          const step = (Math.max(...depths) - Math.min(...depths)) / 65535
          for (let k = 1; k < depths.length; k++) expect(depths[k] - depths[k - 1]).toBeLessThanOrEqual(step * 1.01 + 5e-4)
        },
      ),
    )
  })
  it('keeps the order of those at one depth, and takes fewer particles after more', () => {
    const sorter = new DepthOrder()
    const flat = new Float32Array(1000)
    expect([...sorter.of(flat, flat, flat, 1000, [0, 0, 0], [0, 0, 1])]).toEqual([...flat.keys()])
    expect([...sorter.of(flat, flat, Float32Array.of(1, 3, 2), 3, [0, 0, 0], [0, 0, 1])]).toEqual([1, 2, 0])
  })
})
