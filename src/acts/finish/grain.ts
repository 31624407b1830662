import { number, toggle } from '../../shot'
import { defineFinish, say } from '../define'
import { LUMA, RANDOM } from '../finishing'

/**
 * Grains of film lie at fixed places of a frame and are as large in every size of picture. Noise is smooth between them and even over all, with a
 * spread of one; it grows a little slower than the light does, and black has none.
 */
const GLSL = `
vec4 finish(vec4 c, vec2 uv) {
  vec2 at = uv * vec2(aspect, 1.0) / size;
  vec2 cell = floor(at), f = at - cell;
  vec2 w = f * f * (3.0 - 2.0 * f);
  vec4 k = vec4((1.0 - w.x) * (1.0 - w.y), w.x * (1.0 - w.y), (1.0 - w.x) * w.y, w.x * w.y);
  vec3 n = vec3(0.0);
  for (int i = 0; i < 4; i++) {
    vec2 g = cell + vec2(float(i & 1), float(i >> 1));
    n += (random3(uvec3(uint(int(g.x) + 4096), uint(int(g.y) + 4096), uint(seed))) - 0.5) * k[i];
  }
  // What the weights took from the spread of even numbers is given back.
  n *= 3.4641 / sqrt(dot(k, k));
  n = mix(vec3(n.g), n, colours);
  float l = clamp(luma(max(c.rgb, 0.0)), 0.0, 4.0);
  float kept = mix(1.0, exp(-1.2 * l), calm);
  return vec4(max(c.rgb + n * (amount * pow(l, 0.8) * kept), min(c.rgb, 0.0)), c.a);
}`
export const grain = defineFinish({
  kind: 'grain',
  title: 'Grain',
  help: 'The grain of film: fine noise, another on every frame.',
  synonyms: ['noise', 'film', 'iso'],
  params: {
    amount: number({
      label: 'Amount',
      unit: '%',
      default: 8,
      min: 0,
      max: 100,
      soft: [0, 40],
      animated: true,
      help: 'Spread of the noise in middle tones.',
    }),
    size: number({
      label: 'Size',
      unit: '%',
      default: 0.2,
      min: 0.05,
      max: 5,
      soft: [0.1, 1],
      animated: true,
      help: 'Of a grain, of the picture’s height.',
    }),
    colours: number({
      label: 'Colours',
      unit: '%',
      default: 30,
      min: 0,
      max: 100,
      soft: [0, 100],
      animated: true,
      help: 'How far the layers of colour differ.',
    }),
    calm: number({
      label: 'Bright parts',
      unit: '%',
      default: 60,
      min: 0,
      max: 100,
      soft: [0, 100],
      animated: true,
      help: 'How much less of it bright parts have.',
    }),
    still: toggle({ label: 'Stands still', default: false, help: 'The same on every frame.' }),
  },
  passes: (p, { t, frame }, seed) => {
    const amount = p.number('amount', t) / 100
    if (amount <= 0) return []
    const values = { amount, size: p.number('size', t) / 100, colours: p.number('colours', t) / 100, calm: p.number('calm', t) / 100 }
    // Floats of a shader are whole up to 2²⁴.
    const number = (seed * 7919 + (p.on('still', t) ? 0 : frame) * 104729) % 16777216
    return [{ point: true, glsl: GLSL, values: { ...values, seed: number }, uses: [LUMA, RANDOM] }]
  },
  sentence: () => say`Grain of ${'amount'}, ${'size'} large.`,
})
