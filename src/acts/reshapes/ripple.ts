import { fractal } from '../../engine'
import { choice, number } from '../../shot'
import { defineReshape, say, word } from '../define'

/** The noise's own peaks lie at about 0.6 with one octave. */
const GAIN = 1.6
/** Fractal noise of the place pushes every point along its normal, or any way by three independent fields. */
export const ripple = defineReshape({
  kind: 'noise',
  title: 'Noise',
  help: 'Makes it uneven: fractal noise moves its points.',
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
      phase = p.integral('renewal', t)
    const n = p.choice('mode', t) === 'normal' ? normals() : null
    for (let i = 0; i < points.length; i += 3) {
      const x = points[i] * k,
        y = points[i + 1] * k,
        z = points[i + 2] * k
      if (n) {
        const h = height * fractal(seed, x, y, z, octaves, phase)
        for (let a = 0; a < 3; a++) points[i + a] += n[i + a] * h
      } else for (let a = 0; a < 3; a++) points[i + a] += height * fractal(seed + a * 7919, x, y, z, octaves, phase)
    }
  },
})
