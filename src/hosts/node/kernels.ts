import { readFileSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import { Worker } from 'node:worker_threads'
import { type KernelHost, sharedTeam, singleTeam } from '../../engine'
import { instantiate, newMemory } from '../../machines/instantiate'

export interface NodeHostOptions {
  threads?: number
  wasmPath?: string
}
const ROOT = process.env.EMBER_ROOT ?? process.cwd()
export const wasmPath = (): string => `${ROOT}/public/kernels.wasm`

/** Kernels over shared memory with a team of worker threads. Dispose the team when done. */
export async function nodeKernels({ threads = 1, wasmPath: path = wasmPath() }: NodeHostOptions = {}): Promise<KernelHost> {
  const memory = newMemory(true)
  const module = await WebAssembly.compile(readFileSync(path))
  const exports = await instantiate(module, memory)
  if (threads <= 1) return { memory, exports, team: singleTeam(exports) }
  const helper = process.env.EMBER_HELPER ?? fileURLToPath(new URL('./helper.mjs', import.meta.url))
  const workers: Worker[] = []
  await Promise.all(
    Array.from({ length: threads - 1 }, (_, i) => {
      const worker = new Worker(helper, { workerData: { module, memory, thread: i + 1 } })
      workers.push(worker)
      return new Promise<void>((resolve, reject) => {
        worker.once('message', () => resolve())
        worker.once('error', reject)
      })
    }),
  )
  for (const w of workers) w.unref()
  return { memory, exports, team: sharedTeam(memory, exports, threads, () => {}) }
}
