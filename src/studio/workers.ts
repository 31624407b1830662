// Both workers of a shot page. It needs nothing else: a script of its own begins to load them before the page is there (early.ts).
import type { BakeHead, FromSim, FromStage, ToSim, ToStage } from '../protocol'
import type { Bake, LoadedShot } from './api'

/** 768 MB for frames that are kept; a third of it at most for full states. */
const HISTORY_BYTES = 768 * 1024 * 1024
const MAX_THREADS = 8

interface Workers {
  sim: Worker
  stage: Worker
  /** The stage draws on it: a canvas can be handed to a worker once only, so each has its own. */
  canvas: HTMLCanvasElement
  /** What they said before somebody listened. */
  said: { sim: FromSim[]; stage: FromStage[] }
}
/** What the page has in common with the early script: each has this file in it. */
interface Prepared {
  waiting: Workers | null
  opening: { id: string; loaded: Promise<[LoadedShot, Bake[]] | null> } | null
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
  prepared.waiting ??= startWorkers()
  const workers = prepared.waiting
  if (!shot) return
  const read = async <T>(path: string): Promise<T | null> => {
    const r = await fetch(path)
    return r.ok ? ((await r.json()) as T) : null
  }
  const load = async (): Promise<[LoadedShot, Bake[]] | null> => {
    const [loaded, bakes] = await Promise.all([read<LoadedShot>(`/api/shots/${shot}`), read<Bake[]>(`/api/shots/${shot}/bakes`)])
    if (!loaded) return null
    if (prepared.waiting === workers) {
      workers.sim.postMessage({ type: 'ahead', shot: loaded.doc, bakes: headsOf(bakes ?? []) } satisfies ToSim)
      workers.stage.postMessage({ type: 'ahead', shot: loaded.doc } satisfies ToStage)
    }
    return [loaded, bakes ?? []]
  }
  prepared.opening = { id: shot, loaded: load().catch(() => null) }
}
/** A shot that was asked for when the page began to load, with its bakes, once; null: it was not, or did not come. */
export async function takeOpening(id: string): Promise<[LoadedShot, Bake[]] | null> {
  const taken = prepared.opening
  prepared.opening = null
  return taken?.id === id ? taken.loaded : null
}
/** Those that were prepared, or new ones. */
export function takeWorkers(): Workers {
  const taken = prepared.waiting ?? startWorkers()
  prepared.waiting = null
  prepared.taken = true
  return taken
}
/** Threads that a worker may compute with, and where its kernels are. */
const threadsHere = (): number => Math.max(1, Math.min(MAX_THREADS, navigator.hardwareConcurrency || 2))
const wasmFolder = (): string => new URL('/', location.href).href
function startWorkers(): Workers {
  const [sim, stage] = ['sim', 'stage'].map((name) => new Worker(`/workers/${name}.js`, { type: 'module' }))
  const { port1, port2 } = new MessageChannel()
  const said: Workers['said'] = { sim: [], stage: [] }
  sim.onmessage = ({ data }: MessageEvent<FromSim>) => void said.sim.push(data)
  stage.onmessage = ({ data }: MessageEvent<FromStage>) => void said.stage.push(data)
  const common = { threads: threadsHere(), wasm: wasmFolder() }
  sim.postMessage({ type: 'init', ...common, stage: port1, historyBytes: HISTORY_BYTES } satisfies ToSim, [port1])
  const canvas = document.createElement('canvas')
  const drawnOn = canvas.transferControlToOffscreen()
  stage.postMessage({ type: 'init', ...common, canvas: drawnOn, sim: port2 } satisfies ToStage, [drawnOn, port2])
  return { sim, stage, canvas, said }
}
