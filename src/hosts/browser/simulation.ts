import { type Compiled, compile, keptFrames, touchedFrom } from '../../acts'
import { copyPart, drawnMesh, type Frame, type KernelHost, type Mesh, Run, requestStop, Stopped } from '../../engine'
import { WORLD_BYTES } from '../../machines/instantiate'
import { type BakeHead, type FromSim, outcomeOf, type Question, type SimStatus, type SimToStage } from '../../protocol'
import { openingFrame, type Shot, withoutDetail } from '../../shot'
import { LeftOut } from '../bakedApart'
import { AskedFrames } from './askedFrames'
import { Baked, type BakeFiles } from './bakes'
import { Beside } from './beside'
import { Bridge } from './bridge'
import { FrameKeeper, type Kept } from './frameKeeper'
import { answerTo } from './inquiry'
import { LoopEnds } from './loopEnds'
import { allProblems } from './problems'
import { factsOf, ShotMeshes } from './shotMeshes'
import { agesOf } from './specks'
import { warming } from './warming'
import { yieldToMessages } from './yield'

const STATUS_EVERY_MS = 250
const NO_MESH: Mesh = { positions: new Float32Array(0), normals: null, indices: new Uint32Array(0), parts: [] }
/** Messages closer than this are a drag, a typing or a playing: then a core is left to the page and the stage. */
const STREAM_MS = 250

interface Shown {
  frame: Frame
  ready: boolean
  sketch: boolean
}
/** The simulation beside the page: takes shots, computes what is missing, hands frames to the stage. */
export class Simulation {
  private shot: Shot | null = null
  private pending: { shot: Shot; change: number } | null = null
  private run: Run | null = null
  private meshes: ShotMeshes
  private wanted = 0
  /** What the stage has, by identity of the frame. */
  private shown: Shown | null = null
  private bridge: Bridge
  /** The wanted frame moved on last time: somebody plays. */
  private playing = false
  private problems: Compiled['problems'] = []
  private asked: AskedFrames
  private ends = new LoopEnds()
  private looping = false
  private lastStatus = 0
  private serial = 0
  private frameMs = 0
  private questions: { id: number; question: Question }[] = []
  private lastMessage = -Infinity
  private keeper: FrameKeeper | null
  private baked: Baked | null
  private beside: Beside | null
  /** The bakes whose elements the run leaves out, and what it does with them. */
  private usedBakes: readonly string[] = []
  private leftOut = new LeftOut([])
  private presentedAt = Number.NEGATIVE_INFINITY
  /** Of the frames that were handed over, the latest of which there is a sharp picture. */
  private sharpSerial = 0
  /** Bakes that the page told of, and nobody has looked at. */
  private told: readonly BakeHead[] | null = null
  private streamUntil = -Infinity
  private ended = false
  /** Until the loop has come to rest. */
  private looped: Promise<void> = Promise.resolve()

  constructor(
    private host: KernelHost,
    private threads: number,
    private historyBytes: number,
    private toPage: (m: FromSim, transfer?: Transferable[]) => void,
    private toStage: (m: SimToStage, transfer?: Transferable[]) => void,
    fetchAsset: (hash: string) => Promise<Uint8Array>,
    fetchFont: (file: string) => Promise<Uint8Array>,
    /** Kernels over another memory, for a sketch beside the run. */
    secondHost: () => Promise<KernelHost>,
    kept: Kept | null = null,
    bakes: BakeFiles | null = null,
  ) {
    this.asked = new AskedFrames(toStage)
    this.bridge = new Bridge(secondHost)
    this.meshes = new ShotMeshes(fetchAsset, fetchFont)
    this.keeper = kept && new FrameKeeper(kept)
    this.baked = bakes && new Baked(bakes)
    this.beside = this.baked && new Beside(this.baked, toPage, toStage)
  }

  /** All threads when one change has come and the page waits; one fewer while it is busy itself. */
  private noteMessage(): void {
    const now = performance.now()
    if (now - this.lastMessage < STREAM_MS) this.streamUntil = now + STREAM_MS
    this.lastMessage = now
  }
  /** What the page will ask for first. */
  setAhead(shot: Shot, bakes: readonly BakeHead[]): void {
    if (this.shot || this.pending) return
    this.setBakes(bakes)
    this.setShot(withoutDetail(shot))
    this.show(openingFrame(shot))
  }
  setShot(shot: Shot, change = 0): void {
    this.noteMessage()
    this.asked.clear()
    this.pending = { shot, change }
    void this.loop()
  }
  show(frame: number): void {
    this.noteMessage()
    this.playing = frame > this.wanted && frame - this.wanted < 12
    this.wanted = frame
    if (this.run) {
      this.run.near = frame
      this.present()
    }
    void this.loop()
  }
  /** What was baked of the shot, the latest first. */
  setBakes(bakes: readonly BakeHead[]): void {
    this.told = bakes
    void this.loop()
  }
  /** Frames of a bake go to the stage beside those of the shot; null: none. */
  showBeside(bake: string | null): void {
    this.beside?.choose(bake)
    this.present()
  }
  /** Hands over a frame beside the wanted one, as soon as it is there: one that lingers in it, one of a preview. */
  handOver(frame: number): void {
    this.asked.add(frame)
    void this.loop()
  }
  /** Answers when the step under way is done, and after all changes that came before. */
  ask(id: number, question: Question): void {
    this.questions.push({ id, question })
    void this.loop()
  }
  /** Stops for good. When it is at rest what it computed is forgotten, and its memory is another's. */
  async end(): Promise<void> {
    this.ended = true
    requestStop(this.host.memory, true)
    await this.looped
    this.bridge.end()
    this.run?.dispose()
    this.run = null
    requestStop(this.host.memory, false)
  }
  /** Nobody waits for this answer any more. */
  cancel(id: number): void {
    this.questions = this.questions.filter((q) => q.id !== id)
  }
  /** One question, once all that came before is known: of many in a row most are taken back, and each would hold up the next. */
  private async answer(): Promise<void> {
    await yieldToMessages()
    const next = this.pending ? undefined : this.questions.shift()
    if (!next) return
    const outcome = await outcomeOf(() => {
      if (!this.run || !this.shot) throw new Error('nothing is computed yet')
      return answerTo(next.question, this.run, this.shot, this.meshes.all, this.leftOut.ids)
    })
    this.toPage({ type: 'settled', id: next.id, outcome })
  }
  private async take(shot: Shot): Promise<void> {
    const { fresh, lost } = await this.meshes.take(shot)
    if (fresh.length) {
      this.toStage({ type: 'meshes', meshes: fresh.map(([hash, m]) => [hash, drawnMesh(m)]) })
      this.toPage({ type: 'assets', facts: fresh.map(([hash, m]) => [hash, factsOf(m)]) })
    }
    // The stage waits for the light of a file: where it cannot be read, with nothing in it.
    if (lost.length) this.toStage({ type: 'meshes', meshes: lost.map((hash) => [hash, NO_MESH]) })
    const before = this.shot
    this.shot = shot
    this.baked?.follow(shot)
    this.ends.follow(shot)
    const { problems, plan, others } = this.planOf(shot)
    this.problems = problems
    // Light of a file moves nothing.
    const lights = new Set(shot.lights.map((l) => l.asset))
    const from = before && fresh.every(([hash]) => lights.has(hash)) ? touchedFrom(before, shot) : shot.range.first
    if (!this.run) {
      this.run = new Run(this.host, plan, {
        ...{ historyBytes: this.historyBytes, worldBytes: WORLD_BYTES, now: () => performance.now() },
        complete: (frame) => this.leftOut.complete(frame),
      })
      this.run.near = this.wanted
      if (this.baked?.has(this.wanted)) await this.takeBaked(this.baked, this.run, this.wanted)
      await this.keeper?.restore(
        shot,
        this.run,
        () => this.wanted,
        () => this.present(),
        () => this.pending?.shot,
      )
    } else if (from !== null || others || before?.range.last !== shot.range.last) {
      // A sketch would be without what was baked.
      if (this.leftOut.ids.length) this.bridge.end()
      else if (from !== null) {
        const { wanted, playing, frameMs } = this
        await this.bridge.change(this.run, plan, from, { wanted, playing, frameMs })
      }
      this.run.change(plan, from ?? shot.range.last + 1, others)
    }
    this.present()
    this.status(true)
  }
  /** What is to be computed of a shot: all but what was baked apart. `others`: that is not what was computed before. */
  private planOf(shot: Shot): Compiled & { others: boolean } {
    const list = this.baked?.apart ?? []
    const used = list.map((x) => x.bake)
    const others = used.join() !== this.usedBakes.join()
    if (others) this.leftOut = new LeftOut(list)
    this.usedBakes = used
    const whole = compile(shot, this.meshes.all)
    // What is said of elements is said of all.
    return { ...whole, plan: list.length ? compile(this.leftOut.rest(shot), this.meshes.all).plan : whole.plan, others }
  }
  /** Bakes have come or gone: frames that are there stay as they are. */
  private separate(): void {
    if (!this.run || !this.shot) return
    const { plan, others } = this.planOf(this.shot)
    if (others) this.run.change(plan, this.shot.range.last + 1, true)
  }
  /** Has what was baked apart at hand for the frame that comes next; where it is not to be had after all, all is computed. */
  private async bring(run: Run, target: number): Promise<void> {
    const next = run.next(target)
    // On the way to another frame one that is quickly computed again is let go by: what was baked of it may be large.
    if (next !== target && this.frameMs < QUICK_MS) return
    if (next === null || !this.shot || next < this.shot.range.first || (await this.leftOut.bring(next))) return
    this.baked?.lose(this.usedBakes)
    this.separate()
  }
  /** What there is of a frame: the exact one, else the sketch, else what was there before the change. */
  private frameOf(frame: number): Shown | undefined {
    const entry = this.run?.history.get(frame)
    if (entry?.ready) return { ...entry, sketch: false }
    const sketched = this.bridge.get(frame)
    if (sketched) return { frame: sketched, ready: false, sketch: true }
    return entry ? { ...entry, sketch: false } : undefined
  }
  /** Sends the wanted frame to the stage when it is there and not there yet. */
  private present(): void {
    const entry = this.frameOf(this.wanted)
    if (!entry || !this.shot) return
    void this.beside?.follow(entry.frame, this.shot)
    if (this.shown?.frame === entry.frame) {
      if (this.shown.ready && !entry.ready) {
        this.toStage({ type: 'stale' })
        this.toPage({ type: 'stale', serial: this.serial })
      }
      this.shown = { ...entry }
      return
    }
    this.shown = { ...entry }
    this.presentedAt = performance.now()
    const copies = entry.frame.parts.map(copyPart)
    const copy: Frame = { ...entry.frame, parts: copies.map((c) => c.part) }
    this.toStage(
      { type: 'frame', frame: copy, ready: entry.ready, sketch: entry.sketch, serial: ++this.serial },
      copies.flatMap((c) => c.buffers),
    )
    this.toPage({
      type: 'shown',
      frame: this.wanted,
      serial: this.serial,
      ready: entry.ready,
      sketch: entry.sketch,
      stats: entry.frame.stats,
      ages: agesOf(entry.frame),
    })
  }
  /** The stage has drawn it as it is rendered. */
  sharp(serial: number): void {
    this.sharpSerial = Math.max(this.sharpSerial, serial)
  }
  /** Whether the stage draws what is looked at: the first picture, or one of a bake, whose frames are not computed and come quicker than pictures. */
  private isDrawing(target: number): boolean {
    const calm = !this.sharpSerial ? OPENING_MS : this.baked?.has(target) ? CALM_MS : 0
    return this.sharpSerial < this.serial && performance.now() - this.presentedAt < calm
  }
  /** Takes a frame of a bake instead of computing it. */
  private async takeBaked(baked: Baked, run: Run, target: number): Promise<void> {
    // Those after it would only take cores from the first picture.
    const frame = await baked.get(target, !this.sharpSerial)
    if (frame) run.history.put(frame, this.wanted)
    if (frame) this.asked.handOver(run, frame)
    this.present()
    this.status(false)
    await yieldToMessages()
  }
  private status(force: boolean): void {
    const now = performance.now()
    const run = this.run
    if (!run || !this.shot || (!force && now - this.lastStatus < STATUS_EVERY_MS)) return
    this.lastStatus = now
    const { first, last } = this.shot.range
    const status: SimStatus = {
      beads: run.history.beads(first, last),
      first,
      computing: run.missing(),
      warm: warming(run, this.shot),
      frameMs: this.frameMs,
      historyBytes: run.history.bytes,
      worldBytes: run.world.usedBytes,
      threads: this.threads,
      notices: this.frameOf(last)?.frame.notices ?? run.world.notices,
      ends: this.ends.found,
      bakes: Object.fromEntries(this.baked?.until ?? []),
      apart: [...this.usedBakes],
      problems: allProblems(this.shot, this.problems, this.meshes.problems, this.meshes.missingLetters),
    }
    this.toPage({ type: 'status', status })
  }
  private async loop(): Promise<void> {
    if (this.looping || this.ended) return
    this.looping = true
    this.looped = this.rounds()
    await this.looped
  }
  private async rounds(): Promise<void> {
    try {
      while (!this.ended) {
        if (this.told) {
          const { told } = this
          this.told = null
          await this.baked?.list(told, this.shot)
          this.separate()
          this.present()
          this.status(true)
          continue
        }
        if (this.pending) {
          const { shot, change } = this.pending
          this.pending = null
          await this.take(shot)
          this.toPage({ type: 'taken', change })
          continue
        }
        if (this.questions.length) {
          await this.answer()
          continue
        }
        const run = this.run
        if (!run || !this.shot) return
        if (this.bridge.isThere && run.history.isReady(this.wanted)) this.bridge.end()
        if (this.bridge.towards(this.wanted)) {
          this.present()
          await yieldToMessages()
          if (this.pending) continue
        }
        this.asked.handOver(run)
        // First what is looked at, then what lingers in it, then what is missing from the start.
        const { shot } = this
        const { first, last } = shot.range
        const lacks = (f: number) => !run.history.isReady(f) || !!this.baked?.betters(f, run.history.get(f)?.frame)
        const asked = [this.wanted, ...this.asked.frames].find((f) => lacks(f) && f >= first - keptFrames(shot) && f <= last)
        const target = asked ?? run.missing() ?? this.baked?.plainer(run, shot) ?? this.ends.lacking(run, shot)
        if (target === null) {
          this.status(true)
          const { shot } = this
          this.keeper?.keepAll(run, shot, () => !this.ended && !this.pending && !this.looping && this.run === run && this.shot === shot)
          return
        }
        // What nobody looks at yet waits while the stage makes ready what is looked at: without a GPU it needs all cores.
        if (asked === undefined && this.isDrawing(target)) {
          await new Promise((next) => setTimeout(next, CALM_STEP_MS))
          continue
        }
        if (this.baked?.has(target)) {
          await this.takeBaked(this.baked, run, target)
          continue
        }
        await this.bring(run, target)
        if (this.pending) continue
        this.host.team.limit(performance.now() < this.streamUntil ? this.threads - 1 : this.threads)
        try {
          const frame = run.towards(target)
          if (frame) this.frameMs = this.frameMs ? this.frameMs * 0.8 + frame.ms * 0.2 : frame.ms
          this.keeper?.keepOpening(run, this.shot)
          if (frame) this.asked.handOver(run, frame)
          if (frame && target === last + 1 && frame.frame === target) this.ends.close(run, first, frame)
        } catch (error) {
          if (!(error instanceof Stopped)) throw error
        }
        this.present()
        this.status(false)
        await yieldToMessages()
      }
    } catch (error) {
      console.error(error)
      this.toPage({ type: 'failed', message: error instanceof Error ? error.message : String(error) })
    } finally {
      this.looping = false
    }
  }
}
/** What is computed in less is rather computed twice than waited for. */
const QUICK_MS = 60
/** So long after a frame was handed over others wait at the most: the first one, and what was baked; and how often it is looked whether something else is to be done. */
const OPENING_MS = 20000
const CALM_MS = 1500
const CALM_STEP_MS = 60
