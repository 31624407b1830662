// A gas moves by its own velocity: MacCormack's scheme over semi-Lagrangian steps (Selle, Fedkiw, Kim, Liu and Rossignac 2008), limited to
// the values that it comes from. Every cell is computed from fields that nobody writes meanwhile, so any number of threads gives the same.
import {
  GAS_BUSY,
  GAS_DIMS,
  GAS_DT,
  GAS_HATS,
  GAS_HIGHS,
  GAS_OPEN,
  GAS_OUTS,
  GAS_ROW,
  GAS_SCALARS,
  GAS_SLAB,
  GAS_STEP,
  GAS_STEP_CORRECT,
  GAS_VELOCITY,
  GAS_VOXEL,
  GAS_WHICH,
  SCALAR_COUNT,
  TILE,
} from './layout'
import { place, placeRow, sample, sampleBetween, sampleLine, sampleLineBetween, splat } from './gasSample'

// @ts-ignore: decorator
@inline function half(a: usize, step: usize): v128 {
  return f32x4.mul(splat(0.5), f32x4.add(v128.load(a), v128.load(a + step)))
}
/** The mean of four faces: those at 0 and `b`, and both shifted by `a`. */
// @ts-ignore: decorator
@inline function mean(f: usize, a: usize, b: usize): v128 {
  return f32x4.mul(splat(0.25), f32x4.add(f32x4.add(v128.load(f), v128.load(f + a)), f32x4.add(v128.load(f + b), v128.load(f + a + b))))
}

/** Scalars that do not come to four cells are nothing there. */
// @ts-ignore: decorator
@inline function clear(fields: usize, at: usize, moved: u32): void {
  for (let n: usize = 0; n < SCALAR_COUNT; n++) {
    const field = <usize>load<u32>(fields + (n << 2))
    if (field && !((moved >> <u32>n) & 1)) v128.store(field + at, splat(0))
  }
}
/** On the sides of the window a component stays as it was: the correction looks at what the forward step leaves there, too. */
function keepSides(g: usize, which: i32, j: i32, k: i32, nx: i32, ny: i32, nz: i32, S: usize, P: usize, base: usize): void {
  const source = <usize>load<u32>(g + GAS_VELOCITY + ((<usize>which) << 2)) + base,
    hat = <usize>load<u32>(g + GAS_HATS) + base
  const bytes = (<usize>nx) << 2
  if (which == 0) store<f32>(hat + bytes, load<f32>(source + bytes))
  const step: usize = which == 1 ? S : P,
    nth = which == 1 ? j : k
  if (which > 0 && nth == 0) memory.copy(hat, source, bytes)
  if (which > 0 && nth == (which == 1 ? ny : nz) - 1) memory.copy(hat + step, source + step, bytes)
}
/** What comes to four cells of a field from behind; leaves the least and the largest that it comes from in `out` and `high`. */
// @ts-ignore: decorator
@inline function come(source: usize, out: usize, high: usize, line: bool, places: usize, S: usize, P: usize): v128 {
  return line ? sampleLineBetween(source, places, S, P, out, high) : sampleBetween(source, places, S, P, out, high)
}
/** Half of what going there and back has changed is taken back, between the least and the largest that it came from. */
// @ts-ignore: decorator
@inline function correct(
  source: usize,
  hat: usize,
  at: usize,
  out: usize,
  high: usize,
  line: bool,
  places: usize,
  S: usize,
  P: usize,
): void {
  const back = line ? sampleLine(hat, places, S, P) : sample(hat, places, S, P)
  const guess = f32x4.add(v128.load(hat + at), f32x4.mul(splat(0.5), f32x4.sub(v128.load(source + at), back)))
  v128.store(out, f32x4.pmin(f32x4.pmax(guess, v128.load(out)), v128.load(high)))
}
// @ts-ignore: decorator
@inline function velocityRow(g: usize, which: i32, corrects: bool, base: usize, nx: i32, places: usize, S: usize, P: usize): void {
  const u = <usize>load<u32>(g + GAS_VELOCITY),
    v = <usize>load<u32>(g + GAS_VELOCITY + 4),
    w = <usize>load<u32>(g + GAS_VELOCITY + 8),
    source = <usize>load<u32>(g + GAS_VELOCITY + ((<usize>which) << 2)),
    hat = <usize>load<u32>(g + GAS_HATS),
    out = <usize>load<u32>(g + GAS_OUTS),
    high = <usize>load<u32>(g + GAS_HIGHS)
  const M: usize = -4
  for (let i = 0; i < nx; i += 4) {
    const at = base + ((<usize>i) << 2)
    let a: v128, b: v128, c: v128
    if (which == 0) {
      a = v128.load(u + at)
      b = mean(v + at, M, S)
      c = mean(w + at, M, P)
    } else if (which == 1) {
      a = mean(u + at, -S, 4)
      b = v128.load(v + at)
      c = mean(w + at, -S, P)
    } else {
      a = mean(u + at, -P, 4)
      b = mean(v + at, -P, S)
      c = v128.load(w + at)
    }
    const line = place(places, i, a, b, c)
    if (corrects) correct(source, hat, at, out + at, high + at, line, places, S, P)
    else {
      const value = come(source, out + at, high + at, line, places, S, P)
      v128.store(hat + at, which == 0 && i == 0 ? f32x4.replace_lane(value, 0, load<f32>(source + at)) : value)
    }
  }
}
// @ts-ignore: decorator
@inline function scalarsRow(g: usize, busy: usize, corrects: bool, base: usize, nx: i32, places: usize, S: usize, P: usize): void {
  const u = <usize>load<u32>(g + GAS_VELOCITY),
    v = <usize>load<u32>(g + GAS_VELOCITY + 4),
    w = <usize>load<u32>(g + GAS_VELOCITY + 8)
  for (let i = 0; i < nx; i += 4) {
    const at = base + ((<usize>i) << 2)
    const moved = <u32>load<u8>(busy + <usize>(i / TILE))
    clear(g + (corrects ? GAS_OUTS : GAS_HATS), at, moved)
    if (!moved) continue
    const line = place(places, i, half(u + at, 4), half(v + at, S), half(w + at, P))
    for (let n: usize = 0; n < SCALAR_COUNT << 2; n += 4) {
      if (!((moved >> <u32>(n >> 2)) & 1)) continue
      const source = <usize>load<u32>(g + GAS_SCALARS + n)
      if (source == 0) continue
      const hat = <usize>load<u32>(g + GAS_HATS + n),
        out = <usize>load<u32>(g + GAS_OUTS + n) + at,
        high = <usize>load<u32>(g + GAS_HIGHS + n) + at
      if (corrects) correct(source, hat, at, out, high, line, places, S, P)
      else v128.store(hat + at, come(source, out, high, line, places, S, P))
    }
  }
}
/** One row of the forward step, or of its correction, for the component or the scalars at hand. */
export function advectRow(g: usize, r: i32, scratch: usize): void {
  const which = load<i32>(g + GAS_WHICH),
    corrects = load<u32>(g + GAS_STEP) == GAS_STEP_CORRECT
  const nx = load<i32>(g + GAS_DIMS),
    ny = load<i32>(g + GAS_DIMS + 4),
    nz = load<i32>(g + GAS_DIMS + 8)
  const j = r % ny,
    k = r / ny
  const S = (<usize>load<i32>(g + GAS_ROW)) << 2,
    P = (<usize>load<i32>(g + GAS_SLAB)) << 2
  const base = <usize>j * S + <usize>k * P
  if (which < 3 && !corrects) keepSides(g, which, j, k, nx, ny, nz, S, P, base)
  if ((which == 1 && j == 0) || (which == 2 && k == 0)) return
  // What comes in through an open side is clean air: the cells around hold nothing.
  const open = which == 3 ? load<u32>(g + GAS_OPEN) : 0
  const lx = open & 1 ? -1 : 0,
    ly = open & 4 ? -1 : 0,
    lz = open & 16 ? -1 : 0
  const mx = which == 0 || open & 2 ? nx : nx - 1,
    my = which == 1 || open & 8 ? ny : ny - 1,
    mz = which == 2 || open & 32 ? nz : nz - 1
  // The forward step comes from behind, its correction from ahead.
  const cells = load<f32>(g + GAS_DT) / load<f32>(g + GAS_VOXEL)
  placeRow(scratch, corrects ? cells : -cells, j, k, lx, ly, lz, mx, my, mz, S, P)
  if (which < 3) {
    if (corrects) velocityRow(g, which, true, base, nx, scratch, S, P)
    else velocityRow(g, which, false, base, nx, scratch, S, P)
    return
  }
  const busy = <usize>load<u32>(g + GAS_BUSY) + <usize>((nx / TILE) * (j / TILE + (ny / TILE) * (k / TILE)))
  if (corrects) scalarsRow(g, busy, true, base, nx, scratch, S, P)
  else scalarsRow(g, busy, false, base, nx, scratch, S, P)
}
