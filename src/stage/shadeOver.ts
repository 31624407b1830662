import * as THREE from 'three'
import { setBlending } from './blending'
import { GAS_LEFT, type GasShadow } from './gasShadow'
import { Pass } from './passes'
import { viewOf } from './shades'
import { ShadeTiles, TILE_VERTEX } from './shadeTiles'
import type { Made } from './targets'

/** All of the key light, over what is behind everything. */
const UNSHADED = `
precision highp float;
in vec2 uv; out vec4 colour;
uniform sampler2D rest, key; uniform highp sampler2D depth; uniform vec4 behind;
void main() {
  ivec2 at = ivec2(gl_FragCoord.xy);
  vec4 seen = texelFetch(rest, at, 0);
  gl_FragDepth = texelFetch(depth, at, 0).r;
  colour = vec4(seen.rgb + texelFetch(key, at, 0).rgb + (1.0 - seen.a) * behind.rgb, seen.a + (1.0 - seen.a) * behind.a);
}`
const UNDER = `
precision highp float;
out vec4 colour;
uniform sampler2D source;
void main() { colour = texelFetch(source, ivec2(gl_FragCoord.xy), 0); }`
const SHADED = `
precision highp float;
in vec2 uv; out vec4 colour;
uniform sampler2D rest, key; uniform highp sampler2D depth;
uniform vec3 eye, ahead, right, up; uniform vec2 nearFar, middle; uniform vec4 behind;
${GAS_LEFT}
float depthAt(ivec2 at) { return texelFetch(depth, clamp(at, ivec2(0), textureSize(depth, 0) - 1), 0).r; }
void main() {
  ivec2 at = ivec2(gl_FragCoord.xy);
  float d = texelFetch(depth, at, 0).r;
  vec4 seen = texelFetch(rest, at, 0);
  vec3 lit = texelFetch(key, at, 0).rgb;
  // Loops that end early, where branches would cost what they skip.
  int places = max(lit.r, max(lit.g, lit.b)) > 0.0 ? 1 : 0, nowhere = places > 0 && d >= 1.0 ? 9 : 0;
  vec3 depths = vec3(d);
  int faces = nowhere > 0 ? 0 : places;
  for (int i = 0; i < faces; i++) {
    vec2 before = d - vec2(depthAt(at - ivec2(1, 0)), depthAt(at - ivec2(0, 1))), after = vec2(depthAt(at + ivec2(1, 0)), depthAt(at + ivec2(0, 1))) - d;
    vec2 least = min(abs(before), abs(after)), bend = abs(after - before);
    // From where the depth is known to the middle of the pixel it goes on along the surface.
    depths.x += dot(middle, mix(after, before, lessThan(abs(before), abs(after))));
    // Of an edge, where it is not known which side is seen how far, the darker side counts: light would show as a line within a shadow.
    int edge = any(greaterThan(bend, 3.0 * least + 1e-6)) ? 1 : 0;
    for (int k = 0; k < edge; k++) {
      places = 3;
      depths.yz = bend.x > bend.y ? vec2(d - before.x, d + after.x) : vec2(d - before.y, d + after.y);
    }
  }
  // What is lit may cover a part of a pixel whose depth is that of nothing.
  for (int i = 0; i < nowhere; i++) depths.x = min(depths.x, depthAt(at + ivec2(i % 3, i / 3) - 1));
  vec2 ndc = uv * 2.0 - 1.0;
  float left = 1.0;
  for (int i = 0; i < places; i++) {
    float away = nearFar.x * nearFar.y / (nearFar.y - depths[i] * (nearFar.y - nearFar.x));
    left = min(left, gasLeft(eye + away * (ahead + ndc.x * right + ndc.y * up)));
  }
  lit *= left;
  colour = vec4(seen.rgb + lit + (1.0 - seen.a) * behind.rgb, seen.a + (1.0 - seen.a) * behind.a);
}`
/** From the first of several samples, whose depth stands for a pixel, to its middle, in pixels: where all graphics interfaces put it. */
const TO_MIDDLE = [0.125, 0.375] as const
export const middleOf = (t: THREE.WebGLRenderTarget): readonly [number, number] => (t.samples > 0 ? TO_MIDDLE : [0, 0])
interface Over {
  made: Pick<Made, 'apart' | 'unshaded' | 'ranges'>
  /** What the picture that holds the key light apart depends on. */
  state: string
  left: GasShadow['forShade']
  camera: THREE.PerspectiveCamera
  /** Where nothing is, straight; null: what lies in the target. */
  behind: readonly [number, number, number, number] | null
  to: THREE.WebGLRenderTarget
}
/**
 * Lays what gases leave of the key light over a picture of objects that holds its share apart, with their depth. What no gas can shade is copied of a
 * picture that is kept as long: without a GPU a copy costs a quarter of a pass (measured).
 */
export class ShadeOver {
  private tiles = new ShadeTiles()
  private whole = new Pass(UNSHADED, { rest: null, key: null, depth: null, behind: new THREE.Vector4() })
  private shaded = this.pieces(SHADED, { rest: null, key: null, depth: null, middle: new THREE.Vector2(), behind: new THREE.Vector4() })
  private others = this.pieces(UNDER, { source: null, others: 1 })
  private kept = new WeakMap<THREE.WebGLRenderTarget, string>()

  constructor() {
    const { material } = this.whole
    material.depthTest = material.depthWrite = true
    material.depthFunc = THREE.AlwaysDepth
    setBlending(this.others.material, 'normal')
  }
  /** A pass over the tiles that may be shaded, or over the others. */
  private pieces(fragment: string, more: Record<string, unknown>): Pass {
    const v = () => new THREE.Vector3()
    const view = { eye: v(), ahead: v(), right: v(), up: v(), nearFar: new THREE.Vector2() }
    const left = { gasFront: null, gasDepths: null, gasWithin: null, gasRows: null }
    const uniforms = { ...left, ...view, range: null, picture: new THREE.Vector2(), others: 0, ...more }
    return new Pass(fragment, uniforms, THREE.NoBlending, { vertex: TILE_VERTEX, geometry: this.tiles.geometry })
  }
  run(r: THREE.WebGLRenderer, o: Over): void {
    const { apart, unshaded, ranges } = o.made
    const [rest, key] = apart.textures
    const depth = apart.depthTexture
    const nothing = o.behind ?? [0, 0, 0, 0]
    const state = `${nothing} ${o.state}`
    if (this.kept.get(unshaded) !== state) {
      this.kept.set(unshaded, state)
      this.whole.set({ rest, key, depth }).material.uniforms.behind.value.set(...nothing)
      this.whole.run(r, unshaded)
      this.tiles.measure(r, depth as THREE.DepthTexture, ranges)
    }
    this.tiles.geometry.instanceCount = ranges.width * ranges.height
    r.initRenderTarget(o.to)
    if (o.behind) r.copyTextureToTexture(unshaded.texture, o.to.texture)
    else this.set(this.others, o).set({ source: unshaded.texture }).run(r, o.to)
    r.copyTextureToTexture(unshaded.depthTexture as THREE.DepthTexture, o.to.depthTexture as THREE.DepthTexture)
    const { material } = this.set(this.shaded, o).set({ rest, key, depth })
    material.uniforms.middle.value.set(...middleOf(apart))
    material.uniforms.behind.value.set(...nothing)
    if (o.behind) material.blending = THREE.NoBlending
    else setBlending(material, 'normal')
    this.shaded.run(r, o.to)
  }
  private set(pass: Pass, { made, left, camera }: Over): Pass {
    const u = pass.set({ ...left, range: made.ranges.texture }).material.uniforms
    const view = viewOf(camera)
    for (const k of ['eye', 'ahead', 'right', 'up'] as const) u[k].value.set(...view[k])
    u.nearFar.value.set(camera.near, camera.far)
    u.picture.value.set(made.apart.width, made.apart.height)
    return pass
  }
  dispose(): void {
    for (const x of [this.tiles, this.whole, this.shaded, this.others]) x.dispose()
  }
}
