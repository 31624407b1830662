import type { CurveParam, Vec3 } from '../shot'

/** Where something of the shot is in the picture. */
export interface Seen {
  /** From the lower left corner, 0 to 1 over the width and the height; it may lie outside. */
  x: number
  y: number
  /** Along the way of the camera, m. */
  depth: number
  /** What one metre there takes of the picture's height. */
  metre: number
}
/** What a finish knows of the picture that it works on. Lengths are shares of its height, so that a smaller preview looks the same. */
export interface FinishView {
  /** Seconds from the first frame. */
  t: number
  /** Of the shot: of what is another on each. */
  frame: number
  /** Seconds from one frame to the next. */
  step: number
  /** Pixels. */
  width: number
  height: number
  /** Where the middle of an element is; null: nowhere in front of the camera, or gone. */
  seen(id: string): Seen | null
  /**
   * From a place of the picture (u, v, 1; 0 to 1) to the level plane of an object: x, z and a scale that is above zero where it lies before the
   * camera; three rows. Null: there is no such object, or it is seen edge on.
   */
  plane(id: string): number[] | null
}
/** What a value becomes in a shader: a float, a vec2 to vec4, or a list of floats. */
export type FinishValue = number | readonly number[]
/**
 * One step over a picture of linear light with premultiplied alpha. Its GLSL reads `aspect` (width over height), `transparent` (1: what is behind
 * is not there), `picture`, what `reads` names and its values; shared functions come from `uses`.
 */
export interface FinishPass {
  /**
   * `vec4 finish(vec2 uv)`; or, with `point`, `vec4 finish(vec4 c, vec2 uv)` of the colour at that place alone: such steps are run together in
   * one pass over the picture.
   */
  glsl: string
  point?: boolean
  values?: Readonly<Record<string, FinishValue>>
  /** Pictures beside `picture` by the names that the code gives them: results of earlier steps of the same act, or pictures of earlier frames that it asked for. */
  reads?: Readonly<Record<string, string>>
  /** The name of its result; without it, it is the picture. */
  to?: string
  /** Of the picture's size in each direction. */
  scale?: number
  uses?: readonly string[]
}
/** How linear light becomes what a screen shows. */
export interface ToneDrawing {
  curve: ToneCurve
  /** Factor before the curve. */
  exposure: number
}
export type ToneCurve = 'film' | 'gentle' | 'straight'
/** Without a card: the film curve at the exposure that shots were made with from the start. */
export const USUAL_TONE: ToneDrawing = { curve: 'film', exposure: 0.8 }

export const LUMA = `
float luma(vec3 c) { return dot(c, vec3(0.2126, 0.7152, 0.0722)); }`
export const SRGB = `
vec3 toScreen(vec3 c) { return mix(c * 12.92, 1.055 * pow(max(c, 0.0), vec3(1.0 / 2.4)) - 0.055, step(0.0031308, c)); }
float screenOf(float c) { return c < 0.0031308 ? c * 12.92 : 1.055 * pow(c, 1.0 / 2.4) - 0.055; }
vec3 toLight(vec3 c) { return mix(c / 12.92, pow((max(c, 0.0) + 0.055) / 1.055, vec3(2.4)), step(0.04045, c)); }`
/** What of a colour lies above a brightness, setting in gently below it: light alone, so a halo covers nothing. */
export const BRIGHT = `
vec3 brightOf(vec3 light, float from, float knee) {
  vec3 c = min(max(light, 0.0), vec3(256.0));
  float b = max(c.r, max(c.g, c.b));
  float s = clamp(b - from + knee, 0.0, 2.0 * knee);
  s = s * s / (4.0 * knee + 1e-5);
  return c * max(s, b - from) / max(b, 1e-4);
}`
/** How much of what lies behind a pixel hides: light counts as far as it is seen. */
export const COVER = `
float coverOf(vec4 c) { return clamp(max(c.a, max(c.r, max(c.g, c.b))), 0.0, 1.0); }`
/** A number from 0 to 1 of three whole ones (PCG in three dimensions, Jarzynski and Olano 2020). */
export const RANDOM = `
vec3 random3(uvec3 v) {
  v = v * 1664525u + 1013904223u;
  v.x += v.y * v.z; v.y += v.z * v.x; v.z += v.x * v.y;
  v ^= v >> 16u;
  v.x += v.y * v.z; v.y += v.z * v.x; v.z += v.x * v.y;
  return vec3(v >> 8u) / 16777216.0;
}`

/** The part above a brightness, at half the picture's size: four taps between its pixels. */
export const brightPass = (from: number, softness: number, to: string, scale = 0.5): FinishPass => ({
  glsl: `
vec4 finish(vec2 uv) {
  vec2 o = 0.5 / vec2(textureSize(picture, 0));
  vec3 sum = vec3(0.0);
  for (int i = 0; i < 4; i++) {
    vec2 at = uv + o * vec2(float(i & 1) * 2.0 - 1.0, float(i >> 1) * 2.0 - 1.0) * ${scale < 0.4 ? '2.0' : '1.0'};
    sum += brightOf(texture(picture, at).rgb, from, knee);
  }
  return vec4(sum * 0.25, 1.0);
}`,
  values: { from, knee: Math.max(1e-4, from * softness) },
  uses: [BRIGHT],
  to,
  scale,
})
/** Adds light to the picture. */
export const addPass = (read: string, strength: number, tint: Vec3 = [1, 1, 1]): FinishPass => ({
  point: true,
  glsl: `
vec4 finish(vec4 c, vec2 uv) { return vec4(c.rgb + texture(more, uv).rgb * tint, c.a); }`,
  values: { tint: tint.map((x) => x * strength) },
  reads: { more: read },
})
/** Shared by the cards that begin at a brightness. */
export const fromParams = {
  from: {
    type: 'number',
    label: 'From',
    unit: '×',
    default: 1,
    min: 0,
    soft: [0, 4],
    animated: true,
    help: 'Brightness above which things shine; 1 is white.',
  },
  softness: {
    type: 'number',
    label: 'Softness',
    unit: '%',
    default: 50,
    min: 0,
    max: 100,
    soft: [0, 100],
    animated: true,
    help: 'How gently it sets in below that brightness.',
  },
} as const
/** A curve from what comes in to what goes out, both 0 to 1 as a screen shows them; a straight one changes nothing. */
export const toneCurve = (label: string, help: string): CurveParam => ({
  type: 'curve',
  label,
  unit: '%',
  max: 1,
  from: 'dark',
  to: 'bright',
  default: {
    points: [
      { at: 0, v: 0 },
      { at: 1, v: 1 },
    ],
  },
  help,
})
