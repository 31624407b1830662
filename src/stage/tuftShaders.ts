import { LUMPS_ACROSS, LUMPS_SIDE, LUMPS_SLOPE } from '../engine'
import { MEETING } from './particleChunks'

/** What a tuft hands from its vertices to its pixels, all of it the same over the tuft but the place on its disc. */
const between = (way: 'flat in' | 'flat out' | '') => `
${way} vec4 body; // its optical depth, how much it covers, how large it is in pixels, metres before an object in which it fades
${way} vec4 lumpy; // where its lumps lie in their tile, and its view depth, m
${way} vec3 turnX; ${way} vec3 turnY; ${way} vec3 turnZ; // from the view to its own space
#ifndef RECORD
${way} vec3 lit; ${way} vec3 litX; ${way} vec3 litY; ${way} vec3 litZ; // light in its middle, and how it changes by a radius
#endif
${way} vec4 veil; // what of gases lies before it
${way} float softest;
`
/** In the vertex shader of particles: a triangle around the disc that faces the eye. Its light comes from cells around it, seven samples. */
export const TUFT_VERTEX = `
uniform highp sampler3D cells; uniform vec3 cellLow; uniform vec3 perCells;
uniform vec4 tuft; // thickness, 1 over the size of lumps, shine, radii before an object
#ifdef RECORD
${between('')}
void leave(vec3 head, float r);
#else
${between('flat out')}
#endif
#ifndef RECORD
vec3 lightAt(vec3 p) { return texture(cells, (p - cellLow) * perCells).rgb; }
#endif
void tuftAt(uint me, uint seed, uint which, vec3 place, vec3 head, float width, vec3 colour, float alpha) {
  float r = 0.5 * width * pow(abs(determinant(mat3(modelViewMatrix))), 1.0 / 3.0);
  float radius = r * projectionMatrix[1][1] / -head.z * pixels.y * 0.5;
  float grown = max(radius, MIN_RADIUS) / max(radius, 1e-6);
  r *= grown;
  if (isCovered(projectionMatrix * vec4(head, 1.0), max(radius, MIN_RADIUS) + 1.0)) return;
  float angle = 1.5707963 + 2.0943951 * float(which);
  at = 2.0 * vec2(cos(angle), sin(angle));
  vec3 eye = normalize(-head);
  vec3 right = normalize(vec3(eye.z, 0.0, -eye.x) + vec3(1e-6, 0.0, 0.0)), up = cross(eye, right);
#ifndef RECORD
  POSITION = projectionMatrix * vec4(head + r * (right * at.x + up * at.y), 1.0);
#endif
  mat3 world = transpose(mat3(viewMatrix));
  vec3 x = world * right, y = world * up, z = world * eye;
  vec4 q = lying(me, seed, sizeSeed) * vec4(-1.0, -1.0, -1.0, 1.0);
  // Into its own space: turned back.
  turnX = turnedBy(q, x);
  turnY = turnedBy(q, y);
  turnZ = turnedBy(q, z);
#ifndef RECORD
  vec3 there = (modelMatrix * vec4(place, 1.0)).xyz;
  lit = lightAt(there) + tuft.z;
  litX = 0.5 * (lightAt(there + r * x) - lightAt(there - r * x));
  litY = 0.5 * (lightAt(there + r * y) - lightAt(there - r * y));
  litZ = 0.5 * (lightAt(there + r * z) - lightAt(there - r * z));
#endif
  lumpy = vec4(hashUnit(sizeSeed, seed, 27u), hashUnit(sizeSeed, seed, 28u), hashUnit(sizeSeed, seed, 29u), -head.z);
  body = vec4(tuft.x * alpha / (grown * grown), covers, max(radius, MIN_RADIUS), tuft.w * r);
  vec4 middle = projectionMatrix * vec4(head, 1.0);
  vec2 ndc = middle.xy / middle.w;
  vec4 gas = inFront(ndc, -head.z), fog = inFog(ndc, -head.z);
  veil = vec4(gas.rgb * fog.a + fog.rgb, gas.a * fog.a);
  tint = vec4(colour * bright, 1.0);
  softest = soft;
#ifdef RECORD
  leave(head, r);
#endif
}`
/** In place of a picture: each tuft as a pixel of TUFT_SLICES targets, for kernels that draw it. As SeenTufts of the engine has it. */
export const TUFT_RECORD = `
layout(location = 0) out uvec4 slice0; layout(location = 1) out uvec4 slice1; layout(location = 2) out uvec4 slice2;
layout(location = 3) out uvec4 slice3;
uniform uint first; uniform uint across; // where in their list those of this system begin, and pixels in a row
uniform float ragged;
// Which one this pixel is of.
uint beginRecord() {
  slice0 = slice1 = slice2 = slice3 = uvec4(0u);
  uvec2 p = uvec2(gl_FragCoord.xy);
  uint slot = p.y * across + p.x;
  if (slot < first || slot >= first + count) discard;
  return slot - first;
}
uint two(float a, float b) { return packHalf2x16(clamp(vec2(a, b), -65504.0, 65504.0)); }
void leave(vec3 head, float r) {
  float torn = ragged * smoothstep(1.5, 5.0, body.z);
  vec3 begins = lumpy.xyz * ${LUMPS_SIDE}.0 - 0.5, own = tint.rgb * veil.a;
  slice0 = floatBitsToUint(vec4(head, r));
  slice1 = uvec4(two(body.x, mix(0.5, 2.0, softest)), two(body.w, torn), two(tuft.y * ${(LUMPS_SIDE / LUMPS_ACROSS).toFixed(1)}, begins.x), two(begins.y, begins.z));
  slice2 = uvec4(two(turnX.x, turnX.y), two(turnX.z, turnY.x), two(turnY.y, turnY.z), two(turnZ.x, turnZ.y));
  slice3 = uvec4(two(turnZ.z, own.r), two(own.g, own.b), two(veil.r, veil.g), two(veil.b, tuft.z));
}`

/** A ball of smoke that noise has torn, as thick along the view as it is there, lit by where it bulges. */
export const TUFT_FRAGMENT = `
precision highp float;
flat in vec4 tint;
in vec2 at;
${between('flat in')}
uniform highp sampler3D lumps; uniform vec4 tuft; uniform float ragged; uniform float brightest;
${MEETING}
out vec4 colour;
void main() {
  float r2 = dot(at, at);
  if (r2 >= 1.0) { colour = vec4(0.0); return; }
  vec3 n = vec3(at, sqrt(1.0 - r2));
  vec3 own = turnX * n.x + turnY * n.y + turnZ * n.z;
  vec4 l = texture(lumps, own * (tuft.y / ${LUMPS_ACROSS}.0) + lumpy.xyz);
  // Of what is a few pixels large nobody sees lumps.
  float torn = ragged * smoothstep(1.5, 5.0, body.z);
  float rim = 1.0 - torn * l.a;
  float inside = 1.0 - r2 / (rim * rim);
  if (inside <= 0.0) { colour = vec4(0.0); return; }
  // The way through a ball, or gentler; what is taken off its rim is taken off its thickness.
  float thick = body.x * rim * pow(inside, mix(0.5, 2.0, softest));
  float a = 1.0 - exp(-thick);
  a *= meeting(lumpy.w, body.w);
  if (a < 0.002) { colour = vec4(0.0); return; }
  // Lumps stand out: where they fall off, the surface leans.
  vec3 slope = (l.rgb - 128.0 / 255.0) * ${(2 * LUMPS_SLOPE).toFixed(1)} * tuft.y;
  slope = vec3(dot(slope, turnX), dot(slope, turnY), dot(slope, turnZ));
  vec3 lean = normalize(n + torn * (slope - n * dot(slope, n)) + vec3(0.0, 0.0, 1e-4));
  vec3 light = max(lit + litX * lean.x + litY * lean.y + litZ * lean.z, vec3(0.0));
  vec3 c = tint.rgb * light * a;
  colour = min(vec4(c * veil.a + a * body.y * veil.rgb, a * body.y), vec4(brightest));
}`
