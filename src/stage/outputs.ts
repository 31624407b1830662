import * as THREE from 'three'
import { actOfSort, litShot, type Meshes, readerOf, shotPose } from '../acts'
import type { Frame, Machine } from '../engine'
import type { PassName, Pose, Wanted } from '../protocol'
import { looksOfPose, type Shot } from '../shot'
import type { Finishing } from './finish/picture'
import { Screens, type Unfinished } from './finish/screens'
import { GeometryPasses } from './geometryPasses'
import { Lens } from './lens'
import type { Objects } from './objects'
import { particleIds } from './particleIds'
import type { Picture } from './picture'
import { readBytes, readLight } from './reading'
import { lightTarget } from './targets'

/**
 * By name, the top row first: `screen`, `deep`, `light`, `unfinished`, `shining`, `emission`, `layer ID` and `light ID` with four values a pixel,
 * `normal` three, `motion` two, `depth`, `id`, `mask ID`, `particle id` and `particle system` one.
 */
export type Outputs = Record<string, Uint8Array | Float32Array | Uint32Array>

/** Which of the lights shine: all, one by its id, or none; and whether gases do. */
export interface Lit {
  by?: string | null
  gases?: boolean
}
/** The shot with only some of its lights: the others are there and give nothing. */
export function litBy(shot: Shot, { by, gases = true }: Lit): Shot {
  const lights = by === undefined ? shot.lights : shot.lights.map((l) => (l.id === by ? l : { ...l, strength: 0 }))
  const dark = (a: Shot['gases'][number]['look'][number]) => !!actOfSort(a.kind, 'gasLook').volume(readerOf(a), 0).glow
  return { ...shot, lights, ...(gases ? {} : { gases: shot.gases.map((g) => ({ ...g, look: g.look.filter((a) => !dark(a)) })) }) }
}
/** What outputs are made with: a stage as it draws. */
export interface Drawn {
  renderer: THREE.WebGLRenderer
  finishing: Finishing
  camera: THREE.PerspectiveCamera
  objects: Objects
  shot: Shot
  meshes: Meshes
  frame: Frame | null
  /** Whether a picture of light lit the last one. */
  around: boolean
  composed(p: Picture, lit?: Lit): Unfinished | null
  /** Kernels that make screen values; null: a shader does. */
  machine: Machine | null
  setPose(pose: Pose, aspect: number): void
}
const SURFACES: readonly PassName[] = ['depth', 'normal', 'motion', 'id', 'masks', 'particles']

/** Makes everything that files are made of. */
export class OutputMaker {
  private geometry: GeometryPasses | null = null
  private screens = new Screens()

  /** Of one picture, gathered through the open lens and shutter. */
  of(d: Drawn, p: Picture, want: Wanted): Outputs {
    const { renderer: r, finishing, shot } = d
    const { width, height } = p
    const out: Outputs = {}
    const many = looksOfPose(p.pose)
    const gathered = new Map<string, Lens>()
    const layers = new Map<string, THREE.WebGLRenderTarget>()
    let made: Unfinished | null = null
    for (let k = 0; k < many; k++) {
      made = d.composed(many > 1 ? { ...p, lens: k } : p)
      if (!want.passes.includes('layers')) continue
      for (const [id, texture] of finishing.pictures) {
        // Nothing lies over it: the picture itself, which is gathered already.
        if (texture === made?.light) continue
        const to = layers.get(id) ?? lightTarget(width, height)
        layers.set(id, to)
        finishing.run(r, texture, [], to)
        const lens = gathered.get(id) ?? new Lens()
        gathered.set(id, lens)
        if (many > 1) lens.gather(r, to, k)
      }
    }
    if (!made) return out
    const { light, view, layer } = made
    const plain = (from: THREE.Texture) => readLight(r, width, height, (to) => finishing.run(r, from, [], to))
    if (want.screen)
      out.screen =
        (d.machine && this.screens.bytes(r, d.machine, finishing, made, p.transparent)) ??
        readBytes(r, width, height, (to) => finishing.show(r, light, layer, view, p.transparent, to))
    if (want.deep)
      out.deep = readLight(r, width, height, (to) => finishing.show(r, light, layer, view, p.transparent, to, { dither: 0, steps: 65535 }))
    if (want.light) out.light = readLight(r, width, height, (to) => finishing.finished(r, light, layer, view, p.transparent, to))
    if (want.passes.includes('unfinished')) out.unfinished = plain(light)
    if (want.passes.includes('layers') && !layers.has(layer.id)) out[`layer ${layer.id}`] = plain(light)
    for (const [id, from] of layers) {
      out[`layer ${id}`] = plain(from.texture)
      from.dispose()
      gathered.get(id)?.dispose()
    }
    if (want.passes.some((x) => SURFACES.includes(x))) Object.assign(out, this.surfaces(d, p, want.passes))
    if (want.passes.includes('lights') || want.passes.includes('emission')) this.lights(d, p, want.passes, plain, out, shot)
    return out
  }
  /** What each light adds, and what shines by itself: of what is linear in light, they add up to the picture before its finishes. */
  private lights(
    d: Drawn,
    p: Picture,
    passes: readonly PassName[],
    plain: (from: THREE.Texture) => Float32Array,
    out: Outputs,
    shot: Shot,
  ): void {
    const many = looksOfPose(p.pose)
    // What lingers is of other frames, with all their light.
    const picture = { ...p, lingers: undefined }
    const of = (lit: Lit): Float32Array => {
      let made: Unfinished | null = null
      for (let k = 0; k < many; k++) made = d.composed(many > 1 ? { ...picture, lens: k } : picture, lit)
      return plain((made as Unfinished).light)
    }
    const shining = of({ by: null })
    const over = (a: Float32Array, b: Float32Array) => a.map((v, i) => (i % 4 === 3 ? 0 : v - b[i]))
    if (passes.includes('lights')) {
      out.shining = shining
      for (const l of shot.lights) if (!l.muted) out[`light ${l.id}`] = over(of({ by: l.id }), shining)
    }
    if (passes.includes('emission')) out.emission = over(shining, of({ by: null, gases: false }))
  }
  private surfaces(d: Drawn, p: Picture, passes: readonly PassName[]): Outputs {
    this.geometry ??= new GeometryPasses()
    const { camera, objects, renderer: r, shot, meshes, frame, around } = d
    const size = [p.width, p.height] as const
    const seenAt = (t: number, pose: Pose) => {
      d.setPose(pose, p.width / p.height)
      return { t, seen: new THREE.Matrix4().multiplyMatrices(camera.projectionMatrix, camera.matrixWorldInverse) }
    }
    const then = p.t + shot.rate.den / shot.rate.num
    const next = seenAt(then, p.through ? shotPose(shot, then) : p.pose)
    const now = seenAt(p.t, p.pose)
    const place = (t: number) => void objects.place(t, litShot(shot, t, meshes, frame?.parts ?? []).lights, { around, camera })
    const all = this.geometry.surfaces(r, objects, { shot, camera, now, later: next, place, size })
    const out: Outputs = {}
    for (const name of ['depth', 'normal', 'motion', 'id'] as const) if (passes.includes(name)) out[name] = all[name]
    if (passes.includes('particles') && frame) {
      const { id, system } = particleIds({ shot, frame, meshes, camera }, size, all.depth)
      Object.assign(out, { 'particle id': id, 'particle system': system })
    }
    if (passes.includes('masks'))
      for (const o of shot.objects)
        if (!o.muted && o.shape.kind !== 'anchor' && o.shape.kind !== 'group')
          out[`mask ${o.id}`] = this.geometry.covered(r, objects, shot, camera, o.id, size)
    return out
  }
  dispose(): void {
    this.geometry?.dispose()
    this.screens.dispose()
  }
}
