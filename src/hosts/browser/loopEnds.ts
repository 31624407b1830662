import { type Apart, apart, type Run } from '../../engine'
import type { Shot } from '../../shot'

/** How far the ends of a loop are apart. */
export class LoopEnds {
  /** Null: there is no loop, or nothing to be said; undefined: not looked at yet. */
  private known: Apart | null | undefined = null

  /** The shot is another. */
  follow(shot: Shot): void {
    this.known = shot.loop ? undefined : null
  }
  get found(): Apart | null {
    return this.known ?? null
  }
  /** The frame after the last, which is to be the first again, while it is still to be computed. */
  lacking(run: Run, { range: { first, last } }: Shot): number | null {
    if (this.known !== undefined) return null
    if (!run.history.isReady(last + 1)) return last + 1
    this.close(run, first, run.history.get(last + 1)?.frame)
    return null
  }
  /** `end`: the frame after the last, which may have no room in the history. */
  close(run: Run, first: number, end: Parameters<typeof apart>[1] | undefined): void {
    const begun = run.history.get(first)
    this.known = end && begun?.ready ? apart(begun.frame, end) : null
  }
}
