import { describe, expect, it } from 'vitest'
import { nodeKernels } from '../../hosts/node/kernels'
import { type Cloud, Heap, hash3, Marcher, type MarchLook, type MarchScene, type MarchView, SCRATCH, unit } from '..'
import { cloudWindow } from './cloud'

const white = new Float32Array(1024).fill(1)
const look: MarchLook = {
  tops: [1, 1, 1, 1, 1],
  smoke: { by: 0, tone: white, extinction: 1, albedo: [1, 1, 1], forward: 0, even: 1, shade: 1, again: 0 },
  glow: null,
}
const scene = (o: Partial<MarchScene>): MarchScene => ({ lights: [], above: [0, 0, 0], below: [0, 0, 0], ...o })
/** Balls of one radius and depth. */
const cloudOf = (places: readonly (readonly number[])[], r: number, depth: number, most = 4e6): Cloud => ({
  ...{ count: places.length, most },
  balls: Float32Array.from(places.flatMap((p) => [...p, r, depth])),
})
/** A ball of 1 m about a place, filled evenly by small ones, somewhat out of line. */
function filled(middle: readonly number[], apart: number): number[][] {
  const out: number[][] = []
  const n = Math.ceil(1 / apart)
  for (let i = -n; i <= n; i++)
    for (let j = -n; j <= n; j++)
      for (let k = -n; k <= n; k++) {
        if (Math.hypot(i, j, k) * apart > 1) continue
        const off = (c: number) => (unit(hash3(c, out.length, 1)) - 0.5) * apart * 0.5
        out.push([i * apart + off(0), j * apart + off(1), k * apart + off(2)].map((x, a) => x + middle[a]))
      }
  return out
}
/** From far off, along −z, the picture 2 m wide about a place. */
const view = (middle: readonly number[], side: number): MarchView => ({
  ...{ eye: [middle[0], middle[1], middle[2] + 500], ahead: [0, 0, -1], right: [1 / 500, 0, 0], up: [0, 1 / 500, 0] },
  ...{ width: side, height: side, depth: null, stride: 0.25, wide: 2 },
})
/** What is left of the light from behind at each pixel. */
function leftOf(m: Marcher, v: MarchView): Float32Array {
  const f = m.left(v, 2)
  if (!f) throw new Error('nothing is there')
  const pixels = f.width * f.height
  return Float32Array.from({ length: pixels }, (_, i) => fromHalf(f.left[pixels + i]))
}
const fromHalf = (h: number) => (h < 1024 ? h * 2 ** -24 : (1 + (h & 1023) / 1024) * 2 ** ((h >> 10) - 15))
async function marching<T>(cloud: Cloud, run: (m: Marcher) => T, threads = 1): Promise<T> {
  const host = await nodeKernels({ threads })
  const heap = new Heap(host.memory, 512 * 1024 * 1024)
  const m = new Marcher({ heap, host, scratch: heap.take(SCRATCH.bytes * threads) })
  try {
    m.loadCloud(cloud, look)
    return run(m)
  } finally {
    m.dispose()
    host.team.dispose()
  }
}

describe('a cloud of soft balls', () => {
  it('dims as a ball of even density does along its chords, within 3 %', async () => {
    const middle = [3, -2, 7]
    const apart = 0.06
    const places = filled(middle, apart)
    const depth = 0.05
    const r = 0.06
    // What one holds, over its share of the room.
    const density = ((2 / 3) * Math.PI * r * r * depth) / apart ** 3
    const alpha = await marching(cloudOf(places, r, depth), (m) => {
      const left = leftOf(m, view(middle, 40))
      return (x: number) => {
        // Of a row of pixels, so that single balls do not count.
        const four = [-1, 0, 1, 2].map((dy) => 1 - left[(20 + dy) * 40 + 20 + x])
        return four.reduce((a, b) => a + b) / 4
      }
    })
    for (const x of [0, 4, 8, 12]) {
      const off = (x + 0.5) / 20
      const chord = 2 * Math.sqrt(1 - off * off - 1.25 / 400)
      const wanted = 1 - Math.exp(-density * chord)
      expect(wanted).toBeGreaterThan(0.2)
      expect(Math.abs(alpha(x) / wanted - 1)).toBeLessThan(0.03)
    }
  })
  it('holds what its balls hold, wherever these lie between voxels, and smaller than a voxel too', async () => {
    for (const [r, most, depth] of [
      [0.2, 4e6, 0.3],
      // Too few voxels for fine ones: balls of a small part of a voxel.
      [0.02, 5000, 60],
    ] as const) {
      const places = Array.from({ length: 40 }, (_, n) => [0, 1, 2].map((a) => 2 * unit(hash3(a, n, 5))))
      const cloud = cloudOf(places, r, depth, most)
      const held = await marching(cloud, (m) => {
        // Along every pixel the depth; over the whole picture what there is, in m².
        const side = 96
        const left = leftOf(m, { ...view([1, 1, 1], side), right: [2.4 / 1000 + 0.002, 0, 0], up: [0, 2.4 / 1000 + 0.002, 0] })
        const wide = (2 * 500 * (2.4 / 1000 + 0.002)) / side
        let sum = 0
        for (let i = 0; i < side * side; i++) sum -= Math.log(left[i]) * wide * wide
        return sum
      })
      const all = 40 * (2 / 3) * Math.PI * r * r * depth
      expect(Math.abs(held / all - 1)).toBeLessThan(0.03)
    }
  })
  it('is the same on three threads', async () => {
    const cloud = cloudOf(filled([0, 0, 0], 0.09), 0.1, 0.2)
    const seen = (threads: number) =>
      marching(
        cloud,
        (m) => {
          m.light(scene({ lights: [{ place: [0, 1, 0], sun: true, colour: [1, 1, 1], spot: null }] }), [0, 0, 500], 2)
          return [m.lightTexture()?.data.slice(), m.front(view([0, 0, 0], 24), 1, 8)?.data.slice()]
        },
        threads,
      )
    expect(await seen(3)).toEqual(await seen(1))
  })
  it('lies in front of things in the colour that it is told', async () => {
    const seen = await marching(cloudOf(filled([0, 0, 0], 0.12), 0.15, 0.5), (m) => {
      m.light(scene({ above: [1, 1, 1], below: [1, 1, 1] }), [0, 0, 500], 2)
      return [undefined, [0.5, 0.25, 0]].map((tint) => {
        const f = m.front(view([0, 0, 0], 9), 1, 2, tint)
        return [0, 1, 2, 3].map((c) => fromHalf(f?.data[(81 + 40) * 4 + c] ?? 0))
      })
    })
    const [white, tinted] = seen
    expect(white[0]).toBeGreaterThan(0.1)
    expect(tinted[0] / white[0]).toBeCloseTo(0.5, 2)
    expect(tinted[1] / white[1]).toBeCloseTo(0.25, 2)
    expect([tinted[2], tinted[3]]).toEqual([0, white[3]])
  })
  it('is bright towards a light and dark behind', async () => {
    const lit = await marching(cloudOf(filled([0, 0, 0], 0.08), 0.1, 1.5), (m) => {
      m.light(scene({ lights: [{ place: [0, 1, 0], sun: true, colour: [1, 1, 1], spot: null }] }), [0, 0, 500], 2)
      const t = m.lightTexture()
      if (!t) throw new Error('no light')
      return { ...t, data: t.data.slice() }
    })
    const at = (x: number, y: number, z: number) => {
      const [i, j, k] = [x, y, z].map((v, a) => Math.floor((v - lit.low[a]) / lit.cell) + 1)
      const h = lit.data[(i + lit.size[0] * (j + lit.size[1] * k)) * 4]
      return fromHalf(h)
    }
    // Scattered once and evenly: 1/4π of the sun where nothing is before it.
    expect(at(0, 1, 0)).toBeGreaterThan(0.04)
    expect(at(0, 1, 0)).toBeLessThan(0.0796)
    expect(at(0, 0.5, 0)).toBeLessThan(0.5 * at(0, 1, 0))
    expect(at(0, -0.9, 0)).toBeLessThan(0.01 * at(0, 1, 0))
  })
  it('keeps its voxels in one comb while it spreads', () => {
    const small = cloudWindow(
      cloudOf(
        [
          [0, 0, 0],
          [1, 1, 1],
        ],
        0.2,
        1,
      ),
    )
    const large = cloudWindow(
      cloudOf(
        [
          [0, 0, 0],
          [1, 1, 1],
          [1.7, 0.2, -0.9],
        ],
        0.21,
        1,
      ),
    )
    expect(large.voxel).toBe(small.voxel)
    small.low.forEach((x, a) => {
      const tiles = (x - large.low[a]) / (8 * small.voxel)
      expect(Math.abs(tiles - Math.round(tiles))).toBeLessThan(1e-9)
    })
  })
})
