import type { Drawn } from '../../protocol'

/**
 * Whether the picture that is shown is that of the present shot. The stage says what it knew when it drew; what it cannot know yet is kept
 * here: changes that are under way, and frames that went out of date since.
 */
export class Freshness {
  private drawn: Drawn | null = null
  /** Frames handed over up to this number are out of date, also when the stage says only now that it has drawn one. */
  private staleUpTo = 0
  /** A change that the simulation has not taken yet: its number, and the first frame that it touches. */
  private pendingChange: { change: number; from: number } | null = null

  /** The stage has drawn a picture; returns whether it is exact. */
  show(drawn: Drawn): boolean {
    this.drawn = drawn
    return this.isExact(drawn)
  }
  /** Whether the picture with a number of a frame is exact; null when another one is the newest. */
  of(serial: number): boolean | null {
    return this.drawn?.serial === serial ? this.isExact(this.drawn) : null
  }
  changeSent(change: number, from: number): void {
    this.pendingChange = { change, from: Math.min(from, this.pendingChange?.from ?? from) }
  }
  changeTaken(change: number): void {
    if (this.pendingChange && change >= this.pendingChange.change) this.pendingChange = null
  }
  framesStale(serial: number): void {
    this.staleUpTo = serial
  }
  /** A new simulation counts from the beginning. */
  reset(): void {
    this.drawn = null
    this.staleUpTo = 0
    this.pendingChange = null
  }
  private isExact(d: Drawn): boolean {
    return d.ready && d.serial > this.staleUpTo && !(this.pendingChange && d.frame >= this.pendingChange.from)
  }
}
