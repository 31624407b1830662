import { touchedFrom } from '../acts'
import { requestStop } from '../engine'
import {
  type AnswerTo,
  type BakeHead,
  type FromSim,
  type FromStage,
  type Pose,
  type Question,
  Requests,
  type SecondView,
  type Settled,
  type StageAnswerTo,
  type StageRequest,
  type ToSim,
  type ToStage,
} from '../protocol'
import type { Shot } from '../shot'
import { giveBack, takeWorkers, type Workers } from './workers'

export interface SessionEvents {
  /** Something that can change the picture was sent to the stage; this is its number. */
  revised(revision: number): void
  /** A change of this number went to the simulation and touches frames from here on; the simulation answers `taken`. */
  touched(change: number, from: number): void
  sim(m: FromSim): void
  stage(m: FromStage): void
}
const ANSWER_MS = 15000
/** Memory of kernels never shrinks: workers that took more than this end with their shot. */
const KEPT_BYTES = 1024 * 1024 * 1024
/** A step is stopped for a change at most this often, so that dragging a value over a heavy shot still brings pictures. */
const STOP_EVERY_MS = 300

/** The two workers behind a shot page. */
export class Session {
  private readonly workers: Workers
  /** Whether the workers may serve another shot: an exact picture has come, nothing is broken, and none is on its way. */
  private state: 'opening' | 'reusable' | 'broken' = 'opening'
  private questions = new Requests(ANSWER_MS, (id) => this.toSim({ type: 'cancel', id }))
  private requests = new Requests(ANSWER_MS)
  private disposed = false
  private memory: WebAssembly.Memory | null = null
  private shot: Shot | null = null
  private stoppedAt = 0
  private revision = 0

  /** On which the stage draws. */
  readonly canvas: HTMLCanvasElement

  constructor(private events: SessionEvents) {
    const workers = takeWorkers()
    this.workers = workers
    this.canvas = workers.canvas
    const crashed = (what: string, requests: Requests) => (e: ErrorEvent) => {
      const message = `${what} stopped: ${e.message || 'it could not be loaded'}; reload the page to go on`
      this.state = 'broken'
      events.sim({ type: 'failed', message })
      requests.end({ state: 'crashed', message })
    }
    workers.sim.onerror = crashed('the simulation', this.questions)
    workers.stage.onerror = crashed('the stage', this.requests)
  }
  /** Takes what the workers say, and have said before. */
  listen(): void {
    this.workers.listen({
      sim: (m) => {
        if (m.type === 'failed') this.state = 'broken'
        if (m.type === 'settled') this.questions.settle(m.id, m.outcome)
        else this.events.sim(m)
      },
      stage: (m) => {
        if (m.type === 'failed' || (m.type === 'context' && m.lost)) this.state = 'broken'
        if (m.type === 'drawn' && m.ready && this.state === 'opening') this.state = 'reusable'
        if (m.type === 'settled') this.requests.settle(m.id, m.outcome)
        else this.events.stage(m)
      },
    })
  }
  private toSim(m: ToSim, transfer: Transferable[] = []): void {
    this.workers.sim.postMessage(m, transfer)
  }
  private toStage(m: ToStage, transfer: Transferable[] = []): void {
    this.workers.stage.postMessage(m, transfer)
  }
  /** Takes the simulation's shared memory, through which a running step is asked to stop. */
  mayStop(memory: WebAssembly.Memory | null): void {
    this.memory = memory
  }
  private nextRevision(): number {
    this.events.revised(++this.revision)
    return this.revision
  }
  setShot(shot: Shot): void {
    const now = performance.now()
    const from = this.shot ? touchedFrom(this.shot, shot) : null
    const revision = this.nextRevision()
    if (from !== null) this.events.touched(revision, from)
    if (this.memory && from !== null && now - this.stoppedAt > STOP_EVERY_MS) {
      this.stoppedAt = now
      requestStop(this.memory, true)
    }
    this.shot = shot
    this.toStage({ type: 'shot', shot, revision })
    this.toSim({ type: 'shot', shot, change: revision })
  }
  /** What was baked of the shot, the latest first. */
  bakes(bakes: BakeHead[]): void {
    this.toSim({ type: 'bakes', bakes })
  }
  /** Of which bake the second view shows frames; null: of none. */
  beside(bake: string | null): void {
    this.toSim({ type: 'beside', bake })
  }
  show(frame: number): void {
    this.toSim({ type: 'show', frame })
  }
  view(pose: Pose | null, width: number, height: number): void {
    this.toStage({ type: 'view', pose, width, height, revision: this.nextRevision() })
  }
  /** Another view beside it; `canvas` with the first, null: as before. */
  second(view: SecondView | null, canvas: OffscreenCanvas | null): void {
    this.toStage({ type: 'second', view, canvas, revision: this.nextRevision() }, canvas ? [canvas] : [])
  }
  moving(moving: boolean): void {
    this.toStage({ type: 'moving', moving })
  }
  region(object: string | null, region: string | null): void {
    this.toStage({ type: 'region', object, region, revision: this.nextRevision() })
  }
  /** Marks what is cut off at white or below nothing. */
  marks(on: boolean): void {
    this.toStage({ type: 'marks', on, revision: this.nextRevision() })
  }
  /** Draws the objects while the first frame is on its way. */
  objectsFirst(): void {
    this.toStage({ type: 'objects' })
  }
  loseContext(): void {
    this.toStage({ type: 'lose' })
  }
  /** Asks the simulation about its frames. */
  inquire<Q extends Question>(question: Q, signal?: AbortSignal): Promise<Settled<AnswerTo<Q>>> {
    return this.questions.send((id) => this.toSim({ type: 'ask', id, question }), signal)
  }
  /** Asks the stage about its picture. */
  ask<R extends StageRequest>(request: R, signal?: AbortSignal): Promise<Settled<StageAnswerTo<R>>> {
    return this.requests.send((id) => this.toStage({ type: 'ask', id, request }), signal)
  }
  dispose(): void {
    if (this.disposed) return
    this.disposed = true
    this.questions.end({ state: 'disposed' })
    this.requests.end({ state: 'disposed' })
    const { memory, workers } = this
    if (this.state !== 'reusable' || (memory?.buffer.byteLength ?? 0) > KEPT_BYTES) {
      workers.end()
      return
    }
    if (memory) requestStop(memory, true)
    giveBack(workers)
  }
}
