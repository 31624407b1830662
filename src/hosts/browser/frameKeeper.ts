import { touchedFrom } from '../../acts'
import type { Frame, Run } from '../../engine'
import type { Shot } from '../../shot'
import { frameKey, frameName } from '../frameKey'
import { type FrameStore, type Openings, packFrames, unpackFrame } from './frameStore'

/** So long after the last frame, and the last change, all of them are kept for the next opening. */
const KEEP_AFTER_MS = 2000

/** Where frames of earlier openings are: in this browser, when it keeps some, and on the server; `build`: what computes them. */
export interface Kept {
  store: FrameStore | null
  build: string
  openings?: Openings
}
/** What the simulation keeps of its frames for the next who opens the shot, and what it finds of those before. */
export class FrameKeeper {
  /** Of the frames that this browser's storage has. */
  private key = ''
  private timer: ReturnType<typeof setTimeout> | null = null
  /** The frame that the shot opened with, while it is on its way and nobody has it. */
  private opening: { shot: Shot; frame: number; began: number; name: string } | null = null

  constructor(private readonly kept: Kept) {}
  /**
   * Puts what there is of a shot into its history, the frame `wanted` first; `present` when that is there. Ends early when `next` gives a shot
   * whose frames are others.
   */
  async restore(shot: Shot, run: Run, wanted: () => number, present: () => void, next: () => Shot | undefined): Promise<void> {
    const { store, build, openings } = this.kept
    const key = await frameKey(shot, build)
    const began = performance.now()
    // A change that came meanwhile goes first; the page may send the same shot again.
    const changed = () => {
      const other = next()
      return !!other && touchedFrom(shot, other) !== null
    }
    const found = await store?.restore(key, wanted(), (frame) => {
      run.history.put(frame, wanted())
      if (frame.frame === wanted()) present()
      return !changed()
    })
    if (found) this.key = key
    const frame = wanted()
    if (!openings || run.history.isReady(frame) || changed()) return
    const name = frameName(key, frame)
    const bytes = await openings.read(name).catch(() => null)
    const opening = bytes && (await unpackFrame(bytes, frame))
    if (opening) run.history.put(opening, frame)
    else this.opening = { shot, frame, began, name }
  }
  /** Gives the server the frame that the shot opened with, once it is there, if it took long. */
  keepOpening(run: Run, shot: Shot): void {
    const { opening } = this
    const { openings } = this.kept
    if (!opening || !openings || !run.history.isReady(opening.frame)) return
    this.opening = null
    const entry = run.history.get(opening.frame)
    if (!entry || touchedFrom(opening.shot, shot) !== null || performance.now() - opening.began < openings.fromMs) return
    // Nobody waits for it: a server that does not take it is as one that has lost it.
    void openings.keep(opening.name, packFrames([entry.frame])).catch(() => {})
  }
  /** Keeps the frames of a shot in this browser in a while, when all of them are there and `settled` says that nobody changes anything. */
  keepAll(run: Run, shot: Shot, settled: () => boolean): void {
    if (this.timer) clearTimeout(this.timer)
    const { store, build } = this.kept
    if (!store) return
    this.timer = setTimeout(async () => {
      if (!settled() || run.missing() !== null) return
      const key = await frameKey(shot, build)
      const frames: Frame[] = []
      for (let f = shot.range.first; f <= shot.range.last; f++) {
        const entry = run.history.get(f)
        if (!entry?.ready) return
        frames.push(entry.frame)
      }
      if (key === this.key || !settled()) return
      if (await store.keep(key, frames)) this.key = key
    }, KEEP_AFTER_MS)
  }
}
