import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { demoShot } from '../../acts/testing/shots'
import { type Frame, frameMark } from '../../engine'
import { framesOn, gravity, plan, system, withWorld } from '../../engine/testing/plans'
import { frameKey } from '../frameKey'
import { type FrameFiles, FrameStore, packFrames } from './frameStore'

/** A folder in memory. */
function memory(): FrameFiles & { files: Map<string, Uint8Array>; full: boolean } {
  const files = new Map<string, Uint8Array>()
  const folder = {
    files,
    full: false,
    async read(name: string, from: number, bytes: number) {
      const f = files.get(name)
      return f ? f.slice(from, from + bytes).buffer : null
    },
    async write(name: string, parts: readonly (ArrayBuffer | Uint8Array)[]) {
      if (folder.full && !name.endsWith('.json')) throw new DOMException('no room', 'QuotaExceededError')
      files.set(name, Uint8Array.from(parts.flatMap((p) => [...new Uint8Array(p instanceof Uint8Array ? p : p)])))
    },
    async remove(name: string) {
      files.delete(name)
    },
  }
  return folder
}
const computed = (n: number): Promise<Frame[]> =>
  withWorld(plan([system({ burst: 40, birth: { speed: 3, spreadTurns: 0.5 }, forces: [gravity()] })]), (w) =>
    Array.from({ length: n }, () => framesOn(w, 1)),
  )
async function all(store: FrameStore, key: string, first = 0): Promise<{ whole: boolean; frames: Frame[] }> {
  const frames: Frame[] = []
  const whole = await store.restore(key, first, (f) => frames.push(f) > 0)
  return { whole, frames }
}

describe('frames that a browser keeps', () => {
  it('come back bit for bit, the wanted one first', async () => {
    const frames = await computed(6)
    frames[2].parts.push({ kind: 'place', element: 'slug', matrix: [1, 0, 0, 0.25, 0, 1, 0, 0, 0, 0, 1, 0] })
    const store = new FrameStore(memory())
    expect(await store.keep('a', frames)).toBe(true)
    const { whole, frames: back } = await all(store, 'a', 4)
    expect(whole).toBe(true)
    expect(back.map((f) => f.frame)).toEqual([4, 1, 2, 3, 5, 6])
    for (const f of back) {
      const was = frames.find((x) => x.frame === f.frame) as Frame
      expect(frameMark(f)).toBe(frameMark(was))
      expect([f.stats, f.notices]).toEqual([was.stats, was.notices])
    }
  })
  it('nothing is there for another key, and a name of a shot is no part of it', async () => {
    const store = new FrameStore(memory())
    await store.keep('a', await computed(1))
    expect(await all(store, 'b')).toEqual({ whole: false, frames: [] })
    const shot = demoShot()
    expect(await frameKey({ ...shot, name: 'Other' }, '1')).toBe(await frameKey(shot, '1'))
    expect(await frameKey({ ...shot, seed: shot.seed + 1 } as typeof shot, '1')).not.toBe(await frameKey(shot, '1'))
    expect(await frameKey(shot, '2')).not.toBe(await frameKey(shot, '1'))
  })
  it('the least recently used go when there is no room for more, and one that is too large is not kept', async () => {
    const files = memory()
    let now = 0
    const frames = await computed(2)
    const bytes = packFrames(frames).reduce((n, p) => n + p.byteLength, 0)
    const store = new FrameStore(files, () => ++now, bytes * 2.5)
    await store.keep('a', frames)
    await store.keep('b', frames)
    await all(store, 'a')
    await store.keep('c', frames)
    expect([...files.files.keys()].filter((k) => k.length === 1).sort()).toEqual(['a', 'c'])
    expect(await new FrameStore(memory(), () => 0, bytes - 1).keep('a', frames)).toBe(false)
  })
  it('a full storage is no failure, and leaves no half', async () => {
    const files = memory()
    files.full = true
    const store = new FrameStore(files)
    expect(await store.keep('a', await computed(1))).toBe(false)
    expect(files.files.has('a')).toBe(false)
  })
  it('a reader may end early', async () => {
    const store = new FrameStore(memory())
    await store.keep('a', await computed(4))
    let seen = 0
    expect(await store.restore('a', 0, () => ++seen < 2)).toBe(false)
    expect(seen).toBe(2)
  })
  it('a file that is cut or changed never throws, and gives no frame with too few numbers (property)', async () => {
    const files = memory()
    const store = new FrameStore(files)
    await store.keep('a', await computed(3))
    const whole = files.files.get('a') as Uint8Array
    await fc.assert(
      fc.asyncProperty(fc.nat(whole.length - 1), fc.nat(255), fc.boolean(), async (at, byte, cut) => {
        const broken = cut ? whole.slice(0, at) : whole.slice()
        if (!cut) broken[at] = byte
        files.files.set('a', broken)
        const { frames } = await all(store, 'a')
        for (const f of frames) for (const p of f.parts) if (p.kind === 'points') expect(p.data).toBeInstanceOf(ArrayBuffer)
      }),
      { numRuns: 60 },
    )
  })
})
