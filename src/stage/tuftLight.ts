import * as THREE from 'three'
import { type Draw, marchScene, type TuftDrawing, tuftBalls, tuftLook } from '../acts'
import { CLOUD_BALL, type Cloud, LUMPS_SIDE, type Machine, Marcher, type MarchScene, type Matrix, type PointsPart } from '../engine'
import type { Shot } from '../shot'
import type { DrawContext, LightCells } from './drawer'
import type { GasShade } from './gasShadow'
import { Grid } from './grid'
import { lumps } from './lumps'
import { type Around, FRONT_COARSER, FRONT_DEPTHS, Shades, viewOf } from './shades'

/** Voxels that a cell of light is wide. */
const LIGHT_CELLS = 2
/** Pixels along a side of the picture that the light has of tufts: they may be as sharp as solid things. */
const SHADE_SIZE = 256
/** The particles of a system of which some are tufts. */
export interface TuftMember {
  part: PointsPart
  draws: readonly Draw[]
  blends: readonly number[]
  matrices: readonly Matrix[]
}

/** One for all systems. */
let lumpsGrid: Grid | null = null
function lumpsTexture(): THREE.Data3DTexture {
  if (!lumpsGrid?.texture) {
    lumpsGrid = new Grid(THREE.RGBAFormat, THREE.UnsignedByteType, THREE.LinearFilter, THREE.RepeatWrapping)
    lumpsGrid.set(lumps(), [LUMPS_SIDE, LUMPS_SIDE, LUMPS_SIDE])
  }
  return lumpsGrid.texture as THREE.Data3DTexture
}
/** The light within the tufts of systems, and their shadow on objects: the particles are spread into one grid, as a gas is. */
export class TuftLight {
  private marcher: Marcher | null = null
  private cloud: Cloud | null = null
  private made: { state: string; parts: PointsPart[] } = { state: '', parts: [] }
  private grid = new Grid(THREE.RGBAFormat, THREE.HalfFloatType, THREE.LinearFilter)
  private lit: { state: string; cloud: Cloud | null; shadows: readonly unknown[] } = { state: '', cloud: null, shadows: [] }
  private shades = new Shades()
  room: Around | null = null
  /** The mean colour of them, for what lies behind. */
  private colour = [1, 1, 1]

  static readonly uniforms = () => ({
    ...{ cells: null, cellLow: new THREE.Vector3(), perCells: new THREE.Vector3() },
    ...{ tuft: new THREE.Vector4(), ragged: 0, lumps: null, sceneDepth: null, nearFar: new THREE.Vector2() },
  })
  /** Spreads the tufts of systems of a frame, unless it is done. `most`: voxels. */
  load(machine: Machine, members: readonly TuftMember[], most: number): void {
    const parts = members.map((m) => m.part)
    const state = JSON.stringify([members.map(({ part: _, ...rest }) => rest), most])
    const { made } = this
    if (made.state === state && made.parts.length === parts.length && parts.every((p, i) => p === made.parts[i])) return
    this.made = { state, parts }
    const all = members.map((m) => tuftBalls(m.part, m.draws, m.blends, m.matrices))
    const count = all.reduce((sum, b) => sum + b.count, 0)
    const balls = new Float32Array(count * CLOUD_BALL)
    let at = 0
    this.colour = [0, 1, 2].map((c) => all.reduce((sum, b) => sum + (b.colour[c] * b.count) / Math.max(1, count), 0))
    for (const b of all) {
      balls.set(b.balls.subarray(0, b.count * CLOUD_BALL), at)
      at += b.count * CLOUD_BALL
    }
    this.cloud = { count, balls, most }
    this.room = aroundOf(this.cloud)
    this.marcher ??= new Marcher(machine)
    const tuft = members[0].draws.find((d) => d.tuft)?.tuft
    if (tuft) this.marcher.loadCloud(this.cloud, tuftLook(tuft))
  }
  shade(shot: Shot, t: number, around: Around): GasShade | null {
    const { cloud, marcher } = this
    return cloud && marcher ? this.shades.of(marcher, shot, t, around, { wide: LIGHT_CELLS, size: SHADE_SIZE, by: [cloud] }) : null
  }
  into(u: Record<string, THREE.IUniform>, c: DrawContext, d: TuftDrawing, drawn: boolean): boolean {
    const { marcher, room } = this
    if (!marcher || marcher.isEmpty || !room) return false
    const shadows = c.lightMaps(room)
    const light = this.light(
      marcher,
      marchScene(c.shot, d.surroundings, c.t, shadows, this.made.parts[0]?.element),
      shadows,
      viewOf(c.camera).eye,
    )
    if (!light) return false
    u.tuft.value.set(d.thickness, 1 / Math.max(0.05, d.lumps), d.shine, d.meets)
    u.ragged.value = 0.75 * d.ragged
    u.lumps.value = lumpsTexture()
    u.sceneDepth.value = c.depth
    u.nearFar.value.set(c.camera.near, c.camera.far)
    if (drawn && this.inTexture !== light) {
      this.grid.set(light.data, light.size)
      this.inTexture = light
    }
    u.cells.value = this.grid.texture
    u.cellLow.value.set(...light.low.map((x) => x - light.cell))
    u.perCells.value.set(...light.size.map((n) => 1 / (n * light.cell)))
    return true
  }
  private light(m: Marcher, scene: MarchScene, shadows: readonly unknown[], eye: readonly number[]) {
    const state = JSON.stringify([scene.above, scene.below, scene.lights.map((l) => ({ ...l, shadow: null })), eye])
    const { lit } = this
    const same = lit.cloud === this.cloud && lit.state === state && shadows.every((s, i) => s === lit.shadows[i])
    if (same && this.cells) return this.cells
    m.light(scene, eye, LIGHT_CELLS)
    const t = m.lightTexture()
    if (!t) return null
    this.lit = { state, cloud: this.cloud, shadows }
    this.cells = { size: t.size, data: t.data.slice(), low: [...t.low], cell: t.cell }
    return this.cells
  }
  cells: LightCells | null = null
  private inTexture: LightCells | null = null
  /** What is drawn after them may lie within. */
  inFront(c: DrawContext): void {
    if (!this.cloud || !this.cells || !this.marcher || this.marcher.isEmpty) return
    const { width, height } = c
    const view = { ...viewOf(c.camera), width, height, depth: null, stride: 1, wide: LIGHT_CELLS }
    c.front.add(this.marcher.front(view, FRONT_COARSER, FRONT_DEPTHS, this.colour))
  }
  dispose(): void {
    this.marcher?.dispose()
    this.grid.dispose()
  }
}
function aroundOf({ count, balls }: Cloud): Around | null {
  if (!count) return null
  const [low, high] = [-1, 1].map((side) =>
    [0, 1, 2].map((a) => {
      let most = Number.NEGATIVE_INFINITY
      for (let n = 0, o = 0; n < count; n++, o += CLOUD_BALL) most = Math.max(most, side * balls[o + a] + balls[o + 3])
      return side * most
    }),
  )
  return { middle: low.map((x, a) => (x + high[a]) / 2), radius: 0.5 * Math.hypot(...low.map((x, a) => high[a] - x)) }
}
