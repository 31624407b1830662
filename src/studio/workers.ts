// Both workers of a shot page. A file of its own, which needs nothing else, so that they begin to load before the page does.
import type { ToSim } from '../protocol'

/** 768 MB for frames that are kept; a third of it at most for full states. */
const HISTORY_BYTES = 768 * 1024 * 1024
const MAX_THREADS = 8

interface Workers {
  sim: Worker
  stage: Worker
  /** The stage's end of the channel on which the simulation hands it frames. */
  frames: MessagePort
}
let waiting: Workers | null = null
/** Starts the workers of the next session, so that they load while the page itself is still being put together. */
export function prepareWorkers(): void {
  waiting ??= startWorkers()
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
  const init: ToSim = { type: 'init', threads: threadsHere(), stage: port1, wasm: wasmFolder(), historyBytes: HISTORY_BYTES }
  sim.postMessage(init, [port1])
  return { sim, stage, frames: port2 }
}
