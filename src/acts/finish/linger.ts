import { choice, curve, number, sampleCurve } from '../../shot'
import { defineFinish, say } from '../define'
import { TURN } from './turn'

/** Earlier frames that are read at once. */
const AT_ONCE = 6
/** Earlier frames that are looked at, at the most: over a longer time, each second or third of them. */
const MOST = 40
const JOINS = {
  brightest: { more: 'sum = max(sum, g);', end: 'max(c, g)' },
  adds: { more: 'sum = vec4(sum.rgb + g.rgb, sum.a + g.a * (1.0 - sum.a));', end: 'vec4(c.rgb + g.rgb, c.a + g.a * (1.0 - c.a))' },
  behind: { more: 'sum += g * (1.0 - sum.a);', end: 'c + g * (1.0 - clamp(c.a, 0.0, 1.0))' },
} as const
type Join = keyof typeof JOINS

/**
 * Of some earlier pictures what is left of them. Each lies where it has drifted to, and is read from as small a copy of it as its softness asks
 * for, at four places around.
 */
const glsl = (join: Join, isFirst: boolean): string => `
vec4 left(sampler2D of, vec4 place, vec4 look, vec2 uv) {
  if (look.x <= 0.0) return vec4(0.0);
  vec2 at = (uv - 0.5 - place.xy) / place.z + 0.5;
  vec2 edge = step(vec2(0.0), at) * step(at, vec2(1.0));
  vec4 c;
  if (look.z <= 0.0) c = texture(of, at);
  else {
    float level = log2(max(1.0, look.z * float(textureSize(of, 0).y)));
    vec2 o = vec2(look.z / aspect, look.z);
    c = 0.25 * (textureLod(of, at + o * vec2(0.38, 0.92), level) + textureLod(of, at + o * vec2(-0.92, 0.38), level)
      + textureLod(of, at - o * vec2(0.38, 0.92), level) + textureLod(of, at + o * vec2(0.92, -0.38), level));
  }
  c *= look.x * edge.x * edge.y;
  if (look.y != 0.0) c.rgb = max(turned(c.rgb, look.y), 0.0);
  return c;
}
vec4 finish(vec2 uv) {
  vec4 sum = ${isFirst ? 'vec4(0.0)' : 'texture(before, uv)'}, g;
${Array.from({ length: AT_ONCE }, (_, i) => `  g = left(e${i}, place${i}, look${i}, uv); ${JOINS[join].more}`).join('\n')}
  return sum;
}`
const perSecond = (label: string, help: string, unit: '%' | '°' = '%') =>
  number({ label, unit: `${unit}/s`, default: 0, soft: unit === '%' ? [-50, 50] : [-360, 360], animated: true, help })

/** Which earlier frames are looked at, as frames before the present one. */
function agoOf(seconds: number, step: number): number[] {
  const frames = Math.max(0, Math.ceil(seconds / step - 1e-6) - 1)
  const each = Math.max(1, Math.ceil(frames / MOST))
  return Array.from({ length: Math.floor(frames / each) }, (_, i) => (i + 1) * each)
}
export const linger = defineFinish({
  kind: 'linger',
  title: 'Linger',
  help: 'What was seen in earlier frames stays for a while and fades.',
  synonyms: ['echo', 'ghost', 'trail', 'afterimage', 'feedback', 'persistence', 'decay'],
  params: {
    time: number({
      ...{ label: 'Time', unit: 's', default: 0.5, min: 0, max: 4, soft: [0, 2], animated: true },
      help: 'After this nothing is left. At most 40 earlier frames are looked at; over a longer time, each second or third.',
    }),
    strength: number({
      ...{ label: 'Strength', unit: '%', default: 80, min: 0, max: 200, soft: [0, 100], animated: true },
      help: 'Of what has only just gone.',
    }),
    fade: curve({
      ...{ label: 'Fading', unit: '%', max: 1, from: 'just gone', to: 'nothing left' },
      default: {
        points: [
          { at: 0, v: 1 },
          { at: 0.35, v: 0.42 },
          { at: 1, v: 0 },
        ],
      },
      help: 'How much is left over the time.',
    }),
    join: choice({
      ...{ label: 'Joins', default: 'brightest' },
      options: [
        { value: 'brightest', label: 'Brightest', help: 'Of all frames, the brightest is seen: what stands still stays as it is.' },
        { value: 'adds', label: 'Adds', help: 'Its light is added; what stands still becomes brighter by the strength.' },
        { value: 'behind', label: 'Behind', help: 'It is seen where the present frame is clear.' },
      ],
      help: 'How it meets the present frame.',
    }),
    right: perSecond('Right', 'How fast it drifts, of the picture’s height.'),
    up: perSecond('Up', 'How fast it drifts, of the picture’s height.'),
    grow: perSecond('Grow', 'How fast it spreads from the middle of the picture.'),
    soften: number({
      ...{ label: 'Soften', unit: '%/s', default: 4, min: 0, max: 100, soft: [0, 30], animated: true },
      help: 'How fast it blurs, of the picture’s height.',
    }),
    hue: perSecond('Hue', 'How fast its colour turns.', '°'),
  },
  earlier: (p, { t, step }) => (p.number('strength', t) > 0 ? agoOf(p.number('time', t), step) : []),
  passes: (p, { t, step, width, height }) => {
    const time = p.number('time', t)
    const strength = p.number('strength', t) / 100
    const ago = strength > 0 ? agoOf(time, step) : []
    if (!ago.length) return []
    const join = p.choice('join') as Join
    const rate = (name: 'right' | 'up' | 'grow' | 'soften') => p.number(name, t) / 100
    const left = ago.map((k) => Math.max(0, sampleCurve(p.curve('fade'), (k * step) / time)))
    const sum = left.reduce((a, b) => a + b, 0)
    const each = ago.map((k, i) => {
      const age = k * step
      const part = join === 'adds' ? left[i] / Math.max(sum, 1e-6) : left[i]
      return {
        place: [(rate('right') * age * height) / width, rate('up') * age, Math.max(0.01, 1 + rate('grow') * age), 0],
        look: [part * strength, (p.number('hue', t) * age * Math.PI) / 180, rate('soften') * age, 0],
        read: `earlier ${k}`,
      }
    })
    const groups = Math.ceil(each.length / AT_ONCE)
    return [
      ...Array.from({ length: groups }, (_, g) => {
        const own = Array.from({ length: AT_ONCE }, (_, i) => each[g * AT_ONCE + i] ?? { ...each[0], look: [0, 0, 0, 0] })
        return {
          glsl: glsl(join, g === 0),
          values: Object.fromEntries(own.flatMap((e, i) => [[`place${i}`, e.place] as const, [`look${i}`, e.look] as const])),
          reads: { ...Object.fromEntries(own.map((e, i) => [`e${i}`, e.read])), ...(g ? { before: `left ${g - 1}` } : {}) },
          uses: [TURN],
          to: `left ${g}`,
          // The pictures that are kept are of this size.
          scale: 0.5,
        }
      }),
      {
        point: true,
        glsl: `vec4 finish(vec4 c, vec2 uv) { vec4 g = texture(ghost, uv); return ${JOINS[join].end}; }`,
        reads: { ghost: `left ${groups - 1}` },
      },
    ]
  },
  sentence: () => say`What was seen stays for ${'time'} at ${'strength'} and fades.`,
})
