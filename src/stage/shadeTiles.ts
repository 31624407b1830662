import * as THREE from 'three'
import { GAS_LEFT } from './gasShadow'
import { Pass } from './passes'
import { TILE } from './targets'

/** The least and the farthest depth of each tile and of the pixels beside it. */
const RANGE = `
precision highp float;
out vec4 colour;
uniform highp sampler2D depth;
void main() {
  ivec2 last = textureSize(depth, 0) - 1, first = ivec2(gl_FragCoord.xy) * ${TILE};
  vec2 range = vec2(1.0, 0.0);
  for (int y = -1; y <= ${TILE}; y++)
    for (int x = -1; x <= ${TILE}; x++) {
      float d = texelFetch(depth, clamp(first + ivec2(x, y), ivec2(0), last), 0).r;
      range = vec2(min(range.x, d), max(range.y, d));
    }
  colour = vec4(range, 0.0, 1.0);
}`
/**
 * Vertices of one tile for each instance, of those that may be shaded, or of the others. No shade lies where all that is seen of a tile is before, behind
 * or beside what takes light: as of a box that is clipped, where all of its corners lie beyond one and the same plane.
 */
export const TILE_VERTEX = `
precision highp float;
in vec3 position;
out vec2 uv;
uniform highp sampler2D range; uniform vec2 picture; uniform float others;
uniform vec3 eye, ahead, right, up; uniform vec2 nearFar;
${GAS_LEFT}
void main() {
  ivec2 across = textureSize(range, 0), tile = ivec2(gl_InstanceID % across.x, gl_InstanceID / across.x);
  vec2 low = vec2(tile * ${TILE}) / picture, high = min(vec2((tile + 1) * ${TILE}) / picture, 1.0);
  vec2 d = texelFetch(range, tile, 0).rg;
  // What is shaded may lie a little off, along the surface from where its depth is known.
  float more = 0.5 * (d.y - d.x);
  d = clamp(d + vec2(-more, more), 0.0, 1.0);
  bool outside[6];
  for (int k = 0; k < 6; k++) outside[k] = true;
  for (int k = 0; k < 8; k++) {
    float depth = (k & 4) == 0 ? d.x : d.y;
    float away = nearFar.x * nearFar.y / (nearFar.y - depth * (nearFar.y - nearFar.x));
    vec2 ndc = mix(low, high, vec2(k & 1, (k >> 1) & 1)) * 2.0 - 1.0;
    vec4 p = gasRows * vec4(eye + away * (ahead + ndc.x * right + ndc.y * up), 1.0);
    vec4 within = (2.0 * gasWithin - 1.0) * p.z;
    outside[0] = outside[0] && p.w <= gasDepths.x;
    outside[1] = outside[1] && p.z <= 0.0;
    outside[2] = outside[2] && p.x < within.x;
    outside[3] = outside[3] && p.y < within.y;
    outside[4] = outside[4] && p.x > within.z;
    outside[5] = outside[5] && p.y > within.w;
  }
  bool shaded = gasDepths.z > 0.5;
  for (int k = 0; k < 6; k++) shaded = shaded && !outside[k];
  uv = mix(low, high, position.xy);
  gl_Position = shaded == (others < 0.5) ? vec4(uv * 2.0 - 1.0, 0.0, 1.0) : vec4(2.0, 2.0, 2.0, 1.0);
}`
/** The tiles of a picture, of which those are drawn that may be shaded. */
export class ShadeTiles {
  readonly geometry = new THREE.InstancedBufferGeometry()
  private pass = new Pass(RANGE, { depth: null })

  constructor() {
    this.geometry.setAttribute('position', new THREE.BufferAttribute(new Float32Array([0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0]), 3))
    this.geometry.setIndex([0, 1, 2, 0, 2, 3])
  }
  /** How near and far all lies in the tiles of a picture. */
  measure(r: THREE.WebGLRenderer, depth: THREE.DepthTexture, ranges: THREE.WebGLRenderTarget): void {
    this.pass.set({ depth }).run(r, ranges)
  }
  dispose(): void {
    this.pass.dispose()
    this.geometry.dispose()
  }
}
