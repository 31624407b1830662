import { browserKernels } from '../../machines/browser'
import type { FromSim, StageToSim, ToSim } from '../../protocol'
import type { Shot } from '../../shot'
import type { BakeFiles } from './bakes'
import { FrameStore, type Openings, ownFiles } from './frameStore'
import { Simulation } from './simulation'

const post = (m: FromSim, transfer: Transferable[] = []) => self.postMessage(m, { transfer })
let simulation: Promise<Simulation> | null = null
/** Makes a simulation with what this worker has, whose frames go to the stage through a port. */
let make: ((stage: MessagePort, say: typeof post) => Promise<Simulation>) | null = null
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

function maker(m: Extract<ToSim, { type: 'init' }>): NonNullable<typeof make> {
  const ground = Promise.all([browserKernels(m.wasm, m.threads), ownFiles('frames')])
  return async (stage, say) => {
    const [{ host, why }, files] = await ground
    say({
      type: 'ready',
      threads: host.team.threads,
      memory: host.team.threads > 1 || host.memory.buffer instanceof SharedArrayBuffer ? host.memory : null,
      why,
    })
    return new Simulation(
      host,
      host.team.threads,
      m.historyBytes,
      say,
      (x, transfer = []) => stage.postMessage(x, { transfer }),
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
  }
}
/** Counts the shots that this worker serves: of one before nothing is said any more. */
let turn = 0
/** Begins with a new shot, when what was under way of the one before is done. */
function begin(stage: MessagePort): void {
  const before = simulation
  const now = ++turn
  const say: typeof post = (m, transfer) => {
    if (now === turn) post(m, transfer)
  }
  const next = (async () => {
    await before?.then((s) => s.end()).catch(() => {})
    return (make as NonNullable<typeof make>)(stage, say)
  })()
  simulation = next
  stage.onmessage = ({ data }: MessageEvent<StageToSim>) =>
    void next.then((s) => (data.type === 'sharp' ? s.sharp(data.serial) : s.handOver(data.frame)))
  next.catch((error) =>
    say({ type: 'failed', message: `the simulation could not start: ${error instanceof Error ? error.message : error}` }),
  )
}

self.onmessage = (event: MessageEvent<ToSim>) => {
  const m = event.data
  switch (m.type) {
    case 'init':
      make = maker(m)
      begin(m.stage)
      return
    case 'again':
      begin(m.stage)
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
