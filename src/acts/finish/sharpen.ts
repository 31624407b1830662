import { number } from '../../shot'
import { defineFinish, say } from '../define'
import { bellPasses } from './soften'

/** What a blurred picture lacks is added; a pixel never goes darker than a quarter or brighter than four times what it was, so no black seams. */
const GLSL = `
vec4 finish(vec4 c, vec2 uv) {
  vec3 more = (c.rgb - texture(blurred, uv).rgb) * amount;
  return vec4(clamp(c.rgb + more, c.rgb * 0.25, c.rgb * 4.0), c.a);
}`
export const sharpen = defineFinish({
  kind: 'sharpen',
  title: 'Sharpen',
  help: 'Makes edges crisper.',
  synonyms: ['unsharp', 'crisp', 'detail'],
  params: {
    amount: number({
      label: 'Amount',
      unit: '%',
      default: 50,
      min: 0,
      max: 500,
      soft: [0, 200],
      animated: true,
      help: 'How much of what a blurred picture lacks is added.',
    }),
    radius: number({
      label: 'Radius',
      unit: '%',
      default: 0.15,
      min: 0.02,
      max: 10,
      soft: [0.05, 2],
      animated: true,
      help: 'How wide seams are, of the picture’s height.',
    }),
  },
  passes: (p, { t, width, height }) => {
    const amount = p.number('amount', t) / 100
    if (amount <= 0) return []
    return [
      ...bellPasses(Math.max(0.3, (p.number('radius', t) / 100) * height), width, height, 'blurred'),
      { point: true, glsl: GLSL, values: { amount }, reads: { blurred: 'blurred' } },
    ]
  },
  sentence: () => say`Sharpens by ${'amount'}, seams ${'radius'} wide.`,
})
