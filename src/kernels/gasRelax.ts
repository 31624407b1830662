// Red and black over-relaxation of a gas's pressure on one grid. A colour reads only the other, so the order of planes does not show in the result.
import {
  GAS_LEVEL,
  LEVEL_DIMS,
  LEVEL_FACES,
  LEVEL_INVERSE,
  LEVEL_PRESSURE,
  LEVEL_RIGHT,
  LEVEL_ROW,
  LEVEL_SLAB,
  LEVEL_SWEEPS,
  LEVEL_THICK,
} from './layout'

/** Over-relaxation: of 1.08 to 1.35 what takes the fewest cycles, by tries on a closed box and on a fire before a kiln. */
const OVER: f32 = 1.25

/** One colour of one plane. */
function plane(l: usize, k: i32, colour: i32): void {
  if (load<u32>(l + LEVEL_FACES)) {
    planeAmong(l, k, colour)
    return
  }
  const nx = load<i32>(l + LEVEL_DIMS),
    ny = load<i32>(l + LEVEL_DIMS + 4)
  const S = (<usize>load<i32>(l + LEVEL_ROW)) << 2,
    P = (<usize>load<i32>(l + LEVEL_SLAB)) << 2
  const p = <usize>load<u32>(l + LEVEL_PRESSURE) + <usize>k * P,
    right = <usize>load<u32>(l + LEVEL_RIGHT) + <usize>k * P,
    inverse = <usize>load<u32>(l + LEVEL_INVERSE) + <usize>k * P
  const even = f32x4(OVER, 0, OVER, 0),
    odd = f32x4(0, OVER, 0, OVER)
  for (let j = 0; j < ny; j++) {
    const base = <usize>j * S
    const mask = (j + k + colour) & 1 ? odd : even
    // Neighbours along the row come from vectors that are there already: a load across what was just stored waits for it. Cells beside are of
    // the other colour, so they are the same before and behind.
    let before = v128.load(p + base - 16),
      here = v128.load(p + base)
    for (let o: usize = base, end = base + ((<usize>nx) << 2); o < end; o += 16) {
      const q = p + o
      const next = v128.load(q + 16)
      const sum = f32x4.add(
        f32x4.add(
          f32x4.add(i32x4.shuffle(before, here, 3, 4, 5, 6), i32x4.shuffle(here, next, 1, 2, 3, 4)),
          f32x4.add(v128.load(q - S), v128.load(q + S)),
        ),
        f32x4.add(f32x4.add(v128.load(q - P), v128.load(q + P)), v128.load(right + o)),
      )
      v128.store(q, f32x4.add(here, f32x4.mul(mask, f32x4.sub(f32x4.mul(sum, v128.load(inverse + o)), here))))
      before = here
      here = next
    }
  }
}
/** What four cells get of their neighbours, each through the part of the face that is open. */
// @ts-ignore: decorator
@inline export function through(p: usize, x: usize, y: usize, z: usize, S: usize, P: usize): v128 {
  return f32x4.add(
    f32x4.add(
      f32x4.add(f32x4.mul(v128.load(x), v128.load(p - 4)), f32x4.mul(v128.load(x + 4), v128.load(p + 4))),
      f32x4.add(f32x4.mul(v128.load(y), v128.load(p - S)), f32x4.mul(v128.load(y + S), v128.load(p + S))),
    ),
    f32x4.add(f32x4.mul(v128.load(z), v128.load(p - P)), f32x4.mul(v128.load(z + P), v128.load(p + P))),
  )
}
/** One colour of one plane among faces that are open in part. Of a vector only one colour is written, and none of it is read there. */
function planeAmong(l: usize, k: i32, colour: i32): void {
  const nx = load<i32>(l + LEVEL_DIMS),
    ny = load<i32>(l + LEVEL_DIMS + 4)
  const S = (<usize>load<i32>(l + LEVEL_ROW)) << 2,
    P = (<usize>load<i32>(l + LEVEL_SLAB)) << 2
  const at = <usize>k * P
  const p = <usize>load<u32>(l + LEVEL_PRESSURE) + at,
    right = <usize>load<u32>(l + LEVEL_RIGHT) + at,
    inverse = <usize>load<u32>(l + LEVEL_INVERSE) + at,
    x = <usize>load<u32>(l + LEVEL_FACES) + at,
    y = <usize>load<u32>(l + LEVEL_FACES + 4) + at,
    z = <usize>load<u32>(l + LEVEL_FACES + 8) + at
  const even = f32x4(OVER, 0, OVER, 0),
    odd = f32x4(0, OVER, 0, OVER)
  for (let j = 0; j < ny; j++) {
    const base = <usize>j * S
    const mask = (j + k + colour) & 1 ? odd : even
    for (let o: usize = base, end = base + ((<usize>nx) << 2); o < end; o += 16) {
      const here = v128.load(p + o),
        sum = f32x4.add(through(p + o, x + o, y + o, z + o, S, P), v128.load(right + o))
      v128.store(p + o, f32x4.add(here, f32x4.mul(mask, f32x4.sub(f32x4.mul(sum, v128.load(inverse + o)), here))))
    }
  }
}
/** A slab of planes, black one plane behind red; its first and last black planes wait for its neighbours. One that is the whole grid is swept as often as it says. */
export function relaxSlab(g: usize, t: i32): void {
  const l = <usize>load<u32>(g + GAS_LEVEL)
  const thick = load<i32>(l + LEVEL_THICK)
  const nz = load<i32>(l + LEVEL_DIMS + 8),
    first = t * thick,
    end = min(first + thick, nz)
  if (thick >= nz)
    for (let n = load<i32>(l + LEVEL_SWEEPS); n > 0; n--) {
      for (let k = 0; k < nz; k++) {
        plane(l, k, 0)
        if (k > 0) plane(l, k - 1, 1)
      }
      plane(l, nz - 1, 1)
    }
  else
    for (let k = first; k < end; k++) {
      plane(l, k, 0)
      if (k - 1 > first) plane(l, k - 1, 1)
    }
}
/** The black planes that waited. */
export function seamSlab(g: usize, t: i32): void {
  const l = <usize>load<u32>(g + GAS_LEVEL)
  const thick = load<i32>(l + LEVEL_THICK)
  const first = t * thick,
    end = min(first + thick, load<i32>(l + LEVEL_DIMS + 8))
  plane(l, first, 1)
  if (end - 1 > first) plane(l, end - 1, 1)
}
