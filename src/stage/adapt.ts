/** What the View draws with: the part of the picture's width and height, and the part of the particles. */
export interface Quality {
  scale: number
  share: number
}
const SCALES = [1, 0.75, 0.5, 0.375, 0.25]
const SHARES = [1, 0.5, 0.25, 0.1]

/**
 * Finds the finest quality that keeps up while the picture moves. Scale goes first, then the share of particles. It steps down at
 * once when drawing is too slow and up only after several quick pictures, so that it does not swing.
 */
export class Adapt {
  private step = 0
  private quick = 0
  private ms = 0

  constructor(private targetMs: number, start: number) {
    this.step = Math.min(SCALES.length - 1, start)
  }
  get moving(): Quality {
    return { scale: SCALES[Math.min(this.step, SCALES.length - 1)], share: SHARES[Math.max(0, this.step - SCALES.length + 1)] }
  }
  /** Tells how long a moving picture took. */
  took(ms: number): void {
    this.ms = this.ms ? this.ms * 0.6 + ms * 0.4 : ms
    if (this.ms > this.targetMs * 1.15) {
      if (this.step < SCALES.length + SHARES.length - 2) {
        this.step++
        this.ms = 0
      }
      this.quick = 0
    } else if (this.ms < this.targetMs * 0.45 && this.step > 0) {
      if (++this.quick >= 8) {
        this.step--
        this.quick = 0
        this.ms = 0
      }
    } else this.quick = 0
  }
}
