import { bakedTogether, neededBy, touchedFrom, warmFrames, withoutBaked } from '../acts'
import type { Frame } from '../engine'
import type { Shot } from '../shot'
import { wholeFrame } from './partialFrame'

/** Systems and gases that were baked apart from the rest of a shot, and their frames. */
export interface ApartFrames {
  ids: readonly string[]
  /** Null where it is not to be had. */
  frame(frame: number): Promise<Frame | null>
}
/**
 * The first frame of a bake that is not as a shot is now; null: all are. `ids`: of which elements it is, none of all. Where those have come to be
 * mixed up with others nothing of it counts.
 */
export function bakedUntil(baked: Shot, shot: Shot, ids: readonly string[]): number | null {
  if (!ids.length) return touchedFrom(baked, shot)
  const now = bakedTogether(shot, ids)
  if (now?.length !== ids.length || now.some((id) => !ids.includes(id))) return shot.range.first - warmFrames(shot)
  return touchedFrom(neededBy(baked, ids), neededBy(shot, ids))
}
/** What a run leaves out because it was baked apart, and adds to each of its frames. Frames are brought before they are computed. */
export class LeftOut {
  private readonly here = new Map<number, Frame[]>()
  constructor(private readonly list: readonly ApartFrames[]) {}
  get ids(): string[] {
    return this.list.flatMap((x) => x.ids)
  }
  /** The shot that is computed. */
  rest(shot: Shot): Shot {
    return this.list.length ? withoutBaked(shot, this.ids) : shot
  }
  /** Whether all that belongs to a frame is at hand then. */
  async bring(frame: number): Promise<boolean> {
    if (!this.list.length || this.here.has(frame)) return true
    const found = await Promise.all(this.list.map((x) => x.frame(frame)))
    const all = found.filter((f) => f !== null)
    if (all.length < found.length) return false
    // One is computed after the other: what was brought before has been taken.
    this.here.clear()
    this.here.set(frame, all)
    return true
  }
  complete(frame: Frame): Frame | null {
    if (!this.list.length) return frame
    const found = this.here.get(frame.frame)
    return found ? found.reduce((f, known, i) => wholeFrame(f, known, this.list[i].ids), frame) : null
  }
}
