import { f32, u32 } from '../memory'

/** One octave of noise renews this much faster than the next coarser one. */
const RENEWAL_STEP = 1.6
/** The second noise of the cross product runs on at another speed, so the field never comes back to an earlier state. */
const SECOND_PHASE = 0.6180339887
export const MAX_OCTAVES = 6
/**
 * Corner values in the kernel are 0..32768, not ±1, so a product of two gradients is (2/32768)² too large; the rest brings the
 * coarsest octave's field to peaks of about 1 (99.9 % of places lie below it; measured in movement.test.ts).
 */
const NOISE_SCALE = (1 / 16384 / 16384) * 0.198

/** The words of an op of divergence-free noise. */
export const NOISE_WORDS = {
  /** 0 pushes, 1 carries. */
  mode: u32(),
  octaves: u32(),
  /** 1 / size of the coarsest eddies, 1/m. */
  frequency: f32(),
  amplitude: f32(),
  /** s, of what carries. */
  response: f32(),
  /** Of each octave two phases (the first in the low 16 bits, the second in the high ones) and an offset of the lattice. */
  phases: u32(MAX_OCTAVES * 3),
} as const
export interface Noise {
  /** m/s² of what pushes, m/s of what carries: of the coarsest eddies. */
  strength: number
  /** Size of the coarsest eddies, m. */
  eddy: number
  octaves: number
  /** Eddies renewed so far: the integral of the renewal rate. */
  phase: number
  /** In a loop, how often they are renewed until it begins again: each octave then comes around a whole number of times. */
  until?: number
  responseS: number
}
export function noiseWords(p: Noise, mode: number, seed: number) {
  const octaves = Math.min(MAX_OCTAVES, Math.max(1, Math.round(p.octaves)))
  const phases = new Uint32Array(MAX_OCTAVES * 3)
  let [phase, until] = [p.phase, p.until ?? 0]
  for (let k = 0; k < octaves; k++) {
    const fraction = (x: number) => Math.floor((x - Math.floor(x)) * 65536)
    const whole = (at: number, all: number) => fraction(all ? (at / all) * Math.max(1, Math.round(all)) : at)
    phases[k * 3] = whole(phase, until)
    phases[k * 3 + 1] = whole(phase * SECOND_PHASE, until * SECOND_PHASE) * 65536
    phases[k * 3 + 2] = Math.imul(seed + k * 0x632be5ab, 0x9e3779b1)
    phase *= RENEWAL_STEP
    until *= RENEWAL_STEP
  }
  return { mode, octaves, frequency: 1 / p.eddy, amplitude: p.strength * NOISE_SCALE, response: p.responseS, phases }
}
