// Ops over a block that are no particles: the nodes of a velocity volume, the cells of a gas.
import { applyFlow, applyForce, applyLimit, isLimit } from './dispatch'
import { OP_CODE, OP_END_LIMITS, OP_SHARE, OP_SIZE, SCRATCH_DT, SCRATCH_LIMITS } from './layout'

/** Fills a row of a thread's scratch. */
// @ts-ignore: decorator
@inline export function fill(at: usize, value: f32): void {
  for (let o: usize = 0; o < 1024; o += 16) v128.store(at + o, f32x4.splat(value))
}
/** Runs so many ops on `n` of at most 256 places, whose columns stand in a table; time steps are in the scratch. `flows`: as what flows in a volume. */
export function runOps(first: usize, count: i32, columns: usize, n: i32, scratch: usize, flows: bool): void {
  let op = first,
    limited = false
  for (let q = 0; q < count; q++) {
    const code = load<i32>(op + OP_CODE)
    if (code == OP_END_LIMITS) limited = false
    else if (isLimit(code)) {
      if (!limited) fill(scratch + SCRATCH_LIMITS, 1)
      limited = true
      applyLimit(code, columns, op, 0, n, scratch + SCRATCH_LIMITS, scratch)
    } else {
      fill(scratch, load<f32>(op + OP_SHARE))
      let acts = true
      if (limited) {
        let any = i32x4.splat(0)
        for (let o: usize = 0; o < 1024; o += 16) {
          const share = f32x4.mul(v128.load(scratch + o), v128.load(scratch + SCRATCH_LIMITS + o))
          v128.store(scratch + o, share)
          if (o < (<usize>n) << 2) any = v128.or(any, f32x4.ne(share, f32x4.splat(0)))
        }
        acts = v128.any_true(any)
      }
      // Where its limits leave nothing of it, it need not be worked out.
      if (!acts) {
        op += <usize>load<u32>(op + OP_SIZE)
        continue
      }
      if (flows) applyFlow(code, columns, op, 0, n, scratch, scratch + SCRATCH_DT, scratch)
      else applyForce(code, columns, op, 0, n, scratch, scratch + SCRATCH_DT, scratch, false)
    }
    op += <usize>load<u32>(op + OP_SIZE)
  }
}
