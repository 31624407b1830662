import { copyPart, type Frame, type Run } from '../../engine'
import type { SimToStage } from '../../protocol'

/** Frames beside the wanted one that the stage has asked for: those that linger in it, those of a preview. Each is handed over once. */
export class AskedFrames {
  private asked: number[] = []

  constructor(private toStage: (m: SimToStage, transfer: Transferable[]) => void) {}
  add(frame: number): void {
    if (!this.asked.includes(frame)) this.asked.push(frame)
  }
  /** Nobody waits for them any more. */
  clear(): void {
    this.asked = []
  }
  get frames(): readonly number[] {
    return this.asked
  }
  /** Hands over those that are there. `computed`: where there was no room for it, it is not in the history. */
  handOver({ history }: Run, computed?: Frame): void {
    for (const wanted of [...this.asked]) {
      const kept = history.isReady(wanted) ? history.get(wanted)?.frame : undefined
      const frame = kept ?? (computed?.frame === wanted ? computed : undefined)
      if (!frame) continue
      this.asked = this.asked.filter((f) => f !== wanted)
      const copies = frame.parts.map(copyPart)
      const copy: Frame = { ...frame, parts: copies.map((c) => c.part) }
      this.toStage(
        { type: 'earlier', frame: copy },
        copies.flatMap((c) => c.buffers),
      )
    }
  }
}
