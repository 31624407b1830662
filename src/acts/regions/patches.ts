import { fractalOver, log2 } from '../../engine'
import { number } from '../../shot'
import { defineRegion, say, word } from '../define'
import { HOW, howParams } from './common'

export const patches = defineRegion({
  kind: 'patches',
  title: 'Patches',
  help: 'Irregular patches from noise; they may change.',
  synonyms: ['noise', 'mask'],
  params: {
    size: number({ label: 'Size', unit: 'm', default: 0.2, min: 1e-3, soft: [0.02, 4], animated: true, help: 'Of the coarsest patches.' }),
    share: number({
      label: 'Share',
      unit: '%',
      default: 50,
      min: 0,
      max: 100,
      soft: [0, 100],
      animated: true,
      help: 'About how much of the surface they cover.',
    }),
    softness: number({
      label: 'Softness',
      unit: '%',
      default: 20,
      min: 0,
      max: 100,
      soft: [0, 100],
      animated: true,
      help: 'How gently their edges fade.',
    }),
    octaves: number({ label: 'Detail', unit: '', default: 3, min: 1, max: 8, integer: true, help: 'Finer edges, each half the size.' }),
    renewal: number({
      label: 'Renewal',
      unit: '1/s',
      default: 0,
      min: 0,
      soft: [0, 5],
      animated: true,
      integrated: true,
      help: 'How often they give way to others.',
    }),
    ...howParams,
  },
  sentence: (p) => say`${word(HOW[p.choice('how')], 'how')} in patches of ${'size'} that cover ${'share'}.`,
  amount(p, site, seed) {
    const k = 1 / p.number('size', site.t),
      octaves = p.number('octaves'),
      { at: phase, period } = p.looped('renewal', site.t)
    const soft = Math.max(1e-4, (p.number('softness', site.t) / 100) * 0.6)
    // The noise is nearly normal about 0 (measured: deviation 0.19 with one octave, 0.22 with more); its quantile by the logistic curve.
    const share = Math.min(1 - 1e-6, Math.max(1e-6, p.number('share', site.t) / 100))
    const level = (octaves === 1 ? 0.19 : 0.219) * 0.5513 * 0.6931471805599453 * log2((1 - share) / share)
    const n = fractalOver(seed, site.rest, k, octaves, phase, period)
    return (v) => Math.min(1, Math.max(0, 0.5 + (n[v] - level) / soft))
  },
})
