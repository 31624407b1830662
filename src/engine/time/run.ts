import type { Frame } from '../frame'
import { type KernelHost, requestStop, Stopped } from '../memory'
import type { Plan } from '../plan'
import { World } from '../world'
import { History } from './history'

export interface RunOptions {
  /** Bytes for frames and full states kept outside the World. */
  historyBytes: number
  /** Bytes the World may take. */
  worldBytes: number
  /** Milliseconds now; the engine has no clock of its own. */
  now: () => number
  /** Adds to a frame what was computed before and elsewhere; null where that is not at hand: the frame is not kept then. */
  complete?: (frame: Frame) => Frame | null
}

/** A World with its history: computes what is missing, goes back and forth, starts again where a change begins. */
export class Run {
  readonly world: World
  readonly history: History
  /** Nearest frames to this one are kept longest. */
  near: number
  private broken = false

  constructor(
    readonly host: KernelHost,
    private plan: Plan,
    private options: RunOptions,
  ) {
    this.world = new World(host, plan, options.worldBytes)
    this.history = new History(options.historyBytes)
    this.near = plan.first
    this.keep(0)
  }
  private get start(): number {
    return this.plan.start ?? this.plan.first
  }
  private get kept(): number {
    return this.plan.kept ?? this.plan.first
  }
  private keep(ms: number): Frame {
    const captured = this.world.capture(ms)
    // Of a warm start mostly states are kept: nobody looks at its frames.
    const looked = captured.frame >= this.kept
    const whole = looked && this.options.complete ? this.options.complete(captured) : captured
    const frame = whole ?? captured
    if (looked && whole) this.history.put(whole, this.near)
    if (this.history.wantsState(frame.frame, this.start)) this.history.putState(this.world.save(), this.start)
    return frame
  }
  /**
   * Takes a changed plan. `from`: the earliest frame whose state the change can touch; earlier frames stay ready. `anew`: no state is gone on from,
   * as where others are computed than before.
   */
  change(plan: Plan, from: number, anew = false): void {
    this.plan = plan
    const first = this.start
    const keep = Math.max(first, Math.min(plan.last, from - 1))
    if (anew) this.history.forgetStates()
    this.history.touch(keep)
    if (anew) {
      this.world.load(plan)
      this.broken = false
      if (!this.history.isReady(this.world.frame)) this.keep(0)
      return
    }
    const at = this.broken ? first : this.world.frame
    const here = at <= keep && !this.broken ? this.world.save() : null
    this.world.load(plan)
    const state = here && here.frame <= keep ? here : this.history.stateBefore(keep)
    if (state && from > first) {
      try {
        this.world.restore(state)
      } catch {
        this.world.load(plan)
        this.history.touch(first - 1)
      }
    } else this.history.touch(first - 1)
    this.broken = false
    if (!this.history.isReady(this.world.frame) && this.world.frame >= this.kept) this.keep(0)
  }
  /**
   * The first frame from the start that is not ready and would be kept, or null: frames for which there is no room are not asked for again
   * and again.
   */
  missing(): number | null {
    for (let f = this.kept; f <= this.plan.last; f++) if (!this.history.isReady(f) && this.history.wouldKeep(f, this.near)) return f
    return null
  }
  /** The frame that a step towards `target` computes; null when the target is there already. */
  next(target: number): number | null {
    if (this.history.isReady(target)) return null
    if (target <= this.start) return this.start
    const here = this.broken || this.world.frame >= target ? this.start : this.world.frame
    return Math.max(here, this.history.stateBefore(target - 1)?.frame ?? this.start) + 1
  }
  /**
   * Computes one frame towards `target` and returns it, or null when the target is there already. After `stop` it throws
   * Stopped within the time of one chunk.
   */
  towards(target: number): Frame | null {
    if (this.history.isReady(target)) return null
    if (target <= this.start) {
      this.world.load(this.plan)
      this.broken = false
      return this.keep(0)
    }
    if (this.broken || this.world.frame >= target) this.rewind(target - 1)
    else {
      const state = this.history.stateBefore(target - 1)
      if (state && state.frame > this.world.frame) this.world.restore(state)
    }
    const start = this.options.now()
    try {
      this.step()
    } catch (error) {
      this.broken = true
      if (error instanceof Stopped) requestStop(this.host.memory, false)
      throw error
    }
    return this.keep(this.options.now() - start)
  }
  /** One frame on. A force that makes particles non-finite in it costs nobody: the frame is computed again without it. */
  private step(): void {
    const { world } = this
    const frame = world.frame
    world.step()
    let found = world.takeOffenders()
    const off: typeof found = []
    // Each time at least one more is off.
    while (found.length) {
      off.push(...found)
      this.rewind(frame)
      while (world.frame < frame) this.step()
      world.switchOff(off)
      world.step()
      found = world.takeOffenders()
    }
  }
  private rewind(frame: number): void {
    this.world.load(this.plan)
    const state = this.history.stateBefore(frame)
    if (state) this.world.restore(state)
    this.broken = false
  }
  /**
   * Lets the World be looked at as it is at a frame that was computed, and goes back to where it was. `steps`: it is not only looked at, but
   * goes on. Null when it was asked to stop.
   */
  explore<T>(frame: number, inspect: (w: World) => T, steps = false): T | null {
    const here = this.broken ? null : this.world.save()
    let moved = steps
    try {
      if (this.broken || this.world.frame !== frame) {
        moved = true
        this.rewind(frame)
        while (this.world.frame < frame) this.step()
      }
      return inspect(this.world)
    } catch (error) {
      if (!(error instanceof Stopped)) throw error
      requestStop(this.host.memory, false)
      return null
    } finally {
      if (!here) this.broken = true
      else if (moved) this.world.restore(here)
    }
  }
  /** Lets the World be looked at in each frame of a stretch that was computed, and goes back to where it was. False when it was asked to stop. */
  walk(from: number, to: number, inspect: (w: World) => void): boolean {
    const through = (world: World): boolean => {
      inspect(world)
      while (world.frame < to) {
        this.step()
        inspect(world)
      }
      return true
    }
    return this.explore(from, through, true) ?? false
  }
  stop(): void {
    requestStop(this.host.memory, true)
  }
  dispose(): void {
    this.world.dispose()
  }
}
