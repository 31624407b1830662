import { COLUMN_CONSTANTS } from './columns'
import { IN_FRONT } from './front'
import { LYING, MEETING } from './particleChunks'
import { SPRITE_VERTEX } from './spriteShaders'
import { BLOCK } from './targets'
import { TUFT_RECORD, TUFT_VERTEX } from './tuftShaders'

// What particles look like. Colours are linear and may exceed 1; output is premultiplied.

/** As kernels/math.ts: the same particle gets the same ± in the picture and in exported tables. */
export const HASH = `
uint mix32(uint v) { v = (v ^ (v >> 16)) * 0x7feb352du; v = (v ^ (v >> 15)) * 0x846ca68bu; return v ^ (v >> 16); }
float hashUnit(uint seed, uint id, uint channel) { return float(mix32(seed ^ mix32(id ^ mix32(channel + 0x9e3779b9u))) >> 8) * (1.0 / 16777216.0); }
`
/**
 * One triangle a particle, laid around its streak on the screen: half the primitives of a quad, and what lies outside is discarded. A
 * particle narrower than about a pixel is drawn a pixel wide and fainter by as much, so its light stays the same at every picture size.
 */
export const PARTICLE_VERTEX = `
precision highp float; precision highp int;
// The frame's columns, one behind the other, as words: a vertex fetches its particle by its number, three vertices each; drawing
// instances instead costs a draw call each on software GL (25 µs a particle, measured).
// A vertex may go by an order instead, when they hide each other.
uniform highp usampler2D data; uniform highp usampler2D order; uniform uint count; uniform float ordered; uniform float backwards; uniform uint phases;
// Where columns lie that not every system has; 0: this one has none.
uniform uint quaternions; uniform uint sizes; uniform uint starts; uniform uint befores; uniform uint tints; uniform float perBlend[32];
uniform mat4 modelViewMatrix; uniform mat4 viewMatrix; uniform mat4 projectionMatrix;
uniform vec2 pixels; uniform float dashS; uniform float near; uniform vec2 shutter; uniform vec2 lensOpen; uniform float size; uniform float sizeVary; uniform uint sizeSeed; uniform float taper;
uniform float brightness; uniform float opacity; uniform float softness;
// Mappings, in their order: by what, from where, one over the range, how much; of what, how joined, low, high; the place a distance is to, what an axis gives, or the column of what is asked.
uniform int maps; uniform vec4 mapBy[16]; uniform vec4 mapTo[16]; uniform vec4 mapPlace[16]; uniform uint mapSeed[16]; uniform sampler2D mapTable;
uniform mat4 modelMatrix; uniform sampler2D look; uniform float covers;
uniform float flakes; uniform vec4 flake; uniform float glint; uniform vec4 light;
#ifdef RECORD
// As a pixel shader, a pixel each: nobody sees where it would be drawn.
vec4 POSITION, tint, shape; float ramp; vec2 at;
#else
#define POSITION gl_Position
flat out vec4 tint;
flat out vec4 shape; // radius px, length px, taper, softness
flat out float ramp; // px over which light sets in along the way that was seen through an open shutter
out vec2 at; // px from the tail, along and across
#endif
#ifdef MEETS
uniform float meets; flat out float meetsOver; // m before an object in which it fades
#endif
${HASH}
${COLUMN_CONSTANTS}
${IN_FRONT}
const float MIN_RADIUS = 0.62;
// What is drawn from the nearest on: whether all blocks of the picture that a disc of so many pixels touches are covered already.
uniform sampler2D covered; uniform float hides;
bool isCovered(vec4 middle, float radius) {
#ifdef NO_HIDING
  return false;
#endif
  if (hides < 0.5 || middle.w <= 0.0) return false;
  vec2 p = (middle.xy / middle.w * 0.5 + 0.5) * pixels;
  ivec2 last = textureSize(covered, 0) - 1;
  ivec2 from = clamp(ivec2(floor((p - radius) / ${BLOCK}.0)), ivec2(0), last), to = clamp(ivec2(floor((p + radius) / ${BLOCK}.0)), ivec2(0), last);
  if ((to.x - from.x) * (to.y - from.y) > 100) return false;
  for (int y = from.y; y <= to.y; y++) for (int x = from.x; x <= to.x; x++) if (texelFetch(covered, ivec2(x, y), 0).r < 0.996) return false;
  return true;
}
uint wordAt(uint column, uint i) { uint k = column * count + i; return texelFetch(data, ivec2(k & 4095u, k >> 12), 0).r; }
float numberAt(uint column, uint i) { return uintBitsToFloat(wordAt(column, i)); }
// What else mappings change: softness from 0 to 1, a turn in degrees, a factor on the length, frames of a picture.
float bright, soft, turnedOn, longer, further;
float joined(float how, float old, float by) { return how < 0.5 ? old * by : how < 1.5 ? old + by : by; }
// As applyMappings in acts/mapped.ts has it.
void mapLook(uint me, float share, float age, uint seed, vec3 place, inout float width, inout float alpha, inout vec3 colour) {
  vec3 there = (modelMatrix * vec4(place, 1.0)).xyz;
  for (int k = 0; k < maps; k++) {
    vec4 from = mapBy[k], to = mapTo[k];
    if (from.x > 6.5 && mapPlace[k].x < 0.5) continue;
    float by = from.x < 0.5 ? share : from.x < 1.5 ? age : from.x < 2.5 ? length(vec3(numberAt(VX, me), numberAt(VY, me), numberAt(VZ, me)))
      : from.x < 3.5 ? hashUnit(mapSeed[k], seed, 22u)
      : from.x < 4.5 ? dot(mapPlace[k], vec4(there, 1.0)) : from.x < 5.5 ? distance(there, mapPlace[k].xyz)
      : from.x < 6.5 ? age - (starts > 0u ? numberAt(starts, me) : 0.0) : numberAt(uint(mapPlace[k].x), me);
    float s = clamp((by - from.y) * from.z, 0.0, 1.0);
    // Out of steps each has one of the colours, and none between two.
    float place = to.x > 6.5 && to.x < 7.5 && to.z > 0.5 ? floor(s * 255.0 + 0.5) / 255.0 : s;
    vec4 at = texture(mapTable, vec2(place * (255.0 / 256.0) + 0.5 / 256.0, (float(k) + 0.5) / 16.0));
    if (to.x > 7.5) {
      float v = mix(to.z, to.w, at.a);
      if (to.x < 8.5) {
        // Turned about grey.
        float c = cos(radians(v)), w = sin(radians(v)) * 0.57735027;
        colour = max(colour * c + (colour.brg - colour.gbr) * w + (colour.r + colour.g + colour.b) / 3.0 * (1.0 - c), 0.0);
      } else {
        float light = dot(colour, vec3(0.2126, 0.7152, 0.0722));
        colour = max(light + (colour - light) * joined(to.y, 1.0, v), 0.0);
      }
    } else if (to.x > 6.5) colour += (vec3(joined(to.y, colour.r, at.r), joined(to.y, colour.g, at.g), joined(to.y, colour.b, at.b)) - colour) * from.w;
    else {
      float v = mix(to.z, to.w, at.a);
      if (to.x < 0.5) width = joined(to.y, width, v);
      else if (to.x < 1.5) bright = joined(to.y, bright, v);
      else if (to.x < 2.5) alpha = joined(to.y, alpha, v);
      else if (to.x < 3.5) soft = joined(to.y, soft, v);
      else if (to.x < 4.5) turnedOn = joined(to.y, turnedOn, v);
      else if (to.x < 5.5) longer = joined(to.y, longer, v);
      else further = joined(to.y, further, v);
    }
  }
  width = max(width, 0.0); bright = max(bright, 0.0); alpha = clamp(alpha, 0.0, 1.0);
  soft = clamp(soft, 0.0, 1.0); longer = max(longer, 0.0);
}
// By the turn that mappings give about its own Y.
vec4 onwards(vec4 q) {
  float c = cos(radians(turnedOn) * 0.5), s = sin(radians(turnedOn) * 0.5);
  return q * c + vec4(-q.z, q.w, q.x, -q.y) * s;
}
// A flake lies as its quaternion has it: its own Y stands on it. Its light depends on how it faces the first light, from either side; where
// it mirrors that light it flashes.
void flakeAt(uint me, vec2 reach, vec3 place, vec3 head, float width, vec3 colour, float alpha) {
  vec4 q = onwards(vec4(numberAt(quaternions, me), numberAt(quaternions + 1u, me), numberAt(quaternions + 2u, me), numberAt(quaternions + 3u, me)));
  mat3 turned = mat3(1.0 - 2.0 * (q.y * q.y + q.z * q.z), 2.0 * (q.x * q.y + q.z * q.w), 2.0 * (q.x * q.z - q.y * q.w),
    2.0 * (q.x * q.y - q.z * q.w), 1.0 - 2.0 * (q.x * q.x + q.z * q.z), 2.0 * (q.y * q.z + q.x * q.w),
    2.0 * (q.x * q.z + q.y * q.w), 2.0 * (q.y * q.z - q.x * q.w), 1.0 - 2.0 * (q.x * q.x + q.y * q.y));
  // Narrower than a pixel it is drawn as wide as one, and fainter.
  float radius = 0.5 * width * projectionMatrix[1][1] / -head.z * pixels.y * 0.5 * pow(abs(determinant(mat3(modelViewMatrix))), 1.0 / 3.0);
  float grown = max(radius, MIN_RADIUS) / max(radius, 1e-6);
  float faint = 1.0 / (grown * grown);
  at = (reach * 2.0 - 1.0) * (1.0 + 1.0 / max(radius, MIN_RADIUS));
  vec3 own = turned * vec3(at.x * flake.x * longer, 0.0, at.y) * 0.5 * width * grown;
  POSITION = projectionMatrix * modelViewMatrix * vec4(place + own, 1.0);
  vec3 n = normalize(mat3(modelViewMatrix) * turned[1]);
  vec3 eye = normalize(-head), to = light.w > 0.5 ? normalize(light.xyz - head) : normalize(light.xyz);
  float side = dot(n, eye) < 0.0 ? flake.w : 1.0;
  float facing = dot(n, to) * sign(dot(n, eye));
  // Thin: some of the light comes through from behind.
  float lit = mix(1.0, facing > 0.0 ? facing : -0.35 * facing, flake.z);
  float flash = glint * pow(max(0.0, abs(dot(n, normalize(eye + to)))), 90.0);
  float a = alpha * faint;
  tint = vec4((colour * lit * side + vec3(flash) * max(colour, vec3(0.15))) * bright * a, a * covers);
  tint = within(tint, POSITION.xy / POSITION.w, -head.z);
  shape = vec4(max(radius, MIN_RADIUS), -1.0 - flake.x * longer, flake.y, soft);
}
${LYING}
#ifdef TUFT
${TUFT_VERTEX}
#endif
#ifdef RECORD
${TUFT_RECORD}
#endif
#ifdef SPRITE
${SPRITE_VERTEX}
#endif
void main() {
#ifdef MEETS
  meetsOver = 0.0;
#endif
  POSITION = vec4(2.0, 2.0, 2.0, 1.0);
  ramp = 0.0;
#ifdef RECORD
  uint nth = beginRecord(), which = 0u;
  if (nth >= count) return;
#else
  uint nth = uint(gl_VertexID) / 3u;
  uint which = uint(gl_VertexID) - nth * 3u;
#endif
  if (backwards > 0.5) nth = count - 1u - nth;
  uint me = ordered > 0.5 ? texelFetch(order, ivec2(nth & 4095u, nth >> 12), 0).r : nth;
  float age = numberAt(AGE, me), life = numberAt(LIFE, me);
  // Each phase may be drawn in a way of its own; over its blend the one before goes out and its own sets in.
  float present = 1.0;
  if (phases != 0xffffffffu) {
    uint phase = wordAt(PHASE, me);
    present = float((phases >> phase) & 1u);
    if (befores > 0u && perBlend[phase] > 0.0) {
      float before = float((phases >> wordAt(befores, me)) & 1u);
      present = mix(before, present, clamp((age - numberAt(starts, me)) * perBlend[phase], 0.0, 1.0));
    }
    if (present <= 0.0) return;
  }
  // Two sides of the streak's box, twice as long.
  vec2 reach = vec2(which == 1u ? 2.0 : 0.0, which == 2u ? 2.0 : 0.0);
  uint seed = wordAt(SEED, me);
  float x = clamp(life > 0.0 ? age / life : 1.0, 0.0, 1.0) * (255.0 / 256.0) + 0.5 / 256.0;
  vec4 colour = texture(look, vec2(x, 0.25));
  if (tints > 0u) {
    // On the way to the colour that it took over, as bright as it is.
    uint w = wordAt(tints, me);
    vec3 hue = vec3(float(w & 255u), float((w >> 8) & 255u), float((w >> 16) & 255u)) / 255.0;
    colour.rgb = mix(colour.rgb, hue * hue * max(colour.r, max(colour.g, colour.b)), float(w >> 24) / 255.0);
  }
  float width = max(0.0, size + sizeVary * (hashUnit(sizeSeed, seed, 20u) * 2.0 - 1.0)) * texture(look, vec2(x, 0.75)).r;
  float alpha = colour.a * opacity;
  bright = brightness; soft = softness; turnedOn = 0.0; longer = 1.0; further = 0.0;
  vec3 velocity = vec3(numberAt(VX, me), numberAt(VY, me), numberAt(VZ, me));
  vec3 place = vec3(numberAt(PX, me), numberAt(PY, me), numberAt(PZ, me)) + velocity * shutter.x;
#ifndef NO_MAPS
  if (maps > 0) mapLook(me, life > 0.0 ? age / life : 1.0, age, seed, place, width, alpha, colour.rgb);
#endif
  if (sizes > 0u) width *= 1.0 + numberAt(sizes, me);
  alpha *= present;
  if (width <= 0.0 || alpha <= 0.0) return;
  vec3 head = (modelViewMatrix * vec4(place, 1.0)).xyz;
#ifdef MEETS
  meetsOver = meets * 0.5 * width * pow(abs(determinant(mat3(modelViewMatrix))), 1.0 / 3.0);
#endif
#ifdef TUFT
  alpha *= smoothstep(0.15 * near, near, -head.z);
  if (alpha > 0.0) tuftAt(me, seed, which, place, head, width, colour.rgb, alpha);
  return;
#endif
#ifdef SPRITE
  alpha *= smoothstep(0.15 * near, near, -head.z);
  if (alpha > 0.0) spriteAt(me, seed, reach, place, head, width, colour.rgb, alpha, life > 0.0 ? age / life : 1.0, age);
  return;
#endif
#ifndef NO_FLAKES
  if (flakes > 0.5) {
    alpha *= smoothstep(0.15 * near, near, -head.z);
    if (alpha > 0.0) flakeAt(me, reach, place, head, width, colour.rgb, alpha);
    return;
  }
#endif
  // Not farther back than it has lived: a streak never reaches behind its birth.
  float dash = min(dashS * longer, max(age, 0.0));
  head = (modelViewMatrix * vec4(place + velocity * (shutter.y * 0.5), 1.0)).xyz;
  vec3 tail = (modelViewMatrix * vec4(place - velocity * (dash + shutter.y * 0.5), 1.0)).xyz;
  // Right before the lens a particle would cover the whole picture; a lens with an opening would spread it to nothing, so it fades;
  // and of a streak that reaches behind the lens the places on the screen are not finite.
  alpha *= smoothstep(0.15 * near, near, min(-head.z, -tail.z));
  if (alpha <= 0.0) return;
  vec4 h = projectionMatrix * vec4(head, 1.0);
  vec4 t = projectionMatrix * vec4(tail, 1.0);
  vec2 hs = h.xy / h.w * pixels * 0.5;
  vec2 ts = t.xy / t.w * pixels * 0.5;
  // A system that is scaled as a whole takes its particles along.
  float scale = pow(abs(determinant(mat3(modelViewMatrix))), 1.0 / 3.0);
  float radius = 0.5 * width * scale * projectionMatrix[1][1] / h.w * pixels.y * 0.5;
  vec2 along = hs - ts;
  float streak = length(along);
  vec2 dir = streak > 1e-3 ? along / streak : vec2(1.0, 0.0);
  float circle = lensOpen.x * abs(lensOpen.y - 1.0 / h.w);
  if (circle > 0.0) {
    // Of a lens that is open: a disc, as bright as what it is spread over leaves.
    float wide = radius + circle;
    alpha *= radius * (3.14159 * radius + 2.0 * streak) / (wide * (3.14159 * wide + 2.0 * streak));
    soft *= radius / wide;
    radius = wide;
  }
  if (shutter.y > 0.0) {
    // Each place of the way is lit for as long as it takes to pass by, on average a disc is π r ÷ 2 long; at both ends it sets in as it passes.
    float way = streak * shutter.y / (dash + shutter.y), own = streak - way;
    float m = min(1.0, way / max(2.0 * radius, 1e-4));
    alpha *= (1.5708 * radius + own + 1e-4) / (1.5708 * radius * (1.0 - m) + own + way + 1e-4);
    ramp = 2.0 * max(radius, MIN_RADIUS) * m;
  }
  float r = max(radius, MIN_RADIUS);
  if (streak < 2.0 && isCovered(h, r + streak + 1.0)) { POSITION = vec4(2.0, 2.0, 2.0, 1.0); return; }
  // A round dot loses in both directions, a streak across only.
  float thin = radius / r;
  float faint = mix(thin * thin, thin, smoothstep(0.0, 2.0 * r, streak));
  float pad = r + 0.6;
  at = vec2(-pad + reach.x * (streak + 2.0 * pad), (reach.y * 2.0 - 1.0) * pad);
  vec2 s = ts + dir * at.x + vec2(-dir.y, dir.x) * at.y;
  // One w for all three, so that everything goes evenly over the screen, depth too.
  float f = streak > 1e-3 ? at.x / streak : 1.0;
  float z = mix(t.z / t.w, h.z / h.w, f);
  POSITION = vec4(s / (pixels * 0.5), z, 1.0) * h.w;
  float a = alpha * faint;
  tint = within(vec4(colour.rgb * bright * a, a * covers), h.xy / h.w, h.w);
  shape = vec4(r, streak, taper, soft);
}`
export const PARTICLE_FRAGMENT = `
precision highp float;
flat in vec4 tint;
flat in vec4 shape;
flat in float ramp;
in vec2 at;
uniform float brightest;
#ifdef MEETS
flat in float meetsOver;
${MEETING}
#endif
out vec4 colour;
void main() {
  float softness = shape.w;
#ifdef MEETS
  float left = meeting(nearFar.x * nearFar.y / (nearFar.y - gl_FragCoord.z * (nearFar.y - nearFar.x)), meetsOver);
#else
  const float left = 1.0;
#endif
#ifndef NO_FLAKES
  if (shape.y < -0.5) {
    // A rectangle with rounded corners, in half widths; its rim one pixel wide or as soft as asked.
    float len = -1.0 - shape.y;
    vec2 p = abs(vec2(at.x * len, at.y)), box = vec2(len, 1.0);
    float corner = shape.z * min(len, 1.0);
    vec2 o = p - box + corner;
    float inside = corner - length(max(o, 0.0)) - min(max(o.x, o.y), 0.0);
    float rim = max(softness, 1.0 / shape.x);
    float a = smoothstep(0.0, rim, inside + 0.5 / shape.x);
    if (a <= 0.0) discard;
    colour = min(tint * (a * left), vec4(brightest));
    return;
  }
#endif
  float r = shape.x;
  float along = clamp(at.x, 0.0, shape.y);
  float f = shape.y > 0.5 ? along / shape.y : 1.0;
  float keep = 1.0 - shape.z * (1.0 - f);
  float here = max(r * (0.35 + 0.65 * keep), 0.5);
  float d = length(vec2(at.x - along, at.y)) / here;
  float edge = max(softness, min(1.0, 1.0 / here));
  float a = 1.0 - smoothstep(1.0 - edge, 1.0 + 0.5 / here, d);
  a *= mix(1.0, a, softness) * keep;
  if (ramp > 0.0) a *= clamp((at.x + r) / ramp, 0.0, 1.0) * clamp((shape.y + r - at.x) / ramp, 0.0, 1.0);
  if (a <= 0.0) discard;
  colour = min(tint * (a * left), vec4(brightest));
}`

export const FULLSCREEN_VERTEX = `
precision highp float;
in vec3 position;
out vec2 uv;
void main() { uv = position.xy * 0.5 + 0.5; gl_Position = vec4(position.xy, 0.0, 1.0); }`

/** View depths in metres as the bytes of floats, 0 where nothing is. */
export const DEPTHS = `
precision highp float; precision highp int;
in vec2 uv; out vec4 colour;
uniform highp sampler2D depth; uniform float near; uniform float far; uniform float even; uniform float ends;
void main() {
  float d = texture(depth, uv).r;
  uint bits = floatBitsToUint(d >= 1.0 && ends < 0.5 ? 0.0 : even > 0.5 ? mix(near, far, d) : near * far / (far - d * (far - near)));
  colour = vec4(uvec4(bits, bits >> 8, bits >> 16, bits >> 24) & 255u) / 255.0;
}`
export const COMPOSITE = `
precision highp float;
in vec2 uv; out vec4 colour;
uniform sampler2D source; uniform float white; uniform float brightest;
void main() {
  colour = texture(source, uv);
  // What multiplied on white: the white is taken away where nothing covered it.
  if (white > 0.5) colour.rgb = max(colour.rgb - (1.0 - colour.a), 0.0);
  colour.rgb = min(colour.rgb, vec3(brightest));
}`

/** The least coverage of a layer in blocks, by every other pixel. */
export const COVERED = `
precision highp float;
out vec4 colour;
uniform sampler2D source;
void main() {
  ivec2 first = ivec2(gl_FragCoord.xy) * ${BLOCK}, last = textureSize(source, 0) - 1;
  float least = 1.0;
  for (int y = 0; y < ${BLOCK}; y += 2) for (int x = 0; x < ${BLOCK}; x += 2)
    least = min(least, texelFetch(source, min(first + ivec2(x + ((y >> 1) & 1), y), last), 0).a);
  colour = vec4(least);
}`
/** White that covers nothing. */
export const WHITE = `
precision highp float;
out vec4 colour;
void main() { colour = vec4(1.0, 1.0, 1.0, 0.0); }`

/** Colour and depth of the smoothed objects into the target that particles go on. */
export const WITH_DEPTH = `
precision highp float;
in vec2 uv; out vec4 colour;
uniform sampler2D source; uniform highp sampler2D depth;
void main() { colour = texture(source, uv); gl_FragDepth = texture(depth, uv).r; }`
