import { colour, number } from '../../shot'
import { defineFinish, say } from '../define'
import { addPass, brightPass, type FinishPass, fromParams } from '../finishing'

/**
 * Reflections between the faces of a lens lie on the line through the middle of the picture; each is the bright part again, mirrored and larger
 * or smaller. The halo is the bright part seen a fixed way towards the middle. What is hidden is not bright, and so has none.
 */
const GHOSTS = `
vec3 split(vec2 at, vec2 along) {
  vec2 d = along * shift;
  return vec3(texture(spots, at + d).r, texture(spots, at).g, texture(spots, at - d).b);
}
float within(vec2 at) { vec2 d = abs(at - 0.5) * 2.0; return (1.0 - smoothstep(0.75, 1.0, d.x)) * (1.0 - smoothstep(0.75, 1.0, d.y)); }
vec4 finish(vec2 uv) {
  vec2 middle = vec2(0.5);
  vec2 out1 = (uv - middle) * vec2(aspect, 1.0);
  vec2 along = normalize(out1 + vec2(1e-5)) / vec2(aspect, 1.0);
  vec3 sum = vec3(0.0);
  for (int i = 0; i < 8; i++) {
    if (float(i) >= count) break;
    // Both sides of the middle by turns, each farther out.
    float k = (i % 2 == 0 ? -1.0 : 1.0) * (0.35 + gap * float(i + 1));
    vec2 at = middle + (uv - middle) / k;
    vec3 hue = mix(vec3(1.0), 0.5 + 0.5 * cos(6.2832 * (float(i) * 0.37 + vec3(0.0, 0.33, 0.67))), colours);
    sum += split(at, along) * hue * (within(at) * ghosts / (0.5 + k * k));
  }
  vec2 at = uv - along * radius;
  vec3 hue = mix(vec3(1.0), 0.55 + 0.45 * cos(6.2832 * (length(out1) * 1.5 + vec3(0.0, 0.33, 0.67))), colours);
  sum += split(at, along) * hue * (within(at) * halo);
  return vec4(sum, 1.0);
}`
const SMALLER = `
vec4 finish(vec2 uv) {
  vec2 texel = 1.0 / vec2(textureSize(before, 0));
  vec3 sum = vec3(0.0);
  for (int y = -1; y <= 1; y++) for (int x = -1; x <= 1; x++) sum += texture(before, uv + vec2(x, y) * texel * reach).rgb;
  return vec4(sum / 9.0, 1.0);
}`

export const flare = defineFinish({
  kind: 'flare',
  title: 'Lens flare',
  help: 'Reflections within the lens: ghosts on the line through the middle, and a halo around it.',
  synonyms: ['ghosts', 'halo', 'reflection', 'lens'],
  params: {
    ...fromParams,
    from: { ...fromParams.from, default: 2 },
    count: number({ label: 'Ghosts', unit: '', default: 5, min: 0, max: 8, soft: [0, 8], integer: true, help: 'How many reflections.' }),
    gap: number({
      label: 'Apart',
      unit: '%',
      default: 25,
      min: 5,
      max: 100,
      soft: [10, 60],
      animated: true,
      help: 'How far each lies beyond the one before, of the way of its source from the middle.',
    }),
    ghosts: number({
      label: 'Ghost light',
      unit: '%',
      default: 15,
      min: 0,
      max: 500,
      soft: [0, 100],
      animated: true,
      help: 'How bright they are.',
    }),
    halo: number({
      label: 'Halo light',
      unit: '%',
      default: 8,
      min: 0,
      max: 500,
      soft: [0, 100],
      animated: true,
      help: 'How bright the halo is.',
    }),
    radius: number({
      label: 'Halo radius',
      unit: '%',
      default: 40,
      min: 5,
      max: 100,
      soft: [10, 80],
      animated: true,
      help: 'Of the picture’s height.',
    }),
    blur: number({
      label: 'Blur',
      unit: '%',
      default: 40,
      min: 0,
      max: 100,
      soft: [0, 100],
      animated: true,
      help: 'How soft reflections are.',
    }),
    colours: number({
      label: 'Colours',
      unit: '%',
      default: 60,
      min: 0,
      max: 100,
      soft: [0, 100],
      animated: true,
      help: 'How much the coats of the lens tint them.',
    }),
    tint: colour({ label: 'Tint', default: [1, 1, 1], animated: true, help: 'Multiplies their colour; white leaves it as it is.' }),
  },
  shines: (p, t) => p.number('from', t),
  passes: (p, { t, height }) => {
    const share = (name: 'gap' | 'ghosts' | 'halo' | 'radius' | 'blur' | 'colours') => p.number(name, t) / 100
    if (share('ghosts') <= 0 && share('halo') <= 0) return []
    // Reflections are soft: more rows than these would show nothing.
    const scale = Math.min(0.5, 270 / height)
    const rows = height * scale
    const spots: FinishPass[] = [brightPass(p.number('from', t), p.number('softness', t) / 100, 'blur0', scale)]
    // Each goes three times as far as the one before; together a soft disc, the same share of every height.
    const wide = 0.006 + 0.03 * share('blur')
    const rounds = Math.max(1, Math.ceil(Math.log(wide * rows) / Math.log(3)))
    for (let i = 0; i < rounds; i++)
      spots.push({
        glsl: SMALLER,
        values: { reach: (wide * rows) / 3 ** (rounds - 1 - i) },
        reads: { before: `blur${i}` },
        to: `blur${i + 1}`,
        scale,
      })
    return [
      ...spots,
      {
        glsl: GHOSTS,
        values: {
          ...{ count: p.number('count', t), gap: share('gap'), ghosts: share('ghosts'), halo: share('halo'), radius: share('radius') },
          ...{ colours: share('colours'), shift: 0.012 * share('colours') },
        },
        reads: { spots: `blur${rounds}` },
        to: 'flare',
        scale,
      },
      addPass('flare', 1, p.colour('tint', t)),
    ]
  },
  sentence: () => say`Flare of ${'count'} ghosts and a halo ${'radius'} out, from ${'from'} on.`,
})
