// Both workers of a shot page. It needs nothing else: a script of its own begins to load them before the page is there (early.ts).
import type { BakeHead, FromSim, FromStage, ToSim, ToStage } from '../protocol'
import type { Bake, LoadedShot } from './api'

/** 768 MB for frames that are kept; a third of it at most for full states. */
const HISTORY_BYTES = 768 * 1024 * 1024
const MAX_THREADS = 8
/** A shot that was read so long ago may have changed elsewhere: it is read again. */
const READ_AGAIN_MS = 10000

type Takers = { sim: (m: FromSim) => void; stage: (m: FromStage) => void }
/** The simulation and the stage of a page, joined by a channel of their own. They serve one shot after the other. */
export class Workers {
  readonly sim: Worker
  readonly stage: Worker
  /** The stage draws on it: a canvas can be handed to a worker once only, so each has its own. */
  readonly canvas: HTMLCanvasElement
  /** The shot that they were told of ahead. */
  ahead: string | null = null
  private takers: Takers | null = null
  /** What they said before somebody listened. */
  private said: { sim: FromSim[]; stage: FromStage[] } = { sim: [], stage: [] }
  /** What they still say of the shot before, until they are ready, is for nobody. */
  private stale = { sim: false, stage: false }

  constructor() {
    const [sim, stage] = ['sim', 'stage'].map((name) => new Worker(`/workers/${name}.js`, { type: 'module' }))
    this.sim = sim
    this.stage = stage
    sim.onmessage = ({ data }: MessageEvent<FromSim>) => {
      if (!this.isStale('sim', data.type)) this.takers ? this.takers.sim(data) : this.said.sim.push(data)
    }
    stage.onmessage = ({ data }: MessageEvent<FromStage>) => {
      if (!this.isStale('stage', data.type)) this.takers ? this.takers.stage(data) : this.said.stage.push(data)
    }
    const { port1, port2 } = new MessageChannel()
    const common = { threads: threadsHere(), wasm: wasmFolder() }
    sim.postMessage({ type: 'init', ...common, stage: port1, historyBytes: HISTORY_BYTES } satisfies ToSim, [port1])
    this.canvas = document.createElement('canvas')
    const drawnOn = this.canvas.transferControlToOffscreen()
    stage.postMessage({ type: 'init', ...common, canvas: drawnOn, sim: port2 } satisfies ToStage, [drawnOn, port2])
  }
  private isStale(of: 'sim' | 'stage', type: string): boolean {
    if (type === 'ready') this.stale[of] = false
    return this.stale[of]
  }
  /** Takes what they say, and have said before. */
  listen(takers: Takers): void {
    this.takers = takers
    for (const m of this.said.sim.splice(0)) takers.sim(m)
    for (const m of this.said.stage.splice(0)) takers.stage(m)
  }
  /** Lets them compute and make ready what a page will want first of this shot. */
  lookAhead({ id, doc }: LoadedShot, bakes: readonly Bake[]): void {
    this.ahead = id
    this.sim.postMessage({ type: 'ahead', shot: doc, bakes: headsOf(bakes) } satisfies ToSim)
    this.stage.postMessage({ type: 'ahead', shot: doc } satisfies ToStage)
  }
  /** Lets them forget their shot, for another one. */
  again(): void {
    this.ahead = null
    this.takers = null
    this.said = { sim: [], stage: [] }
    this.stale = { sim: true, stage: true }
    // A new channel: what the one still sends of the shot before, the other must not take for the next.
    const { port1, port2 } = new MessageChannel()
    this.sim.postMessage({ type: 'again', stage: port1 } satisfies ToSim, [port1])
    this.stage.postMessage({ type: 'again', sim: port2 } satisfies ToStage, [port2])
  }
  end(): void {
    this.sim.terminate()
    this.stage.terminate()
  }
}
interface Opening {
  id: string
  at: number
  loaded: Promise<[LoadedShot, Bake[]] | null>
  /** It is being opened, not only looked at: whatever the pointer does then. */
  meant: boolean
  /** It is not wanted any more. */
  abandoned: boolean
}
/** What the page has in common with the early script: each has this file in it. */
interface Prepared {
  waiting: Workers | null
  opening: Opening | null
  /** The page has taken some before: those of the early script would come too late. */
  taken: boolean
}
const scope = globalThis as { emberPrepared?: Prepared }
scope.emberPrepared ??= { waiting: null, opening: null, taken: false }
const prepared = scope.emberPrepared
export const headsOf = (bakes: readonly Bake[]): BakeHead[] => bakes.map(({ id, frames, elements, old }) => ({ id, frames, elements, old }))
/** Starts the workers of the next session, so that they load, and compute the frame that a shot opens with, while the page is still being put together. */
export function prepareWorkers(shot: string | undefined): void {
  if (prepared.taken) return
  warmWorkers()
  if (shot) lookAhead(shot, true)
}
/** Has workers ready for whichever shot comes next. */
export function warmWorkers(): Workers {
  prepared.waiting ??= new Workers()
  return prepared.waiting
}
const read = async <T>(path: string): Promise<T | null> => {
  const r = await fetch(path)
  return r.ok ? ((await r.json()) as T) : null
}
async function load(id: string): Promise<[LoadedShot, Bake[]] | null> {
  const [loaded, bakes] = await Promise.all([read<LoadedShot>(`/api/shots/${id}`), read<Bake[]>(`/api/shots/${id}/bakes`)])
  return loaded && [loaded, bakes ?? []]
}
/** Reads a shot that is likely to be opened next, and has the workers begin with it. `meant`: it is being opened. */
export function lookAhead(id: string, meant = false): void {
  const workers = warmWorkers()
  const { opening } = prepared
  if (opening?.id === id && performance.now() - opening.at < READ_AGAIN_MS) {
    if (!meant || opening.meant) return
    // Workers go on with what they were told; the page takes the shot as it is now, for a change may have been on its way to the server.
    Object.assign(opening, { meant, at: performance.now(), loaded: load(id).catch(() => null) })
    return
  }
  if (opening) opening.abandoned = true
  if (workers.ahead && workers.ahead !== id) workers.again()
  const loaded = load(id).catch(() => null)
  const now: Opening = { id, at: performance.now(), loaded, meant, abandoned: false }
  prepared.opening = now
  void loaded.then((found) => {
    if (found && prepared.waiting === workers && !now.abandoned && !workers.ahead) workers.lookAhead(...found)
  })
}
/** The shot is not likely to be opened any more: nothing is computed of it. */
export function lookAway(id: string): void {
  if (prepared.opening?.id !== id || prepared.opening.meant) return
  prepared.opening.abandoned = true
  prepared.opening = null
  if (prepared.waiting?.ahead) prepared.waiting.again()
}
/** A shot that is being opened, as it was a moment ago, with its bakes, once; null: it was not asked for, or did not come. */
export async function takeOpening(id: string): Promise<[LoadedShot, Bake[]] | null> {
  const taken = prepared.opening
  prepared.opening = null
  prepared.taken = true
  return taken?.id === id && taken.meant && performance.now() - taken.at < READ_AGAIN_MS ? taken.loaded : null
}
/** Those that were prepared, or new ones. */
export function takeWorkers(): Workers {
  const taken = warmWorkers()
  prepared.waiting = null
  prepared.taken = true
  return taken
}
/** Workers whose session is over serve the next one. */
export function giveBack(workers: Workers): void {
  if (prepared.waiting) {
    workers.end()
    return
  }
  prepared.waiting = workers
  workers.sim.onerror = workers.stage.onerror = () => {
    if (prepared.waiting === workers) prepared.waiting = null
    workers.end()
  }
  workers.again()
}
/** Threads that a worker may compute with, and where its kernels are. */
const threadsHere = (): number => Math.max(1, Math.min(MAX_THREADS, navigator.hardwareConcurrency || 2))
const wasmFolder = (): string => new URL('/', location.href).href
