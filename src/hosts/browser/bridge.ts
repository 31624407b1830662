import type { Frame, KernelHost, Plan, Run } from '../../engine'
import { SKETCH_FROM_MS, Sketch } from './sketch'

/** Bridges the time that the exact run needs to come back to the wanted frame by a sketch. */
export class Bridge {
  private sketch: Sketch | null = null
  private host: KernelHost | null = null

  /** `secondHost`: kernels over another memory, for a sketch beside the run. */
  constructor(private secondHost: () => Promise<KernelHost>) {}
  get isThere(): boolean {
    return this.sketch !== null
  }
  /**
   * Begins or changes the sketch when the exact run will take long. Before the run changes: it needs a state of the old one. `frameMs`: what a
   * frame takes of which that is not known.
   */
  async change(run: Run, plan: Plan, from: number, o: { wanted: number; playing: boolean; frameMs: number }): Promise<void> {
    if (this.sketch) {
      if (!this.sketch.change(plan, o.playing)) this.end()
      return
    }
    let ms = 0
    for (let f = Math.max(from, plan.first); f <= o.wanted; f++) ms += run.history.get(f)?.frame.ms ?? o.frameMs
    if (ms < SKETCH_FROM_MS) return
    const base = run.history.stateBefore(o.wanted - 1)
    if (!base || base.frame < from - 1) return
    this.host ??= await this.secondHost().catch(() => null)
    if (this.host) this.sketch = Sketch.begin(this.host, plan, base)
  }
  get(frame: number): Frame | undefined {
    return this.sketch?.get(frame)
  }
  /** One step towards a frame; false when it is there, or there is no sketch. */
  towards(frame: number): boolean {
    return this.sketch?.towards(frame, () => performance.now()) ?? false
  }
  end(): void {
    this.sketch?.dispose()
    this.sketch = null
  }
}
