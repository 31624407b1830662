import { describe, expect, it } from 'vitest'
import { gasDoc } from '../../acts/testing/gas'
import { act, quiet } from '../../acts/testing/quiet'
import type { Frame } from '../../engine'
import type { Shot } from '../../shot'
import { packFrames } from '../framePack'
import { Baked } from './bakes'

const frame = (n: number): Frame => ({ frame: n, parts: [], stats: {}, notices: [], ms: 0 })
const packed = (n: number): ArrayBuffer => {
  const all = packFrames([frame(n)]).map((p) => (p instanceof ArrayBuffer ? new Uint8Array(p) : p))
  const out = new Uint8Array(all.reduce((sum, p) => sum + p.byteLength, 0))
  let at = 0
  for (const p of all) {
    out.set(p, at)
    at += p.byteLength
  }
  return out.buffer
}
const keyed = (then: number) => ({
  keys: [
    { t: 0, v: 1, ease: 'hold' },
    { t: 4 / 24, v: then, ease: 'hold' },
  ],
})
const blown = (then: number, o = {}): Shot =>
  quiet((s) => {
    s.range = { first: 0, last: 9 }
    s.forces = [{ id: 'w', name: 'w', seed: 1, reaches: 'all', shares: [], act: act('wind', { speed: keyed(then) }) }]
    s.gases = [gasDoc({ id: 'g', ...o })]
  })
const all = Array.from({ length: 10 }, (_, n) => n)
function baked(docs: Record<string, Shot>) {
  const asked: string[] = []
  const b = new Baked({
    doc: async (id) => docs[id] ?? null,
    frame: async (id, n) => {
      asked.push(`${id} ${n}`)
      return id === 'gone' ? null : packed(n)
    },
  })
  return { b, asked }
}

describe('elements that were baked apart', () => {
  const ids = ['g']
  const heads = (frames: number[]) => [{ id: 'apart', elements: ids, frames, old: false }]
  it('are left out of what is computed while all their frames are there, as the shot is', async () => {
    const { b, asked } = baked({ apart: blown(1) })
    await b.list(heads(all), blown(1))
    expect(b.until.get('apart')).toBeNull()
    expect(b.apart.map((x) => x.ids)).toEqual([ids])
    // Of the whole frame nothing is there.
    expect(b.has(3)).toBe(false)
    expect((await b.apart[0].frame(3))?.frame).toBe(3)
    // Those that come next are on their way.
    expect(asked).toEqual(['apart 3', 'apart 4', 'apart 5', 'apart 6', 'apart 7'])
    await b.list(heads(all.slice(0, 9)), blown(1))
    expect(b.apart).toEqual([])
    await b.list(heads(all), blown(1))
    expect(b.apart).toHaveLength(1)
    b.lose(['apart'])
    expect(b.apart).toEqual([])
  })
  it('are out of date by what they need alone, and count in no loop', async () => {
    const { b } = baked({ apart: blown(1) })
    const other = blown(1)
    other.systems[0].life = { value: 3, vary: 0 }
    await b.list(heads(all), other)
    expect(b.until.get('apart')).toBeNull()
    expect(b.apart).toHaveLength(1)
    b.follow(blown(3))
    expect(b.until.get('apart')).toBeGreaterThan(2)
    expect(b.apart).toEqual([])
    b.follow({ ...blown(1), loop: { fade: 0 } as never })
    expect(b.apart).toEqual([])
  })
})
describe('frames of bakes', () => {
  it('are those before what a change touches, of the latest bake that has them', async () => {
    const { b, asked } = baked({ late: blown(3), early: blown(1) })
    await b.list(
      [
        { id: 'late', elements: [], frames: [0, 1, 2, 3, 4, 5], old: false },
        { id: 'early', elements: [], frames: all, old: false },
        { id: 'older', elements: [], frames: all, old: true },
      ],
      blown(1),
    )
    expect(b.until.get('early')).toBeNull()
    const until = b.until.get('late') ?? 0
    expect(until).toBeGreaterThan(2)
    expect(until).toBeLessThan(6)
    expect(b.until.has('older')).toBe(false)
    expect(all.every((f) => b.has(f))).toBe(true)
    expect((await b.get(0))?.frame).toBe(0)
    // The next ones are on their way; each comes once, and each from the latest that has it.
    expect(asked).toEqual(['late 0', 'late 1', 'late 2', 'late 3', `${until > 4 ? 'late' : 'early'} 4`])
    await b.get(1)
    expect(asked.filter((x) => x === 'late 1')).toHaveLength(1)
    b.follow(blown(3))
    expect(b.until.get('late')).toBeNull()
    expect(b.has(9)).toBe(false)
  })
  it('that are not there after all are given up, so that they are computed', async () => {
    const { b } = baked({ gone: blown(1) })
    await b.list([{ id: 'gone', elements: [], frames: [2], old: false }], blown(1))
    expect(b.has(2)).toBe(true)
    expect(await b.get(2)).toBeNull()
    expect(b.has(2)).toBe(false)
    await b.list([{ id: 'unknown', elements: [], frames: all, old: false }], blown(1))
    expect(b.has(3)).toBe(false)
  })
  it('are better than what the View computes without the detail of renders', async () => {
    const fine = { detail: 2, detailIn: 'renders' as const }
    const { b } = baked({ a: blown(1, fine), b: blown(1) })
    // The View shows the shot without it.
    await b.list([{ id: 'a', elements: [], frames: [1, 2], old: false }], blown(1))
    expect(b.until.get('a')).toBeNull()
    expect(b.betters(1, frame(1))).toBe(true)
    const got = await b.get(1)
    expect(got && b.betters(1, got)).toBe(false)
    expect(b.betters(7, frame(7))).toBe(false)
    await b.list([{ id: 'b', elements: [], frames: [1, 2], old: false }], blown(1))
    expect(b.betters(1, frame(1))).toBe(false)
  })
})
