import { parentPort, workerData } from 'node:worker_threads'
import { helperLoop } from '../../engine'
import { instantiate } from '../../machines/instantiate'

// One kernel thread of a team in Node.js: says that it is up, then works until the team is disposed.
const { module, memory, thread } = workerData as { module: WebAssembly.Module; memory: WebAssembly.Memory; thread: number }
const exports = await instantiate(module, memory)
parentPort?.postMessage('up')
helperLoop(memory, exports, thread)
