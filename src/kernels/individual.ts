// Values that each particle has for itself, by the shares that limits give it.
import { col } from './columns'
import { AGEING_FACTOR, GIRTH, LIFE, MASS_BY_FACTOR, RADIUS_BY_FACTOR, SCRATCH_MASSES } from './layout'

// @ts-ignore: decorator
@inline function times(factor: f32, share: v128): v128 {
  return f32x4.add(f32x4.splat(1), f32x4.mul(share, f32x4.splat(factor - 1)))
}
/** Particles weigh so many times as much: of one over their mass as much less. */
export function massBy(columns: usize, op: usize, begin: i32, n: i32, shares: usize, dts: usize, scratch: usize): void {
  const factor = load<f32>(op + MASS_BY_FACTOR),
    row = scratch + SCRATCH_MASSES
  for (let o: usize = 0, end = (<usize>n) << 2; o < end; o += 16)
    v128.store(row + o, f32x4.div(v128.load(row + o), times(factor, v128.load(shares + o))))
}
/** Balls are so many times as wide. Never wider than that: who looks for contacts counts on it. */
export function radiusBy(columns: usize, op: usize, begin: i32, n: i32, shares: usize, dts: usize, scratch: usize): void {
  const factor = load<f32>(op + RADIUS_BY_FACTOR),
    girth = col(columns, GIRTH, begin),
    one = f32x4.splat(1)
  for (let o: usize = 0, end = (<usize>n) << 2; o < end; o += 16) {
    const share = f32x4.pmax(f32x4.splat(0), f32x4.pmin(one, v128.load(shares + o)))
    v128.store(girth + o, f32x4.mul(v128.load(girth + o), times(factor, share)))
  }
}
/** Lives end as much earlier as particles age faster; one that is used up ends in this substep. */
export function ageing(columns: usize, op: usize, begin: i32, n: i32, shares: usize, dts: usize, scratch: usize): void {
  const factor = load<f32>(op + AGEING_FACTOR),
    life = col(columns, LIFE, begin),
    one = f32x4.splat(1)
  for (let o: usize = 0, end = (<usize>n) << 2; o < end; o += 16) {
    const more = f32x4.mul(f32x4.sub(times(factor, v128.load(shares + o)), one), v128.load(dts + o))
    // Not to nothing: that ends a life which has no end of its own.
    v128.store(life + o, f32x4.pmax(f32x4.sub(v128.load(life + o), more), f32x4.splat(1e-6)))
  }
}
