import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { demoShot } from '../../acts/testing/shots'
import { loadStudio, setStudio, studio } from '../store'
import { Clock } from './clock'

/** Repaints by hand, at any time that a browser may say they began. */
let repaints: FrameRequestCallback[]
let now: number
let shown: number[]
const repaint = (at: number) => {
  for (const f of repaints.splice(0)) f(at)
}
beforeEach(() => {
  repaints = []
  now = 1000
  shown = []
  vi.stubGlobal('requestAnimationFrame', (f: FrameRequestCallback) => repaints.push(f))
  vi.stubGlobal('cancelAnimationFrame', () => (repaints = []))
  vi.spyOn(performance, 'now').mockImplementation(() => now)
  const shot = demoShot()
  loadStudio('id', { id: 'p', name: 'Quay' }, { ...shot, range: { first: 0, last: 47 }, rate: { num: 24, den: 1 }, opens: 0 })
  const beads = 'r'.repeat(48)
  setStudio({
    session: { show: (f: number) => shown.push(f), moving: () => {} } as never,
    status: {
      beads,
      first: 0,
      computing: null,
      warm: null,
      frameMs: 1,
      historyBytes: 1,
      worldBytes: 1,
      threads: 1,
      notices: [],
      problems: [],
      ends: null,
      bakes: {},
      apart: [],
    },
  })
})
afterEach(() => {
  vi.unstubAllGlobals()
  vi.restoreAllMocks()
})

describe('the clock of playing', () => {
  it('never goes before its beginning, when a repaint says that it began long before somebody pressed play', () => {
    const clock = new Clock()
    clock.start()
    repaint(now - 120)
    expect(clock.stop()).toBe(0)
    expect([shown, studio().playhead]).toEqual([[], 0])
  })
  it('shows the frame that is due, and drops those that are not seen in time', () => {
    const clock = new Clock()
    clock.start()
    repaint(1000 + 1000 / 24 + 1)
    expect(shown).toEqual([1])
    clock.drew(1)
    now = 1500 + 1
    repaint(now)
    expect(shown).toEqual([1, 12])
    // It is still being drawn: nothing else is asked for.
    now = 1700
    repaint(now)
    expect(shown).toEqual([1, 12])
  })
  it('goes round when the end is reached while a picture is being drawn', () => {
    const clock = new Clock()
    clock.start()
    now = 1000 + (46 * 1000) / 24 + 1
    repaint(now)
    // Drawing takes longer than what is left; repaints come meanwhile.
    for (const ms of [30, 60, 90, 120]) repaint(now + ms)
    now += 150
    clock.drew(46)
    expect(shown).toEqual([46, 0])
    clock.drew(0)
    now += 1000 / 24 + 1
    repaint(now)
    expect(shown).toEqual([46, 0, 1])
  })
  it('waits for the last picture before it stops at the end', () => {
    setStudio({ loop: false })
    const clock = new Clock()
    clock.start()
    now = 1000 + (46 * 1000) / 24 + 1
    repaint(now)
    repaint(now + 120)
    expect([shown, studio().playing]).toEqual([[46], true])
    now += 150
    clock.drew(46)
    expect([shown, studio().playing, studio().playhead]).toEqual([[46, 47], false, 47])
  })
  it('begins again at the first frame also when the page has not followed it yet', () => {
    const clock = new Clock()
    clock.start()
    now = 1500
    repaint(now)
    expect(shown).toEqual([12])
    clock.restart()
    expect(shown).toEqual([12, 0])
    expect(clock.stop()).toBe(0)
  })
})
