import { number } from '../../shot'
import { defineFinish, say } from '../define'
import { centreOf, centreParams } from './centre'

/** Red is drawn larger than blue. Eight parts of the spectrum, so that a long way gives a smooth rainbow and no three pictures. */
const GLSL = `
vec4 finish(vec2 uv) {
  vec2 out1 = uv - middle;
  vec2 way = out1 * (amount * length(out1 * vec2(aspect, 1.0)) * 2.0);
  vec3 sum = vec3(0.0), all = vec3(0.0);
  float a = 0.0;
  for (int i = 0; i < 8; i++) {
    float s = (float(i) + 0.5) / 8.0;
    vec3 w = max(vec3(0.0), vec3(1.0 - 2.0 * s, 1.0 - abs(s - 0.5) * 3.0, 2.0 * s - 1.0));
    vec4 c = texture(picture, uv + way * (s - 0.5));
    sum += c.rgb * w;
    all += w;
    a += c.a / 8.0;
  }
  return vec4(sum / all, a);
}`
export const fringes = defineFinish({
  kind: 'fringes',
  title: 'Colour fringes',
  help: 'The lens bends colours unequally: edges far from the middle get red and blue seams.',
  synonyms: ['chromatic', 'aberration', 'dispersion', 'shift', 'rgb'],
  params: {
    amount: number({
      label: 'Amount',
      unit: '%',
      default: 0.6,
      min: 0,
      max: 20,
      soft: [0, 5],
      animated: true,
      help: 'How far red and blue lie apart at the upper edge, of the way from the middle.',
    }),
    ...centreParams,
  },
  passes: (p, view) => {
    const middle = centreOf(p, view)
    const amount = p.number('amount', view.t) / 100
    return middle && amount > 0 ? [{ glsl: GLSL, values: { middle, amount } }] : []
  },
  sentence: () => say`Fringes: red and blue ${'amount'} apart at the edges.`,
})
