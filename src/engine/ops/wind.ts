import { f32 } from '../memory'
import { defineOp } from './define'
import { NOISE_WORDS, type Noise, noiseWords } from './noise'
import { FULL } from './share'
import type { OpWriter } from './writer'

export const windOp = defineOp({
  name: 'wind',
  code: 26,
  group: 'force',
  kernel: 'forces',
  byMass: true,
  words: {
    ...NOISE_WORDS,
    direction: f32(3),
    gust: f32(),
    stray: f32(),
    /** In eddies. */
    travelled: f32(3),
    speed: f32(),
  },
})
/**
 * A wind that particles follow: direction (unit), speed, the largest gust along it and straying across it in m/s, and how far the gusts
 * have travelled in m (the integral of the speed along the direction).
 */
export function encodeWind(
  w: OpWriter,
  p: Omit<Noise, 'strength'> & {
    direction: readonly [number, number, number]
    speed: number
    gust: number
    stray: number
    travelled: readonly [number, number, number]
  },
  seed: number,
  share = FULL,
): void {
  const { direction, gust, stray, speed } = p
  const words = noiseWords({ ...p, strength: 1 }, 2, seed)
  w.write(windOp, { ...words, direction, gust, stray, travelled: p.travelled.map((m) => m / p.eddy), speed }, seed, share)
}
