import { fractalOver } from '../../engine'
import { choice, number } from '../../shot'
import { defineReshape, say, word } from '../define'

/** The noise's own peaks lie at about 0.6 with one octave. */
const GAIN = 1.6
/** Fractal noise of the place pushes every point along its normal, or any way by three independent fields. */
export const ripple = defineReshape({
  kind: 'noise',
  title: 'Noise',
  help: 'Makes it uneven: fractal noise moves its points.',
  synonyms: ['displace', 'noise', 'deform', 'waves'],
  params: {
    mode: choice({
      label: 'Mode',
      default: 'normal',
      options: [
        { value: 'normal', label: 'in and out' },
        { value: 'any', label: 'any way' },
      ],
      help: 'Along the surface normal, or in any direction.',
    }),
    height: number({ label: 'Height', unit: 'm', default: 0.05, soft: [0, 1], animated: true, help: 'How far the coarsest bumps reach.' }),
    size: number({ label: 'Size', unit: 'm', default: 0.3, min: 1e-3, soft: [0.02, 4], animated: true, help: 'Of the coarsest bumps.' }),
    octaves: number({
      label: 'Detail',
      unit: '',
      default: 3,
      min: 1,
      max: 8,
      integer: true,
      help: 'Finer bumps on top, each half the size and half as high.',
    }),
    renewal: number({
      label: 'Renewal',
      unit: '1/s',
      default: 0,
      min: 0,
      soft: [0, 5],
      animated: true,
      integrated: true,
      help: 'How often the bumps give way to others.',
    }),
  },
  sentence: (p) =>
    say`Noise moves it ${word(p.choice('mode') === 'any' ? 'any way' : 'in and out', 'mode')} by ${'height'}, bumps of ${'size'}.`,
  move(p, t, points, _box, seed, normals) {
    const height = p.number('height', t) * GAIN
    if (height === 0) return
    const k = 1 / p.number('size', t),
      octaves = p.number('octaves'),
      { at: phase, period } = p.looped('renewal', t)
    const n = p.choice('mode', t) === 'normal' ? normals() : null
    if (n) {
      const h = fractalOver(seed, points, k, octaves, phase, period)
      for (let i = 0; i < points.length; i++) points[i] += n[i] * (height * h[Math.floor(i / 3)])
      return
    }
    const from = points.slice()
    for (let a = 0; a < 3; a++) {
      const h = fractalOver(seed + a * 7919, from, k, octaves, phase, period)
      for (let v = 0; v < h.length; v++) points[v * 3 + a] += height * h[v]
    }
  },
})
