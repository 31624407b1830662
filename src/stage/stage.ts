import * as THREE from 'three'
import { drawnByKernels, type FinishView, layersOver, litShot, type Meshes, shotPose, tieShot } from '../acts'
import {
  Asker,
  aliveIn,
  type Flame,
  type Frame,
  Heap,
  type KernelHost,
  type Machine,
  partKey,
  partsLater,
  partsOf,
  SCRATCH,
} from '../engine'
import type { BrushHit, PixelLight, PortraitView, Pose, Wanted } from '../protocol'
import { type LayerDoc, loopedTime, type Shot, timeOf } from '../shot'
import { shownOf } from './adapt'
import { bodyView } from './bodyLevels'
import { axesOf } from './camera'
import type { Drawer } from './drawer'
import { drawerOf } from './drawers'
import { looksBack, recalled } from './finish/earlier'
import { Finishing, oversOf } from './finish/picture'
import type { Unfinished } from './finish/screens'
import { Stencils } from './finish/stencils'
import { finishView } from './finish/view'
import type { GasShade } from './gasShadow'
import { Lens, lookAt } from './lens'
import type { Objects } from './objects'
import { type Lit, litBy, OutputMaker, type Outputs } from './outputs'
import { Painter } from './painter'
import { brushOn, elementAt } from './picking'
import type { Picture } from './picture'
import { portraitOf } from './portrait'
import { Probe, readBytes, readLight } from './reading'
import { askAll, SoftShade } from './softShade'

export type { Outputs, Picture }

/** Draws frames. The View and final renders use this same class; what differs is in Picture. */
export class Stage {
  readonly renderer: THREE.WebGLRenderer
  readonly camera = new THREE.PerspectiveCamera()
  /** By kind of part and element. */
  private drawers = new Map<string, Drawer>()
  private painter: Painter
  private finishing = new Finishing()
  private stencils: Stencils
  private lens = new Lens()
  private softShade = new SoftShade()
  private machine: Machine | null = null
  private asker: Asker | null = null
  private shot: Shot | null = null
  private meshes: Meshes = new Map()
  private frame: Frame | null = null

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
    this.painter = new Painter(this.renderer, this.camera, this.drawers)
    this.stencils = new Stencils(this.finishing, this.painter.masks, this.objects)
    this.renderer.outputColorSpace = THREE.LinearSRGBColorSpace
    this.renderer.toneMapping = THREE.NoToneMapping
    this.renderer.shadowMap.enabled = true
    this.renderer.shadowMap.type = THREE.PCFShadowMap
  }
  get objects(): Objects {
    return this.painter.objects
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
    this.finishing.earlier.forget()
    this.shot = shot
    this.meshes = meshes
    this.painter.setShot(shot, meshes)
    this.renderer.shadowMap.type = this.objects.softShadows ? THREE.BasicShadowMap : THREE.PCFShadowMap
    const elements = new Set([...shot.systems, ...shot.objects, ...shot.gases].map((e) => e.id))
    this.dropDrawers((key) => elements.has(key.split(' ')[1]))
  }
  private dropDrawers(keep: (key: string) => boolean): void {
    for (const [key, drawer] of this.drawers) {
      if (keep(key)) continue
      drawer.dispose()
      this.drawers.delete(key)
    }
  }
  /** Forgets the shot, and shows nothing: programs stay. */
  clear(): void {
    const { renderer: r } = this
    this.shot = null
    this.frame = null
    this.placed = 0
    this.dropDrawers(() => false)
    this.finishing.earlier.forget()
    r.setRenderTarget(null)
    r.setClearColor(0, 1)
    r.clear()
  }
  setFrame(frame: Frame): void {
    this.frame = frame
    this.objects.setPlaces(partsOf(frame.parts, 'place'))
    this.placed = 0
    const keys = new Set(frame.parts.map(partKey))
    for (const part of frame.parts) {
      const key = partKey(part)
      const drawer = this.drawers.get(key) ?? drawerOf(part)
      if (!drawer) continue
      this.drawers.set(key, drawer)
      drawer.load(part)
    }
    this.dropDrawers((key) => keys.has(key))
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
    if (!to) this.renderer.setSize(wanted.width, wanted.height, false)
    const made = this.composed(wanted)
    if (!made) return
    const { light, view, layer } = made
    this.finishing.show(this.renderer, light, layer, view, wanted.transparent, to, { marks: wanted.marks })
  }
  /** Frames that have to be remembered first, in order, so that in an exact picture nothing is missing that lingers of them. */
  lacking(p: Picture): number[] {
    const { shot, finishing } = this
    return shot && p.lingers === 'exact' && looksBack(shot) ? finishing.earlier.lacking(shot, recalled(shot, p)) : []
  }
  /** Keeps what will linger of a frame that was set, as a picture would show it that is drawn later. */
  remember(frame: number, p: Picture): void {
    const { shot } = this
    if (!shot) return
    const t = loopedTime(shot, timeOf(shot, frame))
    this.outputs({ ...p, t, frame, pose: p.through ? shotPose(shot, t) : p.pose }, { screen: false, deep: false, light: true, passes: [] })
  }
  /** The light of a picture with all its layers, before its own finishes; null without a shot. */
  private composed(wanted: Picture, lit: Lit | null = null): Unfinished | null {
    const { renderer: r } = this
    const { lens } = wanted
    if (!this.shot) return null
    this.finishing.earlier.begin(looksBack(this.shot) ? recalled(this.shot, wanted) : null)
    const look = lookAt(this.shot, wanted)
    const { p } = look
    const frame = this.frameAt(look.shutter[0])
    const stands = litShot(this.shot, p.t, this.meshes, frame?.parts ?? [])
    const shot = lit ? litBy(stands, lit) : stands
    this.setPose(p.pose, p.width / p.height)
    this.objects.setAlpha(p.transparent)
    this.objects.setFlames(this.prepared(wanted, shot))
    // Strips are thinned first.
    const shown = frame && p.share < 1 ? shownOf(p.share, aliveIn(frame)) : 1
    if (frame) this.objects.setSolids(frame, wanted.t, { strips: p.share, points: shown }, bodyView(this.camera, p.height), look.shutter[0])
    this.objects.setGasShadow(this.gasShade(shot, wanted.t))
    // Smooth and grainy pictures lie in targets of their own, so what is kept of one is never taken for the other.
    this.objects.setSmoothShadows(p.samples > 0)
    const [picture] = shot.layers
    const view = this.viewOf(p, shot)
    const layers = layersOver(shot)
    const { machine, asker, marchesOnGpu, meshes, painter } = this
    painter.begin({ ...look, lit: lit ? JSON.stringify(lit) : '', shot, meshes, view, frame, shown, machine, asker, marchesOnGpu })
    const drawing = {
      between: (near: number | null, far: number | null) => painter.between(near, far),
      layer: (layer: LayerDoc) => painter.layer(layer),
      stencil: (layer: LayerDoc, known: ReadonlyMap<string, THREE.Texture>) =>
        this.stencils.of(r, { shot, layer, camera: this.camera, view, known }),
    }
    const light = this.finishing.composed(r, oversOf(picture, layers, view), drawing, view, p.transparent, picture.id)
    if (lens !== undefined) {
      this.lens.gather(r, light, lens)
      // Whoever asks what lies under a point asks through the middle of the lens.
      this.setPose(wanted.pose, p.width / p.height)
      this.frameAt(0)
    }
    const over = this.finishing.earlier.crossed(r, light)
    return {
      light: over,
      values: lens === undefined ? painter.valuesOf(over) : null,
      view: lens === undefined ? view : this.viewOf(wanted, shot),
      layer: picture,
    }
  }
  /** The frame within the time of an open shutter: what the simulation moves has gone on. */
  private frameAt(ahead: number): Frame | null {
    const { frame } = this
    if (!frame || !partsOf(frame.parts, 'place').length) return frame
    const parts = ahead ? partsLater(frame.parts, ahead) : frame.parts
    if (ahead !== this.placed) this.objects.setPlaces(partsOf(parts, 'place'))
    this.placed = ahead
    return ahead ? { ...frame, parts } : frame
  }
  /** So many seconds after the frame the objects stand. */
  private placed = 0
  /** Light of a picture before and after its own finishes, RGBA with premultiplied alpha, the top row first. */
  scope(p: Picture): { before: Float32Array; after: Float32Array } | null {
    const made = this.composed(p)
    if (!made) return null
    const { width, height } = p
    return {
      before: readLight(this.renderer, width, height, (to) => this.finishing.run(this.renderer, made.light, [], to)),
      after: readLight(this.renderer, width, height, (to) =>
        this.finishing.finished(this.renderer, made.light, made.layer, made.view, p.transparent, to),
      ),
    }
  }
  private probe = new Probe()
  /** Light of one pixel (from the lower left). `key`: what the picture depends on; while it stays the picture is not drawn again. */
  values(p: Picture, key: string, x: number, y: number): PixelLight | null {
    const { renderer: r, finishing } = this
    const draw = (before: THREE.WebGLRenderTarget, after: THREE.WebGLRenderTarget): boolean => {
      const made = this.composed(p)
      if (!made) return false
      finishing.run(r, made.light, [], before)
      finishing.finished(r, made.light, made.layer, made.view, p.transparent, after)
      return true
    }
    return this.probe.at(r, key, [p.width, p.height], draw, x, y)
  }
  private maker = new OutputMaker()
  /** Everything that files are made of, of one picture, gathered through the open lens and shutter. */
  outputs(p: Picture, want: Wanted): Outputs {
    const { shot, renderer, finishing, camera, objects, meshes, frame, painter } = this
    if (!shot) return {}
    const drawn = {
      ...{
        renderer,
        finishing,
        camera,
        objects,
        shot,
        meshes,
        frame,
        machine: this.marchesOnGpu || !drawnByKernels(shot) ? null : this.machine,
      },
      get around() {
        return painter.around
      },
      composed: (x: Picture, lit?: Lit) => this.composed(x, lit),
      setPose: (pose: Pose, aspect: number) => this.setPose(pose, aspect),
    }
    return this.maker.of(drawn, p, want)
  }
  private viewOf(p: Pick<Picture, 't' | 'pose' | 'width' | 'height'>, shot: Shot): FinishView {
    const { t, pose, width, height } = p
    return finishView({ shot, meshes: this.meshes, parts: this.frame?.parts ?? [], t, pose, width, height })
  }
  /** Makes ready what dims light softly; the glow of it as lights. */
  private prepared({ t, share }: Picture, shot: Shot): Flame[] {
    const { machine, frame, meshes } = this
    if (!machine || !frame) return []
    if (this.asker) askAll(this.asker, shot, frame, meshes, t)
    this.painter.tuftLights.prepare({ machine, shot, frame, meshes, t, share })
    return [...this.drawers.values()].flatMap((d) => d.prepare?.({ machine, shot, frame, meshes, t, share }) ?? [])
  }
  /** The shadow of all that dims light softly, on the objects. */
  private gasShade(shot: Shot, t: number): GasShade | null {
    const { frame } = this
    return this.machine && frame ? this.softShade.of([...this.drawers.values()], this.painter.tuftLights, shot, t, frame.parts) : null
  }
  /** Draws and reads back straight-alpha RGBA, top row first. */
  read(p: Picture): Uint8Array {
    return readBytes(this.renderer, p.width, p.height, (to) => this.draw(p, to))
  }
  /** One object alone, small, on nothing, as a column of the board sees it; null when it has no geometry. */
  portrait(element: string, view: PortraitView, region: string | null, width: number, height: number): Uint8Array | null {
    const { shot, meshes, frame, objects, renderer: r } = this
    const p = shot && portraitOf({ shot, meshes, frame, objects }, element, view, region, width / height)
    if (!p) return null
    const linear = new THREE.WebGLRenderTarget(width, height, { type: THREE.HalfFloatType, samples: 4 })
    try {
      return readBytes(r, width, height, (to) => {
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
  /** After the graphics context was lost: what was drawn once and kept is made again. */
  forget(): void {
    this.painter.backdrop.forget()
  }
  /** Whether the last picture lacks a plate that is still being decoded. */
  get waits(): boolean {
    return this.painter.backdrop.waits
  }
  /** Until all pictures that the shot shows at a moment are decoded. */
  async ready(t: number): Promise<void> {
    await this.objects.textures.ready()
    if (this.shot) await this.painter.backdrop.ready(this.shot, this.meshes, t)
  }
  /** Milliseconds that the finishes of the picture take with what makes screen values, round by round: for measurements. */
  finishMs(p: Picture, rounds: number): number[] {
    const made = this.composed(p)
    if (!made) return []
    const to = new THREE.WebGLRenderTarget(p.width, p.height, { depthBuffer: false })
    const out: number[] = []
    for (let k = 0; k < rounds; k++) {
      this.finish()
      const start = performance.now()
      this.finishing.show(this.renderer, made.light, made.layer, made.view, p.transparent, to)
      this.renderer.readRenderTargetPixels(to, 0, 0, 1, 1, new Uint8Array(4))
      out.push(performance.now() - start)
    }
    to.dispose()
    return out
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
    this.painter.dispose()
    this.stencils.dispose()
    this.finishing.dispose()
    this.maker.dispose()
    this.probe.dispose()
    this.lens.dispose()
    this.renderer.dispose()
  }
}
