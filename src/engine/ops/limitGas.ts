import type { Matrix } from '../math'
import { f32, i32, u32 } from '../memory'
import { defineOp } from './define'
import type { OpWriter } from './writer'

export const limitGasOp = defineOp({
  name: 'limitGas',
  code: 58,
  group: 'limit',
  kernel: 'gasCarry',
  words: {
    gas: u32(),
    /** Of density, temperature, fuel, flame. */
    grid: i32(),
    /** Below the first nothing, above the second all of it. */
    from: f32(),
    to: f32(),
    outside: u32(),
    into: f32(12),
  },
})
/** By the amount of a grid of a gas where the particle is: nothing up to `from`, all from `to` on, or the other way round. */
export function encodeLimitGas(
  w: OpWriter,
  p: { gas: number; grid: number; from: number; to: number; outside: boolean; out: Matrix },
): void {
  const start = w.write(limitGasOp, {
    ...{ gas: 0, grid: p.grid, from: p.from, to: Math.max(p.to, p.from + 1e-6), outside: p.outside ? 1 : 0, into: p.out },
  })
  if (p.gas >= 0) w.airs.push({ at: w.wordOf(start, limitGasOp, 'gas'), gas: p.gas })
}
