import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { demoShot } from '../acts/testing/shots'
import type { FromSim, FromStage } from '../protocol'

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
  onerror: ((e: unknown) => void) | null = null
  constructor(readonly url: string) {
    FakeWorker.made.push(this)
  }
  postMessage(m: { type: string }) {
    this.sent.push(m)
  }
  say(data: FromSim | FromStage) {
    this.onmessage?.({ data })
  }
  ended = false
  terminate() {
    this.ended = true
  }
}
const drawn = (ready: boolean): FromStage => ({
  ...{ type: 'drawn', frame: 0, serial: 1, revision: 1, ready, sketch: false, ms: 1, scale: 1, share: 1 },
  ...{ width: 2, height: 2, alive: 0, lines: 0, faces: {} },
})
const doc = demoShot()
const answers: Record<string, unknown> = { '/api/shots/s1': { id: 's1', doc }, '/api/shots/s1/bakes': [] }

beforeEach(() => {
  FakeWorker.made = []
  vi.stubGlobal('Worker', FakeWorker)
  vi.stubGlobal('document', { createElement: () => ({ transferControlToOffscreen: () => ({}) }) })
  vi.stubGlobal('navigator', { hardwareConcurrency: 2 })
  vi.stubGlobal('location', { href: 'http://127.0.0.1:4600/shot/s1' })
  // As it is when it is asked for.
  vi.stubGlobal('fetch', async (path: string) => {
    const answer = answers[path]
    return { ok: path in answers, json: async () => answer }
  })
})
afterEach(() => {
  vi.restoreAllMocks()
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
  it('serve one shot after the other: what they still say of the one before is for nobody', async () => {
    const { Session } = await load<typeof import('./session')>('./session')
    const heard: string[] = []
    const events = {
      sim: (m: FromSim) => heard.push(m.type),
      stage: (m: FromStage) => heard.push(m.type),
      revised: () => {},
      touched: () => {},
    }
    const first = new Session(events)
    const [sim, stage] = FakeWorker.made
    first.listen()
    stage.say(drawn(true))
    first.dispose()
    expect([sim, stage].map((w) => [w.sent.at(-1)?.type, w.ended])).toEqual([
      ['again', false],
      ['again', false],
    ])
    const second = new Session(events)
    second.listen()
    expect([second.canvas === first.canvas, FakeWorker.made.length]).toEqual([true, 2])
    heard.length = 0
    sim.say({ type: 'taken', change: 7 })
    stage.say(drawn(true))
    expect(heard).toEqual([])
    sim.say({ type: 'ready', threads: 2, memory: null, why: null })
    sim.say({ type: 'taken', change: 1 })
    stage.say(drawn(false))
    stage.say({ type: 'ready', software: true, build: '1' })
    stage.say(drawn(true))
    expect(heard).toEqual(['ready', 'taken', 'ready', 'drawn'])
  })
  it('end with a shot of which no picture came, one that failed, and one whose context was lost', async () => {
    const { Session } = await load<typeof import('./session')>('./session')
    const events = { sim: () => {}, stage: () => {}, revised: () => {}, touched: () => {} }
    const said: FromStage[][] = [[], [drawn(true), { type: 'failed', message: 'no' }], [drawn(true), { type: 'context', lost: true }]]
    for (const messages of said) {
      const session = new Session(events)
      const [sim, stage] = FakeWorker.made.slice(-2)
      session.listen()
      for (const m of messages) stage.say(m)
      session.dispose()
      expect([sim.ended, stage.ended]).toEqual([true, true])
    }
    // Those that break while nobody needs them are not taken again.
    const session = new Session(events)
    const [sim, stage] = FakeWorker.made.slice(-2)
    session.listen()
    stage.say(drawn(true))
    session.dispose()
    expect(sim.ended).toBe(false)
    sim.onerror?.({ message: 'gone' })
    expect(sim.ended).toBe(true)
    expect((await load<Workers>('./workers')).takeWorkers().sim).not.toBe(sim)
  })
  it('begin with a shot that the pointer rests on, and leave it when it goes on, unless it was asked for', async () => {
    const page = await load<Workers>('./workers')
    const types = () => FakeWorker.made.map((w) => w.sent.map((m) => m.type).join(' '))
    page.lookAhead('s1')
    await vi.waitFor(() => expect(types()).toEqual(['init ahead', 'init ahead']))
    page.lookAway('another')
    expect(types()).toEqual(['init ahead', 'init ahead'])
    page.lookAway('s1')
    expect(types()).toEqual(['init ahead again', 'init ahead again'])
    expect(await page.takeOpening('s1')).toBeNull()
    page.lookAhead('s1')
    // Only looked at: the page reads it as it is when it is opened, whatever was read before.
    const newer = { id: 's1', doc: { ...doc, name: 'Saved meanwhile' } }
    answers['/api/shots/s1'] = newer
    page.lookAhead('s1', true)
    page.lookAway('s1')
    expect((await page.takeOpening('s1'))?.[0]).toEqual(newer)
    await vi.waitFor(() => expect(types()[0]).toBe('init ahead again ahead'))
    answers['/api/shots/s1'] = { id: 's1', doc }
    page.lookAhead('s1')
    expect(await page.takeOpening('s1')).toBeNull()
    // The one on which it rests next is begun with anew.
    page.lookAhead('gone')
    await vi.waitFor(() => expect(types()[0]).toBe('init ahead again ahead again'))
    // What was read long ago is read again.
    page.lookAhead('s1', true)
    vi.spyOn(performance, 'now').mockReturnValue(performance.now() + 60000)
    expect(await page.takeOpening('s1')).toBeNull()
  })
})
