import * as THREE from 'three'
import { BLUE_NOISE, blueNoise, MARCH_SAMPLES, type MarchLook, type MarchTextures, type MarchView } from '../engine'
import { Grid, type Size } from './grid'
import { MARCH } from './marchShader'
import { Pass } from './passes'
import { texels } from './texels'

/** Blue noise of one stage. */
function blueTexture(): THREE.DataTexture {
  const texture = new THREE.DataTexture(blueNoise().slice(), BLUE_NOISE, BLUE_NOISE, THREE.RedFormat, THREE.FloatType)
  texture.needsUpdate = true
  return texture
}
/** The fog of a picture, and the view depth from where on the gas lies in it. */
export interface SeenFog {
  fogFront: THREE.Data3DTexture
  fogDepths: THREE.Vector2
  fogDepth: number
}
/** The march through a gas on a GPU, over a picture. */
export class MarchPass {
  private cells = new Grid(THREE.RGBAFormat, THREE.HalfFloatType, THREE.LinearFilter)
  private light = new Grid(THREE.RGBAFormat, THREE.HalfFloatType, THREE.LinearFilter)
  private full = new Grid(THREE.RedIntegerFormat, THREE.UnsignedByteType, THREE.NearestFilter)
  private tones = new THREE.DataTexture(new Float32Array(MARCH_SAMPLES * 8), MARCH_SAMPLES, 2, THREE.RGBAFormat, THREE.FloatType)
  private pass = new Pass(
    MARCH,
    {
      ...{
        cells: null,
        light: null,
        full: null,
        tones: null,
        depth: null,
        blue: blueTexture(),
        dims: new THREE.Vector3(),
        wide: 1,
        lit: 0,
        shines: 0,
        byHue: 0,
      },
      ...{ eye: new THREE.Vector3(), ahead: new THREE.Vector3(), right: new THREE.Vector3(), up: new THREE.Vector3() },
      ...{ pixels: new THREE.Vector2(), stride: 1, voxel: 1, exit: 0.004, nearFar: new THREE.Vector2(), ends: 0 },
      ...{ fogFront: null, fogDepths: null, fogDepth: 0 },
    },
    THREE.CustomBlending,
  )
  private low: Size = [0, 0, 0]

  constructor() {
    const m = this.pass.material
    m.blendSrc = m.blendSrcAlpha = THREE.OneFactor
    m.blendDst = m.blendDstAlpha = THREE.OneMinusSrcAlphaFactor
  }
  /** Takes what is marched through. `wide`: voxels that a cell of light is wide. */
  load(t: MarchTextures, look: MarchLook, wide: number): void {
    const { light } = t
    const rows = texels(this.tones, Float32Array)
    const { glow } = look
    for (let i = 0; i < MARCH_SAMPLES; i++) rows[i * 4] = glow?.tone[i] ?? 0
    if (glow) rows.set(glow.colours, MARCH_SAMPLES * 4)
    this.tones.needsUpdate = true
    const cells = this.cells.set(t.cells, t.size)
    this.low = t.low
    this.pass.set({
      ...{ cells, light: light ? this.light.set(light.data, light.size) : cells, full: this.full.set(t.full, t.tiles), tones: this.tones },
      ...{ lit: light ? 1 : 0, shines: glow ? 1 : 0, byHue: glow && glow.coloursBy !== glow.by ? 1 : 0, wide, voxel: t.voxel },
      dims: new THREE.Vector3(...t.size.map((x) => x - 2)),
    })
  }
  run(
    r: THREE.WebGLRenderer,
    target: THREE.WebGLRenderTarget,
    view: MarchView,
    depth: THREE.DepthTexture,
    camera: THREE.PerspectiveCamera,
    ends: boolean,
    fog: SeenFog,
  ): void {
    const voxel = this.pass.material.uniforms.voxel.value as number
    const scaled = (v: readonly number[]) => new THREE.Vector3(...v.map((x) => x / voxel))
    this.pass
      .set({
        ...{
          eye: scaled(view.eye.map((x, a) => x - this.low[a])),
          ahead: scaled(view.ahead),
          right: scaled(view.right),
          up: scaled(view.up),
        },
        ...{ pixels: new THREE.Vector2(view.width, view.height), stride: view.stride, depth },
        nearFar: new THREE.Vector2(camera.near, camera.far),
        ends: ends ? 1 : 0,
        ...fog,
      })
      .run(r, target)
  }
  dispose(): void {
    for (const g of [this.cells, this.light, this.full]) g.dispose()
    this.tones.dispose()
    ;(this.pass.material.uniforms.blue.value as THREE.Texture).dispose()
    this.pass.dispose()
  }
}
