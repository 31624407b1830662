import { number } from '../../shot'
import { defineFinish, say } from '../define'
import { centreOf, centreParams } from './centre'

const GLSL = `
vec4 finish(vec4 c, vec2 uv) {
  vec2 d = abs(uv - middle) * 2.0 * mix(vec2(aspect, 1.0) / max(aspect, 1.0), vec2(1.0), oval);
  float out1 = length(d);
  float s = smoothstep(size - soft * 0.5, size + soft * 0.5, out1);
  return vec4(c.rgb * (1.0 - max(amount, 0.0) * s), c.a);
}`
export const vignette = defineFinish({
  kind: 'vignette',
  title: 'Vignette',
  help: 'Darkens the picture towards its corners.',
  synonyms: ['corners', 'edge', 'darken'],
  params: {
    amount: number({
      label: 'Amount',
      unit: '%',
      default: 40,
      min: 0,
      max: 100,
      soft: [0, 100],
      animated: true,
      help: 'How dark the corners become.',
    }),
    size: number({
      label: 'Size',
      unit: '%',
      default: 100,
      min: 0,
      max: 300,
      soft: [20, 200],
      animated: true,
      help: 'Where it is half as strong; 100 % touches the middle of the sides.',
    }),
    soft: number({
      label: 'Softness',
      unit: '%',
      default: 90,
      min: 1,
      max: 300,
      soft: [10, 200],
      animated: true,
      help: 'How wide the passage is.',
    }),
    oval: number({
      label: 'Oval',
      unit: '%',
      default: 70,
      min: 0,
      max: 100,
      soft: [0, 100],
      animated: true,
      help: 'How far it follows the shape of the picture; 0 is a circle.',
    }),
    ...centreParams,
  },
  passes: (p, view) => {
    const middle = centreOf(p, view)
    const share = (name: 'amount' | 'size' | 'soft' | 'oval') => p.number(name, view.t) / 100
    if (!middle || share('amount') <= 0) return []
    return [
      {
        point: true,
        glsl: GLSL,
        values: { middle, amount: share('amount'), size: share('size'), soft: share('soft'), oval: share('oval') },
      },
    ]
  },
  sentence: () => say`Vignette: corners ${'amount'} darker, from ${'size'} out.`,
})
