import * as THREE from 'three'
import { Pass } from './passes'

/** Radius in full pixels of the circle that what is at a depth becomes, of the lens in `lens`; what is behind everything has `behind` of it. */
const CIRCLE = `
precision highp float; precision highp int;
in vec2 uv;
uniform highp sampler2D depth; uniform vec2 nearFar; uniform vec2 lens; uniform float behind; uniform float most;
float depthAt(vec2 p) { float d = textureLod(depth, p, 0.0).r; return d >= 1.0 ? 1e9 : nearFar.x * nearFar.y / (nearFar.y - d * (nearFar.y - nearFar.x)); }
float circleOf(float far) { return far > 1e8 ? min(most, lens.x * lens.y * behind) : min(most, lens.x * abs(lens.y - 1.0 / far)); }`
/** Pixels of the picture along a side of a tile. */
const TILE = 16
const TILES = `${CIRCLE}
out vec4 colour;
void main() {
  vec2 size = vec2(textureSize(depth, 0)), from = floor(gl_FragCoord.xy) * ${TILE}.0;
  float widest = 0.0;
  for (int i = 0; i < 64; i++) widest = max(widest, circleOf(depthAt((from + 1.0 + 2.0 * vec2(float(i & 7), float(i >> 3))) / size)));
  colour = vec4(widest);
}`
const AROUND = `
precision highp float; precision highp int;
in vec2 uv; out vec4 colour;
uniform highp sampler2D tiles; uniform int reach;
void main() {
  ivec2 p = ivec2(gl_FragCoord.xy), last = textureSize(tiles, 0) - 1;
  float widest = 0.0;
  // A circle of a tile farther off reaches this one when it is as wide as they are apart.
  for (int y = -reach; y <= reach; y++) for (int x = -reach; x <= reach; x++) {
    float c = texelFetch(tiles, clamp(p + ivec2(x, y), ivec2(0), last), 0).r;
    if (c + ${TILE}.0 * 1.5 >= ${TILE}.0 * length(vec2(x, y))) widest = max(widest, c);
  }
  colour = vec4(widest);
}`
/**
 * The mean of what lies in the circle, at half the picture's size. What is nearer than a pixel lies over it, each place as much as its own circle is
 * spread; what is as far or farther is blurred only as far as the pixel itself, so that what is sharp keeps its edge before what is not.
 */
const GATHER = `${CIRCLE}
layout(location = 0) out vec4 colour; layout(location = 1) out vec4 mixed;
uniform sampler2D source; uniform sampler2D tiles;
void main() {
  vec2 size = vec2(textureSize(source, 0));
  ivec2 last = ivec2(size) - 1;
  // Light and depth of the same pixel: between two the light of one would get the depth of the other.
  #define LIGHT(p) texelFetch(source, clamp(ivec2((p) * size), ivec2(0), last), 0)
  float far = depthAt(uv), own = circleOf(far), reach = texture(tiles, uv).r;
  vec4 here = LIGHT(uv);
  colour = mixed = vec4(0.0);
  if (reach < 0.6) return;
  int n = int(clamp(reach * reach * 0.6, 12.0, 72.0));
  vec4 back = here, front = vec4(0.0);
  float backs = 1.0, cover = 0.0, each = reach * reach / float(n);
  for (int i = 0; i < 72; i++) {
    if (i >= n) break;
    // A spiral that fills the disc evenly (Vogel 1979).
    float r = reach * sqrt((float(i) + 0.5) / float(n)), a = float(i) * 2.399963;
    vec2 at = uv + r * vec2(cos(a), sin(a)) / size;
    float there = depthAt(at), circle = circleOf(there);
    vec4 c = LIGHT(at);
    if (there < far * 0.98 && circle > own * 0.5 + 0.7) {
      float w = clamp((circle - r) / max(1.0, 0.15 * circle) + 0.5, 0.0, 1.0) * each / max(circle * circle, 1.0);
      front += c * w;
      cover += w;
    } else {
      float least = min(circle, own), w = clamp((least - r) / max(1.0, 0.15 * least) + 0.5, 0.0, 1.0);
      back += c * w;
      backs += w;
    }
  }
  float over = clamp(cover, 0.0, 1.0);
  // Over the sharp picture: what is behind as far as this pixel is blurred itself, and what is before it; premultiplied by how much that is.
  float soft = smoothstep(0.4, 1.6, own);
  mixed = vec4(1.0 - (1.0 - soft) * (1.0 - over));
  colour = (back / backs) * (soft * (1.0 - over)) + (cover > 0.0 ? front / cover * over : vec4(0.0));
}`
/** Fills what lies between the places of the spiral. */
const FILL = `
precision highp float; precision highp int;
in vec2 uv; layout(location = 0) out vec4 colour; layout(location = 1) out vec4 mixed;
uniform sampler2D source; uniform sampler2D mixing; uniform sampler2D tiles;
void main() {
  float r = 0.11 * texture(tiles, uv).r;
  vec2 size = vec2(textureSize(source, 0)) * 2.0;
  vec4 sum = texture(source, uv);
  float m = texture(mixing, uv).r, all = m;
  for (int i = 0; i < 8; i++) {
    float a = float(i) * 0.785398;
    vec2 at = uv + max(r, 0.5) * vec2(cos(a), sin(a)) / size;
    sum += texture(source, at);
    all += texture(mixing, at).r;
  }
  colour = all > 0.0 ? sum / all * m : vec4(0.0);
  mixed = vec4(m);
}`
const SHOW = `
precision highp float;
in vec2 uv; out vec4 colour;
uniform sampler2D blurred;
void main() { colour = texture(blurred, uv); }`
const KEEP = `
precision highp float;
in vec2 uv; out vec4 colour;
uniform sampler2D mixing;
void main() { colour = vec4(0.0, 0.0, 0.0, texture(mixing, uv).r); }`

/** No circle is wider than this share of the picture's height: what is, is cut there. */
const WIDEST = 0.04
const half = (width: number, height: number, count: number) =>
  new THREE.WebGLRenderTarget(width, height, {
    ...{ count, type: THREE.HalfFloatType, depthBuffer: false, magFilter: THREE.LinearFilter, minFilter: THREE.LinearFilter },
  })
interface Made {
  tiles: THREE.WebGLRenderTarget
  around: THREE.WebGLRenderTarget
  gathered: THREE.WebGLRenderTarget
  filled: THREE.WebGLRenderTarget
}
/** Depth of field of objects in one look: their picture blurred by their depths (after Potmesil and Chakravarty 1981). Quick, and exact nowhere but in its widths. */
export class Focus {
  private tiles = new Pass(TILES, { depth: null, nearFar: new THREE.Vector2(), lens: new THREE.Vector2(), behind: 1, most: 1 })
  private around = new Pass(AROUND, { tiles: null, reach: 1 })
  private gather = new Pass(GATHER, {
    depth: null,
    nearFar: new THREE.Vector2(),
    lens: new THREE.Vector2(),
    behind: 1,
    most: 1,
    source: null,
    tiles: null,
  })
  private fill = new Pass(FILL, { source: null, mixing: null, tiles: null })
  private keep = new Pass(KEEP, { mixing: null }, THREE.CustomBlending)
  private show = new Pass(SHOW, { blurred: null }, THREE.CustomBlending)
  private made = new Map<string, Made>()

  constructor() {
    const [a, b] = [this.keep.material, this.show.material]
    a.blendSrc = a.blendSrcAlpha = THREE.ZeroFactor
    a.blendDst = a.blendDstAlpha = THREE.OneMinusSrcAlphaFactor
    b.blendSrc = b.blendSrcAlpha = b.blendDst = b.blendDstAlpha = THREE.OneFactor
  }
  /** `still`: objects with their depth; `lens`: as drawers have it; `behind`: whether what lies behind everything is blurred too. Puts it into `target`, which holds them sharp. */
  run(
    r: THREE.WebGLRenderer,
    still: THREE.WebGLRenderTarget,
    target: THREE.WebGLRenderTarget,
    camera: THREE.PerspectiveCamera,
    lens: readonly [number, number],
    behind: boolean,
  ): void {
    const { width, height } = target
    const m = this.of(width, height)
    const common = {
      depth: still.depthTexture,
      nearFar: new THREE.Vector2(camera.near, camera.far),
      lens: new THREE.Vector2(...lens),
      behind: behind ? 1 : 0,
      most: WIDEST * height,
    }
    this.tiles.set(common).run(r, m.tiles)
    this.around.set({ tiles: m.tiles.texture, reach: Math.ceil((WIDEST * height) / TILE) + 1 }).run(r, m.around)
    this.gather.set({ ...common, source: still.texture, tiles: m.around.texture }).run(r, m.gathered)
    const [colour, mixing] = m.gathered.textures
    this.fill.set({ source: colour, mixing, tiles: m.around.texture }).run(r, m.filled)
    const [blurred, filled] = m.filled.textures
    this.keep.set({ mixing: filled }).run(r, target)
    this.show.set({ blurred }).run(r, target)
  }
  private of(width: number, height: number): Made {
    const key = `${width}x${height}`
    let m = this.made.get(key)
    this.made.delete(key)
    const [tw, th] = [Math.ceil(width / TILE), Math.ceil(height / TILE)]
    const [w, h] = [Math.ceil(width / 2), Math.ceil(height / 2)]
    m ??= { tiles: half(tw, th, 1), around: half(tw, th, 1), gathered: half(w, h, 2), filled: half(w, h, 2) }
    this.made.set(key, m)
    for (const [old, t] of this.made) {
      if (this.made.size <= 3) break
      this.made.delete(old)
      for (const x of Object.values(t)) x.dispose()
    }
    return m
  }
  dispose(): void {
    for (const m of this.made.values()) for (const t of Object.values(m)) t.dispose()
    this.made.clear()
    for (const p of [this.tiles, this.around, this.gather, this.fill, this.keep, this.show]) p.dispose()
  }
}
