import * as THREE from 'three'
import { BLOOM_BRIGHT, BLOOM_DOWN, BLOOM_UP, FULLSCREEN_VERTEX } from './shaders'

/** One triangle over the whole target. */
const triangle = new THREE.BufferGeometry().setAttribute(
  'position',
  new THREE.BufferAttribute(new Float32Array([-1, -1, 0, 3, -1, 0, -1, 3, 0]), 3),
)
const camera = new THREE.Camera()

export class Pass {
  readonly material: THREE.RawShaderMaterial
  private scene = new THREE.Scene()

  constructor(fragment: string, uniforms: Record<string, unknown>, blending: THREE.Blending = THREE.NoBlending) {
    this.material = new THREE.RawShaderMaterial({
      glslVersion: THREE.GLSL3,
      vertexShader: FULLSCREEN_VERTEX,
      fragmentShader: fragment,
      uniforms: Object.fromEntries(Object.entries(uniforms).map(([k, value]) => [k, { value }])),
      depthTest: false,
      depthWrite: false,
      blending,
    })
    const mesh = new THREE.Mesh(triangle, this.material)
    mesh.frustumCulled = false
    this.scene.add(mesh)
  }
  set(values: Record<string, unknown>): this {
    for (const [k, v] of Object.entries(values)) this.material.uniforms[k].value = v
    return this
  }
  run(renderer: THREE.WebGLRenderer, target: THREE.WebGLRenderTarget | null): void {
    renderer.setRenderTarget(target)
    renderer.render(this.scene, camera)
  }
  dispose(): void {
    this.material.dispose()
  }
}

export interface BloomSettings {
  from: number
  softness: number
  spread: number
  strength: number
}
/** Octaves of blur counted from this height, so that a smaller preview blooms as wide as the full picture. */
const REFERENCE_HEIGHT = 1080
const OCTAVES = 7

/** How much of each level goes into the glow, finest first. Levels finer than the picture has give their part to its finest. */
export function bloomWeights(height: number, spread: number): number[] {
  const s = 0.25 + 0.65 * Math.min(1, Math.max(0, spread))
  const finest = Math.max(1, Math.round(Math.log2(REFERENCE_HEIGHT / height) + 1))
  const raw = Array.from({ length: OCTAVES }, (_, i) => s ** i)
  const total = raw.reduce((a, b) => a + b, 0)
  const out = raw.map((w) => w / total)
  const skipped = Math.min(OCTAVES - 1, finest - 1)
  const first = out.slice(0, skipped + 1).reduce((a, b) => a + b, 0)
  return [first, ...out.slice(skipped + 1)]
}

interface Level {
  down: THREE.WebGLRenderTarget
  up: THREE.WebGLRenderTarget
}
/** Sizes that targets are kept for: a preview, the sharp picture, and one more. */
const KEPT_SIZES = 3
const dropLevels = (levels: Level[]): void =>
  levels.forEach((l) => {
    l.down.dispose()
    l.up.dispose()
  })
/** Glow of what is brighter than a threshold: halved down, added up again. */
export class Bloom {
  private levels: Level[] = []
  private bright = new Pass(BLOOM_BRIGHT, { source: null, texel: new THREE.Vector2(), from: 1, knee: 0.5 })
  private down = new Pass(BLOOM_DOWN, { source: null, texel: new THREE.Vector2() })
  private up = new Pass(BLOOM_UP, { source: null, wider: null, texel: new THREE.Vector2(), weight: 1, carry: 1 })
  private sizes = new Map<string, Level[]>()

  private resize(width: number, height: number, count: number): void {
    const size = `${width}x${height}x${count}`
    const known = this.sizes.get(size)
    this.sizes.delete(size)
    const make = (w: number, h: number) =>
      new THREE.WebGLRenderTarget(w, h, {
        type: THREE.HalfFloatType,
        depthBuffer: false,
        magFilter: THREE.LinearFilter,
        minFilter: THREE.LinearFilter,
      })
    this.levels = known ?? []
    for (let i = this.levels.length, w = width, h = height; i < count && !known; i++) {
      w = Math.max(2, Math.round(w / 2))
      h = Math.max(2, Math.round(h / 2))
      this.levels.push({ down: make(w, h), up: make(w, h) })
    }
    this.sizes.set(size, this.levels)
    for (const [old, levels] of this.sizes) {
      if (this.sizes.size <= KEPT_SIZES) break
      this.sizes.delete(old)
      dropLevels(levels)
    }
  }
  /** Draws the glow of `source` and returns the texture to add, at half its size. */
  run(renderer: THREE.WebGLRenderer, source: THREE.WebGLRenderTarget, s: BloomSettings): THREE.Texture {
    const weights = bloomWeights(source.height, s.spread)
    this.resize(source.width, source.height, weights.length)
    const texel = (t: THREE.WebGLRenderTarget) => new THREE.Vector2(1 / t.width, 1 / t.height)
    this.bright
      .set({ source: source.texture, texel: texel(source), from: s.from, knee: Math.max(1e-4, s.from * s.softness) })
      .run(renderer, this.levels[0].down)
    for (let i = 1; i < this.levels.length; i++)
      this.down.set({ source: this.levels[i - 1].down.texture, texel: texel(this.levels[i - 1].down) }).run(renderer, this.levels[i].down)
    const last = this.levels.length - 1
    // The widest level has nothing wider to add: `wider` counts for nothing there.
    for (let i = last; i >= 0; i--) {
      const wider = i === last ? this.levels[last].down : this.levels[i + 1].up
      this.up
        .set({
          source: this.levels[i].down.texture,
          wider: wider.texture,
          texel: texel(wider),
          weight: weights[i],
          carry: i === last ? 0 : 1,
        })
        .run(renderer, this.levels[i].up)
    }
    return this.levels[0].up.texture
  }
  dispose(): void {
    for (const levels of this.sizes.values()) dropLevels(levels)
    this.sizes.clear()
    this.levels = []
    for (const p of [this.bright, this.down, this.up]) p.dispose()
  }
}
