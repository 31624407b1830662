import type { FromStage, ToStage } from '../protocol'
import { StageHost } from './stageHost'

// The stage beside the page: frames come straight from the simulation worker, the page only says from where to look.
let host = new StageHost((m: FromStage, transfer: Transferable[] = []) => self.postMessage(m, { transfer }))
self.onmessage = ({ data }: MessageEvent<ToStage>) => {
  if (data.type === 'again') host = host.again(data.sim)
  else host.receive(data)
}
