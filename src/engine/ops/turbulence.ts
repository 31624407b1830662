import { defineOp } from './define'
import { NOISE_WORDS, type Noise, noiseWords } from './noise'
import { FULL } from './share'
import type { OpWriter } from './writer'

export const turbulenceOp = defineOp({ name: 'turbulence', code: 3, group: 'force', kernel: 'forces', flows: true, words: NOISE_WORDS })
/** Eddies that push particles, or carry them. */
export const encodeTurbulence = (w: OpWriter, p: Noise & { carry: boolean }, seed: number, share = FULL): void =>
  void w.write(turbulenceOp, noiseWords(p, p.carry ? 1 : 0, seed), seed, share)
