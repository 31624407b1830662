import { number } from '../../shot'
import { defineFinish, say } from '../define'
import type { FinishPass } from '../finishing'

const HALF = `
vec4 finish(vec2 uv) {
  vec2 o = 0.5 / vec2(textureSize(before, 0));
  return 0.25 * (texture(before, uv + o) + texture(before, uv - o) + texture(before, uv + vec2(o.x, -o.y)) + texture(before, uv + vec2(-o.x, o.y)));
}`
const LINE = `
vec4 finish(vec2 uv) {
  vec4 sum = vec4(0.0);
  float all = 0.0;
  for (int i = -8; i <= 8; i++) {
    float w = exp(-0.5 * float(i * i) / (spread * spread));
    sum += texture(before, uv + texel * float(i)) * w;
    all += w;
  }
  return sum / all;
}`
const SHOW = `
vec4 finish(vec4 c, vec2 uv) { return mix(c, texture(blurred, uv), amount); }`
/** Widest spread of a bell curve that is added up pixel by pixel; what is wider is made on a smaller picture. */
const WIDEST = 3
/** A bell curve of so many pixels of spread, into a picture of its own. */
export function bellPasses(pixels: number, width: number, height: number, to: string): FinishPass[] {
  const halves = Math.max(0, Math.ceil(Math.log2(pixels / WIDEST)))
  const scale = 0.5 ** halves
  const out: FinishPass[] = []
  for (let i = 0; i < halves; i++)
    out.push({ glsl: HALF, reads: { before: i ? `${to}.half${i}` : 'picture' }, to: `${to}.half${i + 1}`, scale: 0.5 ** (i + 1) })
  const spread = Math.max(0.05, pixels * scale)
  const texels: [number, number][] = [
    [1 / (width * scale), 0],
    [0, 1 / (height * scale)],
  ]
  for (const [i, texel] of texels.entries())
    out.push({
      glsl: LINE,
      values: { texel, spread },
      reads: { before: i ? `${to}.across` : halves ? `${to}.half${halves}` : 'picture' },
      to: i ? to : `${to}.across`,
      scale,
    })
  return out
}
export const soften = defineFinish({
  kind: 'soften',
  title: 'Blur',
  help: 'Blurs the picture evenly, or lays a blurred one over it.',
  synonyms: ['soft', 'gaussian', 'defocus', 'diffusion'],
  params: {
    radius: number({
      label: 'Radius',
      unit: '%',
      default: 1,
      min: 0,
      max: 50,
      soft: [0, 10],
      animated: true,
      help: 'Spread of the bell curve, of the picture’s height.',
    }),
    amount: number({
      label: 'Amount',
      unit: '%',
      default: 100,
      min: 0,
      max: 100,
      soft: [0, 100],
      animated: true,
      help: 'How much of the sharp picture it takes the place of.',
    }),
  },
  passes: (p, { t, width, height }) => {
    const pixels = (p.number('radius', t) / 100) * height
    const amount = p.number('amount', t) / 100
    if (pixels < 0.05 || amount <= 0) return []
    return [...bellPasses(pixels, width, height, 'blurred'), { point: true, glsl: SHOW, values: { amount }, reads: { blurred: 'blurred' } }]
  },
  sentence: () => say`Blur of ${'radius'}, ${'amount'} of it.`,
})
