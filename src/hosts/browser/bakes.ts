import { maySeparate } from '../../acts'
import type { Frame, Run } from '../../engine'
import type { BakeHead } from '../../protocol'
import { lacksDetail, type Shot, withoutDetail } from '../../shot'
import { type ApartFrames, bakedUntil } from '../bakedApart'
import { unpackFrame } from '../framePack'

/** Frames of bakes that are on their way at once, ahead of the one that is wanted. */
const AHEAD = 4

/** Where the server has its bakes. */
export interface BakeFiles {
  /** The shot that a bake is of; null: it is not there any more. */
  doc(id: string): Promise<Shot | null>
  frame(id: string, frame: number): Promise<ArrayBuffer | null>
}
/** Frames of a shot that were baked: which of them are as the shot is now, and they themselves. */
export class Baked {
  private heads: readonly BakeHead[] = []
  private docs = new Map<string, Shot | null>()
  /** From which bake each frame comes that is as the shot is now. */
  private from = new Map<number, string>()
  private coming = new Map<string, Promise<Frame | null>>()
  /** The frames that came from bakes. */
  private came = new WeakSet<Frame>()
  /** Systems and gases that were baked apart, of all frames, as the shot is now: the latest of each. */
  apart: readonly (ApartFrames & { bake: string })[] = []
  /** Of each bake, the first frame that is not as the shot is now; null: all are. */
  readonly until = new Map<string, number | null>()

  constructor(private readonly files: BakeFiles) {}
  /** There are other bakes, or more frames of them. */
  async list(heads: readonly BakeHead[], shot: Shot | null): Promise<void> {
    this.heads = heads.filter((h) => !h.old)
    for (const { id } of this.heads) if (!this.docs.has(id)) this.docs.set(id, await this.files.doc(id).catch(() => null))
    if (shot) this.follow(shot)
  }
  /** The shot is another. */
  follow(shot: Shot): void {
    this.from.clear()
    this.until.clear()
    // The page has taken the detail out of the shot that it shows: what was baked says whether there is any.
    this.detailed = this.heads.some((h) => {
      const doc = this.docs.get(h.id)
      return !h.elements.length && !!doc && lacksDetail(doc)
    })
    // Frames that have that detail are as welcome. Later bakes come first in the list, and count.
    for (const { id, frames, elements } of [...this.heads].reverse()) {
      const doc = this.docs.get(id)
      if (!doc) continue
      const until = bakedUntil(withoutDetail(doc), withoutDetail(shot), elements)
      this.until.set(id, until)
      if (!elements.length) for (const f of frames) if (until === null || f < until) this.from.set(f, id)
    }
    this.apart = this.separate(shot)
  }
  private separate(shot: Shot): Baked['apart'] {
    const { first, last } = shot.range
    const found: (ApartFrames & { bake: string })[] = []
    if (!maySeparate(shot)) return found
    for (const { id, frames, elements } of this.heads) {
      const until = this.until.get(id)
      if (!elements.length || until === undefined || (until !== null && until <= last)) continue
      const there = new Set(frames)
      const all = Array.from({ length: last - first + 1 }, (_, i) => there.has(first + i)).every((x) => x)
      if (!all || found.some((x) => x.ids.some((e) => elements.includes(e)))) continue
      const ahead = async (frame: number) => {
        const now = this.fetch(id, frame)
        for (let f = frame + 1; f <= Math.min(last, frame + AHEAD); f++) void this.fetch(id, f)
        return now
      }
      found.push({ bake: id, ids: elements, frame: ahead })
    }
    return found
  }
  /** Of which systems and gases a bake is; none: of all. */
  elementsOf(id: string): readonly string[] {
    return this.heads.find((h) => h.id === id)?.elements ?? []
  }
  /** A frame of a bake, also where the shot has changed since; null: the bake has none. Those after it are on their way too. */
  async ofBake(id: string, frame: number): Promise<Frame | null> {
    const there = this.heads.find((h) => h.id === id)?.frames ?? []
    if (!there.includes(frame)) return null
    const found = this.fetch(id, frame)
    for (let f = frame + 1; f <= frame + AHEAD; f++) if (there.includes(f)) void this.fetch(id, f)
    return found
  }
  /** A bake is not to be had after all. */
  lose(ids: readonly string[]): void {
    this.heads = this.heads.filter((h) => !ids.includes(h.id))
    this.apart = this.apart.filter((x) => !ids.includes(x.bake))
  }
  /** Whether a bake has more than what there is of a frame: the detail that the View leaves to renders. */
  betters(frame: number, now: Frame | undefined): boolean {
    return this.detailed && this.from.has(frame) && !(now && this.came.has(now))
  }
  /** The first frame of a run that is there, but which a bake has with more detail. */
  plainer({ history }: Run, { range }: Shot): number | null {
    for (let f = range.first; f <= range.last; f++) if (history.isReady(f) && this.betters(f, history.get(f)?.frame)) return f
    return null
  }
  private detailed = false
  has(frame: number): boolean {
    return this.from.has(frame)
  }
  /** A frame, while those that will be wanted after it are on their way too, unless it is wanted `alone`; null: it is not to be had after all. */
  async get(frame: number, alone = false): Promise<Frame | null> {
    const found = this.fetch(this.from.get(frame), frame)
    for (let f = frame + 1; !alone && f <= frame + AHEAD; f++) if (this.has(f)) void this.fetch(this.from.get(f), f)
    const got = await found
    if (got) this.came.add(got)
    else this.from.delete(frame)
    return got
  }
  private fetch(id: string | undefined, frame: number): Promise<Frame | null> {
    if (!id) return Promise.resolve(null)
    const key = `${id} ${frame}`
    const known = this.coming.get(key)
    if (known) return known
    const coming = this.files
      .frame(id, frame)
      .then((bytes) => bytes && unpackFrame(bytes, frame))
      .catch(() => null)
    this.coming.set(key, coming)
    // What nobody came for in a while is given up.
    for (const old of this.coming.keys()) {
      if (this.coming.size <= (2 * AHEAD + 2) * (2 + this.apart.length)) break
      this.coming.delete(old)
    }
    return coming
  }
}
