import { aroundOf, drawnByKernels } from '../acts'
import type { Frame, Mesh } from '../engine'
import { aliveIn, drawnIn, partsOf } from '../engine'
import { browserKernels } from '../machines/browser'
import { WORLD_BYTES } from '../machines/instantiate'
import {
  type Drawn,
  type FromStage,
  outcomeOf,
  type Pose,
  type SimToStage,
  type StageRequest,
  type StageToSim,
  type ToStage,
} from '../protocol'
import { looksOfPose, loopedTime, type Shot, timeOf, withoutDetail } from '../shot'
import { Adapt, type Quality } from './adapt'
import { answerOf, type Host } from './answers'
import { shotPose } from './camera'
import { objectsAlone, warmUp } from './firstPictures'
import { withSameParts } from './sameParts'
import { SecondPainter } from './secondPainter'
import { type Picture, Stage } from './stage'
import { looksSame } from './visible'
import { loseContext, whenLost } from './whenLost'
import { whenShown } from './whenShown'

/** A picture that stands still is drawn again at full quality after this. */
const STILL_MS = 120
/** What was played last is on the screen already: when it stops, only the sharp picture is missing. */
const STOPPED_MS = 30
/** A first picture waits so long for what lies behind it; later it is drawn without, and again when that is there. */
const PLATE_MS = 3000
const FULL: Quality = { scale: 1, share: 1 }

/** The stage behind a View: takes shots, frames and views as they come, draws the newest state, and answers the page. */
export class StageHost {
  private stage: Stage | null = null
  private adapt = new Adapt(16, 0)
  private shot: Shot | null = null
  private meshes = new Map<string, Mesh>()
  private shown: Omit<Extract<SimToStage, { type: 'frame' }>, 'type'> | null = null
  private view: { pose: Pose | null; width: number; height: number } = { pose: null, width: 0, height: 0 }
  private second = new SecondPainter()
  private revision = 0
  private lastDrawn: Drawn | null = null
  private moving = false
  private contextLost = false
  private redrawQueued = false
  private settling: ReturnType<typeof setTimeout> | null = null

  constructor(private post: (m: FromStage, transfer?: Transferable[]) => void) {}

  receive(m: Exclude<ToStage, { type: 'again' }>): void {
    switch (m.type) {
      case 'init':
        this.kernels = m
        this.init(m.canvas, m.sim)
        return
      case 'ahead':
        if (this.shot) return
        this.setShot(withoutDetail(m.shot))
        if (this.stage) warmUp(this.stage, m.shot)
        return
      case 'shot':
        this.revision = m.revision
        this.setShot(m.shot)
        return
      case 'view':
        this.revision = m.revision
        this.view = m
        this.touch()
        return
      case 'second':
        this.revision = m.revision
        this.second.take(m.view, m.canvas)
        this.touch()
        return
      case 'moving':
        this.moving = m.moving
        if (!m.moving) this.settle(STOPPED_MS)
        return
      case 'region':
        this.revision = m.revision
        this.stage?.objects.showRegion(m.object, m.region)
        this.touch()
        return
      case 'marks':
        this.revision = m.revision
        this.marks = m.on
        this.touch()
        return
      case 'objects':
        this.paintObjects()
        return
      case 'ask':
        void this.answer(m.id, m.request)
        return
      case 'lose':
        if (this.stage) loseContext(this.stage)
    }
  }
  /** Gases are drawn by kernels; the first one brings them in, and is drawn when they are there. */
  private bringKernels(): Promise<void> {
    this.kernelsComing ??= this.fetchKernels()
    return this.kernelsComing
  }
  private async fetchKernels(): Promise<void> {
    const { stage, kernels } = this
    if (!stage || !kernels) return
    try {
      const { host } = await browserKernels(kernels.wasm, kernels.threads)
      stage.setKernels(host, WORLD_BYTES)
      this.touch()
    } catch (error) {
      this.post({ type: 'failed', message: `gases cannot be drawn: ${error instanceof Error ? error.message : error}` })
    }
  }
  private kernelsComing: Promise<void> | null = null
  private sim: MessagePort | null = null
  private marks = false
  private kernels: { wasm: string; threads: number } | null = null
  private init(canvas: OffscreenCanvas, sim: MessagePort): void {
    try {
      this.stage = new Stage(canvas)
    } catch (error) {
      const message = `this browser cannot draw with WebGL 2: ${error instanceof Error ? error.message : error}`
      this.post({ type: 'failed', message })
      return
    }
    this.serve(this.stage, sim)
  }
  /** Another, which draws the next shot with the stage of this one; this one draws nothing any more. */
  again(sim: MessagePort): StageHost {
    const next = new StageHost(this.post)
    const { stage } = this
    // What it was still about to say is of a shot that nobody looks at.
    this.post = () => {}
    this.stage = null
    this.listening.abort()
    this.sim?.close()
    next.kernels = this.kernels
    next.kernelsComing = this.kernelsComing
    if (!stage) return next
    void next.kernelsComing?.then(() => next.touch())
    stage.clear()
    next.stage = stage
    next.serve(stage, sim)
    return next
  }
  private listening = new AbortController()
  private serve(stage: Stage, sim: MessagePort): void {
    this.sim = sim
    stage.objects.onPicture = () => this.touch()
    this.adapt = stage.software ? new Adapt(105, 2) : new Adapt(14, 0)
    whenLost(stage, this.listening.signal, (isLost) => {
      this.contextLost = isLost
      // What was drawn is gone.
      if (isLost && this.lastDrawn) this.report({ ...this.lastDrawn, ready: false })
      if (!isLost && this.shot) stage.setShot(this.shot, this.meshes)
      this.post({ type: 'context', lost: isLost })
      if (!isLost) this.redraw()
    })
    sim.onmessage = (e: MessageEvent<SimToStage>) => this.receiveFrame(e.data)
    this.post({ type: 'ready', software: stage.software, build: process.env.EMBER_BUILD ?? '' })
  }
  private receiveFrame(m: SimToStage): void {
    switch (m.type) {
      case 'meshes':
        for (const [hash, mesh] of m.meshes) this.meshes.set(hash, mesh)
        if (this.shot) this.stage?.setShot(this.shot, this.meshes)
        this.touch()
        return
      case 'stale':
        if (this.shown) this.shown.ready = false
        return
      case 'frame':
        this.shown = m
        this.stage?.setFrame(m.frame)
        this.touch()
        return
      case 'beside':
        this.second.baked = m.frame
        this.touch()
        return
      case 'earlier':
        for (const give of this.waiting.splice(0)) if (!give(m.frame)) this.waiting.push(give)
        void this.remember(m.frame)
        return
    }
  }
  /** Of which frames something lingers in the picture that stands still, as yet not drawn. */
  private lacking: { run: number; picture: Picture; frame: number } | null = null
  /** Frames that were drawn for it already: of a layer that is not seen nothing is kept, and it is not asked for again. */
  private tried = { run: -1, frames: new Set<number>() }
  private askEarlier(picture: Picture): boolean {
    if (this.tried.run !== this.lensRun) this.tried = { run: this.lensRun, frames: new Set() }
    const frame = this.stage?.lacking(picture).find((f) => !this.tried.frames.has(f))
    this.lacking = frame === undefined ? null : { run: this.lensRun, picture, frame }
    if (frame !== undefined) this.sim?.postMessage({ type: 'earlier', frame } satisfies StageToSim)
    return frame !== undefined
  }
  private async remember(frame: Frame): Promise<void> {
    const { stage, lacking, shot, shown } = this
    if (!stage || !shot || !shown || lacking?.frame !== frame.frame) return
    await stage.ready(loopedTime(shot, timeOf(shot, frame.frame)))
    if (lacking !== this.lacking || lacking.run !== this.lensRun || !this.isSettled || this.contextLost) return
    this.tried.frames.add(frame.frame)
    stage.setFrame(frame)
    stage.remember(frame.frame, lacking.picture)
    stage.setFrame(shown.frame)
    if (!this.askEarlier(lacking.picture)) this.paint(FULL)
  }
  private setShot(sent: Shot): void {
    const before = this.shot
    const next = withSameParts(before, sent)
    this.shot = next
    if (before && looksSame(before, next)) {
      // The picture that is there is that of this shot too, unless another is on its way.
      if (this.lastDrawn && !this.redrawQueued && !this.contextLost) {
        const { lens } = this.lastDrawn
        const whole = !lens || lens.done >= lens.of
        this.report({ ...this.lastDrawn, ready: this.isReady && !this.stage?.waits && whole, revision: this.revision })
      }
      return
    }
    if (drawnByKernels(next)) void this.bringKernels()
    this.stage?.setShot(next, this.meshes)
    this.touch()
  }
  /** A change that may be one of many: draws quickly now and sharpens when nothing follows. */
  private touch(): void {
    this.settle(STILL_MS)
    this.redraw()
  }
  private settle(ms: number): void {
    if (this.settling) clearTimeout(this.settling)
    this.settling = setTimeout(() => {
      this.settling = null
      // A picture that is out of date is about to be replaced; the time is better spent on computing the new one.
      if (!this.moving && this.isReady) this.redraw()
    }, ms)
  }
  private redraw(): void {
    // What was gathered through the lens is of a picture before.
    this.lensAt = 0
    this.lensRun++
    if (this.redrawQueued) return
    this.redrawQueued = true
    // After all messages that are waiting: only the newest state is drawn.
    setTimeout(async () => {
      this.redrawQueued = false
      // Nobody has seen an exact frame yet: the first picture of one is sharp at once, and with the plate behind it.
      const opening = !this.wasReady && !this.moving && this.isReady
      if (opening && this.settling) {
        clearTimeout(this.settling)
        this.settling = null
      }
      const { stage, shot, shown } = this
      if (opening && stage && shot && shown) {
        const run = this.lensRun
        const late = new Promise((done) => setTimeout(done, PLATE_MS))
        await Promise.race([stage.ready(loopedTime(shot, timeOf(shot, shown.frame.frame))).catch(() => {}), late])
        if (run !== this.lensRun) return
      }
      // Without a GPU a sharp picture of a frame that is about to be replaced keeps that one waiting for seconds.
      const passing = this.stage?.software && !this.shown?.ready
      this.paint(this.isSettled && !passing ? FULL : this.adapt.moving)
    }, 0)
  }
  private wasReady = false
  private lensAt = 0
  private lensRun = 0
  /** The next place of the lens, unless something has changed by then. */
  private goOn(): void {
    const run = this.lensRun
    setTimeout(() => {
      if (run !== this.lensRun || !this.isSettled || !this.isReady) return
      this.lensAt++
      this.paint(FULL)
    }, 0)
  }
  private get isSettled(): boolean {
    return !this.moving && this.settling === null
  }
  /** Objects alone, while the first frame is on its way: nothing of it counts as a picture of the shot. */
  private paintObjects(): void {
    const { stage, shot, shown, view } = this
    if (!stage || !shot || shown || this.contextLost || view.width < 2 || view.height < 2) return
    try {
      objectsAlone(stage, shot, view)
    } catch (error) {
      this.post({ type: 'failed', message: `drawing failed: ${error instanceof Error ? error.message : error}` })
    }
  }
  /** Whether a picture shows the exact frame, and all of it: a gas that waits for its kernels is not in it, nor light whose file is on its way. */
  private get isReady(): boolean {
    const { shot } = this
    if (!this.shown?.ready || (shot && drawnByKernels(shot) && !this.stage?.hasKernels)) return false
    const light = shot && aroundOf(shot)?.asset
    return !light || this.meshes.has(light)
  }
  private paint(q: Quality): void {
    const { stage, shot, shown, view, revision } = this
    if (!stage || !shot || !shown || this.contextLost) return
    if (view.width < 2 || view.height < 2) return
    // A first picture without its gases would only be drawn again: it waits for their kernels.
    if (!this.lastDrawn && drawnByKernels(shot) && !stage.hasKernels) return
    const { frame, serial, sketch } = shown
    let ready = this.isReady
    const t = timeOf(shot, frame.frame)
    const width = Math.max(2, Math.round(view.width * q.scale))
    const height = Math.max(2, Math.round(view.height * q.scale))
    const samples = q.scale === 1 && q.share === 1 && this.isSettled ? 4 : 0
    const start = performance.now()
    const common = { t, share: q.share, samples, transparent: false, editing: true, marks: this.marks }
    const pose = view.pose ?? shotPose(shot, t)
    // A still picture is gathered through the open lens and the open shutter, look by look; the first is through the middle of the lens.
    const looks = looksOfPose(pose)
    const many = samples && ready && looks > 1 ? looks : 0
    const lens = many ? { lens: this.lensAt } : {}
    const picture: Picture = { ...common, pose, width, height, through: !view.pose }
    const isExact = ready && samples > 0
    try {
      if (!lens.lens) this.second.paint(stage, shot, frame, q, common)
      // What lingers in a still picture is drawn first, frame by frame; until then what is there of it is shown.
      const waits = isExact && this.askEarlier({ ...picture, lingers: 'exact' })
      if (waits) ready = false
      stage.draw({ ...picture, ...(waits ? {} : lens), ...(shown.ready ? { lingers: isExact && !waits ? 'exact' : 'rough' } : {}) })
      stage.finish()
      // What lies behind is on its way; it is drawn again when it is there.
      if (stage.waits) ready = false
    } catch (error) {
      this.post({ type: 'failed', message: `drawing failed: ${error instanceof Error ? error.message : error}` })
      return
    }
    const ms = performance.now() - start
    const isWhole = this.lensAt + 1 >= many
    if (!isWhole && ready) this.goOn()
    if (!this.isSettled) this.adapt.took(ms, drawnIn(frame))
    this.report({
      frame: frame.frame,
      serial,
      revision,
      ready: ready && (isWhole || !many),
      sketch,
      ms,
      ...(many ? { lens: { done: Math.min(many, this.lensAt + 1), of: many } } : {}),
      scale: q.scale,
      share: q.share,
      width,
      height,
      alive: aliveIn(frame),
      lines: partsOf(frame.parts, 'strips').reduce((sum, x) => sum + x.strips, 0),
      faces: Object.fromEntries(stage.objects.bodyFaces),
    })
  }
  private report(drawn: Drawn): void {
    this.lastDrawn = drawn
    this.wasReady ||= drawn.ready
    const tell = () => {
      // Another picture came meanwhile, and was told of.
      if (this.lastDrawn !== drawn) return
      this.post({ type: 'drawn', ...drawn })
      if (drawn.ready && drawn.scale === 1) this.sim?.postMessage({ type: 'sharp', serial: drawn.serial } satisfies StageToSim)
    }
    // While it moves, the next picture waits for this word.
    if (this.isSettled && drawn.ready && drawn.scale === 1) whenShown(tell)
    else tell()
  }
  private async answer(id: number, request: StageRequest): Promise<void> {
    const outcome = await outcomeOf(() => answerOf(request, this.host()))
    const image = outcome.state === 'answered' && typeof ImageBitmap !== 'undefined' && outcome.value instanceof ImageBitmap
    this.post({ type: 'settled', id, outcome }, image ? [outcome.value as ImageBitmap] : [])
  }
  private host(): Host {
    const { stage, view, shot, shown, revision } = this
    if (!stage || this.contextLost) throw new Error('nothing can be drawn now')
    return {
      ...{ stage, view, shot, shown, revision },
      kernels: () => this.bringKernels(),
      frameOf: (frame) => this.frameOf(frame),
      isStill: () => shot === this.shot,
      restore: () => this.shown && stage.setFrame(this.shown.frame),
      redraw: () => this.redraw(),
    }
  }
  /** Whoever waits for a frame; each says whether it was this one. */
  private waiting: ((f: Frame) => boolean)[] = []
  private frameOf(frame: number): Promise<Frame> {
    return new Promise((resolve) => {
      this.waiting.push((f) => {
        if (f.frame !== frame) return false
        resolve(f)
        return true
      })
      this.sim?.postMessage({ type: 'earlier', frame } satisfies StageToSim)
    })
  }
}
