import { number } from '../../shot'
import { defineFinish, say } from '../define'
import { alongWay, ROUNDS } from './blurs'
import { centreOf, centreParams } from './centre'

/** Sizes are multiplied, so that two rounds are one. */
const GLSL = alongWay(`
vec2 place(vec2 uv, float s) { return middle + (uv - middle) * exp(far * s); }`)
export const zoomBlur = defineFinish({
  kind: 'zoomBlur',
  title: 'Zoom blur',
  help: 'Blurs the picture away from a place, as if it came nearer.',
  synonyms: ['radial', 'rush', 'speed'],
  params: {
    amount: number({
      label: 'Amount',
      unit: '%',
      default: 8,
      min: 0,
      max: 300,
      soft: [0, 50],
      animated: true,
      help: 'How much larger it becomes.',
    }),
    ...centreParams,
  },
  passes: (p, view) => {
    const middle = centreOf(p, view)
    const far = Math.log(1 + p.number('amount', view.t) / 100)
    return middle && far > 0 ? ROUNDS.map((part) => ({ glsl: GLSL, values: { middle, far, part } })) : []
  },
  sentence: () => say`Zoom blur of ${'amount'}.`,
})
