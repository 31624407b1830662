import { helperLoop } from '../engine'
import { instantiate } from './instantiate'

// One kernel thread of a team in the browser.
self.onmessage = async (event: MessageEvent<{ module: WebAssembly.Module; memory: WebAssembly.Memory; thread: number }>) => {
  const { module, memory, thread } = event.data
  const exports = await instantiate(module, memory)
  self.postMessage('up')
  helperLoop(memory, exports, thread)
  self.close()
}
