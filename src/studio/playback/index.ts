import type { Drawn, SimStatus } from '../../protocol'
import { type Studio, setPlayhead, setStudio, studio } from '../store'
import { Clock } from './clock'
import { Freshness } from './freshness'
import { PageUpdates } from './pageUpdates'

const clock = new Clock()
const freshness = new Freshness()
const page = new PageUpdates()

export const play = (): void => clock.start()
export function pause(): void {
  page.flush()
  clock.stop()
}
export const togglePlay = (): void => (studio().playing ? pause() : play())
export const restart = (): void => clock.restart()
export function stepFrame(by: number): void {
  pause()
  setPlayhead(studio().playhead + by)
}

function updateExactness(): void {
  const d = studio().drawn
  const ready = d && freshness.of(d.serial)
  if (d && ready !== null && d.ready !== ready) setStudio({ drawn: { ...d, ready } })
}
/** A change went to the simulation, which touches frames from one on. */
export function changeSent(change: number, from: number): void {
  freshness.changeSent(change, from)
  updateExactness()
  page.touched(from)
}
/** The simulation follows a change. */
export function changeTaken(change: number): void {
  freshness.changeTaken(change)
  updateExactness()
}
/** Frames handed over up to a number are out of date. */
export function framesStale(serial: number): void {
  freshness.framesStale(serial)
  updateExactness()
}
/** A new simulation counts from the beginning. */
export function resetRun(): void {
  freshness.reset()
  page.reset()
}
/** The stage has drawn a picture. */
export function pictureDrawn(m: Drawn): void {
  const drawn = { ...m, ready: freshness.show(m) }
  performance.mark('ember-picture')
  const follow = studio().playing && m.frame === clock.requested
  page.publish({ drawn, ...page.takeCounts(m.serial), ...(follow ? { playhead: m.frame } : {}) })
  clock.drew(m.frame)
}
/** The simulation has handed a frame over. */
export const frameShown = (m: { serial: number } & Pick<Studio, 'stats' | 'ages'>): void => page.frameShown(m)
/** The simulation says how far it is. */
export const statusReported = (status: SimStatus): void => page.status(status)
