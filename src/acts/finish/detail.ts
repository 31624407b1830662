import { number, ref, toggle } from '../../shot'
import { defineFinish, say } from '../define'
import { RANDOM } from '../finishing'

/** Gradient noise (Perlin 2002) in three dimensions, summed over octaves; about −1 to 1. */
const NOISE = `
vec3 slope(vec3 c, float seed) { return random3(uvec3(ivec3(c) + 65536) + uvec3(0u, 0u, uint(seed) * 131071u)) * 2.0 - 1.0; }
float gradient(vec3 p, float seed) {
  vec3 c = floor(p), f = p - c;
  vec3 w = f * f * f * (f * (f * 6.0 - 15.0) + 10.0);
  float at[8];
  for (int i = 0; i < 8; i++) {
    vec3 o = vec3(float(i & 1), float((i >> 1) & 1), float(i >> 2));
    at[i] = dot(slope(c + o, seed), f - o);
  }
  return 1.4 * mix(mix(mix(at[0], at[1], w.x), mix(at[2], at[3], w.x), w.y), mix(mix(at[4], at[5], w.x), mix(at[6], at[7], w.x), w.y), w.z);
}
float clouds(vec3 p, float seed) {
  float sum = 0.0, part = 0.6, all = 0.0;
  for (int i = 0; i < 6; i++) {
    if (float(i) >= octaves) break;
    sum += part * gradient(p, seed + float(i));
    all += part;
    part *= 0.5;
    p = p * 2.03 + 17.0;
  }
  return sum / all;
}`
/** What it is of the light at a place of the noise. */
const SHAPED = `
float shaped(float n) { return mix(1.0, clamp(0.5 + n * contrast, 0.0, 2.0) * 2.0 / (1.0 + contrast * 0.2), strength); }`
const FLAT = `
float drifted(vec2 uv, vec3 way) {
  vec2 p = (uv - 0.5) * vec2(aspect, 1.0) / size - way.xy;
  p.x /= stretch;
  return clouds(vec3(p, way.z), seed);
}
vec4 finish(vec4 c, vec2 uv) {
  float n = drifted(uv, way);
  // In a loop it goes over into how it has begun.
  if (over > 0.0) n = (n * (1.0 - over) + drifted(uv, begun) * over) / sqrt(over * over + (1.0 - over) * (1.0 - over));
  return vec4(c.rgb * shaped(n), c.a);
}`
/**
 * Around a disc: the angle goes in as a place on a circle, so that there is no seam. Inner parts go around faster, as they do around a mass; so that
 * they do not wind up, two noises are led on by turns, each for a while, and go over into each other.
 */
const AROUND = `
float around(vec2 p, float led, float seed) {
  float r = length(p) / reach;
  float a = atan(p.y, p.x) - led * pow(max(r, 0.15), -1.5 * shear);
  float k = 1.0 / (6.2832 * size * stretch);
  return clouds(vec3(cos(a) * k, sin(a) * k, log(max(r, 0.02)) / size + age), seed);
}
vec4 finish(vec4 c, vec2 uv) {
  vec3 q = vec3(plane[0] * uv.x + plane[1] * uv.y + plane[2], plane[3] * uv.x + plane[4] * uv.y + plane[5], plane[6] * uv.x + plane[7] * uv.y + plane[8]);
  if (q.z <= 0.0) return c;
  vec2 p = q.xy / q.z;
  float n = around(p, first.x, seed) * first.y + around(p, second.x, seed + 40.0) * second.y;
  return vec4(c.rgb * shaped(n / sqrt(first.y * first.y + second.y * second.y)), c.a);
}`
/** Seconds for which one of the two noises is led on. */
const LED_S = 4

export const detail = defineFinish({
  kind: 'detail',
  title: 'Moving noise',
  help: 'Light gets detail of drifting noise, flat over the picture or around an object like a disc or a ring.',
  synonyms: ['fractal', 'texture', 'turbulence', 'clouds', 'disc', 'ring', 'polar', 'accretion'],
  params: {
    follows: ref({
      label: 'Around',
      to: 'object',
      default: null,
      empty: 'flat over the picture',
      help: 'The object in whose level plane it turns about its middle.',
    }),
    strength: number({
      label: 'Strength',
      unit: '%',
      default: 70,
      min: 0,
      max: 100,
      soft: [0, 100],
      animated: true,
      help: 'How dark its dark parts are.',
    }),
    contrast: number({
      label: 'Contrast',
      unit: '%',
      default: 120,
      min: 0,
      max: 1000,
      soft: [50, 400],
      animated: true,
      help: 'How hard dark and bright parts are.',
    }),
    size: number({
      label: 'Size',
      unit: '%',
      default: 12,
      min: 0.5,
      max: 200,
      soft: [2, 50],
      animated: true,
      help: 'Of its eddies: of the picture’s height; around an object, of its radius.',
    }),
    stretch: number({
      label: 'Stretch',
      unit: '×',
      default: 1,
      min: 0.1,
      max: 50,
      soft: [0.5, 10],
      animated: true,
      help: 'How much longer they are along; around an object, along the circle.',
    }),
    octaves: number({
      label: 'Octaves',
      unit: '',
      default: 4,
      min: 1,
      max: 6,
      soft: [1, 6],
      integer: true,
      help: 'How often finer detail of half the size is added.',
    }),
    renewal: number({
      label: 'Renewal',
      unit: '1/s',
      default: 0.3,
      min: 0,
      soft: [0, 3],
      animated: true,
      integrated: true,
      help: 'How fast it becomes another.',
    }),
    across: number({
      label: 'Drift',
      unit: '%',
      default: 4,
      soft: [-50, 50],
      animated: true,
      integrated: true,
      help: 'A second, to the right, of the picture’s height; not around an object.',
    }),
    up: number({
      label: 'Drift up',
      unit: '%',
      default: 0,
      soft: [-50, 50],
      animated: true,
      integrated: true,
      help: 'A second, of the picture’s height; not around an object.',
    }),
    reach: number({
      label: 'Radius',
      unit: 'm',
      default: 1,
      min: 0.001,
      soft: [0.1, 10],
      animated: true,
      help: 'Around an object: where it turns as fast as it says.',
    }),
    turn: number({
      label: 'Turning',
      unit: '°/s',
      default: 40,
      soft: [-360, 360],
      animated: true,
      help: 'Around an object: how fast, at its radius.',
    }),
    shear: toggle({ label: 'Inner faster', default: true, help: 'Around an object: inner parts go around faster, as around a mass.' }),
  },
  passes: (p, view, seed) => {
    const { t } = view
    const share = (name: 'strength' | 'contrast' | 'size') => p.number(name, t) / 100
    if (share('strength') <= 0) return []
    const values = {
      ...{ strength: share('strength'), contrast: share('contrast'), size: share('size'), stretch: p.number('stretch', t) },
      ...{ octaves: p.number('octaves', t), seed: seed % 1000 },
    }
    const { seconds } = p.looped('renewal', t)
    const age = (s: number) => p.integral('renewal', s)
    const id = p.text('follows')
    if (!id) {
      const wayAt = (s: number) => [p.integral('across', s) / 100 / share('size'), p.integral('up', s) / 100 / share('size'), age(s)]
      const way = wayAt(t)
      const all = wayAt(seconds)
      const flat = { way, begun: way.map((x, i) => x - all[i]), over: seconds && all.some((x) => x) ? t / seconds : 0 }
      return [{ point: true, glsl: NOISE + SHAPED + FLAT, values: { ...values, ...flat }, uses: [RANDOM] }]
    }
    const plane = view.plane(id)
    if (!plane) return []
    const speed = (p.number('turn', t) * Math.PI) / 180
    // Each begins anew when nothing is seen of it.
    const led = seconds ? seconds / Math.max(1, Math.round(seconds / LED_S)) : LED_S
    const phases = [0, 0.5].map((k) => (((t / led + k) % 1) + 1) % 1)
    const [first, second] = phases.map((f) => [speed * (f - 0.5) * led, 1 - Math.abs(2 * f - 1)])
    // What it gives way to does not come back: in a loop it goes around alone.
    const around = { age: seconds ? 0 : age(t), plane, reach: p.number('reach', t), shear: p.on('shear', t) ? 1 : 0, first, second }
    const turned = seconds ? (Math.round((speed * seconds) / (2 * Math.PI)) * 2 * Math.PI * t) / seconds : speed * t
    // Without shear nothing winds up: it simply turns.
    if (!around.shear) Object.assign(around, { first: [turned, 1], second: [0, 0] })
    return [{ point: true, glsl: NOISE + SHAPED + AROUND, values: { ...values, ...around }, uses: [RANDOM] }]
  },
  sentence: (p) =>
    p.text('follows')
      ? say`Noise ${'strength'} strong, ${'size'} large, around ${'follows'}.`
      : say`Noise ${'strength'} strong, ${'size'} large, ${'follows'}.`,
})
