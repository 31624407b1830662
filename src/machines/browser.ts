import { type KernelHost, sharedTeam, singleTeam } from '../engine'
import { instantiate, newMemory } from './instantiate'

export interface BrowserKernels {
  host: KernelHost
  /** Why it runs on one thread, or null. */
  why: string | null
}
/**
 * Kernels in this worker, with helpers where the page may share memory. `wasm` is the folder of the modules, ending in a slash, in which
 * `workers/kernel.js` starts one of the threads, or else `helper` does.
 */
export async function browserKernels(
  wasm: string,
  threads: number,
  helper: () => Worker = () => new Worker(`${wasm}workers/kernel.js`, { type: 'module' }),
): Promise<BrowserKernels> {
  const shared = globalThis.crossOriginIsolated && typeof SharedArrayBuffer !== 'undefined'
  const module = await WebAssembly.compileStreaming(fetch(`${wasm}${shared ? 'kernels' : 'kernels-single'}.wasm`))
  const memory = newMemory(shared)
  const exports = await instantiate(module, memory)
  if (!shared) return { host: { memory, exports, team: singleTeam(exports) }, why: 'this page is not isolated, so all runs on one thread' }
  if (threads <= 1) return { host: { memory, exports, team: singleTeam(exports) }, why: null }
  const workers = await Promise.all(
    Array.from({ length: threads - 1 }, (_, i) => {
      const worker = helper()
      return new Promise<Worker>((resolve, reject) => {
        worker.onmessage = () => resolve(worker)
        worker.onerror = (e) => reject(new Error(e.message || 'a kernel thread did not start'))
        worker.postMessage({ module, memory, thread: i + 1 })
      })
    }),
  )
  return {
    host: {
      memory,
      exports,
      team: sharedTeam(memory, exports, threads, () => workers.forEach((w) => w.terminate()), typeof document !== 'undefined'),
    },
    why: null,
  }
}
