import { describe, expect, it } from 'vitest'
import { nodeKernels } from '../../hosts/node/kernels'
import { ScreenMaker, type ScreenTone } from '..'
import { hash3, unit } from '../math'
import { Heap, SCRATCH } from '../memory'
import { fromHalf, toHalf } from './testing/tuftLists'

async function made<T>(run: (m: ScreenMaker, heap: Heap) => T, threads = 1): Promise<T> {
  const host = await nodeKernels({ threads })
  const heap = new Heap(host.memory, 64 * 1024 * 1024)
  const maker = new ScreenMaker({ heap, host, scratch: heap.take(SCRATCH.bytes * threads) })
  try {
    return run(maker, heap)
  } finally {
    maker.dispose()
    host.team.dispose()
  }
}
const clamp = (v: number) => Math.min(1, Math.max(0, v))
const sRGB = (y: number) => (y < 0.0031308 ? 12.92 * y : 1.055 * y ** (1 / 2.4) - 0.055)
const CURVES: Record<ScreenTone['curve'], (x: number, brightest: number) => number> = {
  film: (x) => (x * (2.51 * x + 0.03)) / (x * (2.43 * x + 0.59) + 0.14),
  gentle: (x, b) => (x * (1 + b / 256)) / (1 + b),
  straight: (x) => x,
}
/** Values before they are rounded, 0 to 255, of a pixel from the lower left: its colour times its alpha, and that. */
function expected(light: readonly number[], x: number, y: number, { curve, exposure, transparent }: ScreenTone): number[] {
  const linear = light.slice(0, 3).map((v) => Math.min(60000, Math.max(0, v)) * exposure)
  const screen = linear.map((v) => sRGB(clamp(CURVES[curve](v, Math.max(...linear)))))
  const dither = Math.max(...screen) < 1e-5 ? 0 : (unit(hash3(7, x * 4099 + y, 3)) - 0.5) / 255
  const d = screen.map((v) => clamp(v + dither))
  return [...d.map((v) => v * 255), transparent ? Math.max(clamp(light[3]), ...d) * 255 : 255]
}
/** Odd, so that the last pixels of a row are fewer than four. */
const [width, height] = [253, 131]
/** All that a half float can hold above nothing, some of it below, and alpha of its own. */
const light = Uint16Array.from({ length: width * height * 4 }, (_, i) => {
  const [pixel, c] = [i >> 2, i & 3]
  if (c === 3) return toHalf((pixel % 97) / 96)
  if (pixel % 61 === 0) return toHalf(-0.5 * c)
  return c ? toHalf(2 ** (((pixel * (c + 4)) % 160) / 8 - 14)) : (pixel * 31) % 0x7c00
})

describe('values of a screen', () => {
  const curves = ['film', 'gentle', 'straight'] as const
  for (const curve of curves)
    for (const transparent of [false, true])
      it(`are exact but for how they are rounded: ${curve}, ${transparent ? 'transparent' : 'opaque'}`, async () => {
        const tone = { curve, exposure: 0.8, transparent }
        const out = await made((m) => m.bytes(light, [width, height], tone))
        let [colour, least, most] = [0, 1, 0]
        for (let y = 0; y < height; y++)
          for (let x = 0; x < width; x++) {
            const from = (y * width + x) * 4
            const want = expected(Array.from(light.subarray(from, from + 4), fromHalf), x, y, tone)
            const at = ((height - 1 - y) * width + x) * 4
            const alpha = out[at + 3]
            // The colour is not multiplied by its alpha, and rounded by itself.
            for (let c = 0; c < 3; c++)
              colour = Math.max(colour, Math.abs(out[at + c] * (alpha / 255) - want[c]) / Math.max(alpha / 255, 1e-3))
            least = Math.min(least, alpha - want[3])
            most = Math.max(most, alpha - want[3])
          }
        expect(colour).toBeLessThan(0.502)
        // Alpha is rounded up, by a thousandth less than a step.
        expect([least > -0.0015, most < (transparent ? 1 : 1e-9)]).toEqual([true, true])
      })
  it('leave black black, and are the same on one to four threads, and of light that kernels left in their memory', async () => {
    const tone: ScreenTone = { curve: 'film', exposure: 1, transparent: true }
    const one = await made((m) => m.bytes(light, [width, height], tone))
    for (const threads of [2, 3, 4]) expect(await made((m) => m.bytes(light, [width, height], tone), threads)).toEqual(one)
    const inside = await made((m, heap) => {
      const at = heap.take(light.byteLength + 64)
      const there = new Uint16Array(heap.memory.buffer, at, light.length)
      there.set(light)
      return m.bytes(there, [width, height], tone)
    })
    expect(inside).toEqual(one)
    const black = await made((m) => [true, false].map((transparent) => m.bytes(new Uint16Array(28), [7, 1], { ...tone, transparent })))
    expect(black[0]).toEqual(new Uint8Array(28))
    expect([...black[1]]).toEqual(Array.from({ length: 28 }, (_, i) => (i % 4 === 3 ? 255 : 0)))
  })
})
