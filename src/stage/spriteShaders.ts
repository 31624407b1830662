import { MEETING } from './particleChunks'

/** What a sprite hands from its vertices to its pixels. */
const between = (way: 'in' | 'out') => `
flat ${way} vec4 cell; // its frame in the sheet, how much it covers, metres before an object in which it fades
flat ${way} float away; // its view depth, m
flat ${way} vec4 veil; // what of gases and tufts lies before it
`
/** In the vertex shader of particles: a triangle around a rectangle that is turned as the card says. */
export const SPRITE_VERTEX = `
uniform vec4 sheet; // columns, rows, frames, width over height
uniform vec4 frames; // by what, rate, first, half widths before an object
uniform vec2 facing; // how, and whether it is rolled
uniform uint spriteSeed;
${between('out')}
void spriteAt(uint me, uint seed, vec2 reach, vec3 place, vec3 head, float width, vec3 colour, float alpha, float share, float age) {
  float r = 0.5 * width * pow(abs(determinant(mat3(modelViewMatrix))), 1.0 / 3.0);
  float radius = r * projectionMatrix[1][1] / -head.z * pixels.y * 0.5;
  float grown = max(radius, MIN_RADIUS) / max(radius, 1e-6);
  r *= grown;
  if (isCovered(projectionMatrix * vec4(head, 1.0), max(radius, MIN_RADIUS) * length(vec2(1.0, max(1.0, longer))) + 1.0)) return;
  at = reach * 2.0 - 1.0;
  vec3 eye = normalize(-head), right, up;
  if (facing.x > 2.5) {
    vec4 q = onwards(lying(me, seed, spriteSeed));
    right = normalize(mat3(modelViewMatrix) * turnedBy(q, vec3(1.0, 0.0, 0.0)));
    up = normalize(mat3(modelViewMatrix) * turnedBy(q, vec3(0.0, 0.0, -1.0)));
  } else {
    vec3 lead = facing.x > 1.5 ? mat3(viewMatrix) * vec3(0.0, 1.0, 0.0)
      : facing.x > 0.5 ? mat3(modelViewMatrix) * vec3(numberAt(VX, me), numberAt(VY, me), numberAt(VZ, me)) : vec3(0.0, 1.0, 0.0);
    // Towards the eye as far as its lead lets it.
    right = cross(lead, eye);
    right = dot(right, right) > 1e-12 ? normalize(right) : vec3(1.0, 0.0, 0.0);
    up = facing.x > 1.5 ? normalize(lead) : cross(eye, right);
    float a = (facing.y > 0.5 ? 6.2831853 * hashUnit(spriteSeed, seed, 27u) : 0.0) + radians(turnedOn);
    if (a != 0.0) {
      vec3 turned = right * cos(a) + up * sin(a);
      up = up * cos(a) - right * sin(a);
      right = turned;
    }
  }
  // The size is that of the longer side.
  vec2 e = sheet.w > 1.0 ? vec2(1.0, 1.0 / sheet.w) : vec2(sheet.w, 1.0);
  e.y *= longer;
  POSITION = projectionMatrix * vec4(head + r * (right * at.x * e.x + up * at.y * e.y), 1.0);
  float n = frames.x < 0.5 ? floor(clamp(share, 0.0, 0.999999) * sheet.z)
    : frames.x < 1.5 ? frames.z + floor(max(age, 0.0) * frames.y)
    : frames.x < 2.5 ? floor(hashUnit(spriteSeed, seed, 23u) * sheet.z) : frames.z;
  n = mod(n + floor(further + 0.5), sheet.z);
  cell = vec4(mod(n, sheet.x), floor(n / sheet.x), covers, frames.w * r);
  away = -head.z;
  veil = inFront(POSITION.xy / POSITION.w, -head.z);
  tint = vec4(colour * bright, alpha / (grown * grown));
}`
export const SPRITE_FRAGMENT = `
precision highp float;
flat in vec4 tint;
in vec2 at;
${between('in')}
uniform sampler2D picture; uniform vec4 sheet; uniform float brightest;
${MEETING}
out vec4 colour;
void main() {
  if (max(abs(at.x), abs(at.y)) > 1.0) discard;
  // Not into the frame beside it.
  vec2 edge = sheet.xy / vec2(textureSize(picture, 0));
  vec2 uv = clamp(vec2(at.x, -at.y) * 0.5 + 0.5, 0.5 * edge, 1.0 - 0.5 * edge);
  vec4 p = texture(picture, (cell.xy + uv) / sheet.xy);
  float a = p.a * tint.a;
  a *= meeting(away, cell.w);
  if (a < 0.002) discard;
  colour = min(vec4(p.rgb * tint.rgb * a * veil.a + a * cell.z * veil.rgb, a * cell.z), vec4(brightest));
}`
