import * as THREE from 'three'
import { copyPass, Pass } from './passes'
import { Recent } from './recent'
import { lightTarget } from './targets'

/**
 * Of each pixel of the picture the radius of the circle that it becomes, in pixels; one over its depth (1/m); and whether its light is its own: where
 * an edge is smoothed, light of what is nearer is in it. What lies behind everything has `behind` of its circle.
 */
const CIRCLES = `
precision highp float; precision highp int;
in vec2 uv; out vec4 colour;
uniform highp sampler2D depth; uniform vec2 nearFar; uniform vec2 lens; uniform float behind; uniform float most;
float nearness(ivec2 p) {
  float d = texelFetch(depth, clamp(p, ivec2(0), textureSize(depth, 0) - 1), 0).r;
  return d >= 1.0 ? 0.0 : (nearFar.y - d * (nearFar.y - nearFar.x)) / (nearFar.x * nearFar.y);
}
void main() {
  ivec2 p = ivec2(gl_FragCoord.xy);
  float here = nearness(p);
  float beside = max(max(nearness(p + ivec2(1, 0)), nearness(p - ivec2(1, 0))), max(nearness(p + ivec2(0, 1)), nearness(p - ivec2(0, 1))));
  float circle = lens.x * abs(lens.y - here) * (here > 0.0 ? 1.0 : behind);
  colour = vec4(min(most, circle), here, beside > here * 1.05 + 1e-4 ? 0.0 : 1.0, 1.0);
}`
/** Pixels of the picture along a side of a tile. */
const TILE = 16
const TILES = `
precision highp float; precision highp int;
in vec2 uv; out vec4 colour;
uniform sampler2D circles;
void main() {
  ivec2 from = ivec2(gl_FragCoord.xy) * ${TILE}, last = textureSize(circles, 0) - 1;
  float widest = 0.0;
  for (int i = 0; i < 64; i++) widest = max(widest, texelFetch(circles, min(from + 1 + 2 * ivec2(i & 7, i >> 3), last), 0).r);
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
const GATHER = `
precision highp float; precision highp int;
in vec2 uv; layout(location = 0) out vec4 colour; layout(location = 1) out vec4 mixed;
uniform sampler2D source; uniform sampler2D circles; uniform sampler2D tiles;
void main() {
  vec2 size = vec2(textureSize(source, 0));
  ivec2 last = ivec2(size) - 1;
  // Light and circle of the same pixel: between two the light of one would get the circle of the other.
  #define AT(of, p) texelFetch(of, clamp(ivec2((p) * size), ivec2(0), last), 0)
  vec4 own = AT(circles, uv);
  float reach = texture(tiles, uv).r;
  colour = mixed = vec4(0.0);
  if (reach < 0.6) return;
  int n = int(clamp(reach * reach * 0.6, 12.0, 72.0));
  // Its own light counts for little where it is not its own.
  float backs = mix(0.01, 1.0, own.z);
  vec4 back = AT(source, uv) * backs, front = vec4(0.0);
  float cover = 0.0, each = reach * reach / float(n);
  for (int i = 0; i < 72; i++) {
    if (i >= n) break;
    // A spiral that fills the disc evenly (Vogel 1979).
    float r = reach * sqrt((float(i) + 0.5) / float(n)), a = float(i) * 2.399963;
    vec2 at = uv + r * vec2(cos(a), sin(a)) / size;
    vec4 there = AT(circles, at);
    if (there.y > own.y * 1.02 + 1e-4 && there.x > 0.7) {
      float w = clamp((there.x - r) / max(1.0, 0.15 * there.x) + 0.5, 0.0, 1.0) * each / max(there.x * there.x, 1.0);
      front += AT(source, at) * w;
      cover += w;
    } else {
      float least = min(there.x, own.x), w = there.z * clamp((least - r) / max(1.0, 0.15 * least) + 0.5, 0.0, 1.0);
      back += AT(source, at) * w;
      backs += w;
    }
  }
  float over = clamp(cover, 0.0, 1.0);
  // Over the sharp picture: what is behind as far as this pixel is blurred itself, and what is before it; premultiplied by how much that is.
  float soft = smoothstep(0.4, 1.6, own.x);
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
const KEEP = `
precision highp float;
in vec2 uv; out vec4 colour;
uniform sampler2D mixing;
void main() { colour = vec4(0.0, 0.0, 0.0, texture(mixing, uv).r); }`

/** No circle is wider than this share of the picture's height: what is, is cut there. */
const WIDEST = 0.04
/** Of picture: a preview, the sharp one, and one more. */
const KEPT_SIZES = 3
interface Made {
  circles: THREE.WebGLRenderTarget
  tiles: THREE.WebGLRenderTarget
  around: THREE.WebGLRenderTarget
  gathered: THREE.WebGLRenderTarget
  filled: THREE.WebGLRenderTarget
}
/** Depth of field of objects in one look: their picture blurred by their depths (after Potmesil and Chakravarty 1981). Quick; made at half the size, so its edges are two or three pixels wider than the lens's. */
export class Focus {
  private circles = new Pass(CIRCLES, { depth: null, nearFar: new THREE.Vector2(), lens: new THREE.Vector2(), behind: 1, most: 1 })
  private tiles = new Pass(TILES, { circles: null })
  private around = new Pass(AROUND, { tiles: null, reach: 1 })
  private gather = new Pass(GATHER, { source: null, circles: null, tiles: null })
  private fill = new Pass(FILL, { source: null, mixing: null, tiles: null })
  private keep = new Pass(KEEP, { mixing: null }, THREE.CustomBlending)
  private show = copyPass(THREE.CustomBlending)
  private made = new Recent<Made>(KEPT_SIZES, (m) => {
    for (const t of Object.values(m)) t.dispose()
  })

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
    const most = WIDEST * height
    const nearFar = new THREE.Vector2(camera.near, camera.far)
    this.circles
      .set({ depth: still.depthTexture, nearFar, lens: new THREE.Vector2(...lens), behind: behind ? 1 : 0, most })
      .run(r, m.circles)
    const circles = m.circles.texture
    this.tiles.set({ circles }).run(r, m.tiles)
    this.around.set({ tiles: m.tiles.texture, reach: Math.ceil(most / TILE) + 1 }).run(r, m.around)
    this.gather.set({ source: still.texture, circles, tiles: m.around.texture }).run(r, m.gathered)
    const [colour, mixing] = m.gathered.textures
    this.fill.set({ source: colour, mixing, tiles: m.around.texture }).run(r, m.filled)
    const [blurred, filled] = m.filled.textures
    this.keep.set({ mixing: filled }).run(r, target)
    this.show.set({ source: blurred }).run(r, target)
  }
  private of(width: number, height: number): Made {
    const [tw, th] = [Math.ceil(width / TILE), Math.ceil(height / TILE)]
    const [w, h] = [Math.ceil(width / 2), Math.ceil(height / 2)]
    return this.made.of(`${width}x${height}`, () => ({
      circles: lightTarget(width, height),
      ...{ tiles: lightTarget(tw, th), around: lightTarget(tw, th), gathered: lightTarget(w, h, 2), filled: lightTarget(w, h, 2) },
    }))
  }
  dispose(): void {
    this.made.dispose()
    for (const p of [this.circles, this.tiles, this.around, this.gather, this.fill, this.keep, this.show]) p.dispose()
  }
}
