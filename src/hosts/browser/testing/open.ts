import { readFileSync } from 'node:fs'
import { afterEach } from 'vitest'
import { compile } from '../../../acts'
import { demoShot } from '../../../acts/testing/shots'
import { frameMark, type KernelHost, World } from '../../../engine'
import type { FromSim, SimStatus, SimToStage } from '../../../protocol'
import type { Shot } from '../../../shot'
import { nodeKernels } from '../../node/kernels'
import { loadShot } from '../../node/shot'
import type { BakeFiles } from '../bakes'
import type { Openings } from '../frameStore'
import { Simulation } from '../simulation'

/** Kernels that a test has started; they end with it. */
export const hosts: KernelHost[] = []
afterEach(() => {
  for (const h of hosts.splice(0)) h.team.dispose()
})
/** The simulation with ports that write down what goes through them. */
export async function open(
  o: {
    history?: number
    fetch?: (hash: string) => Promise<Uint8Array>
    slow?: number
    openings?: Openings
    bakes?: BakeFiles
    host?: KernelHost
  } = {},
) {
  const toPage: FromSim[] = []
  const toStage: SimToStage[] = []
  /** What was ready when each frame went to the stage. */
  const beadsAt: string[] = []
  const host = o.host ?? (await nodeKernels({ threads: 2 }))
  if (!o.host) hosts.push(host)
  const shot = demoShot()
  const fetch =
    o.fetch ??
    (async (hash: string) => new Uint8Array(readFileSync(`demo/anvil-strike/assets/${shot.assets.find((a) => a.hash === hash)?.name}`)))
  const sim: Simulation = new Simulation(
    host,
    2,
    o.history ?? 1 << 28,
    (m) => toPage.push(m),
    (m) => {
      toStage.push(m)
      if (m.type === 'frame' && m.ready) sim.sharp(m.serial)
      if (m.type === 'frame')
        beadsAt.push((sim as unknown as { run: { history: { beads(a: number, b: number): string } } }).run.history.beads(0, 40))
    },
    fetch,
    async (file) => new Uint8Array(readFileSync(`public/fonts/${file}`)),
    async () => {
      const second = await nodeKernels()
      hosts.push(second)
      return second
    },
    o.openings ? { store: null, build: 'test', openings: o.openings } : null,
    o.bakes ?? null,
  )
  const status = (): SimStatus | undefined => toPage.findLast((m) => m.type === 'status')?.status
  const until = async (good: () => boolean, what: string) => {
    for (let i = 0; i < 3000; i++) {
      if (good()) return
      await new Promise((r) => setTimeout(r, 5))
    }
    throw new Error(`never ${what}: ${status()?.beads}`)
  }
  const rest = () => until(() => status()?.computing === null, 'at rest')
  const frames = () => toStage.filter((m) => m.type === 'frame')
  return { sim, host, toPage, toStage, beadsAt, status, until, rest, frames, shot }
}
export const small = (): Shot => {
  const s = demoShot()
  s.systems[0].birth[0].count = 400
  s.range.last = 40
  return s
}
export const edited = (s: Shot, change: (s: Shot) => void): Shot => {
  const next = structuredClone(s)
  change(next)
  return next
}
export async function exact(shot: Shot, frame: number): Promise<string> {
  const { meshes } = await loadShot('demo/anvil-strike/shot.json')
  const w = new World(await nodeKernels(), compile(shot, meshes).plan, 1 << 28)
  while (w.frame < frame) w.step()
  const mark = frameMark(w.capture())
  w.dispose()
  return mark
}
