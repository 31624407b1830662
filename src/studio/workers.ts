// Both workers of a shot page. A file of its own, which needs nothing else, so that they begin to load before the page does.
import type { BakeHead, FromSim, ToSim } from '../protocol'
import type { Bake, LoadedShot } from './api'

/** 768 MB for frames that are kept; a third of it at most for full states. */
const HISTORY_BYTES = 768 * 1024 * 1024
const MAX_THREADS = 8

interface Workers {
  sim: Worker
  stage: Worker
  /** The stage's end of the channel on which the simulation hands it frames. */
  frames: MessagePort
  /** What the simulation said before somebody listened. */
  said: FromSim[]
}
let waiting: Workers | null = null
let opening: { id: string; loaded: Promise<[LoadedShot, Bake[]] | null> } | null = null
export const headsOf = (bakes: readonly Bake[]): BakeHead[] => bakes.map(({ id, frames, elements, old }) => ({ id, frames, elements, old }))
/** Starts the workers of the next session, so that they load, and compute the frame that a shot opens with, while the page is still being put together. */
export function prepareWorkers(shot: string | undefined): void {
  waiting ??= startWorkers()
  const workers = waiting
  if (!shot) return
  const read = async <T>(path: string): Promise<T | null> => {
    const r = await fetch(path)
    return r.ok ? ((await r.json()) as T) : null
  }
  const load = async (): Promise<[LoadedShot, Bake[]] | null> => {
    const [loaded, bakes] = await Promise.all([read<LoadedShot>(`/api/shots/${shot}`), read<Bake[]>(`/api/shots/${shot}/bakes`)])
    if (!loaded) return null
    const ahead: ToSim = { type: 'ahead', shot: loaded.doc, bakes: headsOf(bakes ?? []) }
    if (waiting === workers) workers.sim.postMessage(ahead)
    return [loaded, bakes ?? []]
  }
  opening = { id: shot, loaded: load().catch(() => null) }
}
/** A shot that was asked for when the page began to load, with its bakes, once; null: it was not, or did not come. */
export async function takeOpening(id: string): Promise<[LoadedShot, Bake[]] | null> {
  const taken = opening
  opening = null
  return taken?.id === id ? taken.loaded : null
}
/** Those that were prepared, or new ones. */
export function takeWorkers(): Workers {
  const taken = waiting ?? startWorkers()
  waiting = null
  return taken
}
/** Threads that a worker may compute with, and where its kernels are. */
export const threadsHere = (): number => Math.max(1, Math.min(MAX_THREADS, navigator.hardwareConcurrency || 2))
export const wasmFolder = (): string => new URL('/', location.href).href
function startWorkers(): Workers {
  const sim = new Worker(new URL('../hosts/browser/sim.worker.ts', import.meta.url), { type: 'module' })
  const stage = new Worker(new URL('../stage/stage.worker.ts', import.meta.url), { type: 'module' })
  const { port1, port2 } = new MessageChannel()
  const said: FromSim[] = []
  sim.onmessage = ({ data }: MessageEvent<FromSim>) => void said.push(data)
  const init: ToSim = { type: 'init', threads: threadsHere(), stage: port1, wasm: wasmFolder(), historyBytes: HISTORY_BYTES }
  sim.postMessage(init, [port1])
  return { sim, stage, frames: port2, said }
}
