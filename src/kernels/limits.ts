// Where, when and on whom the forces behind them act: each limit multiplies a column of amounts from 0 to 1.
import { col } from './columns'
import { biased, profile } from './fields'
import {
  AGE,
  LIFE,
  LIMIT_CHANCE_OUTSIDE,
  LIMIT_CHANCE_SHARE,
  LIMIT_OTHERS_COUNTS,
  LIMIT_OTHERS_LEAST,
  LIMIT_OTHERS_OUTSIDE,
  LIMIT_PHASE_PER_BLEND,
  LIMIT_PHASE_PHASES,
  LIMIT_PLANES_BYTES,
  LIMIT_PLANES_COUNT,
  LIMIT_PLANES_OUTSIDE,
  LIMIT_RANGE_FROM,
  LIMIT_RANGE_OF,
  LIMIT_RANGE_OUTSIDE,
  LIMIT_RANGE_PER_SOFT,
  LIMIT_RANGE_TO,
  LIMIT_SHAPE_BIAS,
  LIMIT_SHAPE_FALLOFF,
  LIMIT_SHAPE_HALF,
  LIMIT_SHAPE_INTO,
  LIMIT_SHAPE_OUTSIDE,
  LIMIT_SHAPE_PER_SOFT,
  LIMIT_SHAPE_SHAPE,
  OP_SEED,
  PHASE,
  PHASE_START,
  PX,
  PY,
  PZ,
  SEED,
  VX,
  VY,
  VZ,
} from './layout'
import { hash3, unit } from './math'
import { row4 } from './vector'

/** `inverse` 1: where it is not. */
// @ts-ignore: decorator
@inline function apply(amounts: usize, a: v128, inverse: bool): void {
  v128.store(amounts, f32x4.mul(v128.load(amounts), inverse ? f32x4.sub(f32x4.splat(1), a) : a))
}

/**
 * Between two values of something. The amount
 * rises inside the range, over the soft edge from either end.
 */
export function limitRange(columns: usize, op: usize, begin: i32, n: i32, amounts: usize, scratch: usize): void {
  const what = load<i32>(op + LIMIT_RANGE_OF)
  const from = v128.load32_splat(op + LIMIT_RANGE_FROM),
    to = v128.load32_splat(op + LIMIT_RANGE_TO),
    edge = v128.load32_splat(op + LIMIT_RANGE_PER_SOFT)
  const inverse = load<u32>(op + LIMIT_RANGE_OUTSIDE) == 1
  const age = col(columns, AGE, begin),
    life = col(columns, LIFE, begin)
  const vx = col(columns, VX, begin),
    vy = col(columns, VY, begin),
    vz = col(columns, VZ, begin)
  const zero = f32x4.splat(0),
    one = f32x4.splat(1)
  for (let o: usize = 0, end = (<usize>n) << 2; o < end; o += 16) {
    let x: v128
    if (what == 2) {
      const u = v128.load(vx + o),
        v = v128.load(vy + o),
        w = v128.load(vz + o)
      x = f32x4.sqrt(f32x4.add(f32x4.add(f32x4.mul(u, u), f32x4.mul(v, v)), f32x4.mul(w, w)))
    } else {
      // A newborn's age is below zero until its moment has come.
      x = f32x4.pmax(zero, v128.load(age + o))
      if (what == 1) x = f32x4.div(x, f32x4.pmax(f32x4.splat(1e-9), v128.load(life + o)))
    }
    // At the very beginning of a range that starts at nothing all of it counts: an age is never below zero.
    const up = f32x4.add(f32x4.mul(f32x4.sub(x, from), edge), v128.and(f32x4.le(from, zero), one))
    const a = f32x4.pmin(one, f32x4.pmax(zero, f32x4.pmin(up, f32x4.mul(f32x4.sub(to, x), edge))))
    apply(amounts + o, a, inverse)
  }
}

/**
 * Inside a shape; a ball has its radius in the first of the half sizes. From the border inwards
 * the amount rises over the soft edge, by the falloff.
 */
export function limitShape(columns: usize, op: usize, begin: i32, n: i32, amounts: usize, scratch: usize): void {
  const shape = load<i32>(op + LIMIT_SHAPE_SHAPE),
    kind = load<i32>(op + LIMIT_SHAPE_FALLOFF)
  const inverse = load<u32>(op + LIMIT_SHAPE_OUTSIDE) == 1
  const edge = v128.load32_splat(op + LIMIT_SHAPE_PER_SOFT),
    sx = v128.load32_splat(op + LIMIT_SHAPE_HALF),
    sy = v128.load32_splat(op + LIMIT_SHAPE_HALF + 4),
    sz = v128.load32_splat(op + LIMIT_SHAPE_HALF + 8)
  const m = op + LIMIT_SHAPE_INTO,
    bias = v128.load32_splat(op + LIMIT_SHAPE_BIAS)
  const px = col(columns, PX, begin),
    py = col(columns, PY, begin),
    pz = col(columns, PZ, begin)
  for (let o: usize = 0, end = (<usize>n) << 2; o < end; o += 16) {
    const x = v128.load(px + o),
      y = v128.load(py + o),
      z = v128.load(pz + o)
    const qx = row4(m, x, y, z),
      qy = row4(m + 16, x, y, z),
      qz = row4(m + 32, x, y, z)
    let inside: v128
    if (shape == 0) inside = qy
    else if (shape == 1) inside = f32x4.sub(sx, f32x4.sqrt(f32x4.add(f32x4.add(f32x4.mul(qx, qx), f32x4.mul(qy, qy)), f32x4.mul(qz, qz))))
    else inside = f32x4.pmin(f32x4.sub(sx, f32x4.abs(qx)), f32x4.pmin(f32x4.sub(sy, f32x4.abs(qy)), f32x4.sub(sz, f32x4.abs(qz))))
    apply(amounts + o, biased(profile(kind, f32x4.pmin(f32x4.splat(1), f32x4.mul(inside, edge))), bias), inverse)
  }
}

/** A share of the particles, picked by the seed for their whole life. */
export function limitChance(columns: usize, op: usize, begin: i32, n: i32, amounts: usize, scratch: usize): void {
  const share = load<f32>(op + LIMIT_CHANCE_SHARE),
    seed = load<u32>(op + OP_SEED)
  const inverse = load<u32>(op + LIMIT_CHANCE_OUTSIDE) == 1
  const seeds = col(columns, SEED, begin)
  for (let o: usize = 0, end = (<usize>n) << 2; o < end; o += 4) {
    const taken = unit(hash3(seed, load<u32>(seeds + o), 30)) < share
    if (taken == inverse) store<f32>(amounts + o, <f32>0)
  }
}

/** In some phases, a bit each; at the beginning of a phase it sets in. */
export function limitPhase(columns: usize, op: usize, begin: i32, n: i32, amounts: usize, scratch: usize): void {
  const mask = load<u32>(op + LIMIT_PHASE_PHASES),
    per = load<f32>(op + LIMIT_PHASE_PER_BLEND)
  const phases = col(columns, PHASE, begin),
    starts = col(columns, PHASE_START, begin),
    ages = col(columns, AGE, begin)
  const zero = f32x4.splat(0),
    one = f32x4.splat(1)
  for (let o: usize = 0, end = (<usize>n) << 2; o < end; o += 16) {
    const phase = v128.load(phases + o)
    // Without a branch by the particle: phases that follow no pattern are guessed wrong.
    let within = i32x4.splat(0)
    for (let bits = mask; bits; bits &= bits - 1) within = v128.or(within, i32x4.eq(phase, i32x4.splat(ctz(bits))))
    let a = v128.and(within, one)
    if (per > 0)
      a = f32x4.mul(a, f32x4.min(one, f32x4.max(zero, f32x4.mul(f32x4.sub(v128.load(ages + o), v128.load(starts + o)), f32x4.splat(per)))))
    v128.store(amounts + o, f32x4.mul(v128.load(amounts + o), a))
  }
}

/** Inside all planes, or outside any. */
export function limitPlanes(columns: usize, op: usize, begin: i32, n: i32, amounts: usize, scratch: usize): void {
  const count = load<i32>(op + LIMIT_PLANES_COUNT),
    inverse = load<u32>(op + LIMIT_PLANES_OUTSIDE) == 1
  const px = col(columns, PX, begin),
    py = col(columns, PY, begin),
    pz = col(columns, PZ, begin)
  const zero = f32x4.splat(0),
    one = f32x4.splat(1)
  for (let o: usize = 0, end = (<usize>n) << 2; o < end; o += 16) {
    const x = v128.load(px + o),
      y = v128.load(py + o),
      z = v128.load(pz + o)
    let inside = one
    for (let k = 0, p = op + LIMIT_PLANES_BYTES; k < count; k++, p += 16) {
      const far = f32x4.add(
        f32x4.add(f32x4.mul(v128.load32_splat(p), x), f32x4.mul(v128.load32_splat(p + 4), y)),
        f32x4.add(f32x4.mul(v128.load32_splat(p + 8), z), v128.load32_splat(p + 12)),
      )
      inside = v128.and(inside, f32x4.ge(far, zero))
    }
    apply(amounts + o, inside, inverse)
  }
}

/** On those with so many others near them; without any to ask nobody has. */
export function limitOthers(columns: usize, op: usize, begin: i32, n: i32, amounts: usize, scratch: usize): void {
  const counts = <usize>load<u32>(op + LIMIT_OTHERS_COUNTS),
    least = load<f32>(op + LIMIT_OTHERS_LEAST),
    inverse = load<u32>(op + LIMIT_OTHERS_OUTSIDE) == 1
  const from = counts + ((<usize>begin) << 2)
  for (let o: usize = 0, end = (<usize>n) << 2; o < end; o += 4) {
    const enough = counts != 0 && load<f32>(from + o) >= least
    if (enough == inverse) store<f32>(amounts + o, <f32>0)
  }
}
