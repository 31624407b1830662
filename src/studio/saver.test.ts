import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { demoShot } from '../acts/testing/shots'
import type { Shot } from '../shot'

const kept = new Map<string, unknown>()
vi.mock('idb-keyval', () => ({
  get: async (k: string) => kept.get(k),
  set: async (k: string, v: unknown) => void kept.set(k, structuredClone(v)),
  del: async (k: string) => void kept.delete(k),
}))
const { Saver } = await import('./saver')
type State = import('./saver').SaveState

/** A server of one shot: takes a write when the revision fits. */
class Server {
  revision = 1
  doc: Shot | null = null
  mode: 'up' | 'down' | 'refuse' = 'up'
  writes = 0
  hold: Promise<void> | null = null
  keepalive: (boolean | undefined)[] = []
  fetch = async (_path: string, init: RequestInit): Promise<Response> => {
    await this.hold
    if (this.mode === 'down') throw new TypeError('no connection')
    if (init.method === 'GET') return Response.json({ id: 's1', revision: this.revision, saved: '2026-11-24T14:03:00Z', doc: this.doc })
    this.writes++
    this.keepalive.push(init.keepalive)
    const { revision, doc } = JSON.parse(init.body as string)
    if (this.mode === 'refuse') return Response.json({ error: 'camera: no camera has the id x' }, { status: 422 })
    if (revision !== this.revision)
      return Response.json({ error: 'this shot was changed elsewhere meanwhile', revision: this.revision }, { status: 409 })
    this.revision++
    this.doc = doc
    return Response.json({ revision: this.revision, saved: '2026-11-24T14:02:00Z' })
  }
}
let server: Server
let states: State[]
const named = (name: string): Shot => ({ ...demoShot(), name })
const open = () => new Saver('s1', server.revision, (s) => states.push(s))
const kind = () => states.at(-1)?.kind
beforeEach(() => {
  vi.useFakeTimers()
  kept.clear()
  states = []
  server = new Server()
  vi.stubGlobal('fetch', server.fetch)
})
afterEach(() => {
  vi.useRealTimers()
  vi.unstubAllGlobals()
})

describe('saving', () => {
  it('happens once, 0.8 s after the last of many changes', async () => {
    const s = open()
    for (let i = 0; i < 10; i++) {
      s.changed(named(`n${i}`))
      await vi.advanceTimersByTimeAsync(300)
    }
    expect([server.writes, kind()]).toEqual([0, 'waiting'])
    await vi.advanceTimersByTimeAsync(600)
    expect([server.writes, server.doc?.name, kind()]).toEqual([1, 'n9', 'saved'])
    expect(kept.size).toBe(0)
  })
  it('keeps every change in the browser until the server has it', async () => {
    const s = open()
    s.changed(named('mine'))
    await vi.advanceTimersByTimeAsync(10)
    expect(kept.get('draft:s1')).toMatchObject({ revision: 1, doc: { name: 'mine' } })
    expect(await Saver.draft('s1', 1)).toMatchObject({ kind: 'mine', doc: { name: 'mine' } })
    expect(await Saver.draft('s1', 2)).toMatchObject({ kind: 'conflict', revision: 1 })
    expect(await Saver.draft('other', 1)).toEqual({ kind: 'none' })
    await vi.advanceTimersByTimeAsync(1000)
    expect(await Saver.draft('s1', 2)).toEqual({ kind: 'none' })
  })
  it('changes made while a save is under way go with the next one, on its revision', async () => {
    let release = () => {}
    server.hold = new Promise((done) => void (release = done))
    const s = open()
    s.changed(named('first'))
    await vi.advanceTimersByTimeAsync(800)
    s.changed(named('second'))
    release()
    server.hold = null
    await vi.advanceTimersByTimeAsync(2000)
    expect([server.revision, server.doc?.name, kind()]).toEqual([3, 'second', 'saved'])
  })
  it('tries again while the server does not answer, and then sends what is newest', async () => {
    server.mode = 'down'
    const s = open()
    s.changed(named('while away'))
    await vi.advanceTimersByTimeAsync(5000)
    expect(kind()).toBe('offline')
    s.changed(named('newer'))
    await vi.advanceTimersByTimeAsync(5000)
    server.mode = 'up'
    await vi.advanceTimersByTimeAsync(4000)
    expect([server.writes, server.doc?.name, kind()]).toEqual([1, 'newer', 'saved'])
  })
  it('stops when somebody else has saved: nothing is overwritten, the draft stays', async () => {
    const s = open()
    server.revision = 5
    s.changed(named('mine'))
    await vi.advanceTimersByTimeAsync(1000)
    expect(states.at(-1)).toEqual({ kind: 'conflict', revision: 5 })
    s.changed(named('mine still'))
    await vi.advanceTimersByTimeAsync(5000)
    expect(server.doc).toBeNull()
    expect(kept.get('draft:s1')).toMatchObject({ doc: { name: 'mine still' } })
  })
  it('is no conflict when what came before is the very same: a closed tab sent it on its way out', async () => {
    const s = open()
    server.revision = 4
    // The same document with its fields in another order.
    server.doc = Object.fromEntries(Object.entries(named('mine')).reverse()) as unknown as Shot
    s.changed(named('mine'))
    await vi.advanceTimersByTimeAsync(1000)
    expect([kind(), kept.size]).toEqual(['saved', 0])
    s.changed(named('next'))
    await vi.advanceTimersByTimeAsync(1000)
    expect([kind(), server.revision, server.doc?.name]).toEqual(['saved', 5, 'next'])
  })
  it('says what the server refused, and does not ask again and again', async () => {
    server.mode = 'refuse'
    const s = open()
    s.changed(named('odd'))
    await vi.advanceTimersByTimeAsync(20000)
    expect(states.at(-1)).toEqual({ kind: 'refused', message: 'camera: no camera has the id x' })
    expect(server.writes).toBe(1)
  })
  it('on leaving it sends at once, in a request that outlives the page when it is small enough', async () => {
    const s = open()
    s.changed(named('leaving'))
    await s.flush(true)
    expect([server.doc?.name, server.keepalive]).toEqual(['leaving', [true]])
    s.changed({
      ...named('large'),
      assets: Array.from({ length: 900 }, (_, i) => ({ hash: String(i).padStart(64, '0'), name: `a rather long name ${i}` })),
    })
    await s.flush(true)
    expect(server.keepalive).toEqual([true, false])
  })
  it('has nothing to send when nothing changed, and nothing after it was put away', async () => {
    const s = open()
    await s.flush()
    await s.flush(true)
    expect(server.writes).toBe(0)
    s.changed(named('late'))
    s.dispose()
    await vi.advanceTimersByTimeAsync(5000)
    expect(server.writes).toBe(0)
  })
})
