import type { Matrix } from '../math'
import { f32, u32 } from '../memory'
import { defineOp } from './define'
import { FULL, type Share } from './share'
import type { OpWriter } from './writer'

export const gasCarryOp = defineOp({
  name: 'gasCarry',
  code: 57,
  group: 'force',
  kernel: 'gasCarry',
  words: {
    gas: u32(),
    response: f32(),
    /** From the space of the simulation to the shot, and directions back. */
    into: f32(12),
    back: f32(9),
  },
})
/**
 * Leads to the velocity of a gas, by its place among the plan's, within the response (s). `out`: from the space of the simulation to the shot;
 * `into`: back.
 */
export function encodeGasCarry(
  w: OpWriter,
  p: { gas: number; responseS: number; out: Matrix; into: Matrix },
  seed = 0,
  share: Share = FULL,
): void {
  const { into } = p
  const back = [0, 1, 2].flatMap((r) => [into[r * 4], into[r * 4 + 1], into[r * 4 + 2]])
  const start = w.write(gasCarryOp, { gas: 0, response: p.responseS, into: p.out, back }, seed, share)
  w.airs.push({ at: w.wordOf(start, gasCarryOp, 'gas'), gas: p.gas })
}
