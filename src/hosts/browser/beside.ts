import { aliveIn, copyPart, type Frame } from '../../engine'
import type { FromSim, SimToStage } from '../../protocol'
import type { Shot } from '../../shot'
import { besideFrame } from '../besideFrame'
import type { Baked } from './bakes'

/** Hands the stage frames of a bake beside those of the shot, whether or not they are as the shot is now. */
export class Beside {
  private bake: string | null = null
  /** What was handed over last. */
  private sent: { baked: Frame | null; now: Frame; shot: Shot } | null = null
  private turn = 0

  constructor(
    private baked: Baked,
    private toPage: (m: FromSim) => void,
    private toStage: (m: SimToStage, transfer: Transferable[]) => void,
  ) {}
  /** Of which bake; null: of none. */
  choose(bake: string | null): void {
    this.bake = bake
    this.sent = null
    if (!bake) this.toStage({ type: 'beside', frame: null }, [])
  }
  /** The stage shows a frame of the shot: that of the bake follows as soon as it has come. */
  async follow(now: Frame, shot: Shot): Promise<void> {
    const { bake } = this
    if (!bake || (this.sent?.now === now && this.sent.shot === shot && this.sent.baked)) return
    const turn = ++this.turn
    const baked = await this.baked.ofBake(bake, now.frame)
    if (turn !== this.turn || bake !== this.bake) return
    if (this.sent && !baked && !this.sent.baked && this.sent.now.frame === now.frame) return
    this.sent = { baked, now, shot }
    const frame = baked && besideFrame(baked, now, shot, this.baked.elementsOf(bake))
    const copies = frame?.parts.map(copyPart) ?? []
    this.toStage(
      { type: 'beside', frame: frame && { ...frame, parts: copies.map((c) => c.part) } },
      copies.flatMap((c) => c.buffers),
    )
    this.toPage({ type: 'beside', bake, frame: now.frame, alive: frame && { bake: aliveIn(frame), now: aliveIn(now) } })
  }
}
