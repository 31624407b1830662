import type { FromStage, ToStage } from '../protocol'
import { StageHost } from './stageHost'

// The stage beside the page: frames come straight from the simulation worker, the page only says from where to look.
const host = new StageHost((m: FromStage, transfer: Transferable[] = []) => self.postMessage(m, { transfer }))
self.onmessage = (event: MessageEvent<ToStage>) => host.receive(event.data)
