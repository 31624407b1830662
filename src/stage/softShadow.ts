import * as THREE from 'three'
import { MOST_SHADOWS } from '../acts'

/** Taps to each side, and how far the outermost lie, of the radius. */
const SIDE = 2
/**
 * What three.js makes of the edge of a shadow: five places of a disc that is turned at random for each pixel, which shows as grain in a still
 * picture. Here a tent of five by five, each filtered by the hardware: as soft, without grain, and the same for every pixel. It makes a picture
 * a fifth to a third dearer without a GPU (measured.md), so pictures in motion keep the five. What is compared is the depth of the surface's
 * own plane at each place, so that a slope shades itself nowhere and shadows begin where things touch.
 */
const GRAINY = /(float phi = interleavedGradientNoise[^;]*;)\s*shadow = \([\s\S]*?\) \* 0\.2;/
const FILTERED = `
				vec2 slope = slopeIn(shadowCoord.xyz);
				shadowCoord.z -= ownTexel(slope, texelSize.x);
				shadow = 0.0;
				if (smoothShadows) {
					for (int i = -${SIDE}; i <= ${SIDE}; i++)
						for (int j = -${SIDE}; j <= ${SIDE}; j++) {
							vec2 o = vec2(i, j) * radius / ${SIDE}.0;
							shadow += float((${SIDE + 1} - abs(i)) * (${SIDE + 1} - abs(j))) * texture(shadowMap, vec3(shadowCoord.xy + o, shadowCoord.z + dot(o, slope)));
						}
					shadow /= ${(SIDE + 1) ** 4}.0;
				} else {
					PHI
					for (int i = 0; i < 5; i++) {
						vec2 o = vogelDiskSample(i, 5, phi) * radius;
						shadow += texture(shadowMap, vec3(shadowCoord.xy + o, shadowCoord.z + dot(o, slope)));
					}
					shadow *= 0.2;
				}`
/** How the depth of the surface's own plane grows along both sides of the map, and what of it lies within a texel, whose depth is that of its middle. */
const SLOPE = `
vec2 slopeIn(vec3 c) {
  vec3 dx = dFdx(c), dy = dFdy(c);
  float det = dx.x * dy.y - dx.y * dy.x;
  return abs(det) > 1e-14 ? vec2(dy.y * dx.z - dx.y * dy.z, dx.x * dy.z - dy.x * dx.z) / det : vec2(0.0);
}
// What is left of each point that throws shadows; an area is shaded from a point in its middle.
float pointLeft[${MOST_SHADOWS}];
// What is hidden, or faces away from a light, is not asked for its shadow: where there is no GPU each place of the map that is looked at costs.
bool hiddenHere = false, shadowNeeded = true;
uniform int areaShade[16], areaRound[16];
float areaLeft(int i) { int k = i < 16 ? areaShade[i] : -1; return k < 0 ? 1.0 : pointLeft[k]; }
float ownTexel(vec2 slope, float texel) { return min((abs(slope.x) + abs(slope.y)) * texel, 0.01); }
`
/** A uniform of the materials: whether edges are smooth. */
const SMOOTH = 'uniform bool smoothShadows;\n'

/** What lights with shadows are made with; their shadow maps hold depths by it. Metres. */
export const SHADOW_NEAR_M = 0.1
export const SHADOW_FAR_M = 500
/** A sun throws shadows within this far of where it looks, to each side. */
export const SUN_REACH_M = 8
/** How far before a surface what shades it is looked for, in the light of a sun that has a size, m. */
const SUN_BLOCKERS_M = 4
/** Places of the disc that are looked at: for what lies before, and for how much of the light is left; and where pictures are in motion. */
const TAPS = { blockers: 20, light: 48, quickBlockers: 6, quickLight: 10 }
/**
 * Of lights that have a size. Soft by how far what shades is from what is shaded, over their distance from the light (Fernando 2005): the mean depth
 * of what lies before within the cone to the light's disc gives the width of the half shadow, and that much of the map is looked at. What
 * is compared is the depth of the surface's own plane there, so that a wide disc shades no slope by itself. `radius` above 0 is in
 * texels, an edge as of the others; below, a radius of the light in metres, or the tangent of a sun's. `tall`: of half the angle of a
 * spot, 0 for a sun.
 */
const BY_SIZE = `
float lightDepth(float z, float tall) {
  return tall > 0.0 ? ${(SHADOW_NEAR_M * SHADOW_FAR_M).toFixed(1)} / (${SHADOW_FAR_M}.0 - z * ${(SHADOW_FAR_M - SHADOW_NEAR_M).toFixed(1)})
    : ${SHADOW_NEAR_M} + z * ${(SHADOW_FAR_M - SHADOW_NEAR_M).toFixed(1)};
}
vec2 onDisc(int i, int n, float phi) {
  float r = sqrt((float(i) + 0.5) / float(n)), a = float(i) * 2.399963229728653 + phi;
  return vec2(cos(a), sin(a)) * r;
}
float getShadow(sampler2D shadowMap, vec2 mapSize, float intensity, float bias, float radius, vec4 coord, float tall) {
  vec3 c = coord.xyz / coord.w;
  vec2 slope = slopeIn(c);
  c.z += bias - ownTexel(slope, 1.0 / mapSize.x);
  if (c.x < 0.0 || c.x > 1.0 || c.y < 0.0 || c.y > 1.0 || c.z > 1.0) return 1.0;
  float texel = 1.0 / mapSize.x;
  float far = lightDepth(c.z, tall);
  // Of the map, a metre at the surface.
  float metre = tall > 0.0 ? 0.5 / (tall * far) : ${(0.5 / SUN_REACH_M).toFixed(6)};
  float phi = smoothShadows ? 0.0 : 6.2831853 * fract(52.9829189 * fract(dot(gl_FragCoord.xy, vec2(0.06711056, 0.00583715))));
  float wide = radius * texel;
  if (radius < 0.0) {
    float size = -radius;
    float search = clamp(size * metre * (tall > 0.0 ? 1.0 : ${SUN_BLOCKERS_M}.0), 2.0 * texel, 0.1);
    int n = shadowNeeded ? (smoothShadows ? ${TAPS.blockers} : ${TAPS.quickBlockers}) : 0;
    float sum = 0.0, found = 0.0;
    for (int i = 0; i < n; i++) {
      vec2 o = onDisc(i, n, phi) * search;
      float z = texture2D(shadowMap, c.xy + o).r;
      if (z < c.z + dot(o, slope)) { sum += lightDepth(z, tall); found += 1.0; }
    }
    if (found < 0.5) return 1.0;
    float near = sum / found;
    wide = size * max(0.0, far - near) * (tall > 0.0 ? 1.0 / near : 1.0) * metre;
  }
  wide = clamp(wide, 1.5 * texel, 0.15);
  int n = shadowNeeded ? (smoothShadows ? ${TAPS.light} : ${TAPS.quickLight}) : 1;
  float left = 0.0;
  for (int i = 0; i < n; i++) {
    vec2 o = onDisc(i, n, phi) * wide;
    left += step(c.z + dot(o, slope), texture2D(shadowMap, c.xy + o).r);
  }
  return mix(1.0, left / float(n), intensity);
}
`
/**
 * Of a point light, whose map is a cube: as of the others, about the direction to the surface. A place beside it is compared by where the surface's own
 * plane lies in its direction, not more than twice as far or half as near.
 */
const CUBE = `
float alongFace(vec3 d) { return max(max(abs(d.x), abs(d.y)), abs(d.z)); }
float cubeDepth(float z, float near, float far) { return (far - near * far / z) / (far - near); }
float getPointShadow(CUBE_SAMPLER shadowMap, vec2 mapSize, float intensity, float bias, float radius, vec4 coord, float near, float far) {
  vec3 v = coord.xyz;
  float dist = length(v);
  vec3 d = v / dist, n = cross(dFdx(v), dFdy(v));
  if (alongFace(v) > far || alongFace(v) < near) return 1.0;
  n = dot(n, n) > 1e-20 ? normalize(n) : d;
  vec3 t = normalize(cross(d, abs(d.y) < 0.9 ? vec3(0.0, 1.0, 0.0) : vec3(1.0, 0.0, 0.0))), b = cross(d, t);
  float phi = smoothShadows ? 0.0 : 6.2831853 * fract(52.9829189 * fract(dot(gl_FragCoord.xy, vec2(0.06711056, 0.00583715))));
  float texel = 2.0 / mapSize.x, wide = abs(radius) * texel, plane = dot(n, v);
  // What a texel of the cube holds of the surface's slope, and a little of the way.
  float before = 0.003 + texel / max(0.05, abs(dot(n, d)));
  #define OWN(at) (clamp(abs(dot(n, at)) > 1e-4 ? plane / dot(n, at) : dist, 0.5 * dist, 2.0 * dist) * (1.0 - before))
  BLOCKERS
  int count = shadowNeeded ? (smoothShadows ? ${TAPS.light} : ${TAPS.quickLight}) : 1;
  float left = 0.0;
  for (int i = 0; i < count; i++) {
    float r = sqrt((float(i) + 0.5) / float(count)) * wide, a = float(i) * 2.399963229728653 + phi;
    vec3 at = normalize(d + (t * cos(a) + b * sin(a)) * r);
    float z = cubeDepth(OWN(at) * alongFace(at), near, far);
    left += LEFT;
  }
  return mix(1.0, left / float(count), intensity);
}
`
/** With depths that can be read: the mean of what lies before, as of the others. */
const CUBE_BLOCKERS = `
  if (radius < 0.0) {
    float size = -radius, search = clamp(size / dist, texel, 0.5), sum = 0.0, found = 0.0;
    int many = shadowNeeded ? (smoothShadows ? ${TAPS.blockers} : ${TAPS.quickBlockers}) : 0;
    for (int i = 0; i < many; i++) {
      float r = sqrt((float(i) + 0.5) / float(many)) * search, a = float(i) * 2.399963229728653 + phi;
      vec3 at = normalize(d + (t * cos(a) + b * sin(a)) * r);
      float there = near * far / (far - textureCube(shadowMap, at).r * (far - near)) / alongFace(at);
      if (there < OWN(at)) { sum += there; found += 1.0; }
    }
    if (found < 0.5) return 1.0;
    float mean = sum / found;
    wide = clamp(size * max(0.0, dist - mean) / (mean * dist), 1.5 * texel, 0.6);
  }`
const CUBES = /float getPointShadow\( (samplerCubeShadow|samplerCube) [\s\S]*?return mix\( 1\.0, shadow, shadowIntensity \);\s*\}/g
const cubeOf = (sampler: string): string =>
  CUBE.replace('CUBE_SAMPLER', sampler)
    .replace('BLOCKERS', sampler === 'samplerCube' ? CUBE_BLOCKERS : '')
    .replace('LEFT;', sampler === 'samplerCube' ? 'step(z, textureCube(shadowMap, at).r);' : 'texture(shadowMap, vec4(at, z));')
const BASIC = /(#else[^\n]*\s*)float getShadow\([\s\S]*?return mix\( 1\.0, shadow, shadowIntensity \);\s*\}/
/** One way to ask for either: a light that has a size knows how wide it shines. */
const ASK = `
#ifdef SHADOWMAP_TYPE_BASIC
#define SHADOW_OF(map, size, intensity, bias, radius, coord, tall) getShadow(map, size, intensity, bias, radius, coord, tall)
#else
#define SHADOW_OF(map, size, intensity, bias, radius, coord, tall) getShadow(map, size, intensity, bias, radius, coord)
#endif
#ifdef USE_CLEARCOAT
#define FACES_LIGHT (max(dot(geometryNormal, directLight.direction), dot(geometryClearcoatNormal, directLight.direction)) > 0.0)
#else
#define FACES_LIGHT (dot(geometryNormal, directLight.direction) > 0.0)
#endif
float tallOf(float coneCos) { return sqrt(max(0.0, 1.0 - coneCos * coneCos)) / coneCos; }
`
/** The part of the materials' shaders that reads shadow maps. Throws where three.js has changed it. */
export function softShadows(chunk: string = THREE.ShaderChunk.shadowmap_pars_fragment): string {
  if (!GRAINY.test(chunk) || !BASIC.test(chunk) || chunk.match(CUBES)?.length !== 2)
    throw new Error('three.js filters its shadows in another way now: look at stage/softShadow.ts')
  return (
    SMOOTH +
    SLOPE +
    chunk
      .replace(GRAINY, (_, phi: string) => FILTERED.replace('PHI', phi))
      .replace(BASIC, (_, begin: string) => `${begin}${BY_SIZE}`)
      .replace(CUBES, (_, sampler: string) => cubeOf(sampler)) +
    ASK
  )
}
/** Where materials dim the lights that have a shadow: spots and suns, points, and areas, whose light has the shadow of the point in its middle. */
const CALL = /getShadow\( (spot|directional)(ShadowMap\[ i \], [\s\S]*?Coord\[ i \]) \)/g
const OF_POINTS = /directLight\.color \*= \( directLight\.visible && receiveShadow \) \? (getPointShadow\([^;]*\)) : 1\.0;/
const OF_AREAS = 'rectAreaLight = rectAreaLights[ i ];'
export function askSoftly(fragment: string): string {
  const asked = fragment
    .replace(
      CALL,
      (_, kind: string, rest: string) => `SHADOW_OF( ${kind}${rest}, ${kind === 'spot' ? 'tallOf(spotLight.coneCos)' : '0.0'} )`,
    )
    .replaceAll(
      'directLight.color *= ( directLight.visible && receiveShadow ) ? SHADOW_OF',
      'shadowNeeded = !hiddenHere && directLight.visible && FACES_LIGHT;\n\t\tdirectLight.color *= ( directLight.visible && receiveShadow ) ? SHADOW_OF',
    )
    // What gives no light itself may be the middle of an area.
    .replace(
      OF_POINTS,
      (_, call: string) =>
        `shadowNeeded = !hiddenHere && (!directLight.visible || FACES_LIGHT);\n\t\tpointLeft[ UNROLLED_LOOP_INDEX ] = receiveShadow ? ${call} : 1.0;\n\t\tdirectLight.color *= pointLeft[ UNROLLED_LOOP_INDEX ];`,
    )
    .replace(
      OF_AREAS,
      `${OF_AREAS}\n\t\trectAreaLight.color *= areaLeft( UNROLLED_LOOP_INDEX );\n\t\tareaRounded = areaRound[ min( UNROLLED_LOOP_INDEX, 15 ) ] > 0;`,
    )
  if (
    asked.split('SHADOW_OF').length !== 3 ||
    asked.split('FACES_LIGHT').length !== 4 ||
    !asked.includes('pointLeft') ||
    !asked.includes('areaLeft')
  )
    throw new Error('three.js asks for its shadows in another way now: look at stage/softShadow.ts')
  return asked
}
