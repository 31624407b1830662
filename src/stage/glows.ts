import * as THREE from 'three'
import { glowClear, glowLine, glowPlace } from '../acts'
import { hash3, unit } from '../engine'
import { type GlowDoc, sampleColour, sampleNumber } from '../shot'
import type { DrawContext } from './drawer'
import { IN_FOG } from './front'

/** Places of its core at which a disc looks whether it is hidden. */
const LOOKS = 24
/** How often a line flickers otherwise within a metre. */
const FLICKERS_PER_M = 3
const DEPTH_AT = `
uniform highp sampler2D sceneDepth; uniform vec2 nearFar;
float depthAt(vec2 uv) {
  float d = texture(sceneDepth, clamp(uv, 0.0, 1.0)).r;
  return d >= 1.0 ? 1e9 : nearFar.x * nearFar.y / (nearFar.y - d * (nearFar.y - nearFar.x));
}`
const DISC_VERTEX = `
uniform mat4 viewMatrix, projectionMatrix;
uniform vec3 middle; uniform float reach, look, before, hidden; ${DEPTH_AT} ${IN_FOG}
in vec2 corner; out vec2 at; flat out float seen;
void main() {
  vec4 v = viewMatrix * vec4(middle, 1.0);
  vec4 c = projectionMatrix * v;
  // How much of the core is before all objects: by even places of a disc.
  float free = 0.0;
  vec2 wide = look * vec2(projectionMatrix[0][0], projectionMatrix[1][1]) / max(1e-6, -v.z);
  for (int i = 0; i < ${LOOKS}; i++) {
    float r = sqrt((float(i) + 0.5) / ${LOOKS}.0), a = float(i) * 2.399963229728653;
    vec2 uv = (c.xy / c.w + wide * r * vec2(cos(a), sin(a))) * 0.5 + 0.5;
    free += step(-v.z - before, depthAt(uv));
  }
  seen = (1.0 - hidden * (1.0 - free / ${LOOKS}.0)) * inFog(c.xy / c.w, -v.z).a;
  at = corner * reach;
  gl_Position = projectionMatrix * (v + vec4(at, 0.0, 0.0));
}`
const DISC_FRAGMENT = `
precision highp float; precision highp int;
uniform vec3 colour; uniform float size, core, halo; uniform int rays; uniform vec4 ray; uniform vec4 lengths[16];
uniform float pixel;
in vec2 at; flat in float seen; out vec4 light;
float bell(float r) {
  float left = max(0.0, 1.0 - r);
  return exp(-4.0 * (r * r) / max(core * core, 1e-6)) * smoothstep(1.0, 0.8, r) + halo * left * left * left / (1.0 + 6.0 * r);
}
float rayLight(int k, vec2 p) {
  k = (k + rays) % rays;
  float own = lengths[k / 4][k % 4];
  float a = ray.z + 6.2831853 * float(k) / float(rays);
  float along = dot(p, vec2(cos(a), sin(a))), across = abs(dot(p, vec2(-sin(a), cos(a))));
  float far = ray.x * own;
  if (along <= 0.0 || along >= far) return 0.0;
  float left = 1.0 - along / far;
  // Thinner than a pixel it is a pixel wide and as much fainter.
  float wide = ray.y * left, drawn = max(wide, pixel);
  return own * left * left * exp(-(across * across) / (drawn * drawn)) * wide / drawn;
}
void main() {
  vec2 p = at / size;
  float sum = bell(length(p));
  if (rays > 0) {
    int k = int(round((atan(p.y, p.x) - ray.z) / 6.2831853 * float(rays)));
    for (int n = -1; n <= 1; n++) sum += rayLight(k + n + rays * 4, p);
  }
  light = vec4(colour * sum * seen, 0.0);
}`
const LINE_VERTEX = `
uniform mat4 viewMatrix, projectionMatrix;
uniform float radiusM, least; uniform vec2 pixels;
in vec3 place, before, after; in vec2 side; // across, and how far along, m
out float across; out float along; out float wide; out float depth;
vec2 onScreen(vec4 p) { return p.xy / max(1e-4, p.w) * pixels; }
void main() {
  vec4 v = viewMatrix * vec4(place, 1.0);
  vec4 c = projectionMatrix * v, a = projectionMatrix * viewMatrix * vec4(before, 1.0), b = projectionMatrix * viewMatrix * vec4(after, 1.0);
  vec2 here = onScreen(c), d1 = here - onScreen(a), d2 = onScreen(b) - here;
  vec2 way = (length(d1) > 1e-4 ? normalize(d1) : vec2(0.0)) + (length(d2) > 1e-4 ? normalize(d2) : vec2(0.0));
  way = length(way) > 1e-4 ? normalize(way) : vec2(1.0, 0.0);
  // Half the width in pixels of the picture's half; thinner than one it is one, and as much fainter.
  float radius = radiusM * projectionMatrix[1][1] * pixels.y / max(1e-4, -v.z);
  float drawn = max(radius, least);
  vec2 out_ = vec2(-way.y, way.x) * side.x * drawn;
  gl_Position = c + vec4(out_ / pixels * c.w, 0.0, 0.0);
  across = side.x; along = side.y; wide = radius / drawn; depth = -v.z;
}`
const LINE_FRAGMENT = `
precision highp float; precision highp int;
uniform vec3 colour; uniform float spread, halo, hidden, flicker, beat, far, end; uniform vec2 whole; ${DEPTH_AT} ${IN_FOG}
in float across; in float along; in float wide; in float depth; out vec4 light;
float hash(float n) { return fract(sin(n * 12.9898) * 43758.5453); }
float noise(vec2 p) {
  vec2 i = floor(p), f = p - i; f = f * f * (3.0 - 2.0 * f);
  float n = i.x * 57.0 + i.y * 113.0;
  return mix(mix(hash(n), hash(n + 57.0), f.x), mix(hash(n + 113.0), hash(n + 170.0), f.x), f.y);
}
void main() {
  float r = abs(across), core = 1.0 / spread, left = max(0.0, 1.0 - r);
  float sum = exp(-2.0 * (r * r) / (core * core)) * smoothstep(1.0, 0.9, r) + halo * left * left * left / (1.0 + 6.0 * r);
  float on = 1.0 - flicker * noise(vec2(along * ${FLICKERS_PER_M.toFixed(1)}, beat));
  float free = step(depth - 0.01, depthAt(gl_FragCoord.xy / whole));
  // Ends are as round as the core is wide.
  float tip = smoothstep(0.0, end, along) * smoothstep(0.0, end, far - along);
  float clear = inFog(gl_FragCoord.xy / whole * 2.0 - 1.0, depth).a;
  light = vec4(colour * sum * on * tip * wide * clear * (1.0 - hidden * (1.0 - free)), 0.0);
}`
/** Noise of a flicker at a time, 0 to 1: values by the seed, smoothly from one to the next. */
export function flickerAt(seed: number, beat: number): number {
  const i = Math.floor(beat)
  const f = beat - i
  const at = (k: number) => unit(hash3(seed, k >>> 0, 31))
  return at(i) + (at(i + 1) - at(i)) * f * f * (3 - 2 * f)
}
const light = (vertexShader: string, fragmentShader: string, uniforms: Record<string, unknown>) => {
  const m = new THREE.RawShaderMaterial({
    glslVersion: THREE.GLSL3,
    vertexShader: `precision highp float; precision highp int;\n${vertexShader}`,
    fragmentShader,
    uniforms: Object.fromEntries(
      Object.entries({ ...uniforms, sceneDepth: null, nearFar: new THREE.Vector2(), fogFront: null, fogDepths: null }).map(([k, value]) => [
        k,
        { value },
      ]),
    ),
    ...{ depthTest: false, depthWrite: false, side: THREE.DoubleSide, blending: THREE.CustomBlending },
  })
  // Light covers nothing.
  m.blendSrc = m.blendDst = m.blendDstAlpha = THREE.OneFactor
  m.blendSrcAlpha = THREE.ZeroFactor
  return m
}
/** Glows of a shot, over the picture of everything else: they add to it. */
export class Glows {
  private scene = new THREE.Scene()
  private disc = new THREE.Mesh(
    new THREE.BufferGeometry().setAttribute('corner', new THREE.BufferAttribute(new Float32Array([-1, -1, 1, -1, -1, 1, 1, 1]), 2)),
    light(DISC_VERTEX, DISC_FRAGMENT, {
      ...{
        middle: new THREE.Vector3(),
        reach: 1,
        look: 0.1,
        before: 0.1,
        hidden: 1,
        colour: new THREE.Color(),
        size: 1,
        core: 0.2,
        halo: 0.2,
      },
      ...{ rays: 0, ray: new THREE.Vector4(), lengths: Array.from({ length: 16 }, () => new THREE.Vector4()), pixel: 0.001 },
    }),
  )
  private line = new THREE.Mesh(
    new THREE.BufferGeometry(),
    light(LINE_VERTEX, LINE_FRAGMENT, {
      ...{ radiusM: 0.1, least: 1, pixels: new THREE.Vector2(), whole: new THREE.Vector2(), colour: new THREE.Color(), spread: 6 },
      ...{ halo: 0.2, hidden: 1, flicker: 0, beat: 0, far: 1, end: 0.01 },
    }),
  )
  constructor() {
    this.disc.geometry.setIndex([0, 1, 2, 2, 1, 3])
    for (const m of [this.disc, this.line]) {
      m.frustumCulled = false
      m.visible = false
      this.scene.add(m)
    }
  }
  /** Those that are to be seen now. */
  draw(c: DrawContext, isShown: (id: string) => boolean): void {
    for (const [id, { geometry }] of this.lines) {
      if (c.shot.glows.some((g) => g.id === id)) continue
      geometry.dispose()
      this.lines.delete(id)
    }
    for (const g of c.shot.glows) {
      if (g.muted || !isShown(g.id) || sampleNumber(g.strength, c.t) <= 0) continue
      const mesh = g.kind === 'line' ? this.asLine(g, c) : this.asDisc(g, c)
      if (!mesh) continue
      const { uniforms: u } = mesh.material
      u.sceneDepth.value = c.depth
      u.nearFar.value.set(c.camera.near, c.camera.far)
      const { fogFront, fogDepths } = c.front.fog.values
      u.fogFront.value = fogFront
      u.fogDepths.value = fogDepths
      mesh.visible = true
      c.renderer.setRenderTarget(c.target)
      c.renderer.render(this.scene, c.camera)
      mesh.visible = false
    }
  }
  private beat = (g: GlowDoc, c: DrawContext) => c.t * g.flickerRate
  private asDisc(g: GlowDoc, c: DrawContext): typeof this.disc | null {
    const at = glowPlace(c.shot, g, c.t, c.meshes, c.frame.parts)
    if (!at) return null
    const u = this.disc.material.uniforms
    const n = (v: GlowDoc['size']) => sampleNumber(v, c.t)
    const size = n(g.size)
    const rayLength = g.rays ? n(g.rayLength) / 100 : 0
    u.middle.value.set(...at)
    // It must not be cut where it stands before the lens.
    const away = -new THREE.Vector3(...at).applyMatrix4(c.camera.matrixWorldInverse).z
    if (away <= c.camera.near || (c.ends && away > c.camera.far)) return null
    u.size.value = size
    u.reach.value = size * Math.max(1, rayLength)
    u.look.value = size * Math.max(0.02, n(g.core) / 100) * 0.5
    // What it is stuck to does not hide it.
    u.before.value = Math.max(u.look.value, glowClear(c.shot, g, c.t, c.meshes) * 1.01)
    u.hidden.value = n(g.hidden) / 100
    u.core.value = n(g.core) / 100
    u.halo.value = n(g.halo) / 100
    u.rays.value = g.rays
    u.ray.value.set(rayLength, n(g.rayWidth) / 100, (n(g.rayTurn) * Math.PI) / 180, 0)
    const uneven = n(g.uneven) / 100
    for (let k = 0; k < g.rays; k++) u.lengths.value[k >> 2].setComponent(k & 3, 1 - uneven * unit(hash3(g.seed, k, 29)))
    // Half a pixel, in sizes.
    u.pixel.value = (0.5 * 2 * away) / (c.camera.projectionMatrix.elements[5] * c.height * size)
    this.coloured(u, g, c, flickerAt(g.seed, this.beat(g, c)))
    return this.disc
  }
  private asLine(g: GlowDoc, c: DrawContext): typeof this.line | null {
    const places = glowLine(c.shot, g, c.t, c.meshes, c.frame.parts)
    if (!places || places.length < 6) return null
    const u = this.line.material.uniforms
    const n = (v: GlowDoc['size']) => sampleNumber(v, c.t)
    u.far.value = this.lay(g.id, places)
    u.end.value = n(g.width)
    const spread = n(g.spread)
    u.radiusM.value = (n(g.width) / 2) * spread
    // A core that is thinner than a pixel is drawn as one.
    u.least.value = 0.5 * spread
    u.pixels.value.set(c.width / 2, c.height / 2)
    u.whole.value.set(c.width, c.height)
    u.spread.value = spread
    u.halo.value = n(g.halo) / 100
    u.hidden.value = n(g.hidden) / 100
    u.flicker.value = n(g.flicker) / 100
    u.beat.value = this.beat(g, c) + (g.seed % 1000)
    this.coloured(u, g, c, 0)
    return this.line
  }
  /** `fallen`: what of the flicker takes its light now, 0 to 1. */
  private coloured(u: Record<string, THREE.IUniform>, g: GlowDoc, c: DrawContext, fallen: number): void {
    const strength = sampleNumber(g.strength, c.t) * (1 - (sampleNumber(g.flicker, c.t) / 100) * fallen)
    u.colour.value.setRGB(...sampleColour(g.colour, c.t)).multiplyScalar(strength)
  }
  private lines = new Map<string, { places: Float32Array; geometry: THREE.BufferGeometry; long: number }>()
  /** Lays the line along places; one that lies as before is the same. Returns how long it is, m. */
  private lay(id: string, places: Float32Array): number {
    const known = this.lines.get(id)
    const same = known?.places.length === places.length && places.every((v, i) => v === known.places[i])
    const line = same ? known : { places, ...ribbon(places) }
    if (!same) known?.geometry.dispose()
    this.lines.set(id, line)
    this.line.geometry = line.geometry
    return line.long
  }
  dispose(): void {
    for (const { geometry } of this.lines.values()) geometry.dispose()
    this.lines.clear()
    for (const m of [this.disc, this.line]) {
      m.geometry.dispose()
      m.material.dispose()
    }
  }
}
/** Two vertices a place, of which each knows the one before and the one behind, and how far along it lies, m. */
function ribbon(places: Float32Array): { geometry: THREE.BufferGeometry; long: number } {
  const count = places.length / 3
  const columns = { place: new Float32Array(count * 6), before: new Float32Array(count * 6), after: new Float32Array(count * 6) }
  const side = new Float32Array(count * 4)
  const index: number[] = []
  const at = (k: number) => {
    const i = 3 * Math.min(count - 1, Math.max(0, k))
    return places.subarray(i, i + 3)
  }
  let long = 0
  for (let i = 0; i < count; i++) {
    if (i) long += Math.hypot(...at(i).map((v, a) => v - at(i - 1)[a]))
    for (const s of [0, 1]) {
      columns.place.set(at(i), i * 6 + s * 3)
      columns.before.set(at(i - 1), i * 6 + s * 3)
      columns.after.set(at(i + 1), i * 6 + s * 3)
      side.set([s * 2 - 1, long], i * 4 + s * 2)
    }
    if (i) index.push(i * 2 - 2, i * 2 - 1, i * 2, i * 2, i * 2 - 1, i * 2 + 1)
  }
  const geometry = new THREE.BufferGeometry()
  for (const [name, data] of Object.entries(columns)) geometry.setAttribute(name, new THREE.BufferAttribute(data, 3))
  geometry.setAttribute('side', new THREE.BufferAttribute(side, 2))
  geometry.setIndex(index)
  return { geometry, long }
}
