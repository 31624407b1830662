import { colour, number, ref, toggle } from '../../shot'
import { defineFinish, say } from '../define'

/**
 * Light that passes a mass at an angle θ comes from θ − θE²/θ: what lies right behind it is seen as a ring of the radius θE (Einstein 1936). Angles
 * are shares of the picture's height here. What comes from beyond the picture is its mirror image.
 */
const GLSL = `
vec2 mirrored(vec2 p) { return 1.0 - abs(mod(p, 2.0) - 1.0); }
vec4 finish(vec2 uv) {
  vec2 d = (uv - middle) * vec2(aspect, 1.0);
  float r = max(length(d), 1e-6);
  // Of a near mass the bend ends with it.
  float reach = local > 0.0 ? 1.0 - smoothstep(0.7 * local, local, r) : 1.0;
  vec2 from = d * (1.0 - reach * ring * abs(ring) / (r * r));
  vec4 c = texture(picture, mirrored(middle + from / vec2(aspect, 1.0)));
  float inside = core > 0.0 ? 1.0 - smoothstep(core - edge, core, r) : 0.0;
  return mix(c, vec4(body, 1.0), inside);
}`
export const lensBend = defineFinish({
  kind: 'lensBend',
  title: 'Lens bend',
  help: 'Bends what lies behind an element, as a heavy mass or a glass ball does; what lies before it stays as it is.',
  synonyms: ['gravitational lens', 'refraction', 'distort', 'black hole', 'glass', 'mass'],
  params: {
    follows: ref({
      label: 'Around',
      to: 'stuck',
      default: null,
      empty: 'nothing yet',
      help: 'The object, system or light whose middle it lies at.',
    }),
    radius: number({
      ...{ label: 'Ring', unit: 'm', default: 0.5, min: 0, soft: [0, 5], animated: true },
      help: 'Radius of the ring that what lies right behind it becomes; its size in the picture follows the distance.',
    }),
    strength: number({
      ...{ label: 'Strength', unit: '%', default: 100, min: -400, max: 400, soft: [-100, 200], animated: true },
      help: 'How much light is bent; below 0 it is bent outwards.',
    }),
    reach: number({
      ...{ label: 'Reach', unit: 'm', default: 0, min: 0, soft: [0, 10], animated: true },
      help: 'Beyond it nothing is bent; 0: it never ends, and only becomes weaker.',
    }),
    core: number({
      ...{ label: 'Core', unit: 'm', default: 0, min: 0, soft: [0, 5], animated: true },
      help: 'Within it nothing comes through; 0: there is none.',
    }),
    edge: number({
      ...{ label: 'Core edge', unit: '%', default: 6, min: 0.5, max: 100, soft: [1, 50], animated: true },
      help: 'How soft the core ends, of its radius.',
    }),
    body: colour({ label: 'Core colour', default: [0, 0, 0], animated: true, help: 'Light of the core itself.' }),
    before: toggle({ label: 'Near stays', default: true, help: 'What is nearer than its middle is drawn over it, unbent.' }),
  },
  lies: (p) => (p.on('before') ? p.text('follows') : null),
  passes: (p, view) => {
    const id = p.text('follows')
    const at = id && view.seen(id)
    if (!at) return []
    const { t } = view
    const [strength, core] = [p.number('strength', t) / 100, p.number('core', t) * at.metre]
    const ring = p.number('radius', t) * at.metre * Math.sqrt(Math.abs(strength)) * Math.sign(strength)
    if (!ring && !core) return []
    return [
      {
        glsl: GLSL,
        values: {
          ...{ middle: [at.x, at.y], ring, local: p.number('reach', t) * at.metre, core },
          ...{ edge: (core * p.number('edge', t)) / 100, body: p.colour('body', t) },
        },
      },
    ]
  },
  sentence: () => say`Bends what lies behind ${'follows'} into a ring of ${'radius'}, ${'strength'} strong.`,
})
