import { framesPerSecond } from '../shot'
import { type Drawn, type Studio, setPlayhead, setStudio, shotNow, studio } from './store'

/**
 * Plays at true speed: the frame follows the clock and frames are dropped when drawing is slower. The clock waits where frames
 * are not computed yet.
 */
let handle = 0
let origin = 0
let from = 0
/** The frame that was last asked for; the playhead follows when it has been drawn, so that page and picture change together. */
let asked = 0
let askedAt = 0
/** A picture that has not come after this long, for a lost context say, is not waited for. */
const EVERY_FRAME_WAIT_MS = 5000

const hasFrame = (frame: number): boolean => {
  const status = studio().status
  const bead = status?.beads[frame - status.first]
  return bead === 'r' || bead === 'o'
}
function tick(now: number): void {
  if (!studio().playing) return
  handle = requestAnimationFrame(tick)
  advance(now)
}
/** Asks for the frame that the clock wants. */
function advance(now: number): void {
  const s = studio()
  const { first, last } = shotNow().range
  if (s.everyFrame) {
    // The next one once this one has been seen, never faster than true.
    if ((lastDrawn !== asked && now - askedAt < EVERY_FRAME_WAIT_MS) || now - askedAt < 1000 / framesPerSecond(shotNow()) - 4) return
    const next = asked < last ? asked + 1 : first
    if (next === first && !s.loop) {
      pause()
      return
    }
    if (!hasFrame(next)) return
    asked = next
    askedAt = now
    origin = now
    from = next
    s.session?.show(next)
    return
  }
  let wanted = Math.floor(from + ((now - origin) / 1000) * framesPerSecond(shotNow()))
  if (wanted > last) {
    if (!s.loop) {
      asked = last
      s.session?.show(last)
      pause()
      return
    }
    wanted = first
    origin = now
    from = first
  }
  // A picture still being drawn: wait for it rather than queue another.
  if (lastDrawn !== asked && hasFrame(asked) && now - askedAt < 1000) return
  let to = Math.min(asked, wanted)
  while (to < wanted && hasFrame(to + 1)) to++
  if (to < wanted) {
    origin = now
    from = to
  }
  if (to === asked) return
  asked = to
  askedAt = now
  s.session?.show(to)
}
/**
 * What the page shows of a playing picture: playhead, counts, specks. It follows every picture; without a GPU only a few times a
 * second, because there each repaint of the page costs as much as a picture (74 ms at 1280x800, measured).
 */
const SOFTWARE_PAGE_MS = 400
const GPU_PAGE_MS = 0
let news: Partial<Studio> = {}
let lastPage = 0
let lastDrawn = -1
function tell(part: Partial<Studio>): void {
  news = { ...news, ...part }
  const s = studio()
  const now = performance.now()
  if (s.playing && now - lastPage < (s.software ? SOFTWARE_PAGE_MS : GPU_PAGE_MS)) return
  lastPage = now
  setStudio(news)
  news = {}
}
/** What the stage told last. Whether that picture is still exact also depends on what it cannot know yet. */
let told: Drawn | null = null
/** Frames up to this number are out of date, also when the stage tells only now that it has drawn one. */
let staleUpTo = 0
/** A change that the simulation has not taken yet: its number, and the first frame that it touches. */
let untaken: { change: number; from: number } | null = null
const isReady = (d: Drawn): boolean => d.ready && d.serial > staleUpTo && !(untaken && d.frame >= untaken.from)
function tellReady(): void {
  const d = studio().drawn
  if (!told || !d || d.serial !== told.serial) return
  const ready = isReady(told)
  if (d.ready !== ready) setStudio({ drawn: { ...d, ready } })
}
export function touched(change: number, from: number): void {
  untaken = { change, from: Math.min(from, untaken?.from ?? from) }
  tellReady()
  const { status } = studio()
  if (!status) return
  // The strip says at once, with the change, what the simulation will say when it has taken it.
  const at = Math.max(0, from - status.first)
  statusTold = performance.now()
  const beads = status.beads.slice(0, at) + status.beads.slice(at).replaceAll('r', 'o')
  const computing = status.computing === null ? from : Math.min(from, status.computing)
  if (beads !== status.beads || computing !== status.computing) setStudio({ status: { ...status, beads, computing } })
}
export function taken(change: number): void {
  if (untaken && change >= untaken.change) untaken = null
  tellReady()
}
export function stale(serial: number): void {
  staleUpTo = serial
  tellReady()
}
/** A new simulation counts from the beginning. */
export function forgetStale(): void {
  staleUpTo = 0
  untaken = null
  told = null
  waiting = null
}
/** The stage has drawn a frame. */
export function drawn(m: Drawn): void {
  told = m
  const d = { ...m, ready: isReady(m) }
  performance.mark('ember-picture')
  lastDrawn = d.frame
  const follow = studio().playing && d.frame === asked
  const counts = waiting && m.serial >= waiting.serial ? { stats: waiting.stats, ages: waiting.ages } : {}
  if (waiting && m.serial >= waiting.serial) waiting = null
  tell({ drawn: d, ...counts, ...(follow ? { playhead: d.frame } : {}) })
  // At once, not with the next repaint: without a GPU that may be a tenth of a second away.
  if (follow) advance(performance.now())
}
/**
 * The simulation has handed a frame over. Its counts and ages wait for its picture, so that repainting the page does not take the
 * time of drawing it; when no picture comes, for a lost context or a View without a size, they are told after a while.
 */
let waiting: { serial: number; stats: Studio['stats']; ages: Studio['ages'] } | null = null
let giveUp: ReturnType<typeof setTimeout> | null = null
const NO_PICTURE_MS = 700
function tellWaiting(): void {
  if (waiting) setStudio({ stats: waiting.stats, ages: waiting.ages })
  waiting = null
}
export function shownFrame(m: { serial: number; stats: Studio['stats']; ages: Studio['ages'] }): void {
  waiting = { serial: m.serial, stats: m.stats, ages: m.ages }
  if (giveUp) clearTimeout(giveUp)
  giveUp = setTimeout(tellWaiting, NO_PICTURE_MS)
}
/**
 * How far the simulation is. Without a GPU each repaint of the page is put together by both cores (about 115 ms at 1280x800,
 * measured), so while it catches up and nobody plays the page is told more seldom.
 */
const SOFTWARE_STATUS_MS = 700
let statusTold = -Infinity
export function tellStatus(status: NonNullable<Studio['status']>): void {
  const s = studio()
  const now = performance.now()
  if (s.software && !s.playing && status.computing !== null && now - statusTold < SOFTWARE_STATUS_MS) return
  statusTold = now
  setStudio({ status })
}
export function play(): void {
  if (studio().playing) return
  const { first, last } = shotNow().range
  if (studio().playhead >= last) setPlayhead(first)
  setStudio({ playing: true })
  studio().session?.moving(true)
  origin = performance.now()
  from = studio().playhead
  asked = from
  handle = requestAnimationFrame(tick)
}
export function pause(): void {
  if (!studio().playing) return
  cancelAnimationFrame(handle)
  setStudio({ ...news, playing: false, playhead: asked })
  news = {}
  studio().session?.moving(false)
}
export const togglePlay = (): void => (studio().playing ? pause() : play())
export function restart(): void {
  const { first } = shotNow().range
  setPlayhead(first)
  asked = first
  origin = performance.now()
  from = first
}
export function stepFrame(by: number): void {
  pause()
  setPlayhead(studio().playhead + by)
}
