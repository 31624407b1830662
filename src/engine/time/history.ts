import { type Frame, frameBytes } from '../frame'
import { type Snapshot, snapshotBytes } from '../world'

/**
 * Frames already computed and full states to go on from, within a budget in bytes. A frame is ready, or out of date: computed
 * before a change that touches it, kept so that the picture never goes blank. Full states take at most a third of the budget.
 */
export class History {
  private frames = new Map<number, { frame: Frame; ready: boolean }>()
  private states = new Map<number, Snapshot>()
  private frameBytes = 0
  private stateBytes = 0
  private spacing = 8
  /** The nearest frame that was put and had to go at once, for this `near`: asking again would not help. */
  private refused = { near: 0, distance: Number.POSITIVE_INFINITY }

  constructor(private budgetBytes: number) {}
  get bytes(): number {
    return this.frameBytes + this.stateBytes
  }
  get(frame: number): { frame: Frame; ready: boolean } | undefined {
    return this.frames.get(frame)
  }
  isReady(frame: number): boolean {
    return this.frames.get(frame)?.ready ?? false
  }
  private get roomBytes(): number {
    return this.budgetBytes - Math.min(this.stateBytes, this.budgetBytes / 3)
  }
  /** Whether a frame of usual size would stay if it were put: there is room, or a frame farther from `near` would go for it. */
  wouldKeep(frame: number, near: number): boolean {
    if (this.frames.size === 0) return true
    if (near === this.refused.near && Math.abs(frame - near) >= this.refused.distance) return false
    if (this.frameBytes + this.frameBytes / this.frames.size <= this.roomBytes) return true
    let farthest = 0
    for (const f of this.frames.keys()) farthest = Math.max(farthest, Math.abs(f - near))
    return Math.abs(frame - near) < farthest
  }
  /** Keeps a frame; frames far from `near` go first when there is no room, out of date ones before ready ones. */
  put(frame: Frame, near: number): void {
    const old = this.frames.get(frame.frame)
    if (old) this.frameBytes -= frameBytes(old.frame)
    this.frames.set(frame.frame, { frame, ready: true })
    this.frameBytes += frameBytes(frame)
    const room = this.roomBytes
    if (this.frameBytes <= room) return
    const stale = (f: number) => (this.frames.get(f)?.ready ? 0 : 1)
    const far = [...this.frames.keys()].sort((a, b) => stale(b) - stale(a) || Math.abs(b - near) - Math.abs(a - near))
    for (const f of far) {
      if (this.frameBytes <= room) break
      if (f === near || (f === frame.frame && !this.frames.has(near))) continue
      this.frameBytes -= frameBytes((this.frames.get(f) as { frame: Frame }).frame)
      this.frames.delete(f)
      if (f === frame.frame) this.refused = { near, distance: Math.abs(f - near) }
    }
  }
  wantsState(frame: number, first: number): boolean {
    return (frame - first) % this.spacing === 0 && !this.states.has(frame)
  }
  putState(s: Snapshot, first: number): void {
    this.states.set(s.frame, s)
    this.stateBytes += snapshotBytes(s)
    while (this.stateBytes > this.budgetBytes / 3 && this.states.size > 1) {
      this.spacing *= 2
      const before = this.states.size
      for (const [f, state] of this.states) {
        if ((f - first) % this.spacing === 0) continue
        this.stateBytes -= snapshotBytes(state)
        this.states.delete(f)
      }
      if (this.states.size === before && this.spacing > 1 << 20) break
    }
  }
  /** The latest full state at or before a frame. */
  stateBefore(frame: number): Snapshot | undefined {
    let best: Snapshot | undefined
    for (const [f, s] of this.states) if (f <= frame && (!best || f > best.frame)) best = s
    return best
  }
  forgetStates(): void {
    this.states.clear()
    this.stateBytes = 0
  }
  /** Everything later than `frame` is out of date. */
  touch(frame: number): void {
    this.refused.distance = Number.POSITIVE_INFINITY
    for (const [f, entry] of this.frames) if (f > frame) entry.ready = false
    for (const [f, s] of this.states) {
      if (f <= frame) continue
      this.stateBytes -= snapshotBytes(s)
      this.states.delete(f)
    }
  }
  /** One letter a frame: r ready, o out of date, - none. */
  beads(first: number, last: number): string {
    let out = ''
    for (let f = first; f <= last; f++) {
      const e = this.frames.get(f)
      out += e ? (e.ready ? 'r' : 'o') : '-'
    }
    return out
  }
}
