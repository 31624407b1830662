import { beforeEach, describe, expect, it } from 'vitest'
import { demoShot } from '../acts/testing/shots'
import { drawn, forgetStale, shownFrame, stale, taken, tellStatus, touched } from './player'
import { type Drawn, loadStudio, setStudio, studio } from './store'

const picture = (frame: number, serial: number, more: Partial<Drawn> = {}): Drawn => ({
  frame,
  serial,
  asked: 1,
  ready: true,
  sketch: false,
  scale: 1,
  share: 1,
  alive: 10,
  ms: 5,
  width: 100,
  height: 50,
  ...more,
})
const ready = () => studio().drawn?.ready
beforeEach(() => {
  loadStudio('id', { id: 'p', name: 'Quay' }, { ...demoShot(), opens: null })
  forgetStale()
})

describe('whether the picture is exact', () => {
  it('as the stage says, when nothing is under way', () => {
    drawn(picture(10, 1))
    expect(ready()).toBe(true)
    drawn(picture(10, 2, { ready: false, sketch: true }))
    expect(ready()).toBe(false)
  })
  it('not from the moment of a change that touches the frame, long before anybody answers', () => {
    drawn(picture(10, 1))
    touched(7, 10)
    expect(ready()).toBe(false)
    // The stage draws the old frame once more, unknowing.
    drawn(picture(10, 1))
    expect(ready()).toBe(false)
    stale(1)
    taken(7)
    expect(ready()).toBe(false)
    drawn(picture(10, 2))
    expect(ready()).toBe(true)
  })
  it('a change after the frame leaves it exact', () => {
    drawn(picture(10, 1))
    touched(7, 11)
    expect(ready()).toBe(true)
    drawn(picture(12, 2))
    expect(ready()).toBe(false)
  })
  it('two changes that cancel each other before the simulation looks give the picture back', () => {
    drawn(picture(10, 1))
    touched(7, 4)
    touched(8, 4)
    taken(7)
    expect(ready()).toBe(false)
    taken(8)
    expect(ready()).toBe(true)
  })
  it('of several changes the earliest frame counts until all are taken', () => {
    touched(7, 5)
    touched(8, 20)
    taken(7)
    drawn(picture(10, 1))
    expect(ready()).toBe(false)
    taken(8)
    expect(ready()).toBe(true)
  })
  it('a frame that went out of date stays so when the stage is late', () => {
    drawn(picture(10, 3))
    stale(3)
    expect(ready()).toBe(false)
    drawn(picture(10, 3))
    expect(ready()).toBe(false)
    forgetStale()
    drawn(picture(10, 1))
    expect(ready()).toBe(true)
  })
})

describe('the strip of frames', () => {
  const status = {
    beads: 'rrrrr-',
    first: 10,
    computing: null,
    warm: null,
    frameMs: 1,
    historyBytes: 1,
    worldBytes: 1,
    threads: 1,
    notices: [],
    problems: [],
  }
  it('shows with the change what it touches', () => {
    setStudio({ status })
    touched(7, 12)
    expect(studio().status).toMatchObject({ beads: 'rrooo-', computing: 12 })
    touched(8, 3)
    expect(studio().status).toMatchObject({ beads: 'ooooo-', computing: 3 })
  })
  it('without a GPU hears seldom how far a catching up is, and always that it is done', () => {
    setStudio({ status, software: true })
    touched(7, 10)
    tellStatus({ ...status, beads: 'rrooo-', computing: 12 })
    expect(studio().status?.computing).toBe(10)
    tellStatus(status)
    expect(studio().status?.computing).toBeNull()
    setStudio({ software: false })
    tellStatus({ ...status, computing: 11 })
    expect(studio().status?.computing).toBe(11)
  })
})

describe('counts and ages', () => {
  const counts = (alive: number) => ({ stats: { sparks: { alive, born: 1, died: 0, contacts: 0, with: {} } }, ages: {} })
  const alive = () => studio().stats.sparks?.alive
  it('come with the picture that they belong to', () => {
    shownFrame({ serial: 4, ...counts(400) })
    drawn(picture(9, 3))
    expect(alive()).toBeUndefined()
    drawn(picture(10, 4))
    expect(alive()).toBe(400)
  })
  it('come all the same when no picture does', async () => {
    shownFrame({ serial: 4, ...counts(400) })
    await expect.poll(alive, { timeout: 3000 }).toBe(400)
  })
  it('of an older frame never replace those of a newer', () => {
    shownFrame({ serial: 4, ...counts(400) })
    shownFrame({ serial: 5, ...counts(500) })
    drawn(picture(10, 5))
    drawn(picture(10, 4))
    expect(alive()).toBe(500)
  })
})
