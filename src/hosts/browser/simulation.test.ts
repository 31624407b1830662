import { MessageChannel } from 'node:worker_threads'
import { describe, expect, it, vi } from 'vitest'
import { type Frame, frameMark, type Run } from '../../engine'
import { given, points } from '../../engine/testing/plans'
import type { Shot } from '../../shot'
import { openingName } from '../frameKey'
import type { Openings } from './frameStore'
import { edited, exact, open, small } from './testing/open'

const FILES: Record<string, string> = { anvil: 'anvil.obj', stump: 'stump.obj', kiln: 'kiln.obj' }

describe('the simulation beside the page', () => {
  it('computes the whole shot, tells beads and facts, and hands the wanted frame to the stage', async () => {
    const t = await open()
    const shot = small()
    t.sim.setShot(shot)
    t.sim.show(30)
    await t.rest()
    expect(t.status()?.beads).toBe('r'.repeat(41))
    const assets = t.toPage.find((m) => m.type === 'assets')
    expect(assets?.facts.map(([, f]) => f.triangles > 0)).toEqual(Object.keys(FILES).map(() => true))
    expect(t.toStage[0].type).toBe('meshes')
    const last = t.frames().at(-1)
    expect([last?.frame.frame, last?.ready, last?.sketch]).toEqual([30, true, false])
    expect(frameMark(given(last).frame)).toBe(await exact(shot, 30))
    const shown = t.toPage.findLast((m) => m.type === 'shown')
    expect(shown?.stats.sparks.alive).toBe(points(last?.frame as Frame).count)
    const ages = shown?.ages.sparks ?? new Float32Array(0)
    expect(ages.length).toBeGreaterThan(10)
    expect(ages.length).toBeLessThanOrEqual(600)
    for (const a of ages) expect(a).toBeLessThanOrEqual(1)
  })
  it('a frame that is looked at comes before all others', async () => {
    const t = await open()
    t.sim.setShot(small())
    t.sim.show(25)
    await t.rest()
    // The first picture that the stage got is the wanted one, and at that time nothing behind it was there.
    expect(t.frames()[0].frame.frame).toBe(25)
    expect(t.beadsAt[0]).toBe(`${'r'.repeat(26)}${'-'.repeat(15)}`)
  })
  it('a frame that a shot opened with is shown at once by the next who opens it, and the rest is computed', async () => {
    const all = new Map<string, ArrayBuffer>()
    const openings = (o: { fromMs: number; broken?: boolean }): Openings => ({
      fromMs: o.fromMs,
      read: async (name) => (o.broken ? (all.get(name)?.slice(0, 90) ?? null) : (all.get(name) ?? null)),
      keep: async (name, parts) => void all.set(name, await new Blob(parts as BlobPart[]).arrayBuffer()),
    })
    const opened = async (shot: Shot, o: { fromMs: number; broken?: boolean }) => {
      const t = await open({ openings: openings(o) })
      t.sim.show(25)
      t.sim.setShot(shot)
      // The page does so once it knows of the meshes.
      t.sim.setShot(structuredClone(shot))
      await t.rest()
      return { first: t.beadsAt[0], mark: frameMark(t.frames()[0].frame), last: t.status()?.beads }
    }
    const fromStart = `${'r'.repeat(26)}${'-'.repeat(15)}`
    const alone = `r${'-'.repeat(24)}r${'-'.repeat(15)}`
    // What is there quickly anyway is not kept.
    expect((await opened(small(), { fromMs: 1e9 })).first).toBe(fromStart)
    expect(all.size).toBe(0)
    const before = await opened(small(), { fromMs: 0 })
    expect(before.first).toBe(fromStart)
    await vi.waitFor(() => expect(all.size).toBe(1))
    const after = await opened(small(), { fromMs: 0 })
    expect(after).toEqual({ ...before, first: alone })
    expect(after.last).toBe('r'.repeat(41))
    // Broken ones are as none; another shot has its own, one of another name the same.
    expect((await opened(small(), { fromMs: 1e9, broken: true })).first).toBe(fromStart)
    const other = edited(small(), (s) => void (s.systems[0].birth[0].count = 300))
    expect((await opened(other, { fromMs: 1e9 })).first).toBe(fromStart)
    expect((await opened({ ...small(), name: 'Another' }, { fromMs: 1e9 })).first).toBe(alone)
  })
  it('asks for the frame that a shot opens with by the name under which the server computes it ahead', async () => {
    const asked: string[] = []
    const read = async (name: string) => {
      asked.push(name)
      return null
    }
    const t = await open({ openings: { fromMs: 1e9, read, keep: async () => {} } })
    const shot = { ...small(), opens: 7 }
    // As a page reads it.
    t.sim.setAhead(JSON.parse(JSON.stringify(shot)), [])
    await t.rest()
    expect(asked).toEqual([await openingName(shot, 'test')])
  })
  it('ends in the middle of a run, and another goes on with its kernels: the same frames as alone', async () => {
    const first = await open()
    first.sim.setShot(small())
    first.sim.show(40)
    await first.until(() => first.beadsAt.length > 0 || (first.status()?.beads ?? '').includes('r'), 'begun')
    await first.sim.end()
    const said = first.toPage.length
    const second = await open({ host: first.host })
    const other = edited(small(), (s) => void (s.systems[0].birth[0].count = 300))
    second.sim.setShot(other)
    second.sim.show(30)
    await second.rest()
    expect(second.status()?.beads).toBe('r'.repeat(41))
    expect(frameMark(given(second.frames().at(-1)).frame)).toBe(await exact(other, 30))
    // Whatever still comes for the one that has ended does nothing.
    first.sim.setShot(small())
    first.sim.show(3)
    await new Promise((r) => setTimeout(r, 50))
    expect(first.toPage.length).toBe(said)
  })
  it('a changed look runs nothing again', async () => {
    const t = await open()
    const shot = small()
    t.sim.setShot(shot)
    t.sim.show(20)
    await t.rest()
    const sent = t.frames().length
    t.sim.setShot(
      edited(shot, (s) => {
        s.shared.looks[0].colour.stops[0].colour = [0, 1, 0]
        s.cameras[0].lens = 80
        s.name = 'greener'
      }),
    )
    await new Promise((r) => setTimeout(r, 60))
    expect(t.status()?.beads).toBe('r'.repeat(41))
    expect(t.frames()).toHaveLength(sent)
    expect(t.toPage.some((m) => m.type === 'stale')).toBe(false)
  })
  it('a change marks what it touches, keeps the old picture till the new one is there, and ends exact', async () => {
    const t = await open()
    const shot = small()
    t.sim.setShot(shot)
    t.sim.show(36)
    await t.rest()
    const next = edited(shot, (s) => void (s.systems[0].whole.movement[0].strength = 2))
    t.sim.setShot(next)
    await t.until(() => t.toPage.some((m) => m.type === 'stale'), 'stale')
    expect(t.toStage.some((m) => m.type === 'stale')).toBe(true)
    await t.rest()
    const last = t.frames().at(-1)
    expect([last?.frame.frame, last?.ready]).toEqual([36, true])
    expect(frameMark(given(last).frame)).toBe(await exact(next, 36))
  })
  it('of many questions that are taken back while one is answered none is computed', async () => {
    const t = await open()
    t.sim.setShot(small())
    t.sim.show(40)
    await t.rest()
    const explored = vi.spyOn((t.sim as unknown as { run: Run }).run, 'explore')
    // As a worker gets them: one message after the other, whatever is under way.
    const { port1, port2 } = new MessageChannel()
    port2.on('message', (m: { ask?: number; cancel?: number }) => {
      if (m.ask !== undefined) t.sim.ask(m.ask, { what: 'particle', system: 'sparks', id: 5, frame: m.ask })
      else t.sim.cancel(m.cancel as number)
    })
    for (let frame = 11; frame < 20; frame++) for (const m of [{ ask: frame }, { cancel: frame }]) port1.postMessage(m)
    port1.postMessage({ ask: 20 })
    const settled = () => t.toPage.filter((m) => m.type === 'settled').map((m) => m.id)
    await t.until(() => settled().includes(20), 'answered')
    port1.close()
    expect(settled()).toEqual([20])
    expect(explored.mock.calls.map(([frame]) => frame)).toEqual([20])
    // It goes on as before: a change that comes with a question is taken first.
    t.sim.ask(21, { what: 'particle', system: 'sparks', id: 5, frame: 20 })
    t.sim.setShot(edited(small(), (s) => (s.seed += 1)))
    await t.rest()
    await t.until(() => settled().includes(21), 'answered')
    expect(t.status()?.beads).toBe('r'.repeat(41))
  })
  it('of many changes at once only the last counts', async () => {
    const t = await open()
    const shot = small()
    t.sim.show(40)
    for (let g = 0; g <= 20; g++) t.sim.setShot(edited(shot, (s) => void (s.systems[0].whole.movement[0].strength = g)))
    await t.rest()
    expect(frameMark(t.frames().at(-1)?.frame as never)).toBe(
      await exact(
        edited(shot, (s) => void (s.systems[0].whole.movement[0].strength = 20)),
        40,
      ),
    )
  })
  it('a longer shot keeps what it has and computes the rest', async () => {
    const t = await open()
    const shot = small()
    t.sim.setShot(shot)
    await t.rest()
    t.sim.setShot(edited(shot, (s) => void (s.range.last = 50)))
    await t.until(() => t.status()?.beads.length === 51 && t.status()?.computing === null, 'longer')
    expect(t.status()?.beads).toBe('r'.repeat(51))
  })
  it('a mesh that cannot be fetched is said at its object, and the rest plays', async () => {
    const t = await open({
      fetch: async () => {
        throw new Error('this asset is not there any more')
      },
    })
    t.sim.setShot(small())
    await t.rest()
    expect(t.status()?.problems).toContainEqual({ element: 'anvil', message: 'its mesh cannot be used: this asset is not there any more' })
    expect(t.status()?.beads).toBe('r'.repeat(41))
  })
  it('a broken mesh is said with the line', async () => {
    const t = await open({ fetch: async () => new TextEncoder().encode('v 1 2\n') })
    t.sim.setShot(small())
    await t.rest()
    expect(t.status()?.problems[0].message).toBe('its mesh cannot be used: line 1: “v” needs three numbers')
  })
  it('comes to rest also when only a part of the frames can be kept', async () => {
    const t = await open({ history: 600_000 })
    t.sim.setShot(small())
    t.sim.show(40)
    await t.rest()
    expect(t.status()?.beads).toContain('-')
    t.sim.show(10)
    await t.until(() => t.frames().at(-1)?.frame.frame === 10, 'frame 10')
    await new Promise((r) => setTimeout(r, 300))
    await t.rest()
  })
})
describe('a long way to catch up', () => {
  it('is bridged by a sketch from the present state, said as not exact, and ends exact', async () => {
    const t = await open()
    const shot = small()
    shot.substeps = 8
    t.sim.setShot(shot)
    t.sim.show(40)
    await t.rest()
    // As if every frame had taken long: the way back to frame 40 is then estimated at over three seconds.
    const history = (t.sim as unknown as { run: { history: { get(f: number): { frame: { ms: number } } } } }).run.history
    for (let f = 0; f <= 40; f++) history.get(f).frame.ms = 200
    const next = edited(shot, (s) => void (s.systems[0].whole.movement[0].strength = 1))
    t.sim.setShot(next)
    await t.until(() => t.frames().some((m) => m.sketch), 'sketched')
    const sketch = t.frames().find((m) => m.sketch)
    expect([sketch?.frame.frame, sketch?.ready]).toEqual([40, false])
    expect(t.toPage.some((m) => m.type === 'shown' && m.sketch)).toBe(true)
    await t.rest()
    const last = t.frames().at(-1)
    expect([last?.ready, last?.sketch]).toEqual([true, false])
    expect(frameMark(given(last).frame)).toBe(await exact(next, 40))
    expect(frameMark(given(sketch).frame)).not.toBe(await exact(next, 40))
  })
})
describe('what lingers', () => {
  it('is of earlier frames, handed over exact, also where there is no room to keep it', async () => {
    for (const history of [1 << 28, 60_000]) {
      const { sim, toStage, until } = await open({ history })
      const s = edited(small(), (x) => void (x.range.last = 30))
      sim.setShot(s)
      sim.show(25)
      const earlier = () => toStage.findLast((m) => m.type === 'earlier')?.frame
      await until(() => toStage.some((m) => m.type === 'frame' && m.ready && m.frame.frame === 25), 'shown')
      sim.handOver(22)
      await until(() => earlier()?.frame === 22, 'given')
      expect(frameMark(earlier() as Frame)).toBe(await exact(s, 22))
    }
  })
})
