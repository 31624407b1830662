// Where, when and on whom the forces behind them act: each limit multiplies a column of amounts from 0 to 1.
import { biased, profile } from './fields'
import { AGE, LIFE, OP_OWN, OP_SEED, PX, PY, PZ, SEED, VX, VY, VZ } from './layout'
import { hash3, unit } from './math'

// @ts-ignore: decorator
@inline function col(columns: usize, c: i32, begin: i32): usize {
  return <usize>load<u32>(columns + ((<usize>c) << 2)) + ((<usize>begin) << 2)
}
/** `inverse` 1: where it is not. */
// @ts-ignore: decorator
@inline function apply(amounts: usize, a: v128, inverse: bool): void {
  v128.store(amounts, f32x4.mul(v128.load(amounts), inverse ? f32x4.sub(f32x4.splat(1), a) : a))
}

/**
 * Between two values of something. Own words: of what (0 age, s; 1 share of life; 2 speed, m/s), from, to, 1/soft edge, inverse. The amount
 * rises inside the range, over the soft edge from either end.
 */
export function limitRange(columns: usize, op: usize, begin: i32, n: i32, amounts: usize): void {
  const own = op + OP_OWN
  const what = load<i32>(own)
  const from = v128.load32_splat(own + 4),
    to = v128.load32_splat(own + 8),
    edge = v128.load32_splat(own + 12)
  const inverse = load<u32>(own + 16) == 1
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
 * Inside a shape. Own words: shape (0 half space above its y = 0, 1 ball, 2 box), falloff, inverse, 1/soft edge, half sizes (a ball has its
 * radius in the first), the matrix from the simulation's space into the shape's own, and 1/bias − 2 of the falloff. From the border inwards
 * the amount rises over the soft edge, by the falloff.
 */
export function limitShape(columns: usize, op: usize, begin: i32, n: i32, amounts: usize): void {
  const own = op + OP_OWN
  const shape = load<i32>(own),
    kind = load<i32>(own + 4)
  const inverse = load<u32>(own + 8) == 1
  const edge = v128.load32_splat(own + 12),
    sx = v128.load32_splat(own + 16),
    sy = v128.load32_splat(own + 20),
    sz = v128.load32_splat(own + 24)
  const m = own + 28,
    bias = v128.load32_splat(own + 76)
  const px = col(columns, PX, begin),
    py = col(columns, PY, begin),
    pz = col(columns, PZ, begin)
  for (let o: usize = 0, end = (<usize>n) << 2; o < end; o += 16) {
    const x = v128.load(px + o),
      y = v128.load(py + o),
      z = v128.load(pz + o)
    const qx = row(m, x, y, z),
      qy = row(m + 16, x, y, z),
      qz = row(m + 32, x, y, z)
    let inside: v128
    if (shape == 0) inside = qy
    else if (shape == 1) inside = f32x4.sub(sx, f32x4.sqrt(f32x4.add(f32x4.add(f32x4.mul(qx, qx), f32x4.mul(qy, qy)), f32x4.mul(qz, qz))))
    else inside = f32x4.pmin(f32x4.sub(sx, f32x4.abs(qx)), f32x4.pmin(f32x4.sub(sy, f32x4.abs(qy)), f32x4.sub(sz, f32x4.abs(qz))))
    apply(amounts + o, biased(profile(kind, f32x4.pmin(f32x4.splat(1), f32x4.mul(inside, edge))), bias), inverse)
  }
}
// @ts-ignore: decorator
@inline function row(m: usize, x: v128, y: v128, z: v128): v128 {
  return f32x4.add(
    f32x4.add(f32x4.add(f32x4.mul(v128.load32_splat(m), x), f32x4.mul(v128.load32_splat(m, 4), y)), f32x4.mul(v128.load32_splat(m, 8), z)),
    v128.load32_splat(m, 12),
  )
}

/** A share of the particles, picked by the seed for their whole life. Own words: the share, inverse. */
export function limitChance(columns: usize, op: usize, begin: i32, n: i32, amounts: usize): void {
  const share = load<f32>(op + OP_OWN),
    seed = load<u32>(op + OP_SEED)
  const inverse = load<u32>(op + OP_OWN + 4) == 1
  const seeds = col(columns, SEED, begin)
  for (let o: usize = 0, end = (<usize>n) << 2; o < end; o += 4) {
    const taken = unit(hash3(seed, load<u32>(seeds + o), 30)) < share
    if (taken == inverse) store<f32>(amounts + o, <f32>0)
  }
}
