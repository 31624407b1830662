import { type Frame, type KernelHost, MemoryRefused, type Plan, type Snapshot, World } from '../../engine'
import { WORLD_BYTES } from '../../machines/instantiate'

/** Frames of a sketch that are kept: two seconds at 24 frames/s. */
const KEPT = 48
/** Catching up for longer than this is bridged by a sketch. */
export const SKETCH_FROM_MS = 3000

/**
 * What the View shows while a long run catches up: the present state carried on with the changed shot, "from here on". It runs in
 * a World of its own beside the exact one and is thrown away when the exact run arrives. Never saved, never rendered.
 */
export class Sketch {
  private frames = new Map<number, Frame>()

  private constructor(
    private world: World,
    private base: Snapshot,
  ) {}

  /** Null when the state cannot go on under the plan, or there is no room for a second World. */
  static begin(host: KernelHost, plan: Plan, base: Snapshot): Sketch | null {
    let world: World | null = null
    try {
      world = new World(host, plan, WORLD_BYTES)
      if (world.canRestore(base)) {
        world.restore(base)
        return new Sketch(world, base)
      }
    } catch (error) {
      if (!(error instanceof MemoryRefused)) throw error
    }
    world?.dispose()
    return null
  }
  /**
   * Another change while it runs: goes on from where it is when `playing`, else again from its beginning, so that a drag compares like with
   * like.
   */
  change(plan: Plan, playing: boolean): boolean {
    const from = playing ? this.world.save() : this.base
    this.world.load(plan)
    if (!this.world.canRestore(from)) return false
    this.world.restore(from)
    this.base = from
    this.frames.clear()
    return true
  }
  get(frame: number): Frame | undefined {
    return this.frames.get(frame)
  }
  /** One step towards a frame; false when it is there, or the frame lies before the sketch. */
  towards(frame: number, now: () => number): boolean {
    if (this.world.frame >= frame) return false
    const start = now()
    this.world.step()
    this.frames.set(this.world.frame, this.world.capture(now() - start))
    for (const f of this.frames.keys()) {
      if (this.frames.size <= KEPT) break
      this.frames.delete(f)
    }
    return true
  }
  dispose(): void {
    this.world.dispose()
    this.frames.clear()
  }
}
