import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { demoShot } from '../acts/testing/shots'
import type { FromSim } from '../protocol'

/** What the files of the early script and of the page have in common is in the global scope alone: each reads the file anew. */
const load = async <T>(path: string): Promise<T> => {
  vi.resetModules()
  return (await import(path)) as T
}
type Workers = typeof import('./workers')
class FakeWorker {
  static made: FakeWorker[] = []
  sent: { type: string }[] = []
  onmessage: ((e: { data: unknown }) => void) | null = null
  constructor(readonly url: string) {
    FakeWorker.made.push(this)
  }
  postMessage(m: { type: string }) {
    this.sent.push(m)
  }
  say(data: FromSim) {
    this.onmessage?.({ data })
  }
  terminate() {}
}
const doc = demoShot()
const answers: Record<string, unknown> = { '/api/shots/s1': { id: 's1', doc }, '/api/shots/s1/bakes': [] }

beforeEach(() => {
  FakeWorker.made = []
  vi.stubGlobal('Worker', FakeWorker)
  vi.stubGlobal('document', { createElement: () => ({ transferControlToOffscreen: () => ({}) }) })
  vi.stubGlobal('navigator', { hardwareConcurrency: 2 })
  vi.stubGlobal('location', { href: 'http://127.0.0.1:4600/shot/s1' })
  vi.stubGlobal('fetch', async (path: string) => ({ ok: path in answers, json: async () => answers[path] }))
})
afterEach(() => {
  vi.unstubAllGlobals()
  delete (globalThis as { emberPrepared?: unknown }).emberPrepared
})

describe('the workers of a shot', () => {
  it('are those that the early script prepared, with the shot on its way to both, and are taken once', async () => {
    ;(await load<Workers>('./workers')).prepareWorkers('s1')
    const page = await load<Workers>('./workers')
    const [loaded, bakes] = (await page.takeOpening('s1')) ?? []
    expect([loaded?.doc, bakes]).toEqual([doc, []])
    expect(await page.takeOpening('s1')).toBeNull()
    const [sim, stage] = FakeWorker.made
    expect(FakeWorker.made.map((w) => w.url)).toEqual(['/workers/sim.js', '/workers/stage.js'])
    expect([sim, stage].map((w) => w.sent.map((m) => m.type))).toEqual([
      ['init', 'ahead'],
      ['init', 'ahead'],
    ])
    expect(page.takeWorkers().sim).toBe(sim)
    expect(page.takeWorkers().sim).not.toBe(sim)
    expect(FakeWorker.made).toHaveLength(4)
  })
  it('are the page’s own where it came first, and a shot that is not there is asked for again', async () => {
    const page = await load<Workers>('./workers')
    page.takeWorkers()
    ;(await load<Workers>('./workers')).prepareWorkers('s1')
    expect(FakeWorker.made).toHaveLength(2)
    expect(await page.takeOpening('s1')).toBeNull()
  })
  it('are not sent a shot that cannot be read', async () => {
    const early = await load<Workers>('./workers')
    early.prepareWorkers('gone')
    expect(await early.takeOpening('gone')).toBeNull()
    expect(FakeWorker.made.map((w) => w.sent.map((m) => m.type))).toEqual([['init'], ['init']])
  })
  it('are heard from their first word on, in order', async () => {
    ;(await load<Workers>('./workers')).prepareWorkers(undefined)
    const { Session } = await load<typeof import('./session')>('./session')
    const heard: string[] = []
    const session = new Session({ sim: (m) => heard.push(m.type), stage: () => {}, revised: () => {}, touched: () => {} })
    const [sim] = FakeWorker.made
    sim.say({ type: 'ready', threads: 2, memory: null, why: null })
    sim.say({ type: 'taken', change: 0 })
    expect(heard).toEqual([])
    session.listen()
    sim.say({ type: 'stale', serial: 1 })
    expect(heard).toEqual(['ready', 'taken', 'stale'])
    session.dispose()
  })
})
