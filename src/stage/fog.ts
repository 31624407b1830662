import * as THREE from 'three'
import { fogsAt, marchScene } from '../acts'
import { type FogFront, FogMaker, type LightMap, type Machine } from '../engine'
import type { Shot } from '../shot'
import { type FogTexture, IN_FOG } from './front'
import { Pass } from './passes'
import { type Around, viewOf } from './shades'

/** Pixels of a picture that share a ray of fog, and pictures into the depth: of pictures in motion, and else. */
const COARSE = { of: 10, depths: 32 } as const
const FINE = { of: 4, depths: 56 } as const
const OVER = `
precision highp float;
in vec2 uv; out vec4 colour;
uniform highp sampler2D depth; uniform vec2 nearFar;
${IN_FOG}
void main() {
  float d = texture(depth, uv).r;
  vec4 f = inFog(uv * 2.0 - 1.0, d >= 1.0 ? 1e9 : nearFar.x * nearFar.y / (nearFar.y - d * (nearFar.y - nearFar.x)));
  colour = vec4(f.rgb, 1.0 - f.a);
}`

/** The fogs of a shot, before its objects and whatever lies within. */
export class Fog {
  /** Over all that is there, also where nothing is. */
  private over = new Pass(OVER, { depth: null, nearFar: new THREE.Vector2(), fogFront: null, fogDepths: null }, THREE.CustomBlending)
  /** Only before what is there. */
  private before = new Pass(OVER, { depth: null, nearFar: new THREE.Vector2(), fogFront: null, fogDepths: null }, THREE.CustomBlending)
  private maker: FogMaker | null = null
  private made: { state: string; shadows: readonly (LightMap | null)[]; front: FogFront } | null = null

  constructor() {
    for (const { material: m } of [this.over, this.before]) {
      m.blendSrc = m.blendSrcAlpha = THREE.OneFactor
      m.blendDst = m.blendDstAlpha = THREE.OneMinusSrcAlphaFactor
    }
    const m = this.before.material
    m.blendSrc = THREE.DstAlphaFactor
    m.blendSrcAlpha = THREE.ZeroFactor
    m.blendDstAlpha = THREE.OneFactor
  }
  /** What of them is before places of a view; null: there is none, or there are no kernels yet. `lightMaps`: what lights see of the objects within a room. */
  of(o: {
    shot: Shot
    t: number
    camera: THREE.PerspectiveCamera
    width: number
    height: number
    quick: boolean
    machine: Machine | null
    lightMaps(around: Around): (LightMap | null)[]
  }): FogFront | null {
    const found = fogsAt(o.shot, o.t)
    if (!found || !o.machine) return null
    this.maker ??= new FogMaker(o.machine)
    const view = viewOf(o.camera)
    const { fogs, reach } = found
    const middle = view.eye.map((v, a) => v + (view.ahead[a] * reach) / 2)
    const shadows = o.lightMaps({ middle, radius: reach / 2 })
    // With all of the light of the surroundings: each fog says its share.
    const scene = marchScene(o.shot, 1, o.t, shadows)
    const { of, depths } = o.quick ? COARSE : FINE
    const size = { width: Math.max(2, Math.ceil(o.width / of)), height: Math.max(2, Math.ceil(o.height / of)), depths, reach }
    const lights = scene.lights.map((l) => ({ ...l, shadow: null }))
    const state = JSON.stringify([fogs, lights, scene.above, scene.below, view, size])
    const same = this.made?.state === state && shadows.every((s, i) => s === this.made?.shadows[i])
    if (!same) this.made = { state, shadows, front: this.maker.front(fogs, scene, view, size) }
    return this.made?.front ?? null
  }
  /** Puts it over a picture whose opaque objects have that depth. `all`: also where nothing is. */
  put(
    r: THREE.WebGLRenderer,
    o: { fog: FogTexture; depth: THREE.Texture; camera: THREE.PerspectiveCamera; target: THREE.WebGLRenderTarget; all: boolean },
  ): void {
    const { near, far } = o.camera
    const pass = o.all ? this.over : this.before
    pass.set({ ...o.fog.values, depth: o.depth, nearFar: new THREE.Vector2(near, far) }).run(r, o.target)
  }
  dispose(): void {
    this.maker?.dispose()
    this.over.dispose()
    this.before.dispose()
  }
}
