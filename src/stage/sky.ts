import * as THREE from 'three'
import type { SkyDoc } from '../shot'
import { behindAll, looksAlong, wayUniforms } from './behind'
import { NO_KEY, NO_KEY_MAIN } from './keyLight'
import { MirrorMaker } from './mirrorMaker'

const VERTEX = `
precision highp float;
in vec3 position;
uniform vec2 wide, shift; uniform mat3 toShot;
out vec3 way;
void main() {
  way = toShot * vec3((position.xy + shift) * wide, -1.0);
  gl_Position = vec4(position.xy, 1.0, 1.0);
}`
const FRAGMENT = `
precision highp float;
in vec3 way;
layout(location = 0) out vec4 colour;
${NO_KEY}
uniform vec3 zenith, horizon, ground, discColour, discAt, cloudColour;
uniform vec4 disc; // its radius (rad), brightness, halo, how much of it is lit
uniform vec4 stars; // chance of one in a cell, brightness, twinkle, seed
uniform vec4 clouds; // cover, size, how far they have drifted, seed
uniform vec4 curtain; // brightness, height (rad), how far they have gone, seed
uniform vec3 curtainColour, curtainTop;
uniform float haze, perPixel, time;
uint mix32(uint v) { v = (v ^ (v >> 16)) * 0x7feb352du; v = (v ^ (v >> 15)) * 0x846ca68bu; return v ^ (v >> 16); }
float random(uvec3 p, uint n) { return float(mix32(p.x ^ mix32(p.y ^ mix32(p.z ^ mix32(n)))) >> 8) / 16777216.0; }
// A cell of a cube holds one star or none, away from its edges.
const float CELLS = 72.0;
vec3 starLight(vec3 d) {
  vec3 a = abs(d);
  uint face; vec2 uv; float m;
  if (a.x >= a.y && a.x >= a.z) { face = d.x > 0.0 ? 0u : 1u; uv = d.yz; m = a.x; }
  else if (a.y >= a.z) { face = d.y > 0.0 ? 2u : 3u; uv = d.xz; m = a.y; }
  else { face = d.z > 0.0 ? 4u : 5u; uv = d.xy; m = a.z; }
  vec2 g = (uv / m * 0.5 + 0.5) * CELLS, cell = min(floor(g), CELLS - 1.0);
  uvec3 id = uvec3(uint(cell.x), uint(cell.y), face);
  uint seed = uint(stars.w);
  // Fewer where cells are small, at the corners of the cube: as many everywhere.
  vec2 middle = (cell + 0.5) / CELLS * 2.0 - 1.0;
  float area = pow(1.0 + dot(middle, middle), -1.5);
  if (random(id, seed) >= stars.x * area) return vec3(0.0);
  vec2 at = (cell + 0.15 + 0.7 * vec2(random(id, seed + 1u), random(id, seed + 2u))) / CELLS * 2.0 - 1.0;
  float s = (face & 1u) == 0u ? 1.0 : -1.0;
  vec3 p = normalize(face < 2u ? vec3(s, at) : face < 4u ? vec3(at.x, s, at.y) : vec3(at, s));
  float far = length(d - p) / perPixel;
  if (far > 5.0) return vec3(0.0);
  // So many are brighter than a flux as it has to the power of −1.25: half a decade for each magnitude.
  float flux = min(pow(max(random(id, seed + 3u), 1e-4), -0.8), 60.0) / 6.0;
  float phase = random(id, seed + 4u);
  flux *= 1.0 + stars.z * 0.8 * sin(6.2831853 * (phase + time * (1.5 + 4.0 * phase))) * sin(6.2831853 * (time * (0.7 + 2.0 * random(id, seed + 5u)) + phase * 7.0));
  float warm = random(id, seed + 6u);
  vec3 hue = warm < 0.5 ? mix(vec3(0.68, 0.8, 1.0), vec3(1.0), warm * 2.0) : mix(vec3(1.0), vec3(1.0, 0.78, 0.5), warm * 2.0 - 1.0);
  // A few pixels wide, with as much light at every picture size.
  float size = 0.0009 / perPixel * 0.72;
  return hue * flux * stars.y * size * size * exp(-far * far / 1.1) * smoothstep(0.0, 0.3, d.y);
}
float grid(vec2 p, uint n) {
  vec2 i = floor(p), f = p - i; f = f * f * (3.0 - 2.0 * f);
  uvec2 u = uvec2(ivec2(i) + 65536);
  float a = random(uvec3(u, 9u), n), b = random(uvec3(u + uvec2(1u, 0u), 9u), n), c = random(uvec3(u + uvec2(0u, 1u), 9u), n), e = random(uvec3(u + 1u, 9u), n);
  return mix(mix(a, b, f.x), mix(c, e, f.x), f.y);
}
float cloudAt(vec3 d) {
  if (clouds.x <= 0.0 || d.y <= 0.0) return 0.0;
  vec2 p = d.xz / (d.y + 0.1) * clouds.y + vec2(clouds.z, 0.3 * clouds.z);
  float sum = 0.0, part = 0.5;
  for (int o = 0; o < 6; o++) { sum += part * grid(p, uint(clouds.w) + uint(o)); p = p * 2.03 + 17.0; part *= 0.5; }
  float from = mix(0.74, 0.08, clouds.x);
  return smoothstep(from, from + 0.26, sum) * smoothstep(0.0, 0.14, d.y);
}
// Three sheets that hang about a circle: their lower edge folds, rays stand in them, and they come and go along it.
vec3 curtainLight(vec3 d) {
  if (curtain.x <= 0.0 || d.y <= 0.0) return vec3(0.0);
  vec2 c = normalize(d.xz + 1e-6);
  float h = asin(min(d.y, 1.0)), t = curtain.z;
  vec3 sum = vec3(0.0);
  for (int i = 0; i < 3; i++) {
    float fi = float(i);
    uint n = uint(curtain.w) + uint(i) * 7u;
    float fold = 0.66 * grid(c * (2.2 + fi) + vec2(0.06 * t, fi * 7.0), n) + 0.34 * grid(c * (6.5 + 2.0 * fi) - vec2(0.13 * t, fi), n + 1u);
    float low = curtain.y * (0.55 + 0.4 * fi) * (0.55 + 0.9 * fold);
    float there = smoothstep(0.36, 0.72, grid(c * 1.6 + vec2(fi * 3.1 + 0.04 * t, 5.0), n + 2u));
    float ray = 0.35 + 0.65 * grid(c * 46.0 + vec2(8.0 * fold, 0.7 * t), n + 3u) * (0.6 + 0.8 * grid(c * 13.0 - vec2(0.2 * t, 2.0), n + 4u));
    float tall = curtain.y * (0.35 + 0.9 * grid(c * 9.0 + vec2(0.1 * t, fi * 2.0), n + 5u));
    float up = (h - low) / tall;
    float b = smoothstep(-0.09, 0.06, up) * exp(-max(up, 0.0)) * there * ray;
    sum += mix(curtainColour, curtainTop, 1.0 - exp(-0.8 * max(up, 0.0))) * b * (1.0 - 0.22 * fi);
  }
  return sum * curtain.x * 0.4;
}
void main() {
  vec3 d = normalize(way);
  vec3 sky = d.y < 0.0 ? ground : mix(horizon, zenith, pow(d.y, haze));
  // Where sky and ground meet a pixel has some of both.
  sky = mix(ground, d.y < 0.0 ? horizon : sky, clamp(d.y / perPixel + 0.5, 0.0, 1.0));
  float up = step(0.0, d.y);
  float far = acos(clamp(dot(d, discAt), -1.0, 1.0));
  vec3 halo = discColour * disc.y * disc.z * 0.02 * exp(-far * 9.0) * smoothstep(-0.05, 0.05, d.y);
  vec3 behind = starLight(d) * up + curtainLight(d);
  if (disc.x > 0.0 && disc.y > 0.0) {
    float edge = clamp((disc.x - far) / perPixel + 0.5, 0.0, 1.0) * up;
    vec3 side = normalize(cross(discAt, vec3(0.0, 1.0, 0.0)) + vec3(1e-6, 0.0, 0.0)), over = cross(side, discAt);
    vec2 q = vec2(dot(d, side), dot(d, over)) / sin(disc.x);
    float z = sqrt(max(0.0, 1.0 - dot(q, q))), turn = (1.0 - disc.w) * 3.14159265;
    float lit = smoothstep(0.0, 0.2, q.x * sin(turn) + z * cos(turn));
    // A little uneven, as a face that is not turned to us quite alike everywhere.
    float spots = 0.86 + 0.28 * (grid(q * 2.6 + 40.0, 3u) - 0.5) + 0.12 * (grid(q * 7.0 + 9.0, 4u) - 0.5);
    behind = mix(behind, discColour * disc.y * lit * mix(1.0, spots, smoothstep(6.0, 0.5, disc.y)), edge);
  }
  float cover = cloudAt(d);
  vec3 lit = cloudColour * (0.55 + 0.45 * cover) + halo * 2.5;
  ${NO_KEY_MAIN}
  colour = vec4(mix(sky + halo + behind, lit, cover * 0.92), 1.0);
}`
const CELLS = 72
/** Rows of each of the six pictures that are mirrored. */
const MIRROR_ROWS = 256
/** Mean over the cube of what its cells have of an even one. */
const EVEN = (4 * Math.PI) / 24

/** The sky by its rule, behind everything. */
export class Sky {
  readonly mesh: THREE.Mesh<THREE.BufferGeometry, THREE.RawShaderMaterial>
  constructor() {
    const v = () => ({ value: new THREE.Vector3() })
    const w = () => ({ value: new THREE.Vector4() })
    const uniforms = {
      ...{ zenith: v(), horizon: v(), ground: v(), discColour: v(), discAt: v(), cloudColour: v(), disc: w(), stars: w(), clouds: w() },
      ...{ curtain: w(), curtainColour: v(), curtainTop: v() },
      ...{ ...wayUniforms(), haze: { value: 1 }, time: { value: 0 } },
    }
    this.mesh = behindAll(
      new THREE.RawShaderMaterial({ glslVersion: THREE.GLSL3, vertexShader: VERTEX, fragmentShader: FRAGMENT, uniforms }),
    )
    looksAlong(this.mesh, () => this.height)
  }
  private height = 1080
  private readonly around = new THREE.Scene()
  private maker: MirrorMaker | null = null
  private mirror: { sky: SkyDoc; target: THREE.WebGLRenderTarget } | null = null
  /** What smooth things mirror of it, blurred for rougher ones; made once for a sky, as it is at its beginning. */
  mirrored(r: THREE.WebGLRenderer, s: SkyDoc | null): THREE.Texture | null {
    if (!s || !(s.mirrored > 0)) return null
    if (this.mirror?.sky === s) return this.mirror.target.texture
    this.mirror?.target.dispose()
    this.set(s, 0, MIRROR_ROWS)
    const { parent } = this.mesh
    this.around.add(this.mesh)
    this.maker ??= new MirrorMaker(r)
    const target = this.maker.fromScene(this.around)
    parent?.add(this.mesh)
    this.mirror = { sky: s, target }
    return target.texture
  }
  /** What the graphics side had of it is gone. */
  forget(): void {
    this.mirror?.target.dispose()
    this.mirror = null
  }
  /** As it is at a time (s), in a picture of so many rows. */
  set(s: SkyDoc | null, t: number, height: number): void {
    this.mesh.visible = !!s
    this.height = height
    if (!s) return
    const u = this.mesh.material.uniforms
    u.time.value = t
    for (const name of ['zenith', 'horizon', 'ground', 'discColour', 'cloudColour', 'curtainColour', 'curtainTop'] as const)
      u[name].value.set(...s[name])
    const [turn, high] = [(s.azimuth * Math.PI) / 180, (s.height * Math.PI) / 180]
    u.discAt.value.set(Math.sin(turn) * Math.cos(high), Math.sin(high), -Math.cos(turn) * Math.cos(high))
    u.disc.value.set((s.disc * Math.PI) / 360, s.discLight, s.halo / 100, s.phase / 100)
    // Of as many cells as a sphere of even ones would have.
    u.stars.value.set(Math.min(1, s.stars / (6 * CELLS * CELLS * EVEN)), s.starLight, s.twinkle / 100, s.seed)
    u.clouds.value.set(s.clouds / 100, 3 / Math.max(0.05, s.cloudSize), s.drift * t, s.seed + 100)
    u.haze.value = s.haze
    u.curtain.value.set(s.curtains / 100, (s.curtainHeight * Math.PI) / 180, s.curtainSpeed * t, s.seed + 200)
  }
  dispose(): void {
    this.mirror?.target.dispose()
    this.maker?.dispose()
    this.mesh.geometry.dispose()
    this.mesh.material.dispose()
  }
}
