import { beforeEach, describe, expect, it } from 'vitest'
import { demoShot } from '../../acts/testing/shots'
import type { Drawn } from '../../protocol'
import { loadStudio, setStudio, studio } from '../store'
import { changeSent, changeTaken, frameShown, framesStale, pictureDrawn, resetRun, statusReported } from '.'

const picture = (frame: number, serial: number, more: Partial<Drawn> = {}): Drawn => ({
  frame,
  serial,
  revision: 1,
  ready: true,
  sketch: false,
  scale: 1,
  share: 1,
  alive: 10,
  lines: 0,
  faces: {},
  ms: 5,
  width: 100,
  height: 50,
  ...more,
})
const ready = () => studio().drawn?.ready
beforeEach(() => {
  loadStudio('id', { id: 'p', name: 'Quay' }, { ...demoShot(), opens: null })
  resetRun()
})

describe('whether the picture is exact', () => {
  it('as the stage says, when nothing is under way', () => {
    pictureDrawn(picture(10, 1))
    expect(ready()).toBe(true)
    pictureDrawn(picture(10, 2, { ready: false, sketch: true }))
    expect(ready()).toBe(false)
  })
  it('not from the moment of a change that touches the frame, long before anybody answers', () => {
    pictureDrawn(picture(10, 1))
    changeSent(7, 10)
    expect(ready()).toBe(false)
    // The stage draws the old frame once more, unknowing.
    pictureDrawn(picture(10, 1))
    expect(ready()).toBe(false)
    framesStale(1)
    changeTaken(7)
    expect(ready()).toBe(false)
    pictureDrawn(picture(10, 2))
    expect(ready()).toBe(true)
  })
  it('a change after the frame leaves it exact', () => {
    pictureDrawn(picture(10, 1))
    changeSent(7, 11)
    expect(ready()).toBe(true)
    pictureDrawn(picture(12, 2))
    expect(ready()).toBe(false)
  })
  it('two changes that cancel each other before the simulation looks give the picture back', () => {
    pictureDrawn(picture(10, 1))
    changeSent(7, 4)
    changeSent(8, 4)
    changeTaken(7)
    expect(ready()).toBe(false)
    changeTaken(8)
    expect(ready()).toBe(true)
  })
  it('of several changes the earliest frame counts until all are taken', () => {
    changeSent(7, 5)
    changeSent(8, 20)
    changeTaken(7)
    pictureDrawn(picture(10, 1))
    expect(ready()).toBe(false)
    changeTaken(8)
    expect(ready()).toBe(true)
  })
  it('a frame that went out of date stays so when the stage is late', () => {
    pictureDrawn(picture(10, 3))
    framesStale(3)
    expect(ready()).toBe(false)
    pictureDrawn(picture(10, 3))
    expect(ready()).toBe(false)
    resetRun()
    pictureDrawn(picture(10, 1))
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
    ends: null,
    bakes: {},
    apart: [],
  }
  it('shows with the change what it touches', () => {
    setStudio({ status })
    changeSent(7, 12)
    expect(studio().status).toMatchObject({ beads: 'rrooo-', computing: 12 })
    changeSent(8, 3)
    expect(studio().status).toMatchObject({ beads: 'ooooo-', computing: 3 })
  })
  it('without a GPU hears seldom how far a catching up is, and always that it is done', () => {
    setStudio({ status, software: true })
    changeSent(7, 10)
    statusReported({ ...status, beads: 'rrooo-', computing: 12 })
    expect(studio().status?.computing).toBe(10)
    statusReported(status)
    expect(studio().status?.computing).toBeNull()
    setStudio({ software: false })
    statusReported({ ...status, computing: 11 })
    expect(studio().status?.computing).toBe(11)
  })
})

describe('counts and ages', () => {
  const counts = (alive: number) => ({ stats: { sparks: { alive, born: 1, died: 0, contacts: 0, with: {} } }, ages: {} })
  const alive = () => studio().stats.sparks?.alive
  it('come with the picture that they belong to', () => {
    frameShown({ serial: 4, ...counts(400) })
    pictureDrawn(picture(9, 3))
    expect(alive()).toBeUndefined()
    pictureDrawn(picture(10, 4))
    expect(alive()).toBe(400)
  })
  it('come all the same when no picture does', async () => {
    frameShown({ serial: 4, ...counts(400) })
    await expect.poll(alive, { timeout: 3000 }).toBe(400)
  })
  it('of an older frame never replace those of a newer', () => {
    frameShown({ serial: 4, ...counts(400) })
    frameShown({ serial: 5, ...counts(500) })
    pictureDrawn(picture(10, 5))
    pictureDrawn(picture(10, 4))
    expect(alive()).toBe(500)
  })
})
