import * as THREE from 'three'
import { drawsOf, type FinishView, gasMiddle, litShot, type Meshes, shotPose, tieShot } from '../acts'
import { Asker, aliveIn, type Flame, type Frame, Heap, type KernelHost, type Machine, partKey, partsOf, SCRATCH } from '../engine'
import type { BrushHit, PortraitView, Pose } from '../protocol'
import type { GasDoc, Shot } from '../shot'
import { shownOf } from './adapt'
import { Backdrop } from './backdrop'
import { bodyView } from './bodyLevels'
import { axesOf } from './camera'
import { Depths } from './depths'
import type { DrawContext, Drawer } from './drawer'
import { drawerOf } from './drawers'
import { bendsOf, Finishing } from './finish/picture'
import { finishView } from './finish/view'
import { Front } from './front'
import type { GasShade } from './gasShadow'
import { Glows } from './glows'
import { depthPass, Layering } from './layering'
import { Lens, throughLens } from './lens'
import { LightMaps } from './lightMaps'
import { Masks } from './masks'
import { Objects } from './objects'
import { brushOn, elementAt } from './picking'
import { PointsDrawer } from './points'
import { portraitOf } from './portrait'
import { askAll, SoftShade } from './softShade'
import { Sprites } from './sprites'
import { Targets } from './targets'
import { drawTogether } from './together'
import { TuftLights } from './tuftLights'

export interface Picture {
  /** seconds from the first frame */
  t: number
  pose: Pose
  width: number
  height: number
  /** Part of the particles that is drawn, 0 to 1, picked by hash. */
  share: number
  /** Samples per pixel at the edges of objects. */
  samples: number
  transparent: boolean
  /** Through the shot's camera: with the plate behind it. */
  through?: boolean
  /** Of another view that is drawn by turns with the first. */
  second?: boolean
  /** From one place of the lens: its picture is gathered with those from the places before. Without: all is sharp. */
  lens?: number
  /** With what only the View shows: wires, boxes, the chosen region. */
  editing?: boolean
}
/** Kinds of part that are drawn over the objects, in their order. */
const DRAWN = ['volume', 'strips', 'points'] as const
/** Particles nearer to the lens than this share of the way to its aim fade. */
const NEAR_SHARE = 0.06

/** Draws frames. The View and final renders use this same class; what differs is in Picture. */
export class Stage {
  readonly renderer: THREE.WebGLRenderer
  readonly objects = new Objects()
  readonly camera = new THREE.PerspectiveCamera()
  /** By kind of part and element. */
  private drawers = new Map<string, Drawer>()
  private finishing = new Finishing()
  private layering = new Layering()
  private targets = new Targets()
  private glows = new Glows()
  private lens = new Lens()
  private masks = new Masks()
  private maskedTargets = new Targets()
  private nearerTargets = new Targets()
  private depths = new Depths()
  private front = new Front()
  private lightMaps = new LightMaps()
  private tuftLights = new TuftLights()
  private softShade = new SoftShade()
  private sprites = new Sprites(this.objects.textures)
  private backdrop = new Backdrop(() => this.objects.pictureCame())
  private machine: Machine | null = null
  private asker: Asker | null = null
  private withDepth = depthPass(true)
  private shot: Shot | null = null
  private meshes: Meshes = new Map()
  private frame: Frame | null = null
  /** What of the objects each target holds. */
  private drawn = new WeakMap<THREE.WebGLRenderTarget, string>()

  constructor(canvas: HTMLCanvasElement | OffscreenCanvas) {
    this.renderer = new THREE.WebGLRenderer({
      canvas,
      antialias: false,
      alpha: false,
      stencil: false,
      depth: false,
      powerPreference: 'high-performance',
    })
    this.marchesOnGpu = !this.software
    this.renderer.autoClear = false
    this.objects.setBackdrop(this.backdrop.group)
    this.renderer.outputColorSpace = THREE.LinearSRGBColorSpace
    this.renderer.toneMapping = THREE.NoToneMapping
    this.renderer.shadowMap.enabled = true
    this.renderer.shadowMap.type = THREE.PCFShadowMap
  }
  /** Whether the browser draws without a GPU: previews then begin at a lower scale. */
  get software(): boolean {
    const gl = this.renderer.getContext()
    const info = gl.getExtension('WEBGL_debug_renderer_info')
    return info ? /swiftshader|llvmpipe|software/i.test(String(gl.getParameter(info.UNMASKED_RENDERER_WEBGL))) : false
  }
  /** Whether gases are marched through by a shader; kernels do it where there is no GPU. */
  marchesOnGpu = false
  /** Kernels that compute pictures; without them gases are not drawn. `limitBytes`: the most memory they may take. */
  setKernels(host: KernelHost, limitBytes: number): void {
    const heap = new Heap(host.memory, limitBytes)
    this.machine = { heap, host, scratch: heap.take(SCRATCH.bytes * host.team.threads) }
    this.asker = new Asker(this.machine)
  }
  get hasKernels(): boolean {
    return this.machine !== null
  }
  setShot(shot: Shot, meshes: Meshes): void {
    tieShot(shot)
    this.shot = shot
    this.meshes = meshes
    this.objects.load(shot, meshes)
    this.renderer.shadowMap.type = this.objects.softShadows ? THREE.BasicShadowMap : THREE.PCFShadowMap
    // Pictures of particles are decoded from now on, so that whoever waits for pictures waits for these too.
    for (const s of shot.systems) for (const { sprite } of drawsOf(shot, s, 0)) if (sprite) this.sprites.of(shot, meshes, sprite)
    const elements = new Set([...shot.systems, ...shot.objects, ...shot.gases].map((e) => e.id))
    for (const [key, drawer] of this.drawers) {
      if (elements.has(key.split(' ')[1])) continue
      drawer.dispose()
      this.drawers.delete(key)
    }
  }
  setFrame(frame: Frame): void {
    this.frame = frame
    this.objects.setPlaces(partsOf(frame.parts, 'place'))
    for (const part of frame.parts) {
      const key = partKey(part)
      const drawer = this.drawers.get(key) ?? drawerOf(part)
      if (!drawer) continue
      this.drawers.set(key, drawer)
      drawer.load(part)
    }
  }
  setPose(pose: Pose, aspect: number): void {
    const { up } = axesOf(pose)
    const c = this.camera
    c.fov = (2 * Math.atan(18 / pose.lens / aspect) * 180) / Math.PI
    c.aspect = aspect
    const distance = Math.hypot(...pose.place.map((v, i) => v - pose.aim[i]))
    c.near = Math.max(0.01, Math.min(0.1, distance / 100))
    c.far = Math.max(500, distance * 20)
    c.position.set(...pose.place)
    c.up.set(...up)
    c.lookAt(...pose.aim)
    if (pose.shift) c.setViewOffset(2 * aspect, 2, pose.shift[0] * aspect, -pose.shift[1], 2 * aspect, 2)
    else c.clearViewOffset()
    c.updateProjectionMatrix()
    c.updateMatrixWorld()
  }
  /** Draws into the canvas, which takes the picture's size. */
  draw(wanted: Picture, to: THREE.WebGLRenderTarget | null = null): void {
    const { frame, renderer: r } = this
    const { lens } = wanted
    const p = lens === undefined ? wanted : { ...wanted, pose: throughLens(wanted.pose, lens, wanted.width / wanted.height) }
    if (!this.shot) return
    const shot = litShot(this.shot, p.t, this.meshes, frame?.parts ?? [])
    if (!to) r.setSize(p.width, p.height, false)
    this.setPose(p.pose, p.width / p.height)
    this.objects.setAlpha(p.transparent)
    this.objects.setFlames(this.prepared(p, shot))
    // Strips are thinned first.
    const shown = frame && p.share < 1 ? shownOf(p.share, aliveIn(frame)) : 1
    if (frame) this.objects.setSolids(frame, p.t, { strips: p.share, points: shown }, bodyView(this.camera, p.height))
    this.objects.setGasShadow(this.gasShade(shot, p.t))
    // Smooth and grainy pictures lie in targets of their own, so what is kept of one is never taken for the other.
    this.objects.setSmoothShadows(p.samples > 0)
    const [picture] = shot.layers
    const view = this.viewOf(p, shot)
    const light = this.finishing.bent(
      r,
      bendsOf(picture, view),
      (near, far) => this.drawSlab(p, shot, shown, near, far),
      view,
      p.transparent,
    )
    if (lens !== undefined) {
      this.lens.gather(r, light, lens)
      // Whoever asks what lies under a point asks through the middle of the lens.
      this.setPose(wanted.pose, p.width / p.height)
    }
    this.finishing.show(r, light.texture, picture, lens === undefined ? view : this.viewOf(wanted, shot), p.transparent, to)
  }
  private viewOf(p: Pick<Picture, 't' | 'pose' | 'width' | 'height'>, shot: Shot): FinishView {
    const { t, pose, width, height } = p
    return finishView({ shot, meshes: this.meshes, parts: this.frame?.parts ?? [], t, pose, width, height })
  }
  /** What lies between two depths along the way, m; behind the farthest lies what is behind everything. */
  private drawSlab(p: Picture, shot: Shot, shown: number, near: number | null, far: number | null): THREE.WebGLRenderTarget {
    const c = this.camera
    const usual = [c.near, c.far]
    if (near !== null) c.near = Math.max(usual[0], near)
    if (far !== null) c.far = Math.max(c.near * 1.001, far)
    c.updateProjectionMatrix()
    const slab = far === null ? p : { ...p, transparent: true }
    this.objects.setAlpha(slab.transparent)
    const targets = (far === null ? this.targets : this.nearerTargets).of(p.width, p.height, p.samples, p.second)
    this.between = [near ?? Number.NEGATIVE_INFINITY, far ?? Number.POSITIVE_INFINITY]
    this.drawAll(slab, shot, shown, targets, far !== null)
    if (p.through) this.drawMasked(slab, shot, shown, targets.target)
    ;[c.near, c.far] = usual
    c.updateProjectionMatrix()
    this.objects.setAlpha(p.transparent)
    return targets.target
  }
  /** A gas is drawn whole, where its middle is. */
  private between: [number, number] = [Number.NEGATIVE_INFINITY, Number.POSITIVE_INFINITY]
  private drawAll(p: Picture, shot: Shot, shown: number, { target, still }: ReturnType<Targets['of']>, ends = false): void {
    this.drawObjects(p, shot, still)
    this.withDepth.set({ source: still.texture, depth: still.depthTexture }).run(this.renderer, target)
    if (this.frame) this.drawParts(p, { shown, ends }, shot, this.frame, target, still)
  }
  /** Where drawn masks lie, only what is nearer than they are. */
  private drawMasked(p: Picture, shot: Shot, shown: number, target: THREE.WebGLRenderTarget): void {
    const masks = this.masks.of(shot, p.t, p.width, p.height)
    if (!masks.length) return
    const c = this.camera
    const { far } = c
    const nearer = this.maskedTargets.of(p.width, p.height, p.samples, p.second)
    let drawn = 0
    for (const m of masks) {
      if (m.depth !== drawn) {
        c.far = Math.max(c.near * 1.001, m.depth)
        c.updateProjectionMatrix()
        this.drawAll(p, shot, shown, nearer, true)
        drawn = m.depth
      }
      this.masks.hide(this.renderer, m, nearer.target.texture, target)
    }
    c.far = far
    c.updateProjectionMatrix()
  }
  /** Makes ready what dims light softly; the glow of it as lights. */
  private prepared({ t, share }: Picture, shot: Shot): Flame[] {
    const { machine, frame, meshes } = this
    if (!machine || !frame) return []
    if (this.asker) askAll(this.asker, shot, frame, meshes, t)
    this.tuftLights.prepare({ machine, shot, frame, meshes, t, share })
    return [...this.drawers.values()].flatMap((d) => d.prepare?.({ machine, shot, frame, meshes, t, share }) ?? [])
  }
  /** The shadow of all that dims light softly, on the objects. */
  private gasShade(shot: Shot, t: number): GasShade | null {
    const { frame } = this
    return this.machine && frame ? this.softShade.of([...this.drawers.values()], this.tuftLights, shot, t, frame.parts) : null
  }
  /** What is opaque, with its depth. Colour and depth of what has not changed since the last picture of the size are kept: exact, and nothing to do. */
  private drawObjects(p: Picture, shot: Shot, target: THREE.WebGLRenderTarget): void {
    const r = this.renderer
    const { scene } = this.objects
    const { meshes } = this
    const { t, width, height, transparent } = p
    const behind = this.backdrop.set(r, scene, { shot, meshes, t, width, height, transparent, through: !!p.through })
    const moved = this.objects.place(t, shot.lights, { editing: p.editing, around: behind.around, camera: this.camera })
    for (const l of scene.children)
      if (moved && 'shadow' in l && (l as THREE.SpotLight).castShadow) (l as THREE.SpotLight).shadow.needsUpdate = true
    const { place, aim, lens, roll = 0, shift = [0, 0] } = p.pose
    const state = `${this.objects.stateAt(t)} ${behind.state} ${place} ${aim} ${lens} ${roll} ${shift} ${!!p.editing} ${transparent} ${this.camera.near} ${this.camera.far}`
    if (this.drawn.get(target) === state) return
    this.drawn.set(target, state)
    r.setRenderTarget(target)
    if (p.transparent) r.setClearColor(0, 0)
    else r.setClearColor(new THREE.Color().setRGB(...shot.surroundings.colour), 1)
    // By the renderer itself: what is seen through clear objects is cleared by it too, else with what shadow maps begin with.
    r.autoClear = true
    r.render(this.objects.scene, this.camera)
    r.autoClear = false
  }
  /** What lies before and behind them, in the order of the list of elements. */
  private drawParts(
    p: Picture,
    { shown, ends }: { shown: number; ends: boolean },
    shot: Shot,
    frame: Frame,
    target: THREE.WebGLRenderTarget,
    still: THREE.WebGLRenderTarget,
  ): void {
    const depth = still.depthTexture as THREE.DepthTexture
    const { renderer: r, camera } = this
    const { width, height } = p
    const context: DrawContext = {
      ...{ renderer: r, camera, shot, frame, meshes: this.meshes, t: p.t, width, height, share: p.share, target, depth },
      ...{ machine: this.machine, asker: this.asker, marchesOnGpu: this.marchesOnGpu },
      front: this.front,
      sprite: (d) => this.sprites.of(shot, this.meshes, d),
      tufts: (system) => this.tuftLights.of(system),
      lightMaps: (around) => this.lightMaps.of(r, this.objects, shot, p.t, around),
      ends,
      depths: () => this.depths.read(r, depth, camera, [width, height], `${this.drawn.get(still)}`, ends),
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
    const [near, end] = this.between
    const gases = shot.gases.filter((g) => along(g) >= near && along(g) < end).sort((a, b) => far(a) - far(b))
    const points = { ...context, share: shown }
    const draw = (id: string, kinds: readonly (typeof DRAWN)[number][] = DRAWN) => {
      for (const kind of kinds)
        for (const part of partsOf(frame.parts, kind))
          if (part.element === id) this.drawers.get(partKey(part))?.draw(kind === 'points' ? points : context)
    }
    for (const { id } of [...gases, ...shot.objects.filter((o) => o.offspring.length)]) draw(id)
    // Systems that hide each other are drawn as one, and before what may lie within tufts.
    const covering = shot.systems.flatMap(({ id }) => {
      const d = this.drawers.get(`points ${id}`)
      return d instanceof PointsDrawer && d.joins(points) ? [{ id, d }] : []
    })
    const together = covering.length > 1 || covering.some((x) => this.tuftLights.of(x.id)) ? covering : []
    const drawers = together.map((x) => x.d)
    drawTogether(drawers, points)
    this.tuftLights.inFront(context)
    for (const { id } of shot.systems) draw(id, together.some((x) => x.id === id) ? ['strips'] : DRAWN)
    this.glows.draw(context)
  }
  /** Draws and reads back straight-alpha RGBA, top row first. */
  read(p: Picture): Uint8Array {
    return this.readBack(p.width, p.height, (to) => this.draw(p, to))
  }
  /** The same as the camera's open lens draws it: from all places of it. */
  readThroughLens(p: Picture): Uint8Array {
    const many = p.pose.blur?.samples ?? 0
    if (!many) return this.read(p)
    return this.readBack(p.width, p.height, (to) => {
      for (let lens = 0; lens < many; lens++) this.draw({ ...p, lens }, to)
    })
  }
  /** One object alone, small, on nothing, as a column of the board sees it; null when it has no geometry. */
  portrait(element: string, view: PortraitView, region: string | null, width: number, height: number): Uint8Array | null {
    const { shot, meshes, frame, objects, renderer: r } = this
    const p = shot && portraitOf({ shot, meshes, frame, objects }, element, view, region, width / height)
    if (!p) return null
    const linear = new THREE.WebGLRenderTarget(width, height, { type: THREE.HalfFloatType, samples: 4 })
    try {
      return this.readBack(width, height, (to) => {
        r.setRenderTarget(linear)
        r.setClearColor(0, 0)
        r.clear()
        r.render(p.scene, p.camera)
        this.finishing.show(r, linear.texture, undefined, this.viewOf({ t: 0, pose: shotPose(shot, 0), width, height }, shot), true, to)
      })
    } finally {
      linear.dispose()
      p.dispose()
    }
  }
  private readBack(width: number, height: number, draw: (to: THREE.WebGLRenderTarget) => void): Uint8Array {
    const to = new THREE.WebGLRenderTarget(width, height, { type: THREE.UnsignedByteType, depthBuffer: false })
    try {
      draw(to)
      const upside = new Uint8Array(width * height * 4)
      this.renderer.readRenderTargetPixels(to, 0, 0, width, height, upside)
      const out = new Uint8Array(upside.length)
      const row = width * 4
      for (let y = 0; y < height; y++) out.set(upside.subarray((height - 1 - y) * row, (height - y) * row), y * row)
      return out
    } finally {
      to.dispose()
    }
  }
  /** After the graphics context was lost: what was drawn once and kept is made again. */
  forget(): void {
    this.backdrop.forget()
  }
  /** Whether the last picture lacks a plate that is still being decoded. */
  get waits(): boolean {
    return this.backdrop.waits
  }
  /** Until all pictures that the shot shows at a moment are decoded. */
  async ready(t: number): Promise<void> {
    await this.objects.textures.ready()
    if (this.shot) await this.backdrop.ready(this.shot, this.meshes, t)
  }
  /** Waits for the GPU, so that a measured time is a real one. */
  finish(): void {
    const gl = this.renderer.getContext() as WebGL2RenderingContext
    gl.readPixels(0, 0, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, new Uint8Array(4))
  }
  /** The element under a point of the picture (−1…1, y up), or null. */
  pick(x: number, y: number, aspect: number): string | null {
    const { shot, objects, camera, meshes, frame } = this
    return shot && elementAt({ objects, camera, shot, meshes, frame }, x, y, aspect)
  }
  brush(id: string, x: number, y: number): BrushHit | null {
    return brushOn(this.objects, this.camera, id, x, y)
  }
  dispose(): void {
    for (const d of this.drawers.values()) d.dispose()
    this.drawers.clear()
    this.objects.dispose()
    this.finishing.dispose()
    this.layering.dispose()
    this.withDepth.dispose()
    this.targets.dispose()
    this.nearerTargets.dispose()
    this.glows.dispose()
    this.lens.dispose()
    this.masks.dispose()
    this.maskedTargets.dispose()
    this.depths.dispose()
    this.front.dispose()
    this.lightMaps.dispose()
    this.tuftLights.dispose()
    this.sprites.dispose()
    this.backdrop.dispose()
    this.renderer.dispose()
  }
}
