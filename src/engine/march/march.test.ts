import { describe, expect, it } from 'vitest'
import { nodeKernels } from '../../hosts/node/kernels'
import {
  Heap,
  type KernelHost,
  Marcher,
  type MarchLight,
  type MarchLook,
  type MarchScene,
  type MarchView,
  SCRATCH,
  type VolumePart,
} from '..'
import { blackBodyXyz } from './blackBody'
import { flamesOf } from './flames'

const BYTES = 256 * 1024 * 1024
/** To a half float, of numbers from 0 to 65504. */
function half(v: number): number {
  if (v < 2 ** -14) return Math.round(v * 2 ** 24)
  const e = Math.floor(Math.log2(v))
  return ((e + 15) << 10) + Math.round((v / 2 ** e - 1) * 1024)
}
/** A gas of so many tiles of 8³ voxels of 0.1 m from the origin on; `at` gives density, temperature, flame and dyes at the middle of a voxel, m. */
function partOf(
  tiles: readonly [number, number, number],
  at: (x: number, y: number, z: number) => readonly number[],
  dyes: NonNullable<VolumePart['dyes']> = [],
): VolumePart {
  const grids = 3 + dyes.length
  const n = tiles[0] * tiles[1] * tiles[2]
  const data = new ArrayBuffer(n * 4 + n * grids * 512 * 2)
  const places = new Uint32Array(data, 0, n)
  const halves = new Uint16Array(data, n * 4)
  for (let t = 0; t < n; t++) {
    const [i, j, k] = [t % tiles[0], Math.floor(t / tiles[0]) % tiles[1], Math.floor(t / (tiles[0] * tiles[1]))]
    places[t] = i | (j << 10) | (k << 20)
    for (let c = 0; c < 512; c++) {
      const v = at(...([i * 8 + (c & 7), j * 8 + ((c >> 3) & 7), k * 8 + (c >> 6)].map((x) => (x + 0.5) * 0.1) as [number, number, number]))
      for (let g = 0; g < grids; g++) halves[(t * grids + g) * 512 + c] = half(v[g])
    }
  }
  return { kind: 'volume', element: 'gas', dyes, voxel: 0.1, low: [0, 0, 0], tiles: n, data }
}
const straight = Float32Array.from({ length: 256 }, (_, i) => i / 255)
const white = Float32Array.from({ length: 1024 }, () => 1)
const smoke: NonNullable<MarchLook['smoke']> = {
  ...{ by: 0, tone: straight, extinction: 1, albedo: [1, 1, 1], forward: 0, even: 1, shade: 1, again: 0 },
}
const look = (o: Partial<MarchLook>): MarchLook => ({ tops: [1, 1000, 1, 1, 2], smoke: null, glow: null, ...o })
const dark: MarchScene = { lights: [], above: [0, 0, 0], below: [0, 0, 0] }
const sun = (to: readonly [number, number, number], colour: readonly [number, number, number] = [1, 1, 1]): MarchLight => ({
  ...{ place: to, sun: true, colour, spot: null },
})
/** From far away along −z, so that all rays are nearly one way; the picture's middle is the middle of the box. */
const view = (size: readonly number[], o: Partial<MarchView> = {}): MarchView => ({
  ...{ eye: [size[0] / 2, size[1] / 2, 200], ahead: [0, 0, -1], right: [size[0] / 800, 0, 0], up: [0, size[1] / 800, 0] },
  ...{ width: 9, height: 9, depth: null, stride: 0.5, wide: 1 },
  ...o,
})
async function marching<T>(part: VolumePart, l: MarchLook, run: (m: Marcher) => T, threads = 1): Promise<T> {
  const host: KernelHost = await nodeKernels({ threads })
  const heap = new Heap(host.memory, BYTES)
  const m = new Marcher({ heap, host, scratch: heap.take(SCRATCH.bytes * threads) })
  try {
    m.load(part, l)
    return run(m)
  } finally {
    m.dispose()
    host.team.dispose()
  }
}
const middle = (p: Float32Array, channel: number): number => p[(4 * 9 + 4) * 4 + channel]
/** A block of 2.4 m in the middle of 4 m. */
const block = (density: number, flame: number) =>
  partOf([5, 5, 5], (...p) => (p.every((x) => x > 0.8 && x < 3.2) ? [density, 500, flame] : [0, 0, 0]))
const full = block(1, 0)
const SIZE = [4, 4, 4]
const EYE = [2, 2, 200]
/** a is b, within a share of it. */
const expectNear = (a: number, b: number, share: number) => expect(Math.abs(a / b - 1)).toBeLessThan(share)

describe('the march', () => {
  it('dims an even slab by its depth, within 1 %', async () => {
    for (const extinction of [0.2, 1, 4]) {
      const p = await marching(full, look({ smoke: { ...smoke, extinction } }), (m) => {
        m.light(dark, EYE, 1)
        return m.picture(view(SIZE, { stride: 0.1 })).slice()
      })
      expectNear(middle(p, 3), 1 - Math.exp(-extinction * 2.4), 0.01)
    }
  })
  it('dims a ball by its chords, within 1 %', async () => {
    const inside = (x: number, y: number, z: number) => Math.min(1, Math.max(0, (1.6 - Math.hypot(x - 2, y - 2, z - 2)) / 0.1 + 0.5))
    const ball = partOf([5, 5, 5], (x, y, z) => [inside(x, y, z), 0, 0])
    const p = await marching(ball, look({ smoke: { ...smoke, extinction: 0.8 } }), (m) => {
      m.light(dark, EYE, 1)
      return m.picture(view(SIZE, { width: 41, height: 41, stride: 0.05 })).slice()
    })
    for (const off of [0, 4, 8, 11]) {
      // The picture is half as wide as the box.
      const r = off / 20.5
      const alpha = p[(20 * 41 + 20 + off) * 4 + 3]
      expectNear(alpha, 1 - Math.exp(-0.8 * 2 * Math.sqrt(2.56 - r * r)), 0.01)
    }
  })
  it('ends at what is opaque, and knows what lies in front of a depth', async () => {
    const l = look({ smoke })
    const depth = new Float32Array(81).fill(200 - 2)
    const [half, front, alone] = await marching(full, l, (m) => {
      m.light(dark, EYE, 1)
      const picture = m.picture(view(SIZE, { depth, stride: 0.1 })).slice()
      const f = m.front(view(SIZE), 1, 25)
      const kept = f && { ...f, data: f.data.slice() }
      return [picture, kept, m.left(view(SIZE), 25)?.left.slice()] as const
    })
    expectNear(middle(half, 3), 1 - Math.exp(-1.2), 0.02)
    if (!front) throw new Error('nothing in front')
    // What is left comes alone too, the same.
    expect(alone).toEqual(front.data.filter((_, i) => i % 4 === 3))
    const left = (depth: number) => {
      const h = front.data[((Math.round((depth - front.from) / front.step) * 9 + 4) * 9 + 4) * 4 + 3]
      return (1 + (h & 1023) / 1024) * 2 ** ((h >> 10) - 15)
    }
    for (const way of [0.6, 1.2, 1.8]) expect(left(200 - 3.2 + way)).toBeCloseTo(Math.exp(-way), 0.8)
  })
  it('scatters the light of a sun once as a slab does that is lit from where it is seen, within 2 %', async () => {
    const p = await marching(full, look({ smoke: { ...smoke, extinction: 1.2 } }), (m) => {
      m.light({ ...dark, lights: [sun([0, 0, 1])] }, EYE, 1)
      return m.picture(view(SIZE, { stride: 0.1 })).slice()
    })
    // ∫ σ e^(−2σs) ds / 4π
    expectNear(middle(p, 0), (1 - Math.exp(-2 * 1.2 * 2.4)) / (8 * Math.PI), 0.02)
  })
  it('shines by the metre, and shows the surroundings where nothing stands in the way', async () => {
    const glow = { by: 2, tone: straight.map((x) => 5 * x), colours: white, coloursBy: 2 }
    const flame = block(0, 0.5)
    const p = await marching(flame, look({ glow }), (m) => m.picture(view(SIZE, { stride: 0.1 })).slice())
    expectNear(middle(p, 1), 2.5 * 2.4, 0.01)
    expect(middle(p, 3)).toBe(0)
    const thin = await marching(full, look({ smoke: { ...smoke, extinction: 0.01 } }), (m) => {
      m.light({ ...dark, above: [1, 1, 1], below: [1, 1, 1] }, EYE, 1)
      return m.picture(view(SIZE)).slice()
    })
    expect(middle(thin, 0) / middle(thin, 3)).toBeCloseTo(1, 1)
  })
  it.each([1, 2, 4])(
    'is lit in every cell by what is left of a sun there, the same on three threads (cells %i voxels wide)',
    async (wide) => {
      const lit = (threads: number) =>
        marching(
          full,
          look({ smoke }),
          (m) => {
            m.light({ ...dark, lights: [sun([0, 0, 1])] }, EYE, wide)
            const t = m.lightTexture()
            if (!t) throw new Error('no light')
            return { size: t.size, data: t.data.slice() }
          },
          threads,
        )
      const { size, data } = await lit(1)
      expect((await lit(3)).data).toEqual(data)
      const cell = wide * 0.1
      const many = Math.round(4 / cell)
      let seen = 0
      for (let k = 0; k < many; k++)
        for (let j = 0; j < many; j++)
          for (let i = 0; i < many; i++) {
            const p = [i, j, k].map((n) => (n + 0.5) * cell)
            // What is farther than some voxels is found for cells of four, between which it lies on lines: sides are soft, and up to a tenth may lack
            // where it begins. At the ends what dims is blurred.
            if (!p.every((x, a) => (a < 2 ? x > 1.2 && x < 2.8 : x > 0.8 + cell && x < 3.2 - cell))) continue
            const h = data[(i + 1 + size[0] * (j + 1 + size[1] * (k + 1))) * 4]
            expectNear((1 + (h & 1023) / 1024) * 2 ** ((h >> 10) - 15), Math.exp(p[2] - 3.2) / (4 * Math.PI), 0.1)
            seen++
          }
      expect(seen).toBeGreaterThan(50)
    },
  )
  it.each([1, 2, 4])(
    'lets in the surroundings on fourteen ways, each dimmed by its depth (cells of light %i voxels wide)',
    async (wide) => {
      const lit = await marching(full, look({ smoke }), (m) => {
        m.light({ ...dark, above: [1, 1, 0], below: [1, 0, 1] }, EYE, wide)
        const t = m.lightTexture()
        if (!t) throw new Error('no light')
        return { ...t, data: t.data.slice() }
      })
      const ways = [-1, 0, 1].flatMap((x) => [-1, 0, 1].flatMap((y) => [-1, 0, 1].map((z) => [x, y, z])))
      const sides = ways.filter((w) => [1, 3].includes(w.filter((c) => c !== 0).length))
      expect(sides).toHaveLength(14)
      /** Of all surroundings, and of those above. */
      const at = (p: readonly number[]): [number, number] => {
        let [all, above] = [0, 0]
        for (const w of sides) {
          const length = Math.hypot(...w)
          const out = Math.min(...w.map((c, a) => (c > 0 ? 3.2 - p[a] : c < 0 ? p[a] - 0.8 : 9))) * length
          all += Math.exp(-out) / 14
          above += (Math.exp(-out) / 14) * (0.5 + (0.5 * w[1]) / length)
        }
        return [all, above]
      }
      const cell = wide * 0.1
      for (const p of [
        [2.3, 2.3, 2.3],
        [1.3, 2.5, 1.9],
      ].map((q) => q.map((x) => (Math.floor(x / cell) + 0.5) * cell))) {
        // Between the cells of 0.4 m for which it is found.
        const low = p.map((x) => Math.floor(x / 0.4 - 0.5) * 0.4 + 0.2)
        let [all, above] = [0, 0]
        for (let c = 0; c < 8; c++) {
          const corner = low.map((x, a) => x + 0.4 * ((c >> a) & 1))
          const share = corner.reduce((w, x, a) => w * (1 - Math.abs(p[a] - x) / 0.4), 1)
          const [e, u] = at(corner)
          all += share * e
          above += share * u
        }
        const [i, j, k] = p.map((x) => Math.floor(x / cell) + 1)
        const o = (i + lit.size[0] * (j + lit.size[1] * k)) * 4
        const value = (n: number) => (1 + (lit.data[o + n] & 1023) / 1024) * 2 ** ((lit.data[o + n] >> 10) - 15)
        expectNear(value(0), all, 0.003)
        expectNear(value(1), above, 0.003)
        expectNear(value(2), all - above, 0.003)
      }
    },
  )
  it.each([1, 2])('takes its colour from the ramp of a dye, by what dims there (cells of light %i voxels wide)', async (wide) => {
    // Dye B, to its top of 2, on the right; beside it nothing.
    const dyed = partOf([5, 5, 5], (...p) => (p.every((x) => x > 0.8 && x < 3.2) ? [1, 0, 0, p[0] > 2 ? 2 : 0] : [0, 0, 0, 0]), ['dyeB'])
    const colours = Float32Array.from({ length: 1024 }, (_, i) => [1 - Math.floor(i / 4) / 255, 0, Math.floor(i / 4) / 255, 1][i % 4])
    const picture = (tint: NonNullable<MarchLook['smoke']>['tint']) =>
      marching(dyed, look({ smoke: { ...smoke, tint } }), (m) => {
        m.light({ ...dark, lights: [sun([0, 0, 1])] }, EYE, wide)
        return m.picture(view(SIZE, { width: 21, height: 21, stride: 0.1 })).slice()
      })
    const [plain, tinted] = [await picture(undefined), await picture({ by: 4, colours })]
    const at = (p: Float32Array, i: number, c: number) => p[(10 * 21 + i) * 4 + c]
    for (const [i, full, none] of [
      [4, 0, 2],
      [16, 2, 0],
    ]) {
      expectNear(at(tinted, i, full), at(plain, i, full), 0.001)
      expect(at(tinted, i, none)).toBeLessThan(1e-5)
      expect(at(tinted, i, 3)).toBe(at(plain, i, 3))
    }
  })
  it('keeps the colour of a share of what dims as it thins out', async () => {
    // Half of it is dye everywhere; to the right a tenth of all.
    const thin = partOf([5, 5, 5], (x) => [x > 2 ? 0.05 : 0.5, 0, 0, x > 2 ? 0.025 : 0.25], ['dyeA'])
    const colours = Float32Array.from({ length: 1024 }, (_, i) => [1 - Math.floor(i / 4) / 255, 0, Math.floor(i / 4) / 255, 1][i % 4])
    const of = async (share: boolean) => {
      const p = await marching(thin, look({ smoke: { ...smoke, tint: { by: 3, colours, share } } }), (m) => {
        m.light({ ...dark, lights: [sun([0, 0, 1])] }, EYE, 1)
        return m.picture(view(SIZE, { width: 21 })).slice()
      })
      return [4, 16].map((i) => p[(4 * 21 + i) * 4 + 2] / p[(4 * 21 + i) * 4])
    }
    for (const blueOverRed of await of(true)) expect(blueOverRed).toBeCloseTo(1, 2)
    const [thick, little] = await of(false)
    expect(thick).toBeCloseTo(0.25 / 0.75, 2)
    expect(little).toBeCloseTo(0.025 / 0.975, 2)
  })
  it('shines in the colours of another grid, and of one that it does not hold as of nothing', async () => {
    const flame = partOf([5, 5, 5], (x) => [0, 0, 1, x > 2 ? 1 : 0], ['dyeA'])
    const colours = Float32Array.from({ length: 1024 }, (_, i) => (i < 512 ? [1, 0, 0, 1] : [0, 1, 0, 1])[i % 4])
    const seen = (coloursBy: number) =>
      marching(flame, look({ glow: { by: 2, tone: straight, colours, coloursBy } }), (m) => m.picture(view(SIZE, { width: 21 })).slice())
    const at = (p: Float32Array, i: number, c: number) => p[(4 * 21 + i) * 4 + c]
    const by = await seen(3)
    expect([at(by, 4, 0) > 1, at(by, 4, 1), at(by, 16, 0), at(by, 16, 1) > 1]).toEqual([true, 0, 0, true])
    const without = await seen(4)
    expect([at(without, 16, 0) > 1, at(without, 16, 1)]).toEqual([true, 0])
  })
  it('is the same on three threads, and a mirrored gas gives the mirrored picture', async () => {
    const lump = (x: number, y: number, z: number): readonly [number, number, number] => [
      Math.max(0, 1 - Math.hypot(x - 0.8, y - 1.2, z - 1.2) / 0.7),
      0,
      0,
    ]
    const seen = (part: VolumePart, from: number, threads: number) =>
      marching(
        part,
        look({ smoke: { ...smoke, extinction: 6, forward: 0.4, even: 0.3, again: 0.5 } }),
        (m) => {
          m.light({ lights: [sun([from, 0, 0])], above: [0.1, 0.2, 0.3], below: [0, 0, 0.1] }, [1.2, 1.2, 200], 2)
          return m.picture(view([2.4, 2.4, 2.4], { width: 40, height: 40, stride: 0.25 })).slice()
        },
        threads,
      )
    const one = await seen(partOf([3, 3, 3], lump), 1, 1)
    expect(await seen(partOf([3, 3, 3], lump), 1, 3)).toEqual(one)
    const other = await seen(
      partOf([3, 3, 3], (x, y, z) => lump(2.4 - x, y, z)),
      -1,
      1,
    )
    // Samples begin by pixel, so the two differ a little.
    let worst = 0
    for (let y = 0; y < 40; y++)
      for (let x = 0; x < 40; x++)
        for (let c = 0; c < 4; c++) worst = Math.max(worst, Math.abs(one[(y * 40 + x) * 4 + c] - other[(y * 40 + 39 - x) * 4 + c]))
    expect(Math.max(...one)).toBeGreaterThan(0.5)
    expect(worst).toBeLessThan(0.03)
  })
  it('lies in the shadow of what a light sees before it', async () => {
    // A wall at 100 m from the sun, which stands 101 m off the gas, over one half of its picture: the left one.
    const size = 8
    const data = Float32Array.from({ length: 64 }, (_, i) => (i % 8 < 4 ? 100 : 0))
    const rows = [1 / 2, 0, 0, -1, 0, 0, -1 / 2, 1, 0, 0, 0, 1, 0, -1, 0, 105]
    const l = { ...sun([0, 1, 0]), shadow: { size, data, rows } }
    const p = await marching(full, look({ smoke: { ...smoke, extinction: 0.5 } }), (m) => {
      m.light({ ...dark, lights: [l] }, EYE, 1)
      return m.picture(view(SIZE)).slice()
    })
    const at = (x: number) => p[(4 * 9 + x) * 4]
    expect(at(2)).toBe(0)
    expect(at(6)).toBeGreaterThan(0.01)
  })
})
describe('a black body', () => {
  // CIE 1931 chromaticities of Planck's law (Wyszecki and Stiles 1982).
  it.each([
    [1000, 0.6528, 0.3444],
    [1500, 0.5857, 0.3931],
    [2000, 0.5267, 0.4133],
    [3000, 0.4369, 0.4041],
    [5000, 0.3451, 0.3516],
    [10000, 0.2807, 0.2884],
  ])('of %s K has the chromaticity of the table', (kelvin, x, y) => {
    const c = blackBodyXyz(kelvin)
    const sum = c[0] + c[1] + c[2]
    expect(Math.abs(c[0] / sum - x)).toBeLessThan(0.004)
    expect(Math.abs(c[1] / sum - y)).toBeLessThan(0.004)
  })
})
describe('lights of flames', () => {
  it('are few, and give all the light there is', () => {
    const shines = new Float32Array(200 * 8)
    for (let n = 0; n < 200; n++) shines.set([1, 0.5, 0.1, 0, (n % 10) * 8, Math.floor(n / 10) * 8, 4, 2], n * 8)
    const flames = flamesOf(shines, 200, 0.1, [0, 0, 0], 16)
    expect(flames.length).toBeGreaterThan(3)
    expect(flames.length).toBeLessThanOrEqual(16)
    expect(flames.reduce((s, f) => s + f.power[0], 0)).toBeCloseTo(200 * 0.001, 6)
  })
})
