import * as THREE from 'three'
import { gasMiddle, gasRoom, marchLook, marchScene, volumeDrawing } from '../acts'
import { type Flame, Marcher, type MarchLook, type MarchView, type Part, type VolumePart } from '../engine'
import type { GasDoc, Shot } from '../shot'
import type { DrawContext, Drawer, Prepare } from './drawer'
import { IN_FOG } from './front'
import type { GasShade } from './gasShadow'
import { MarchPass, type SeenFog } from './marchPass'
import { Pass } from './passes'
import { type Around, FRONT_COARSER, FRONT_DEPTHS, Shades, viewOf } from './shades'

/** Steps of the march in voxels, of a preview and else. */
const QUICK_STRIDE = 1.5
const FINE_STRIDE = 0.5
/** Pixels along a side of the picture that the light has of a gas. */
const SHADE_SIZE = 128
/** Voxels that a cell of light is wide. */
const LIGHT_CELLS = 2
/** The same of finer cells: light is softer than what it falls on. */
const LIGHT_CELLS_OF_DETAIL = 4
const lightCells = (gas: GasDoc): number => (gas.detail > 1 ? LIGHT_CELLS_OF_DETAIL : LIGHT_CELLS)
const GAS_OVER = `
precision highp float;
in vec2 uv; out vec4 colour;
uniform sampler2D source; uniform float fogDepth;
${IN_FOG}
void main() { colour = fogged(texture(source, uv), uv * 2.0 - 1.0, fogDepth); }`
/** The room of a gas. */
function roomOf(shot: Shot, gas: GasDoc, t: number, parts: readonly Part[]): Around {
  const { middle, size } = gasRoom(shot, gas, t, parts)
  return { middle, radius: 0.75 * Math.hypot(...size) }
}
/** A gas of the frame, computed by kernels and put over the objects. */
export class VolumesDrawer implements Drawer<VolumePart> {
  private part: VolumePart | null = null
  private marcher: Marcher | null = null
  /** What its light was computed for. */
  private lit = ''
  private shadows: readonly unknown[] = []
  private texture: THREE.DataTexture | null = null
  private over = new Pass(GAS_OVER, { source: null, fogFront: null, fogDepths: null, fogDepth: 0 }, THREE.CustomBlending)

  constructor(readonly element: string) {
    const m = this.over.material
    m.blendSrc = m.blendSrcAlpha = THREE.OneFactor
    m.blendDst = m.blendDstAlpha = THREE.OneMinusSrcAlphaFactor
  }
  load(part: VolumePart): void {
    this.part = part
  }
  /** Makes the grids of the frame ready; the glow as lights for the objects, by their share. */
  prepare({ machine, shot, t }: Prepare): Flame[] {
    const gas = shot.gases.find((g) => g.id === this.element && !g.muted)
    if (!gas || !this.part) return []
    this.marcher ??= new Marcher(machine)
    const look = marchLook(gas, t)
    const before = this.marcher.flames
    this.marcher.load(this.part, look)
    if (before !== this.marcher.flames) this.lit = ''
    const share = volumeDrawing(gas, t).glow?.lights ?? 0
    return share > 0 ? this.marcher.flames.map((f) => ({ ...f, power: f.power.map((p) => p * share) as Flame['power'] })) : []
  }
  room(shot: Shot, t: number, parts: readonly Part[]): Around | null {
    const gas = shot.gases.find((g) => g.id === this.element && !g.muted)
    return gas ? roomOf(shot, gas, t, parts) : null
  }
  shade(shot: Shot, t: number, around: Around): GasShade | null {
    const gas = shot.gases.find((g) => g.id === this.element && !g.muted)
    if (!gas || !this.marcher || !this.part) return null
    return this.shades.of(this.marcher, shot, t, around, { wide: lightCells(gas), size: SHADE_SIZE, by: [this.part, gas.tones] })
  }
  private shades = new Shades()
  draw(c: DrawContext): void {
    const gas = c.shot.gases.find((g) => g.id === this.element && !g.muted)
    const m = this.marcher
    if (!gas || !m || m.isEmpty) return
    const looks = viewOf(c.camera)
    this.light(c, gas, m, looks.eye)
    const { width, height } = c
    const stride = c.share < 1 ? QUICK_STRIDE : FINE_STRIDE
    const view: MarchView = { ...looks, width, height, depth: c.marchesOnGpu ? null : c.depths(), stride, wide: lightCells(gas) }
    // All of it lies in the fog as its middle does.
    const middle = gasMiddle(c.shot, gas, c.t, c.frame.parts)
    const fog = { ...c.front.fog.values, fogDepth: middle.reduce((sum, x, a) => sum + (x - looks.eye[a]) * looks.ahead[a], 0) }
    if (c.marchesOnGpu) this.marchOnGpu(c, m, marchLook(gas, c.t), view, fog)
    else this.over.set({ source: this.pixels(m.picture(view), width, height), ...fog }).run(c.renderer, c.target)
    // What is drawn after it may lie within.
    if (c.frame.parts.some((p) => p.kind === 'points' || p.kind === 'strips')) c.front.add(m.front(view, FRONT_COARSER, FRONT_DEPTHS))
  }
  /** Its light for this eye, unless it is there. */
  private light(c: DrawContext, gas: GasDoc, m: Marcher, eye: MarchView['eye']): void {
    const shadows = c.lightMaps(roomOf(c.shot, gas, c.t, c.frame.parts))
    const scene = marchScene(c.shot, volumeDrawing(gas, c.t).smoke?.surroundings ?? 0, c.t, shadows, gas.id)
    const same = shadows.length === this.shadows.length && shadows.every((s, i) => s === this.shadows[i])
    const lit = JSON.stringify([scene.above, scene.below, scene.lights.map((l) => ({ ...l, shadow: null })), eye])
    if (same && lit === this.lit) return
    m.light(scene, eye, lightCells(gas))
    this.shadows = shadows
    this.lit = lit
    this.lightings++
  }
  private lightings = 0
  private gpu: MarchPass | null = null
  private marchOnGpu(c: DrawContext, m: Marcher, look: MarchLook, view: MarchView, fog: SeenFog): void {
    this.gpu ??= new MarchPass()
    const state = this.lightings
    if (this.onGpu?.state !== state || this.onGpu.part !== this.part || this.onGpu.look !== look) {
      const textures = m.textures()
      if (!textures) return
      this.gpu.load(textures, look, view.wide)
      this.onGpu = { state, part: this.part, look }
    }
    this.gpu.run(c.renderer, c.target, view, c.depth, c.camera, c.ends, fog)
  }
  private onGpu: { state: number; part: VolumePart | null; look: MarchLook } | null = null
  private pixels(data: Float32Array, width: number, height: number): THREE.DataTexture {
    if (this.texture?.image.width !== width || this.texture.image.height !== height) {
      this.texture?.dispose()
      this.texture = new THREE.DataTexture(new Float32Array(width * height * 4), width, height, THREE.RGBAFormat, THREE.FloatType)
    }
    ;(this.texture.image.data as Float32Array).set(data)
    this.texture.needsUpdate = true
    return this.texture
  }
  dispose(): void {
    this.marcher?.dispose()
    this.gpu?.dispose()
    this.texture?.dispose()
    this.over.dispose()
  }
}
