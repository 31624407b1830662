import { IN_FRONT } from './front'

// What strips look like. Vertices come in places on the screen; colours are linear, premultiplied, and may exceed 1.

export const STRIP_VERTEX = `
precision highp float;
in vec3 place; in vec4 band; in vec2 more; in vec4 tint;
out vec4 shape; // px across, half width px, px beyond an end, metres along
out vec2 lit;
out vec4 light;
uniform vec2 nearFar;
${IN_FRONT}
void main() {
  shape = band;
  lit = more;
  light = within(tint, place.xy, 2.0 * nearFar.x * nearFar.y / (nearFar.x + nearFar.y - place.z * (nearFar.y - nearFar.x)));
  gl_Position = vec4(place, 1.0);
}`
/**
 * Across: soft as asked, its rim at least a pixel wide. The way of a round tube turns its normal from one side to the other; the light on it
 * comes in two parts, from the side and from the front.
 */
export const STRIP_FRAGMENT = `
precision highp float;
in vec4 shape; in vec2 lit; in vec4 light;
uniform float softness; uniform float tube; uniform vec4 pattern; // period m, filled, shift m, soft
out vec4 colour;
void main() {
  float r = shape.y;
  float d = length(shape.xz) / r;
  float edge = max(softness, min(1.0, 1.0 / r));
  float a = 1.0 - smoothstep(1.0 - edge, 1.0 + 0.5 / r, d);
  a *= mix(1.0, a, softness);
#ifndef NO_PATTERN
  if (pattern.x > 0.0) {
    float s = fract((shape.w - pattern.z) / pattern.x);
    // A pixel in metres, for ends that do not flicker.
    float px = max(fwidth(shape.w) / pattern.x, 1e-4);
    float m = abs(s - 0.5) * 2.0;
    float hard = 1.0 - smoothstep(pattern.y - px, pattern.y + px, m);
    float round = pattern.y > 0.0 ? pow(max(0.0, 1.0 - (m * m) / (pattern.y * pattern.y)), 1.5) : 0.0;
    // Where pieces are finer than pixels they come out as their mean.
    a *= mix(mix(hard, round, pattern.w), pattern.y * mix(1.0, 0.59, pattern.w), smoothstep(0.25, 0.6, px));
  }
#endif
  if (a <= 0.0) discard;
  float shade = 1.0;
#ifndef NO_TUBE
  if (tube > 0.5) {
    float n = clamp(shape.x / r, -1.0, 1.0);
    shade = 0.18 + 0.82 * max(0.0, n * lit.x + sqrt(1.0 - n * n) * lit.y);
  }
#endif
  colour = vec4(light.rgb * shade, light.a) * a;
}`

export const HEAD_VERTEX = `
precision highp float;
in vec3 place; in vec3 band; in vec4 tint;
out vec2 at; out float turn; out vec4 light;
uniform vec2 nearFar;
${IN_FRONT}
void main() { at = band.xy; turn = band.z;
  light = within(tint, place.xy, 2.0 * nearFar.x * nearFar.y / (nearFar.x + nearFar.y - place.z * (nearFar.y - nearFar.x))); gl_Position = vec4(place, 1.0); }`
/** A core, a wide soft disc around it, and rays that thin out. */
export const HEAD_FRAGMENT = `
precision highp float;
in vec2 at; in float turn; in vec4 light;
uniform float rays;
out vec4 colour;
void main() {
  float d = length(at);
  if (d >= 1.0) discard;
  float e = 1.0 - d;
  float a = 0.35 * e * e * e + 0.9 * exp(-d * d * 90.0);
#ifndef NO_RAYS
  if (rays > 0.5) {
    float w = abs(cos((atan(at.y, at.x) + turn) * rays * 0.5));
    a += 0.6 * e * e * pow(w, 24.0 + 160.0 * d);
  }
#endif
  colour = vec4(light.rgb * a, 0.0);
}`
