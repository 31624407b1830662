import { touchedFrom } from '../acts'
import { requestStop } from '../engine'
import type { FromSim, ToSim } from '../hosts/browser/messages'
import type { Answer, AnswerTo, Question } from '../hosts/browser/questions'
import type { Shot } from '../shot'
import type { Pose } from '../stage/camera'
import type { FromStage, PortraitView, ToStage } from '../stage/messages'

export interface SessionEvents {
  /** Something that can change the picture was sent to the stage; this is its number. */
  asked(n: number): void
  /** A change of this number went to the simulation and touches frames from here on; the simulation answers `taken`. */
  touched(change: number, from: number): void
  sim(m: FromSim): void
  stage(m: FromStage): void
}
/** 768 MB for frames that are kept; a third of it at most for full states. */
const HISTORY_BYTES = 768 * 1024 * 1024
const ANSWER_MS = 15000
/** A step is stopped for a change at most this often, so that dragging a value over a heavy shot still brings pictures. */
const STOP_EVERY_MS = 300

/** The two workers behind a shot page. Every question is answered once, or given up after a while. */
export class Session {
  private sim: Worker
  private stage: Worker
  private questions = new Map<number, (m: FromStage | null) => void>()
  private inquiries = new Map<number, (a: Answer | null) => void>()
  private next = 1
  private disposed = false
  private memory: WebAssembly.Memory | null = null
  private shot: Shot | null = null
  private stoppedAt = 0
  private asked = 0

  constructor(
    canvas: OffscreenCanvas,
    private events: SessionEvents,
  ) {
    this.sim = new Worker(new URL('../hosts/browser/sim.worker.ts', import.meta.url), { type: 'module' })
    this.stage = new Worker(new URL('../stage/stage.worker.ts', import.meta.url), { type: 'module' })
    const { port1, port2 } = new MessageChannel()
    this.stage.onmessage = (e: MessageEvent<FromStage>) => {
      const m = e.data
      if (m.type === 'picked' || m.type === 'brushed' || m.type === 'picture' || m.type === 'portrait') {
        this.questions.get(m.id)?.(m)
        this.questions.delete(m.id)
      } else events.stage(m)
    }
    this.sim.onmessage = (e: MessageEvent<FromSim>) => {
      const m = e.data
      if (m.type === 'answer') {
        this.inquiries.get(m.id)?.(m.answer)
        this.inquiries.delete(m.id)
      } else events.sim(m)
    }
    const crash = (what: string) => (e: ErrorEvent) => {
      events.sim({ type: 'failed', message: `${what} stopped: ${e.message || 'it could not be loaded'}; reload the page to go on` })
      for (const answer of this.questions.values()) answer(null)
      this.questions.clear()
      for (const answer of this.inquiries.values()) answer(null)
      this.inquiries.clear()
    }
    this.sim.onerror = crash('the simulation')
    this.stage.onerror = crash('the stage')
    this.toStage({ type: 'init', canvas, sim: port2 }, [canvas, port2])
    const threads = Math.max(1, Math.min(8, navigator.hardwareConcurrency || 2))
    this.toSim({ type: 'init', threads, stage: port1, wasm: new URL('/', location.href).href, historyBytes: HISTORY_BYTES }, [port1])
  }
  private toSim(m: ToSim, transfer: Transferable[] = []): void {
    this.sim.postMessage(m, transfer)
  }
  private toStage(m: ToStage, transfer: Transferable[] = []): void {
    this.stage.postMessage(m, transfer)
  }
  /** Takes the simulation's shared memory, through which a running step is asked to stop. */
  mayStop(memory: WebAssembly.Memory | null): void {
    this.memory = memory
  }
  private number(): number {
    this.events.asked(++this.asked)
    return this.asked
  }
  setShot(shot: Shot): void {
    const now = performance.now()
    const from = this.shot ? touchedFrom(this.shot, shot) : null
    const change = this.number()
    if (from !== null) this.events.touched(change, from)
    if (this.memory && from !== null && now - this.stoppedAt > STOP_EVERY_MS) {
      this.stoppedAt = now
      requestStop(this.memory, true)
    }
    this.shot = shot
    this.toStage({ type: 'shot', shot, asked: change })
    this.toSim({ type: 'shot', shot, change })
  }
  show(frame: number): void {
    this.toSim({ type: 'show', frame })
  }
  view(pose: Pose | null, width: number, height: number): void {
    this.toStage({ type: 'view', pose, width, height, asked: this.number() })
  }
  moving(moving: boolean): void {
    this.toStage({ type: 'moving', moving })
  }
  loseContext(): void {
    this.toStage({ type: 'lose' })
  }
  private ask(make: (id: number) => ToStage): Promise<FromStage | null> {
    const id = this.next++
    return new Promise((resolve) => {
      const late = setTimeout(() => {
        this.questions.delete(id)
        resolve(null)
      }, ANSWER_MS)
      this.questions.set(id, (m) => {
        clearTimeout(late)
        resolve(m)
      })
      this.toStage(make(id))
    })
  }
  /** Asks the simulation about its frames; null when there is no answer, or none in time. */
  inquire<Q extends Question>(question: Q): Promise<AnswerTo<Q> | null> {
    const id = this.next++
    return new Promise((resolve) => {
      const late = setTimeout(() => {
        this.inquiries.delete(id)
        resolve(null)
      }, ANSWER_MS)
      this.inquiries.set(id, (a) => {
        clearTimeout(late)
        resolve(a as AnswerTo<Q> | null)
      })
      this.toSim({ type: 'ask', id, question })
    })
  }
  async pick(x: number, y: number): Promise<string | null> {
    const m = await this.ask((id) => ({ type: 'pick', id, x, y }))
    return m?.type === 'picked' ? m.element : null
  }
  region(object: string | null, region: string | null): void {
    this.toStage({ type: 'region', object, region, asked: this.number() })
  }
  /** Where the brush meets an object: in its own space, and in the shot. Null beside it. */
  async brush(
    element: string,
    x: number,
    y: number,
  ): Promise<{ place: [number, number, number]; at: [number, number, number]; scale: number } | null> {
    const m = await this.ask((id) => ({ type: 'brush', id, element, x, y }))
    return m?.type === 'brushed' ? m.hit : null
  }
  async picture(width: number, height: number): Promise<Blob | null> {
    const m = await this.ask((id) => ({ type: 'picture', id, width, height }))
    return m?.type === 'picture' ? m.jpeg : null
  }
  async portrait(element: string, view: PortraitView, region: string | null, width: number, height: number): Promise<ImageBitmap | null> {
    const m = await this.ask((id) => ({ type: 'portrait', id, element, view, region, width, height }))
    return m?.type === 'portrait' ? m.image : null
  }
  dispose(): void {
    if (this.disposed) return
    this.disposed = true
    this.sim.terminate()
    this.stage.terminate()
    for (const answer of this.questions.values()) answer(null)
    this.questions.clear()
    for (const answer of this.inquiries.values()) answer(null)
    this.inquiries.clear()
  }
}
