/** What the View draws with: the part of the picture's width and height, and the part of the particles. */
export interface Quality {
  scale: number
  share: number
}
/**
 * Scale goes first, down to half; then particles are thinned, for on software GL a particle costs about 1.4 µs however small the picture is
 * (measured: 15,000 take 27 ms at 328 and at 164 pixels wide), while objects and finish follow the number of pixels. Smaller than half only
 * what would not even be five pictures a second, and only while that makes it quicker: it is not for particles' sake.
 */
const STEPS: readonly Quality[] = [
  { scale: 1, share: 1 },
  { scale: 0.75, share: 1 },
  { scale: 0.5, share: 1 },
  { scale: 0.5, share: 0.5 },
  { scale: 0.5, share: 0.25 },
  { scale: 0.5, share: 0.1 },
  { scale: 0.375, share: 0.1 },
  { scale: 0.25, share: 0.1 },
]
/** So many particles are always drawn, where there are as many. */
const MIN_PARTICLES = 20000
/** The part of so many particles that is drawn at a share. */
export const shownOf = (share: number, alive: number): number => Math.min(1, Math.max(share, alive > 0 ? MIN_PARTICLES / alive : 1))
/** Five pictures a second. */
const FAR_TOO_SLOW_MS = 200
/** Pictures just after a change of quality also pay for new targets and compiled shaders; they say nothing. */
const SETTLE = 2
const SLOW_IN_A_ROW = 2
const QUICK_IN_A_ROW = 6
/** A picture smaller than half takes at most this part of the time of the one before, or it is not what costs. */
const QUICKER = 0.85
/** A finer step that proved too slow is not tried again for this many pictures, nor is a smaller picture that was no quicker. */
const PATIENCE = 60

const mean = (all: readonly number[]): number => all.reduce((sum, x) => sum + x, 0) / all.length
/**
 * Finds the finest quality that keeps up while the picture moves. One slow picture
 * changes nothing; a step up that fails is remembered for a while, so that it does not swing.
 */
export class Adapt {
  private step: number
  private since = 0
  private slow = 0
  private quick = 0
  private blockedUntil = 0
  private count = 0
  private alive = 0
  /** Milliseconds of the pictures since the last change that count. */
  private recent: number[] = []
  private largerUntil = 0
  /** Where it comes from while it is looked whether a picture smaller than half is quicker, and what pictures took there, ms. */
  private tried: { from: number; ms: number } | null = null

  constructor(
    private targetMs: number,
    start: number,
  ) {
    this.step = Math.min(STEPS.length - 1, start)
  }
  get moving(): Quality {
    return this.at(this.step)
  }
  private at(step: number): Quality {
    const { scale, share } = STEPS[step]
    return { scale, share: Math.min(1, Math.max(share, this.alive > 0 ? MIN_PARTICLES / this.alive : share)) }
  }
  /** The next step in a direction that is another quality for as many particles as there are; −1 when there is none. */
  private next(by: 1 | -1): number {
    const now = this.moving
    for (let k = this.step + by; k >= 0 && k < STEPS.length; k += by) {
      const q = this.at(k)
      if (q.scale !== now.scale || q.share !== now.share) return k
    }
    return -1
  }
  private go(step: number): void {
    this.step = step
    this.since = 0
    this.slow = 0
    this.quick = 0
    this.recent = []
  }
  /** Tells how long a moving picture took, and how many particles there are. */
  took(ms: number, alive = 0): void {
    this.alive = alive
    this.count++
    if (++this.since <= SETTLE) return
    this.recent = [...this.recent, ms].slice(-SLOW_IN_A_ROW)
    const { tried } = this
    if (tried && this.recent.length === SLOW_IN_A_ROW) {
      this.tried = null
      if (mean(this.recent) > tried.ms * QUICKER) {
        this.largerUntil = this.count + PATIENCE
        this.go(tried.from)
        return
      }
    }
    if (ms > this.targetMs) {
      this.quick = 0
      const down = this.next(1)
      const isSmall = down >= 0 && STEPS[down].scale < 0.5
      const may = isSmall ? ms > FAR_TOO_SLOW_MS && this.count >= this.largerUntil : down >= 0
      if (++this.slow >= SLOW_IN_A_ROW && may) {
        this.blockedUntil = this.count + PATIENCE
        if (isSmall) this.tried = { from: this.step, ms: mean(this.recent) }
        this.go(down)
      }
      return
    }
    this.slow = 0
    // The step above draws up to 1.8 times as many pixels or particles.
    if (ms < this.targetMs * 0.6) {
      const up = this.next(-1)
      if (++this.quick >= QUICK_IN_A_ROW && up >= 0 && this.count >= this.blockedUntil) this.go(up)
    } else this.quick = 0
  }
}
