// Cubic values of a field at four places, by the weights of Catmull and Rom.
import { high, low } from './gasBlend'
import { LOCATED, splat } from './gasSample'

/** Bytes of the weights of four places: along x by place, then along y and z by node. */
export const WEIGHTS_BYTES: usize = 192
/** Cubic weights of Catmull and Rom for four places, of the node below, at, above and beyond. */
// @ts-ignore: decorator
@inline function catmull(f: v128, out: usize): void {
  const f2 = f32x4.mul(f, f),
    f3 = f32x4.mul(f2, f),
    half = splat(0.5)
  const a = f32x4.mul(half, f32x4.sub(f32x4.sub(f32x4.add(f2, f2), f), f3)),
    e = f32x4.mul(half, f32x4.sub(f3, f2)),
    c = f32x4.mul(half, f32x4.add(f, f32x4.sub(f32x4.mul(splat(4), f2), f32x4.mul(splat(3), f3))))
  v128.store(out, a)
  v128.store(out, f32x4.sub(splat(1), f32x4.add(f32x4.add(a, c), e)), 16)
  v128.store(out, c, 32)
  v128.store(out, e, 48)
}
/** Of the places that `locate` has found, behind what it leaves. */
// @ts-ignore: decorator
@inline export function weights(at: usize): void {
  const to = at + LOCATED
  catmull(v128.load(at, 16), to)
  const a = v128.load(to),
    b = v128.load(to, 16),
    c = v128.load(to, 32),
    e = v128.load(to, 48)
  const ab = low(a, b),
    ce = low(c, e),
    ab2 = high(a, b),
    ce2 = high(c, e)
  v128.store(to, i32x4.shuffle(ab, ce, 0, 1, 4, 5))
  v128.store(to, i32x4.shuffle(ab, ce, 2, 3, 6, 7), 16)
  v128.store(to, i32x4.shuffle(ab2, ce2, 0, 1, 4, 5), 32)
  v128.store(to, i32x4.shuffle(ab2, ce2, 2, 3, 6, 7), 48)
  catmull(v128.load(at, 32), to + 64)
  catmull(v128.load(at, 48), to + 128)
}
/** Along y, of four nodes along x of four rows. */
// @ts-ignore: decorator
@inline function plane(q: usize, S: usize, a: v128, b: v128, c: v128, e: v128): v128 {
  return f32x4.add(
    f32x4.add(f32x4.mul(v128.load(q), a), f32x4.mul(v128.load(q + S), b)),
    f32x4.add(f32x4.mul(v128.load(q + 2 * S), c), f32x4.mul(v128.load(q + 3 * S), e)),
  )
}
/** One of four places. Within the eight nodes around it: no waves beside what is steep (after Fedkiw, Stam and Jensen 2001). */
// @ts-ignore: decorator
@inline function cubicOne(field: usize, at: usize, n: usize, S: usize, P: usize): f32 {
  const lane = n << 2,
    w = at + LOCATED
  const here = field + <usize>load<u32>(at + lane),
    q = here - 4 - S - P,
    y = w + 64 + lane,
    z = w + 128 + lane
  const a = v128.load32_splat(y),
    b = v128.load32_splat(y, 16),
    c = v128.load32_splat(y, 32),
    e = v128.load32_splat(y, 48)
  const sum = f32x4.mul(
    v128.load(w + (n << 4)),
    f32x4.add(
      f32x4.add(f32x4.mul(v128.load32_splat(z), plane(q, S, a, b, c, e)), f32x4.mul(v128.load32_splat(z, 16), plane(q + P, S, a, b, c, e))),
      f32x4.add(
        f32x4.mul(v128.load32_splat(z, 32), plane(q + 2 * P, S, a, b, c, e)),
        f32x4.mul(v128.load32_splat(z, 48), plane(q + 3 * P, S, a, b, c, e)),
      ),
    ),
  )
  const near = v128.load64_lane(here + S, v128.load64_zero(here), 1),
    far = v128.load64_lane(here + S + P, v128.load64_zero(here + P), 1)
  const least = f32x4.pmin(near, far),
    most = f32x4.pmax(near, far)
  const ends0 = low(least, most),
    ends1 = high(least, most)
  // Lanes 0 and 2, 1 and 3 of both.
  const lo = f32x4.pmin(ends0, ends1),
    hi = f32x4.pmax(ends0, ends1)
  const pair = f32x4.add(sum, i32x4.shuffle(sum, sum, 2, 3, 2, 3))
  const value = f32x4.extract_lane(pair, 0) + f32x4.extract_lane(pair, 1)
  const smallest = min(f32x4.extract_lane(lo, 0), f32x4.extract_lane(lo, 2)),
    largest = max(f32x4.extract_lane(hi, 1), f32x4.extract_lane(hi, 3))
  return value < smallest ? smallest : value > largest ? largest : value
}
// @ts-ignore: decorator
@inline export function cubic(field: usize, at: usize, S: usize, P: usize): v128 {
  const a = f32x4.replace_lane(splat(cubicOne(field, at, 0, S, P)), 1, cubicOne(field, at, 1, S, P))
  return f32x4.replace_lane(f32x4.replace_lane(a, 2, cubicOne(field, at, 2, S, P)), 3, cubicOne(field, at, 3, S, P))
}
