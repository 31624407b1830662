import { SRGB, type ToneCurve, type ToneDrawing } from '../../acts'
import { mix, SCREEN_DITHER } from '../../engine'
import { HASH } from '../shaders'
import type { Ending } from './finisher'

/** What light becomes, 0 to 1: the film curve is Narkowicz' (2015), the gentle one Reinhard's (2002) by brightness, with a white four stops up. */
const CURVES: Record<ToneCurve, string> = {
  film: 'vec3 toned(vec3 x) { return clamp(x * (2.51 * x + 0.03) / (x * (2.43 * x + 0.59) + 0.14), 0.0, 1.0); }',
  gentle: `vec3 toned(vec3 x) {
  float b = max(x.r, max(x.g, x.b));
  return clamp(x * ((1.0 + b / 256.0) / (1.0 + b)), 0.0, 1.0);
}`,
  straight: 'vec3 toned(vec3 x) { return clamp(x, 0.0, 1.0); }',
}
/** What mixes the last of the numbers that `hashUnit` takes: the same for all pixels, so it is no work of theirs. */
const CHANNEL = `${mix(SCREEN_DITHER.channel + 0x9e3779b9)}u`
/** Stripes over what a screen cuts off: bright ones where a channel is white, dark ones where light is less than none. */
const STRIPES = `
  float stripe = step(0.5, fract((gl_FragCoord.x + gl_FragCoord.y) / 8.0));
  if (top > 0.998) d = mix(d, vec3(0.95, 0.05, 0.35), stripe);
  if (min(c.r, min(c.g, c.b)) < 0.0) d = mix(d, vec3(0.05, 0.55, 0.95), stripe);`
/** What only adds light keeps its colour and takes alpha from its brightest channel. */
const ALPHA = `
  float a = ceil(max(clamp(c.a, 0.0, 1.0), max(d.r, max(d.g, d.b))) * steps - 1e-3) / steps;
  colour = a > 0.0 ? vec4(min(d / a, vec3(1.0)), a) : vec4(0.0);`
/**
 * Light to screen values: the tone curve, sRGB, half a step of dither. With transparency: what only adds light keeps its colour and takes alpha
 * from its brightest channel, so that over black the file shows the same picture as without. Straight alpha, as PNG wants it. `steps`: of the file; `marks`: what is
 * cut off at white or below nothing gets stripes. A shader for each way: without a GPU branches cost what they skip.
 */
export const onScreen = (tone: ToneDrawing, { dither = 1, marks = false, steps = 255, transparent = false } = {}): Ending => ({
  uniforms: 'uniform float exposure; uniform float dither; uniform float steps;',
  uses: [SRGB, HASH, CURVES[tone.curve]],
  main: `
  vec3 d = toScreen(toned(min(max(c.rgb, 0.0), vec3(60000.0)) * exposure));
  float top = max(d.r, max(d.g, d.b));${marks ? STRIPES : ''}
  uvec2 p = uvec2(gl_FragCoord.xy);
  float n = float(mix32(${SCREEN_DITHER.seed}u ^ mix32((p.x * ${SCREEN_DITHER.row}u + p.y) ^ ${CHANNEL})) >> 8) * (1.0 / 16777216.0) - 0.5;
  d = clamp(d + dither * n / steps * step(1e-5, top), 0.0, 1.0);
${transparent ? ALPHA : '  colour = vec4(d, 1.0);'}`,
  values: { exposure: tone.exposure, dither, steps },
})
