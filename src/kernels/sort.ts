// Particles from the farthest to the nearest, exactly, and of equal depths in their order: a radix sort over the bits in which depths differ, in
// digits of so many as are asked for. Each part of the list counts its digits and moves what it has to where they say, so the result is the same
// on any number of threads.
import {
  ASK_BASE,
  ASK_COUNT,
  ASK_COUNTS,
  ASK_DIGITS,
  ASK_FROM,
  ASK_INTO,
  ASK_KEYS,
  ASK_LAST,
  ASK_ORDER,
  ASK_OUT,
  ASK_PARTS,
  ASK_PX,
  ASK_PY,
  ASK_PZ,
  ASK_SHIFT,
  SORT_BITS,
} from './layout'

const MOST_DIGITS: i32 = 1 << SORT_BITS

/**
 * Depths of a part (the first row of the matrix), and words that sort as their opposites do: of a float its bits, turned about for what is below
 * zero. Leaves the least and the greatest of them where the part has its counts.
 */
export function depthKeys(a: usize, part: i32): void {
  const begin = first(a, part),
    end = first(a, part + 1)
  const px = <usize>load<u32>(a + ASK_PX),
    py = <usize>load<u32>(a + ASK_PY),
    pz = <usize>load<u32>(a + ASK_PZ),
    out = <usize>load<u32>(a + ASK_OUT),
    keys = <usize>load<u32>(a + ASK_KEYS)
  const fx = v128.load32_splat(a + ASK_INTO),
    fy = v128.load32_splat(a + ASK_INTO + 4),
    fz = v128.load32_splat(a + ASK_INTO + 8),
    fw = v128.load32_splat(a + ASK_INTO + 12)
  const top = i32x4.splat(<i32>0x80000000)
  let least = i32x4.splat(-1),
    most = i32x4.splat(0)
  // Parts begin at whole vectors; what lies behind the last particle widens the range at the most.
  for (let i = begin; i < end; i += 4) {
    const o = (<usize>i) << 2
    const d = f32x4.add(
      f32x4.add(f32x4.mul(v128.load(px + o), fx), f32x4.mul(v128.load(py + o), fy)),
      f32x4.add(f32x4.mul(v128.load(pz + o), fz), fw),
    )
    v128.store(out + o, d)
    const bits = f32x4.sub(f32x4.splat(0), d)
    const key = v128.xor(bits, v128.or(i32x4.shr_s(bits, 31), top))
    v128.store(keys + o, key)
    least = i32x4.min_u(least, key)
    most = i32x4.max_u(most, key)
  }
  const out4 = <usize>load<u32>(a + ASK_COUNTS) + ((<usize>(part * MOST_DIGITS)) << 2)
  v128.store(out4, least)
  v128.store(out4, most, 16)
}
// @ts-ignore: decorator
@inline function first(a: usize, part: i32): i32 {
  const count = load<i32>(a + ASK_COUNT)
  return part == load<i32>(a + ASK_PARTS) ? count : <i32>((<i64>count * <i64>part) / <i64>load<i32>(a + ASK_PARTS)) & ~3
}
/** How many of a part have each value of a digit. */
export function countDigits(a: usize, part: i32): void {
  const keys = <usize>load<u32>(a + ASK_KEYS + ((<usize>load<i32>(a + ASK_FROM)) << 2)),
    counts = <usize>load<u32>(a + ASK_COUNTS) + ((<usize>(part * MOST_DIGITS)) << 2),
    shift = load<u32>(a + ASK_SHIFT),
    base = load<u32>(a + ASK_BASE),
    mask = load<u32>(a + ASK_DIGITS) - 1
  memory.fill(counts, 0, (<usize>(mask + 1)) << 2)
  for (let o = (<usize>first(a, part)) << 2, e = (<usize>first(a, part + 1)) << 2; o < e; o += 4) {
    const c = counts + ((<usize>(((load<u32>(keys + o) - base) >> shift) & mask)) << 2)
    store<u32>(c, load<u32>(c) + 1)
  }
}
/** Makes of the counts of all parts where each puts its first of a value: by value, and within it by part. */
export function sumDigits(a: usize): void {
  const counts = <usize>load<u32>(a + ASK_COUNTS),
    parts = load<i32>(a + ASK_PARTS),
    digits = load<i32>(a + ASK_DIGITS)
  let sum: u32 = 0
  for (let d = 0; d < digits; d++)
    for (let p = 0; p < parts; p++) {
      const c = counts + ((<usize>(p * MOST_DIGITS + d)) << 2)
      const n = load<u32>(c)
      store<u32>(c, sum)
      sum += n
    }
}
/** Keys and numbers lie apart: words of 64 bits took longer here. The first digit finds the numbers in order, the last needs no keys any more. */
export function moveDigits(a: usize, part: i32): void {
  const from: usize = (<usize>load<i32>(a + ASK_FROM)) << 2,
    to: usize = 4 - from
  const keys = <usize>load<u32>(a + ASK_KEYS + from),
    order = <usize>load<u32>(a + ASK_ORDER + from),
    keysTo = <usize>load<u32>(a + ASK_KEYS + to),
    orderTo = <usize>load<u32>(a + ASK_ORDER + to)
  const counts = <usize>load<u32>(a + ASK_COUNTS) + ((<usize>(part * MOST_DIGITS)) << 2),
    shift = load<u32>(a + ASK_SHIFT),
    base = load<u32>(a + ASK_BASE),
    mask = load<u32>(a + ASK_DIGITS) - 1,
    isFirst = shift == 0,
    isLast = load<i32>(a + ASK_LAST) != 0
  for (let i = first(a, part), e = first(a, part + 1); i < e; i++) {
    const o = (<usize>i) << 2
    const key = load<u32>(keys + o)
    const c = counts + ((<usize>(((key - base) >> shift) & mask)) << 2)
    const n = load<u32>(c)
    store<u32>(c, n + 1)
    const at = (<usize>n) << 2
    if (!isLast) store<u32>(keysTo + at, key)
    store<u32>(orderTo + at, isFirst ? <u32>i : load<u32>(order + o))
  }
}
