import { colour, number } from '../../shot'
import { defineFinish, say } from '../define'
import { addPass, brightPass, type FinishPass, fromParams } from '../finishing'

/** Octaves of blur counted from this height, so that a smaller preview blooms as wide as the full picture. */
const REFERENCE_HEIGHT = 1080
const OCTAVES = 7

/** How much of each level goes into the glow, finest first. Levels finer than the picture has give their part to its finest. */
export function bloomWeights(height: number, spread: number): number[] {
  const s = 0.25 + 0.65 * Math.min(1, Math.max(0, spread))
  const finest = Math.max(1, Math.round(Math.log2(REFERENCE_HEIGHT / height) + 1))
  const raw = Array.from({ length: OCTAVES }, (_, i) => s ** i)
  const total = raw.reduce((a, b) => a + b, 0)
  const out = raw.map((w) => w / total)
  const skipped = Math.min(OCTAVES - 1, finest - 1)
  const first = out.slice(0, skipped + 1).reduce((a, b) => a + b, 0)
  return [first, ...out.slice(skipped + 1)]
}
/** 13 taps (Jimenez 2014): steady under motion, where four taps flicker. */
const DOWN = `
vec4 finish(vec2 uv) {
  vec2 texel = 1.0 / vec2(textureSize(finer, 0));
  #define S(x, y) texture(finer, uv + vec2(x, y) * texel).rgb
  vec3 inner = S(-1.0, -1.0) + S(1.0, -1.0) + S(-1.0, 1.0) + S(1.0, 1.0);
  vec3 edges = S(0.0, -2.0) + S(-2.0, 0.0) + S(2.0, 0.0) + S(0.0, 2.0);
  vec3 corners = S(-2.0, -2.0) + S(2.0, -2.0) + S(-2.0, 2.0) + S(2.0, 2.0);
  return vec4(S(0.0, 0.0) * 0.125 + inner * 0.125 + edges * 0.0625 + corners * 0.03125, 1.0);
}`
/**
 * Four taps between the texels of the wider level: a tent of three by three, by the weights of the sampler (with nine taps bloom took 28 %
 * of a final frame on software GL, with four 17 %).
 */
const UP = `
vec4 finish(vec2 uv) {
  vec2 texel = 0.5 / vec2(textureSize(wider, 0));
  vec3 w = texture(wider, uv + texel).rgb + texture(wider, uv - texel).rgb
    + texture(wider, uv + vec2(texel.x, -texel.y)).rgb + texture(wider, uv + vec2(-texel.x, texel.y)).rgb;
  return vec4(texture(level, uv).rgb * weight + w * (carry / 4.0), 1.0);
}`

export const bloom = defineFinish({
  kind: 'bloom',
  title: 'Bloom',
  help: 'Bright parts shine over their surroundings.',
  synonyms: ['glow', 'halo', 'bright'],
  params: {
    ...fromParams,
    spread: number({
      label: 'Spread',
      unit: '%',
      default: 60,
      min: 0,
      max: 100,
      soft: [0, 100],
      animated: true,
      help: 'How far it reaches.',
    }),
    strength: number({
      label: 'Strength',
      unit: '%',
      default: 60,
      min: 0,
      max: 1000,
      soft: [0, 200],
      animated: true,
      help: 'How much of it is added.',
    }),
    tint: colour({ label: 'Tint', default: [1, 1, 1], animated: true, help: 'Multiplies its colour; white leaves it as it is.' }),
  },
  shines: (p, t) => p.number('from', t),
  passes: (p, { t, height }) => {
    const strength = p.number('strength', t) / 100
    if (strength <= 0) return []
    const weights = bloomWeights(height, p.number('spread', t) / 100)
    const last = weights.length - 1
    const at = (i: number) => 0.5 ** (i + 1)
    const down = weights
      .slice(1)
      .map((_, i): FinishPass => ({ glsl: DOWN, reads: { finer: `down${i}` }, to: `down${i + 1}`, scale: at(i + 1) }))
    // The widest level has nothing wider to add: `wider` counts for nothing there.
    const up = weights.map(
      (weight, i): FinishPass => ({
        glsl: UP,
        reads: { level: `down${i}`, wider: i === last ? `down${i}` : `up${i + 1}` },
        values: { weight, carry: i === last ? 0 : 1 },
        to: `up${i}`,
        scale: at(i),
      }),
    )
    return [
      brightPass(p.number('from', t), p.number('softness', t) / 100, 'down0'),
      ...down,
      ...up.reverse(),
      addPass('up0', strength, p.colour('tint', t)),
    ]
  },
  sentence: () => say`Bloom from ${'from'} on, ${'strength'} strong, reaching ${'spread'}.`,
})
