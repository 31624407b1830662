import { framesPerSecond } from '../../shot'
import { setPlayhead, setStudio, shotNow, studio } from '../store'

/** A picture that has not come after this long, for a lost context say, is not waited for. */
const EVERY_FRAME_WAIT_MS = 5000
const PICTURE_WAIT_MS = 1000
/** A repaint comes this much before its frame is due. */
const EARLY_MS = 4

const isComputed = (frame: number): boolean => {
  const status = studio().status
  const bead = status?.beads[frame - status.first]
  return bead === 'r' || bead === 'o'
}
/**
 * Plays at true speed: the frame follows the clock, and frames are dropped when drawing is slower. The clock waits where frames
 * are not computed yet.
 */
export class Clock {
  private handle = 0
  /** When the frame `from` was due, ms. */
  private origin = 0
  private from = 0
  /** The frame that was last requested; the playhead follows when it has been drawn, so that page and picture change together. */
  requested = 0
  private requestedAt = 0
  private lastDrawn = -1

  start(): void {
    if (studio().playing) return
    const { first, last } = shotNow().range
    if (studio().playhead >= last) setPlayhead(first)
    setStudio({ playing: true })
    studio().session?.moving(true)
    this.startAt(studio().playhead)
    this.handle = requestAnimationFrame(this.tick)
  }
  /** Stops; returns the frame at which it stands, or null when it was not playing. */
  stop(): number | null {
    if (!studio().playing) return null
    cancelAnimationFrame(this.handle)
    setStudio({ playing: false, playhead: this.requested })
    studio().session?.moving(false)
    return this.requested
  }
  restart(): void {
    const { first } = shotNow().range
    setPlayhead(first)
    // The playhead of the page may still stand there, while the picture has gone on.
    if (this.requested !== first) studio().session?.show(first)
    this.startAt(first)
  }
  /** A picture of a frame was drawn: the next one may be due. */
  drew(frame: number): void {
    this.lastDrawn = frame
    // At once, not with the next repaint: without a GPU that may be a tenth of a second away.
    if (studio().playing && frame === this.requested) this.advance(performance.now())
  }
  private startAt(frame: number): void {
    this.requested = frame
    this.from = frame
    this.origin = performance.now()
  }
  private tick = (now: number): void => {
    if (!studio().playing) return
    this.handle = requestAnimationFrame(this.tick)
    this.advance(now)
  }
  private request(frame: number, now: number): void {
    this.requested = frame
    this.requestedAt = now
    studio().session?.show(frame)
  }
  private advance(now: number): void {
    if (studio().everyFrame) this.advanceByOne(now)
    else this.advanceByTime(now)
  }
  /** The next one once this one has been seen, never faster than true. */
  private advanceByOne(now: number): void {
    const { first, last } = shotNow().range
    const waited = now - this.requestedAt
    const isSeen = this.lastDrawn === this.requested || waited >= EVERY_FRAME_WAIT_MS
    if (!isSeen || waited < 1000 / framesPerSecond(shotNow()) - EARLY_MS) return
    const next = this.requested < last ? this.requested + 1 : first
    if (next === first && !studio().loop) {
      this.stop()
      return
    }
    if (!isComputed(next)) return
    this.origin = now
    this.from = next
    this.request(next, now)
  }
  private advanceByTime(now: number): void {
    const { first, last } = shotNow().range
    // A picture still being drawn: wait for it rather than queue another, at the end of the loop too.
    if (this.lastDrawn !== this.requested && isComputed(this.requested) && now - this.requestedAt < PICTURE_WAIT_MS) return
    // A repaint's time is that of its beginning: on a busy machine well before what was requested since. Playing never goes back.
    let due = Math.max(this.requested, Math.floor(this.from + ((now - this.origin) / 1000) * framesPerSecond(shotNow())))
    if (due > last) {
      if (!studio().loop) {
        this.request(last, now)
        this.stop()
        return
      }
      due = first
      this.origin = now
      this.from = first
    }
    let to = Math.min(this.requested, due)
    while (to < due && isComputed(to + 1)) to++
    if (to < due) {
      this.origin = now
      this.from = to
    }
    if (to !== this.requested) this.request(to, now)
  }
}
