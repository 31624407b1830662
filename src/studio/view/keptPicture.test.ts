import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { demoShot } from '../../acts/testing/shots'
import type { Drawn } from '../../protocol'
import type { Shot } from '../../shot'
import { edit, loadStudio, setStudio, studio } from '../store'
import { isAsOpened, isWhole, keepSoon, noteKnown, pictureName } from './keptPicture'

const drawn: Drawn = {
  ...{ frame: 20, serial: 3, revision: 5, ready: true, sketch: false, ms: 400, scale: 1, share: 1 },
  ...{ width: 4, height: 2, alive: 0, lines: 0, faces: {} },
}
const shot: Shot = { ...demoShot(), range: { first: 0, last: 47 }, opens: 20 }
const by = { build: '7', software: true }
const size = [654, 368] as const
beforeEach(() => {
  loadStudio('id', { id: 'p', name: 'Quay' }, shot)
  setStudio({ drawn, revision: 5, software: true })
})

describe('a picture that stands for that of the View', () => {
  it('is looked for while the View shows the shot as it opens, and nothing besides', () => {
    expect(isAsOpened(studio())).toBe(true)
    const others: Partial<Parameters<typeof isAsOpened>[0]>[] = [
      { playhead: 21 },
      { playing: true },
      { pose: { place: [0, 1, 5], aim: [0, 0, 0], roll: 0 } as never },
      { second: { pose: null } },
      { region: { object: 'a', id: 'b' } as never },
      { marks: true },
      { boost: 10 },
      { solo: new Set(['a']) },
    ]
    for (const other of others) expect(isAsOpened({ ...studio(), ...other }), JSON.stringify(other)).toBe(false)
  })
  it('gives way to the whole, sharp, exact picture of the newest state, and to no other', () => {
    expect(isWhole(studio())).toBe(true)
    const others: Partial<Drawn>[] = [{ ready: false }, { scale: 0.5 }, { share: 0.4 }, { revision: 4 }, { frame: 19 }]
    for (const other of others) expect(isWhole({ ...studio(), drawn: { ...drawn, ...other } }), JSON.stringify(other)).toBe(false)
    expect(isWhole({ ...studio(), drawn: null })).toBe(false)
  })
  it('is called by all that it depends on, not by what the shot is called', async () => {
    const name = await pictureName(shot, [], by, size)
    expect(name).toMatch(/^[0-9a-f]{64}-654x368$/)
    expect(await pictureName({ ...shot, name: 'Renamed' }, [], by, size)).toBe(name)
    const bake = { id: 'k', frames: [19, 20], elements: [], old: false }
    const unseen = [
      { ...bake, frames: [19] },
      { ...bake, old: true },
    ]
    expect(await pictureName(shot, unseen, by, size)).toBe(name)
    const others = await Promise.all([
      pictureName({ ...shot, opens: 21 }, [], by, size),
      pictureName({ ...shot, lights: [] }, [], by, size),
      pictureName(shot, [bake], by, size),
      pictureName(shot, [{ ...bake, elements: ['e'] }], by, size),
      pictureName(shot, [], { ...by, build: '8' }, size),
      pictureName(shot, [], { ...by, software: false }, size),
      pictureName(shot, [], by, [655, 368]),
    ])
    expect(new Set([name, ...others]).size).toBe(8)
  })
})

describe('keeping it', () => {
  /** What the canvas of the stage shows: each look takes the next. */
  let looks: number[]
  let sent: [string, string | undefined][]
  beforeEach(() => {
    vi.useFakeTimers({ toFake: ['setTimeout', 'performance'] })
    looks = []
    sent = []
    const put = vi.fn(async (path: string, init?: RequestInit) => {
      sent.push([path, init?.method])
      return new Response()
    })
    vi.stubGlobal('fetch', put)
    vi.stubGlobal(
      'OffscreenCanvas',
      class {
        width = 2
        height = 1
        getContext = () => ({
          drawImage() {},
          putImageData() {},
          getImageData: () => ({ data: new Uint8ClampedArray(8).fill(looks.shift() ?? 0), width: 2, height: 1 }),
        })
        convertToBlob = async () => new Blob(['png'])
      },
    )
    setStudio({ session: { canvas: { width: 2, height: 1 } } as never })
  })
  afterEach(() => {
    vi.useRealTimers()
    vi.unstubAllGlobals()
  })
  const pass = () => vi.advanceTimersByTimeAsync(5000)

  it('takes what two looks see alike, once', async () => {
    looks = [9, 9]
    keepSoon('one', 0)
    await vi.advanceTimersByTimeAsync(1400)
    expect(sent).toEqual([])
    await pass()
    expect(sent).toEqual([['/api/openings/one', 'PUT']])
    keepSoon('one', 0)
    await pass()
    expect(sent.length).toBe(1)
  })
  it('leaves what still changes, what is called off, what came quickly on a GPU, and what the server has', async () => {
    looks = [9, 8]
    keepSoon('two', 0)
    await pass()
    keepSoon('three', 0)()
    await pass()
    setStudio({ software: false })
    keepSoon('four', performance.now() - 900)
    await pass()
    noteKnown('five')
    keepSoon('five', 0)
    await pass()
    expect(sent).toEqual([])
    keepSoon('four', performance.now() - 1100)
    await pass()
    expect(sent.length).toBe(1)
  })
  it('leaves what is no longer that of the shot, and a shot that lacks something', async () => {
    keepSoon('six', 0)
    edit('Another seed', (s) => {
      s.systems[0].seed++
    })
    await pass()
    setStudio({ status: { problems: [{}] } as never })
    keepSoon('seven', 0)
    await pass()
    setStudio({ status: null, drawn: { ...drawn, ready: false } })
    keepSoon('eight', 0)
    await pass()
    expect(sent).toEqual([])
  })
})
