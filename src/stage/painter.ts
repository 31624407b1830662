import type * as THREE from 'three'
import { drawsOf, fogsAt, gasMiddle, layerOf, type Meshes } from '../acts'
import { type Frame, MemoryRefused, partKey, partsOf, type UnderTufts } from '../engine'
import type { GasDoc, LayerDoc, Shot } from '../shot'
import { Backdrop } from './backdrop'
import { axesOf } from './camera'
import { Depths } from './depths'
import type { DrawContext, Drawer } from './drawer'
import { Focus } from './focus'
import { Fog } from './fog'
import { Front } from './front'
import { Glows } from './glows'
import { HoldOuts } from './holdOuts'
import { depthPass, Layering } from './layering'
import { LightMaps } from './lightMaps'
import { Masks } from './masks'
import { Objects } from './objects'
import { ObjectsPicture } from './objectsPicture'
import type { Painted, Picture } from './picture'
import { PointsDrawer } from './points'
import type { Around } from './shades'
import { Sprites } from './sprites'
import { StripsDrawer } from './strips'
import { type Made, Targets } from './targets'
import { drawTogether } from './together'
import { TuftLights } from './tuftLights'
import { TuftPictures } from './tuftPictures'

/** Kinds of part that are drawn over the objects, in their order. */
const DRAWN = ['volume', 'strips', 'points'] as const
/** Particles nearer to the lens than this share of the way to its aim fade. */
const NEAR_SHARE = 0.06

/** What is drawn together with others. */
interface Covering {
  key: string
  d: PointsDrawer | StripsDrawer
  c: DrawContext
  tufts: boolean
}
/** What is drawn over the objects of a picture. */
interface Parts {
  context: DrawContext
  /** The same for particles, of which fewer may be shown. */
  points: DrawContext
  /** Systems and strips that hide each other; if they are tufts and nothing else, and kernels can draw them, those. */
  together: readonly Covering[]
  tufts: readonly { drawer: PointsDrawer; c: DrawContext }[] | null
  /** What is drawn before those, and behind them. */
  first: readonly (() => void)[]
  after: readonly (() => void)[]
}
/**
 * Paints pieces of a picture: what lies between two depths, what a layer holds. Objects first, kept while nothing of them changes, and over them
 * gases, strips, particles and glows.
 */
export class Painter {
  readonly objects = new Objects()
  readonly masks = new Masks()
  readonly tuftLights = new TuftLights()
  readonly backdrop = new Backdrop(() => this.objects.pictureCame())
  private layering = new Layering()
  private targets = new Targets()
  private maskedTargets = new Targets()
  private nearerTargets = new Targets()
  private heldTargets = new Targets()
  private holdOuts = new HoldOuts()
  private layerTargets = new Map<string, { own: Targets; masked: Targets }>()
  private tuftPictures = new TuftPictures()
  private glows = new Glows()
  private focus = new Focus()
  private fog = new Fog()
  private depths = new Depths()
  private front = new Front()
  private lightMaps = new LightMaps()
  private sprites = new Sprites(this.objects.textures)
  private withDepth = depthPass(true)
  private now!: Painted
  private opaque: ObjectsPicture
  /** The layers of all that have one. */
  private layerOf: ReadonlyMap<string, string> = new Map()
  /** Whether objects or bodies of particles are in layers beside the picture. */
  private splits = false

  /** `drawers`: by kind of part and element. */
  constructor(
    private renderer: THREE.WebGLRenderer,
    private camera: THREE.PerspectiveCamera,
    private drawers: ReadonlyMap<string, Drawer>,
  ) {
    this.objects.setBackdrop(this.backdrop.group)
    this.opaque = new ObjectsPicture(renderer, camera, this.objects, this.backdrop, this.holdOuts)
  }
  /** Whether a picture of light lit the last one from all around. */
  get around(): boolean {
    return this.opaque.around
  }
  setShot(shot: Shot, meshes: Meshes): void {
    this.objects.load(shot, meshes)
    // Pictures of particles are decoded from now on, so that whoever waits for pictures waits for these too.
    for (const s of shot.systems) for (const { sprite } of drawsOf(shot, s, 0)) if (sprite) this.sprites.of(shot, meshes, sprite)
    for (const [id, t] of this.layerTargets) {
      if (shot.layers.some((l) => l.id === id)) continue
      t.own.dispose()
      t.masked.dispose()
      this.layerTargets.delete(id)
    }
  }
  /** What the next pieces are of. */
  begin(now: Painted): void {
    this.now = now
    const { shot } = now
    this.layerOf = new Map([...shot.objects, ...shot.systems, ...shot.gases, ...shot.glows].map((e) => [e.id, layerOf(shot, e)]))
    this.splits = [...shot.objects, ...shot.systems].some((e) => this.layerOf.get(e.id) !== shot.layers[0].id)
  }
  /** What lies between two depths along the way, m; behind the farthest lies what is behind everything. */
  between(near: number | null, far: number | null): THREE.WebGLRenderTarget {
    const { p, shot } = this.now
    const c = this.camera
    const usual = [c.near, c.far]
    if (near !== null) c.near = Math.max(usual[0], near)
    if (far !== null) c.far = Math.max(c.near * 1.001, far)
    c.updateProjectionMatrix()
    const slab = far === null ? p : { ...p, transparent: true }
    this.objects.setAlpha(slab.transparent)
    const targets = (far === null ? this.targets : this.nearerTargets).of(p.width, p.height, p.samples, p.second)
    this.slab = { near: near ?? Number.NEGATIVE_INFINITY, far: far ?? Number.POSITIVE_INFINITY, layer: shot.layers[0].id, alone: false }
    this.drawAll(slab, targets, far !== null)
    if (p.through) this.drawMasked(slab, targets.target, this.maskedTargets)
    this.drawHeldOut(slab, targets.target, far !== null)
    ;[c.near, c.far] = usual
    c.updateProjectionMatrix()
    this.objects.setAlpha(p.transparent)
    return targets.target
  }
  /** What a layer beside the picture holds, on nothing; hidden by the objects of all layers. */
  layer(layer: LayerDoc): THREE.WebGLRenderTarget {
    const { p } = this.now
    const made = this.layerTargets.get(layer.id) ?? { own: new Targets(), masked: new Targets() }
    this.layerTargets.set(layer.id, made)
    const targets = made.own.of(p.width, p.height, p.samples, p.second)
    const alone = { ...p, transparent: true }
    this.objects.setAlpha(true)
    this.slab = { near: Number.NEGATIVE_INFINITY, far: Number.POSITIVE_INFINITY, layer: layer.id, alone: true }
    this.drawAll(alone, targets)
    if (p.through) this.drawMasked(alone, targets.target, made.masked)
    this.drawHeldOut(alone, targets.target, false)
    this.objects.setAlpha(p.transparent)
    return targets.target
  }
  /** What is drawn now: between two depths, where a gas is drawn whole if its middle is there; of one layer, alone on nothing or with what lies behind everything. */
  private slab = { near: Number.NEGATIVE_INFINITY, far: Number.POSITIVE_INFINITY, layer: '', alone: false }
  /** The last picture that kernels drew and nothing was drawn over. */
  private inMemory: { texture: THREE.Texture; values: Uint16Array } | null = null
  /** The values of a picture in the memory of kernels, if they left it there; until the next piece is painted. */
  valuesOf(texture: THREE.Texture): Uint16Array | null {
    return this.inMemory?.texture === texture ? this.inMemory.values : null
  }
  private isShown = (element: string): boolean => (this.layerOf.get(element) ?? this.now.shot.layers[0].id) === this.slab.layer
  private drawAll(p: Picture, targets: Made, ends = false): void {
    const { target } = targets
    this.inMemory = null
    const { now, slab, held, isShown } = this
    const still = this.opaque.draw(p, now, targets, { layer: slab.layer, alone: slab.alone, splits: this.splits, held, isShown })
    const { lens, gathers, frame } = now
    const blurs = lens[0] > 0 && !gathers
    const parts = frame && this.partsOf(p, frame, ends, target, still)
    const under = parts && !blurs && this.opaque.under(p, now, targets, still)
    if (under && this.drawTuftsOver(parts, under, p.t)) {
      this.drawParts(parts, true)
      if (parts.after.length || now.shot.glows.length) this.inMemory = null
      return
    }
    const seen = this.opaque.shaded(p, now, targets, still, blurs)
    if (seen !== target) this.withDepth.set({ source: seen.texture, depth: seen.depthTexture }).run(this.renderer, target)
    if (blurs) this.focus.run(this.renderer, seen, target, this.camera, lens, !this.backdrop.isPlate)
    this.drawFog(p, target, still)
    if (parts) this.drawParts(parts, false)
  }
  /** Where nothing comes between the objects and tufts, these are drawn over them by one kernel; says whether they were. */
  private drawTuftsOver({ first, tufts, points }: Parts, under: UnderTufts, t: number): boolean {
    if (!tufts || first.length || fogsAt(this.now.shot, t)) return false
    this.front.fog.set(null)
    try {
      const values = this.tuftPictures.draw(tufts, points, under)
      this.inMemory = values && { texture: points.target.texture, values }
      return values !== null
    } catch (error) {
      if (!(error instanceof MemoryRefused)) throw error
      return false
    }
  }
  /** The fog before the objects, and made ready for what is drawn after them. */
  private drawFog(p: Picture, target: THREE.WebGLRenderTarget, still: THREE.WebGLRenderTarget): void {
    const { renderer: r, camera, fog, front, slab } = this
    const { shot, machine } = this.now
    const { t, width, height } = p
    const lightMaps = (around: Around) => this.lightMaps.of(r, this.objects, shot, t, around)
    const made = fog.of({ shot, machine, t, camera, width, height, quick: p.share < 1 || p.samples === 0, lightMaps })
    front.fog.set(made)
    if (!made) return
    const all = slab.far === Number.POSITIVE_INFINITY && !slab.alone
    fog.put(r, { fog: front.fog, depth: still.depthTexture as THREE.DepthTexture, camera, target, all })
  }
  /** Where drawn masks lie, only what is nearer than they are. */
  private drawMasked(p: Picture, target: THREE.WebGLRenderTarget, into: Targets): void {
    const masks = this.masks.of(this.now.shot, p.t, p.width, p.height)
    if (!masks.length) return
    const c = this.camera
    const { far } = c
    const nearer = into.of(p.width, p.height, p.samples, p.second)
    let drawn = 0
    for (const m of masks) {
      if (m.depth !== drawn) {
        c.far = Math.max(c.near * 1.001, m.depth)
        c.updateProjectionMatrix()
        this.drawAll(p, nearer, true)
        drawn = m.depth
      }
      this.masks.hide(this.renderer, m, nearer.target.texture, target)
    }
    c.far = far
    c.updateProjectionMatrix()
  }
  /** How many of those that hide with a soft edge hide now: the picture is drawn without them first. */
  private held = 0
  /** Where objects hide softly what is behind them, the picture with them, one after the other. */
  private drawHeldOut(p: Picture, target: THREE.WebGLRenderTarget, ends: boolean): void {
    const { shot, view } = this.now
    for (const o of this.holdOuts.of(shot, p.t)) {
      this.held++
      const held = this.heldTargets.of(p.width, p.height, p.samples, p.second)
      this.drawAll(p, held, ends)
      this.holdOuts.over(this.renderer, { objects: this.objects, camera: this.camera, view }, o, held.target.texture, target)
    }
    this.held = 0
  }
  /** What is drawn over the objects, in the order of the list of elements. */
  private partsOf(p: Picture, frame: Frame, ends: boolean, target: THREE.WebGLRenderTarget, still: THREE.WebGLRenderTarget): Parts {
    const depth = still.depthTexture as THREE.DepthTexture
    const { renderer: r, camera } = this
    const { shot, meshes, shown, machine, asker, marchesOnGpu, shutter, lens } = this.now
    const { width, height } = p
    const context: DrawContext = {
      ...{ renderer: r, camera, shot, frame, meshes, t: p.t, width, height, share: p.share, target, depth },
      ...{ machine, asker, marchesOnGpu, shutter, lens },
      front: this.front,
      sprite: (d) => this.sprites.of(shot, meshes, d),
      tufts: (system) => this.tuftLights.of(system),
      lightMaps: (around) => this.lightMaps.of(r, this.objects, shot, p.t, around),
      ends,
      depths: () => this.depths.read(r, depth, camera, [width, height], this.opaque.shapeOf(still), ends),
      near: NEAR_SHARE * Math.hypot(...p.pose.place.map((v, i) => v - p.pose.aim[i])),
      light: this.objects.firstLight(camera),
      ...this.layering.of(r, this.targets, target, depth),
    }
    this.front.set(null)
    // Of one element what it leaves behind comes first, so that it lies under the particles.
    // Of gases the farthest first.
    const far = (g: GasDoc) => -Math.hypot(...gasMiddle(shot, g, p.t, frame.parts).map((x, a) => x - p.pose.place[a]))
    const { forward } = axesOf(p.pose)
    const along = (g: GasDoc) => gasMiddle(shot, g, p.t, frame.parts).reduce((sum, x, a) => sum + (x - p.pose.place[a]) * forward[a], 0)
    const { near, far: end } = this.slab
    const gases = shot.gases.filter((g) => this.isShown(g.id) && along(g) >= near && along(g) < end).sort((a, b) => far(a) - far(b))
    const points = { ...context, share: shown }
    const systems = shot.systems.filter((s) => this.isShown(s.id))
    const withStrips = shot.objects.filter((o) => o.offspring.length && this.isShown(o.id))
    // Systems and strips that hide each other are drawn as one, and before what may lie within tufts.
    const covering = [...withStrips, ...systems].flatMap(({ id }) =>
      frame.parts.flatMap((part): Covering[] => {
        const key = partKey(part)
        const d = part.element === id ? this.drawers.get(key) : null
        if (d instanceof PointsDrawer) return d.joins(points) ? [{ key, d, c: points, tufts: !!this.tuftLights.of(id) }] : []
        return d instanceof StripsDrawer && d.joins(context) ? [{ key, d, c: context, tufts: false }] : []
      }),
    )
    const together = covering.length > 1 || covering.some((x) => x.tufts) ? covering : []
    const joined = new Set(together.map((x) => x.key))
    const drawnBy = ({ id }: { id: string }) =>
      DRAWN.flatMap((kind) =>
        partsOf(frame.parts, kind).flatMap((part): (() => void)[] => {
          const key = partKey(part)
          const d = part.element === id && !joined.has(key) && this.drawers.get(key)
          return d ? [() => d.draw(kind === 'points' ? points : context)] : []
        }),
      )
    const only = together.flatMap(({ d, c }) => (d instanceof PointsDrawer ? [{ drawer: d, c }] : []))
    const tufts = together.length > 0 && together.length === only.length && this.tuftPictures.can(only, points) ? only : null
    return { context, points, together, tufts, first: [...gases, ...withStrips].flatMap(drawnBy), after: systems.flatMap(drawnBy) }
  }
  /** What lies before and behind them. `drawn`: tufts are there already. */
  private drawParts({ context, points, together, tufts, first, after }: Parts, drawn: boolean): void {
    for (const draw of first) draw()
    if (tufts && !drawn) this.tuftPictures.draw(tufts, points)
    else if (together.length && !tufts)
      drawTogether(
        together.map(({ d, c }) => ({ open: () => d.open(c), before: (_, ...rest) => d.before(c, ...rest) })),
        points,
      )
    for (const { d, c } of together) if (d instanceof StripsDrawer) d.drawHeads(c)
    // Only what is drawn after them may lie within.
    if (after.length) this.tuftLights.inFront(context)
    for (const draw of after) draw()
    this.glows.draw(context, this.isShown)
  }
  dispose(): void {
    this.objects.dispose()
    this.layering.dispose()
    this.withDepth.dispose()
    this.targets.dispose()
    this.nearerTargets.dispose()
    this.heldTargets.dispose()
    this.opaque.dispose()
    this.holdOuts.dispose()
    this.maskedTargets.dispose()
    for (const t of this.layerTargets.values()) {
      t.own.dispose()
      t.masked.dispose()
    }
    this.glows.dispose()
    this.focus.dispose()
    this.fog.dispose()
    this.front.dispose()
    this.masks.dispose()
    this.depths.dispose()
    this.front.dispose()
    this.lightMaps.dispose()
    this.tuftLights.dispose()
    this.tuftPictures.dispose()
    this.sprites.dispose()
    this.backdrop.dispose()
  }
}
