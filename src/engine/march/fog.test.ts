import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { nodeKernels } from '../../hosts/node/kernels'
import { halfTable } from '../frame'
import { Heap, SCRATCH } from '../memory'
import { type FogFront, type FogLook, FogMaker } from './fog'
import type { MarchLight, MarchScene } from './look'

const FOG: FogLook = { extinction: 0.08, level: 0, halves: null, albedo: [0.9, 0.8, 0.6], forward: 0, surroundings: 1, patches: null }
const DARK: MarchScene = { lights: [], above: [0, 0, 0], below: [0, 0, 0] }
const VIEW = { eye: [0, 2, 0], ahead: [0, 0, -1], right: [0.4, 0, 0], up: [0, 0.3, 0] } as const
const SIZE = { width: 3, height: 3, depths: 40, reach: 60 }
async function made(threads: number): Promise<{ maker: FogMaker; end(): void }> {
  const host = await nodeKernels({ threads })
  const heap = new Heap(host.memory, 64 * 1024 * 1024)
  const maker = new FogMaker({ heap, host, scratch: heap.take(SCRATCH.bytes * threads) })
  return {
    maker,
    end: () => {
      maker.dispose()
      host.team.dispose()
    },
  }
}
let one: Awaited<ReturnType<typeof made>>
beforeAll(async () => {
  one = await made(1)
})
afterAll(() => one.end())
const front = (fogs: FogLook[], scene: MarchScene, o: Partial<typeof SIZE> = {}, view = VIEW as never) =>
  one.maker.front(fogs, scene, view, { ...SIZE, ...o })
/** Of light from one direction, the share of the scattered that goes on at an angle, per steradian (Henyey and Greenstein 1941). */
const phaseOf = (g: number, cosine: number) => (1 - g * g) / (4 * Math.PI * (1 + g * g - 2 * g * cosine) ** 1.5)
/** In the picture k, at a pixel. */
const at = (f: FogFront, k: number, i = 1, j = 1) => {
  const o = ((k * f.height + j) * f.width + i) * 4
  return [...f.data.subarray(o, o + 4)].map((h) => halfTable()[h])
}
const depthOf = (f: FogFront, k: number) => f.reach * (k / (f.depths - 1)) ** 2
const point = (colour: [number, number, number], place: [number, number, number], o: Partial<MarchLight> = {}): MarchLight => ({
  ...{ place, sun: false, colour, spot: null, shadow: null },
  ...o,
})

describe('fog', () => {
  it('takes as the exponential of its way, and sends on the even light of all around, exactly', () => {
    const f = front([FOG], { ...DARK, above: [2, 1, 0.5], below: [0, 1, 0.5] })
    for (const k of [0, 1, 10, 39]) {
      const passes = Math.exp(-FOG.extinction * depthOf(f, k))
      const [r, g, b, left] = at(f, k)
      expect(Math.abs(left - passes)).toBeLessThan(1e-3)
      for (const [v, a] of [
        [r, 0.9],
        [g, 0.8],
        [b, 0.6 * 0.5],
      ])
        expect(Math.abs(v - a * (1 - passes))).toBeLessThan(1e-3)
    }
    // Aslant the way is longer.
    const long = Math.hypot(1, 0.4 * (2 / 3))
    expect(Math.abs(at(f, 39, 2, 1)[3] - Math.exp(-FOG.extinction * 60 * long))).toBeLessThan(1e-3)
  })
  it('thins out with the height by its integral', () => {
    const high: FogLook = { ...FOG, level: 1, halves: 3 }
    // Aslant, over the level, through it and under it, and nearly level above it.
    for (const [y, rise] of [
      [2, 0.3],
      [9, -0.2],
      [0.5, -0.1],
      [3, 0.0003],
    ]) {
      const f = front([high], DARK, { width: 1, height: 1 }, { ...VIEW, eye: [0, y, 0], ahead: [0, rise, -1] } as never)
      for (const k of [3, 20, 39]) {
        const N = 20000
        let sum = 0
        for (let i = 0; i < N; i++) {
          const h = y + rise * ((i + 0.5) / N) * depthOf(f, k)
          sum += ((h <= 1 ? 1 : 0.5 ** ((h - 1) / 3)) * depthOf(f, k) * Math.hypot(1, rise)) / N
        }
        expect(Math.abs(at(f, k, 0, 0)[3] - Math.exp(-0.08 * sum))).toBeLessThan(1e-3)
      }
    }
    const up = { eye: [0, 2, 0], ahead: [0, 1, 0], right: [0.01, 0, 0], up: [0, 0, 0.01] } as never
    const way = (3 / Math.LN2) * (0.5 ** (1 / 3) - 0.5 ** (61 / 3))
    expect(Math.abs(at(front([high], DARK, {}, up), 39)[3] - Math.exp(-0.08 * way))).toBeLessThan(1e-3)
  })
  it('is lit by a light beside the way as the integral over it says', () => {
    const light = point([50, 50, 50], [3, 2, -20])
    const thin: FogLook = { ...FOG, extinction: 0.02, albedo: [1, 1, 1], forward: 0.4 }
    const [r] = at(front([thin], { ...DARK, lights: [light] }, { depths: 200 }), 199)
    let sum = 0
    const N = 60000
    for (let i = 0; i < N; i++) {
      const d = ((i + 0.5) / N) * 60
      const far = Math.hypot(3, d - 20)
      // From the light to the place, and on to the eye.
      const cosine = (20 - d) / far
      sum += (0.02 * Math.exp(-0.02 * (d + far)) * (50 / far ** 2) * phaseOf(0.4, cosine) * 60) / N
    }
    expect(Math.abs(r / sum - 1)).toBeLessThan(0.01)
  })
  it('shows the cone of a spot, and nothing behind what is in its way', () => {
    const spot = { aim: [0, -1, 0] as [number, number, number], from: Math.cos(0.2), to: Math.cos(0.15) }
    const lit = (l: MarchLight, x: number) =>
      at(front([FOG], { ...DARK, lights: [l] }, {}, { ...VIEW, eye: [x, 2, 0] } as never), 39, 1, 1)[0]
    const lamp = point([100, 100, 100], [0, 6, -10], { spot })
    expect(lit(lamp, 0)).toBeGreaterThan(0.01)
    expect(lit(lamp, 1.5)).toBeLessThan(1e-6)
    // However thin the cone, as much of the way as is in it: 0.02 rad at 4 m below, in pieces of metres.
    const thin = point([100, 100, 100], [0, 6, -10], { spot: { aim: [0, -1, 0], from: Math.cos(0.02), to: Math.cos(0.0199) } })
    const [beam] = at(front([FOG], { ...DARK, lights: [thin] }), 39)
    const inside = 2 * 4 * Math.tan(0.02)
    const one = (0.08 * 0.9 * 100 * inside * Math.exp(-0.08 * (10 + 4))) / (16 * 4 * Math.PI)
    expect(Math.abs(beam / one - 1)).toBeLessThan(0.06)
    // It sees something 2 m below itself everywhere.
    const rows = [1, 0, 0, 0, 0, 0, 1, 10, 0, -1, 0, 6, 0, -1, 0, 6]
    const shadow = { size: 2, data: new Float32Array(4).fill(2), rows }
    expect(lit({ ...lamp, shadow }, 0)).toBe(0)
    expect(lit({ ...lamp, shadow: { ...shadow, data: new Float32Array(4).fill(9) } }, 0)).toBeCloseTo(lit(lamp, 0), 6)
  })
  it('has patches about its mean, which drift, and adds up with another', () => {
    const patchy = (x: number): FogLook => ({ ...FOG, patches: { amount: 0.8, size: 4, drift: [x, 0, 0], phase: 0, seed: 5 } })
    const lefts = (f: FogFront) => Array.from({ length: 9 }, (_, n) => at(f, 39, n % 3, Math.floor(n / 3))[3])
    const [a, b] = [lefts(front([patchy(0)], DARK)), lefts(front([patchy(2)], DARK))]
    expect(a).not.toEqual(b)
    const mean = a.reduce((s, v) => s - Math.log(v), 0) / 9
    expect(Math.abs(mean / (0.08 * 60) - 1)).toBeLessThan(0.35)
    const two = front([FOG, { ...FOG, extinction: 0.02 }], DARK)
    expect(Math.abs(at(two, 20)[3] - Math.exp(-0.1 * depthOf(two, 20)))).toBeLessThan(1e-3)
  })
  it('is the same on three threads, in rows of any length', async () => {
    const three = await made(3)
    const spot = { aim: [0, -1, 0] as [number, number, number], from: Math.cos(0.5), to: Math.cos(0.3) }
    const scene = {
      ...DARK,
      above: [0.1, 0.2, 0.3] as const,
      lights: [point([50, 40, 30], [1, 5, -9], { spot }), point([9, 9, 9], [-2, 1, -4])],
    }
    const patchy: FogLook = { ...FOG, level: 1, halves: 2, patches: { amount: 0.5, size: 3, drift: [1, 0, 0], phase: 0.4, seed: 2 } }
    for (const width of [3, 4, 9]) {
      const size = { ...SIZE, width, height: 7 }
      const [a, b] = [one, three].map(({ maker }) => maker.front([patchy, FOG], scene, VIEW as never, size))
      expect(b).toEqual(a)
      expect(Math.max(...at(a, 39, width - 1, 6))).toBeGreaterThan(0)
    }
    three.end()
  })
})
