import { browserKernels } from '../../machines/browser'
import type { FromSim, StageToSim, ToSim } from '../../protocol'
import type { Shot } from '../../shot'
import type { BakeFiles } from './bakes'
import { FrameStore, type Openings, ownFiles } from './frameStore'
import { Simulation } from './simulation'

const post = (m: FromSim, transfer: Transferable[] = []) => self.postMessage(m, { transfer })
let simulation: Promise<Simulation> | null = null
const OPENINGS: Openings = {
  fromMs: 1500,
  async read(name) {
    const r = await fetch(`/api/openings/${name}`)
    return r.status === 200 ? r.arrayBuffer() : null
  },
  async keep(name, parts) {
    await fetch(`/api/openings/${name}`, { method: 'PUT', body: new Blob(parts as BlobPart[]) })
  },
}

const BAKES: BakeFiles = {
  async doc(id) {
    const r = await fetch(`/api/bakes/${id}`)
    return r.ok ? ((await r.json()) as Shot) : null
  },
  async frame(id, frame) {
    const r = await fetch(`/api/bakes/${id}/frames/${frame}`)
    return r.ok ? r.arrayBuffer() : null
  },
}

self.onmessage = (event: MessageEvent<ToSim>) => {
  const m = event.data
  switch (m.type) {
    case 'init':
      m.stage.onmessage = ({ data }: MessageEvent<StageToSim>) =>
        void simulation?.then((s) => (data.type === 'sharp' ? s.sharp(data.serial) : s.handOver(data.frame)))
      simulation = Promise.all([browserKernels(m.wasm, m.threads), ownFiles('frames')]).then(([{ host, why }, files]) => {
        post({
          type: 'ready',
          threads: host.team.threads,
          memory: host.team.threads > 1 || host.memory.buffer instanceof SharedArrayBuffer ? host.memory : null,
          why,
        })
        return new Simulation(
          host,
          host.team.threads,
          m.historyBytes,
          post,
          (x, transfer = []) => m.stage.postMessage(x, { transfer }),
          async (hash) => {
            const r = await fetch(`/api/assets/${hash}`)
            if (!r.ok)
              throw new Error(((await r.json().catch(() => null)) as { error?: string } | null)?.error ?? `the server answered ${r.status}`)
            return new Uint8Array(await r.arrayBuffer())
          },
          async (file) => {
            const r = await fetch(`${m.wasm}fonts/${file}`)
            if (!r.ok) throw new Error(`the font ${file} did not come: the server answered ${r.status}`)
            return new Uint8Array(await r.arrayBuffer())
          },
          async () => (await browserKernels(m.wasm, 1)).host,
          { store: files && new FrameStore(files), build: process.env.EMBER_BUILD ?? '', openings: OPENINGS },
          BAKES,
        )
      })
      simulation.catch((error) =>
        post({ type: 'failed', message: `the simulation could not start: ${error instanceof Error ? error.message : error}` }),
      )
      return
    case 'shot':
      void simulation?.then((s) => s.setShot(m.shot, m.change))
      return
    case 'ahead':
      void simulation?.then((s) => s.setAhead(m.shot, m.bakes))
      return
    case 'bakes':
      void simulation?.then((s) => s.setBakes(m.bakes))
      return
    case 'beside':
      void simulation?.then((s) => s.showBeside(m.bake))
      return
    case 'show':
      void simulation?.then((s) => s.show(m.frame))
      return
    case 'ask':
      void simulation?.then((s) => s.ask(m.id, m.question))
      return
    case 'cancel':
      void simulation?.then((s) => s.cancel(m.id))
  }
}
