import { colour, number } from '../../shot'
import { defineFinish, say } from '../define'
import { addPass, brightPass, type FinishPass, fromParams } from '../finishing'

/** One arm, four places further each time: after n steps 4ⁿ places along it have been added up (Kawase 2003), fading exponentially. */
const arm = (ending: string): string => `
vec4 finish(vec2 uv) {
  vec3 sum = texture(before, uv).rgb;
  for (int i = 1; i < 4; i++) {
    vec2 at = uv - stride * float(i);
    // Nothing comes from beyond the picture.
    vec2 inside = step(vec2(0.0), at) * step(at, vec2(1.0));
    sum += texture(before, at).rgb * (fades[i - 1] * inside.x * inside.y);
  }
  ${ending}
}`
const STREAK = arm('return vec4(sum * gain, 1.0);')
/** The last of an arm adds those before it. */
const LAST = arm('return vec4(sum * tint + texture(others, uv).rgb * carry, 1.0);')
/** Of its whole length an arm has faded to this at its end. */
const LEFT = 0.02
/** Rows of the picture that arms are made in, at the most: of a large one they are as wide as of a smaller, and cost no more. */
const ROWS = 360
/** A spot as large as this share of the picture's height starts arms as bright as itself. */
const SPOT = 0.004

export const rays = defineFinish({
  kind: 'rays',
  title: 'Star rays',
  help: 'Bright spots send out straight arms of light, as through a filter with fine lines.',
  synonyms: ['star', 'streak', 'sparkle', 'glint', 'cross', 'diffraction'],
  params: {
    ...fromParams,
    from: { ...fromParams.from, default: 2 },
    count: number({
      label: 'Arms',
      unit: '',
      default: 4,
      min: 1,
      max: 12,
      soft: [1, 12],
      integer: true,
      help: 'How many each spot has, evenly around it.',
    }),
    turn: number({ label: 'Turn', unit: '°', default: 45, soft: [-180, 180], animated: true, help: 'Of the first arm, from the right.' }),
    length: number({
      label: 'Length',
      unit: '%',
      default: 18,
      min: 0.5,
      max: 150,
      soft: [1, 60],
      animated: true,
      help: 'Of the picture’s height, until an arm has faded to a fiftieth.',
    }),
    width: number({
      label: 'Width',
      unit: '%',
      default: 0,
      min: 0,
      max: 5,
      soft: [0, 1],
      animated: true,
      help: 'How far spots are softened first, of the picture’s height: arms are as wide.',
    }),
    strength: number({
      label: 'Strength',
      unit: '%',
      default: 60,
      min: 0,
      max: 1000,
      soft: [0, 300],
      animated: true,
      help: 'How much of them is added.',
    }),
    fringe: number({
      label: 'Fringe',
      unit: '%',
      default: 25,
      min: 0,
      max: 100,
      soft: [0, 100],
      animated: true,
      help: 'How far their ends turn from blue to red: long waves are bent more.',
    }),
    tint: colour({ label: 'Tint', default: [1, 1, 1], animated: true, help: 'Multiplies their colour; white leaves it as it is.' }),
  },
  shines: (p, t) => p.number('from', t),
  passes: (p, { t, width, height }) => {
    const strength = p.number('strength', t) / 100
    if (strength <= 0) return []
    const count = Math.round(p.number('count', t))
    const long = p.number('length', t) / 100
    const scale = Math.min(0.5, ROWS / height)
    // Strides are so chosen that the first is at most two pixels of the smaller picture: the sampler fills what lies between.
    const steps = Math.max(1, Math.ceil(Math.log((long * height * scale) / 2) / Math.log(4)))
    const first = long / 4 ** steps
    const bend = p.number('fringe', t) / 100
    const tint = p.colour('tint', t)
    const soft = p.number('width', t) / 100
    const out: FinishPass[] = [brightPass(p.number('from', t), p.number('softness', t) / 100, 'bright', scale)]
    if (soft > 0)
      for (const [i, way] of [
        [soft * (height / width), 0],
        [0, soft],
      ].entries())
        out.push({ glsl: SOFTEN, values: { way }, reads: { before: i ? 'soft0' : 'bright' }, to: i ? 'spots' : 'soft0', scale })
    const spots = soft > 0 ? 'spots' : 'bright'
    for (let k = 0; k < count; k++) {
      const angle = ((p.number('turn', t) + (360 * k) / count) * Math.PI) / 180
      const along = [(Math.cos(angle) * height) / width, Math.sin(angle)]
      // Arms take turns at being warm and cool, as much as a fringe is asked for.
      const warm = (k % 2 ? -0.25 : 0.25) * bend
      for (let n = 0; n < steps; n++) {
        const stride = first * 4 ** n
        const fade = LEFT ** (stride / long)
        // So many spots one beside the other shine as one that is as large.
        const gain = n ? 1 : first / SPOT
        const common = { stride: along.map((a) => a * stride), fades: [fade, fade ** 2, fade ** 3] }
        const before = n ? `arm${k}.${n - 1}` : spots
        out.push(
          n < steps - 1
            ? { glsl: STREAK, values: { ...common, gain }, reads: { before }, to: `arm${k}.${n}`, scale }
            : {
                glsl: LAST,
                values: { ...common, tint: [1 + warm, 1, 1 - warm].map((x, i) => x * tint[i] * gain), carry: k ? 1 : 0 },
                reads: { before, others: k ? `sum${k - 1}` : spots },
                to: `sum${k}`,
                scale,
              },
        )
      }
    }
    return [...out, addPass(`sum${count - 1}`, strength)]
  },
  sentence: () => say`Rays in ${'count'} arms from ${'from'} on, ${'length'} long, ${'strength'} strong.`,
})
const SOFTEN = `
vec4 finish(vec2 uv) {
  vec3 sum = vec3(0.0);
  float all = 0.0;
  for (int i = -4; i <= 4; i++) {
    float w = exp(-float(i * i) / 8.0);
    sum += texture(before, uv + way * (float(i) / 4.0)).rgb * w;
    all += w;
  }
  return vec4(sum / all, 1.0);
}`
