/** What the View draws with: the part of the picture's width and height, and the part of the particles. */
export interface Quality {
  scale: number
  share: number
}
/**
 * Below half size thinning comes first: on software GL a particle costs about 1.4 µs however small the picture is (measured: 15,000
 * take 27 ms at 328 and at 164 pixels wide), while objects and finish follow the number of pixels.
 */
const STEPS: readonly Quality[] = [
  { scale: 1, share: 1 },
  { scale: 0.75, share: 1 },
  { scale: 0.5, share: 1 },
  { scale: 0.5, share: 0.5 },
  { scale: 0.375, share: 0.5 },
  { scale: 0.375, share: 0.25 },
  { scale: 0.25, share: 0.25 },
  { scale: 0.25, share: 0.1 },
]
/** Pictures just after a change of quality also pay for new targets and compiled shaders; they say nothing. */
const SETTLE = 2
const SLOW_IN_A_ROW = 2
const QUICK_IN_A_ROW = 6
/** A finer step that proved too slow is not tried again for this many pictures. */
const PATIENCE = 60

/**
 * Finds the finest quality that keeps up while the picture moves. Scale goes first, then the share of particles. One slow picture
 * changes nothing; a step up that fails is remembered for a while, so that it does not swing.
 */
export class Adapt {
  private step: number
  private since = 0
  private slow = 0
  private quick = 0
  private blockedUntil = 0
  private count = 0

  constructor(
    private targetMs: number,
    start: number,
  ) {
    this.step = Math.min(STEPS.length - 1, start)
  }
  get moving(): Quality {
    return STEPS[this.step]
  }
  private go(step: number): void {
    this.step = step
    this.since = 0
    this.slow = 0
    this.quick = 0
  }
  /** Tells how long a moving picture took. */
  took(ms: number): void {
    this.count++
    if (++this.since <= SETTLE) return
    if (ms > this.targetMs) {
      this.quick = 0
      if (++this.slow >= SLOW_IN_A_ROW && this.step < STEPS.length - 1) {
        this.blockedUntil = this.count + PATIENCE
        this.go(this.step + 1)
      }
      return
    }
    this.slow = 0
    // The step above draws up to 1.8 times as many pixels or particles.
    if (ms < this.targetMs * 0.6) {
      if (++this.quick >= QUICK_IN_A_ROW && this.step > 0 && this.count >= this.blockedUntil) this.go(this.step - 1)
    } else this.quick = 0
  }
}
