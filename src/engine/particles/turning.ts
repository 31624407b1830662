import type { Columns } from '../memory'
import { encodeTurns, OpWriter } from '../ops'
import type { StepTime, TurnPlan } from '../plan'
import { type Passing, takeMarked } from './passing'

/** The turns of one system: their conditions and themselves as ops, apart, since they come behind contact, which is not known before. */
export class Turning {
  readonly ops = new OpWriter()
  /** The only turn while one is tried out, and who took it (ids). */
  trial: { turn: string; took: Set<number> } | null = null
  /** Whether turns that copy or take away were taken in the substep. */
  private passed = false
  /** Where in the words the kernel counts each. */
  private takenAt: { turn: TurnPlan; word: number }[] = []
  private startsBefore: Float32Array | null = null

  constructor(private readonly turns: readonly TurnPlan[]) {}

  prepare(at: StepTime): void {
    const { ops, trial } = this
    ops.clear()
    this.takenAt = []
    const turns = this.turns.filter((turn) => (trial ? turn.id === trial.turn : !turn.muted))
    if (!turns.length) return
    encodeTurns(ops)
    this.takenAt = turns.map((turn) => ({ turn, word: turn.encode(ops, at, !!trial) }))
  }
  /** Before the kernel runs. */
  begin(columns: Columns): void {
    this.startsBefore = this.trial && columns.floats('phaseStart').slice()
  }
  /** What the kernel counted in the words from an address on, by turn. */
  count(view: DataView, words: number, columns: Columns): Record<string, number> {
    this.passed = false
    const counts: Record<string, number> = {}
    for (const { turn, word } of this.takenAt) {
      const taken = view.getUint32(words + word * 4, true)
      if (!taken) continue
      this.passed ||= !!turn.passes && !this.trial
      counts[turn.id] = taken
    }
    // In a trial a turn shows by the beginning of the phase alone.
    const before = this.startsBefore
    if (before) {
      const [starts, ids] = [columns.floats('phaseStart'), columns.words('id')]
      for (let i = 0; i < before.length; i++) if (starts[i] !== before[i]) this.trial?.took.add(ids[i])
    }
    return counts
  }
  /** Those whom turns copied or took away, when there are any. */
  takePassing(columns: Columns): Passing[] {
    return this.passed ? takeMarked(columns, this.turns) : []
  }
}
