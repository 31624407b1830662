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
import { inLine, locate, sample, sampleBetween, sampleLine, sampleLineBetween, splat } from './gasSample'

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
/** One row of the forward step, or of its correction, for the component or the scalars at hand. */
export function advectRow(g: usize, r: i32, scratch: usize): void {
  const which = load<i32>(g + GAS_WHICH),
    corrects = load<u32>(g + GAS_STEP) == GAS_STEP_CORRECT
  const nx = load<i32>(g + GAS_DIMS),
    ny = load<i32>(g + GAS_DIMS + 4),
    nz = load<i32>(g + GAS_DIMS + 8)
  const j = r % ny,
    k = r / ny
  const row = load<i32>(g + GAS_ROW),
    slab = load<i32>(g + GAS_SLAB)
  const S = (<usize>row) << 2,
    P = (<usize>slab) << 2
  const base = <usize>j * S + <usize>k * P
  const u = <usize>load<u32>(g + GAS_VELOCITY) + base,
    v = <usize>load<u32>(g + GAS_VELOCITY + 4) + base,
    w = <usize>load<u32>(g + GAS_VELOCITY + 8) + base
  const scale = splat(load<f32>(g + GAS_DT) / load<f32>(g + GAS_VOXEL))
  // What comes in through an open side is clean air: the cells around hold nothing.
  const open = which == 3 ? load<u32>(g + GAS_OPEN) : 0
  const lx = open & 1 ? -1 : 0,
    ly = open & 4 ? -1 : 0,
    lz = open & 16 ? -1 : 0
  const mx = which == 0 || open & 2 ? nx : nx - 1,
    my = which == 1 || open & 8 ? ny : ny - 1,
    mz = which == 2 || open & 32 ? nz : nz - 1
  const fj = splat(<f32>j),
    fk = splat(<f32>k)
  const M: usize = -4
  const busy = which == 3 ? <usize>load<u32>(g + GAS_BUSY) + <usize>((nx / TILE) * (j / TILE + (ny / TILE) * (k / TILE))) : 0
  if (which < 3 && !corrects) keepSides(g, which, j, k, nx, ny, nz, S, P, base)
  if ((which == 1 && j == 0) || (which == 2 && k == 0)) return
  for (let i = 0; i < nx; i += 4) {
    const o = (<usize>i) << 2
    const moved = which == 3 ? <u32>load<u8>(busy + <usize>(i / TILE)) : 1
    if (which == 3) clear(g + (corrects ? GAS_OUTS : GAS_HATS), base + o, moved)
    if (!moved) continue
    let a: v128, b: v128, c: v128
    if (which == 0) {
      a = v128.load(u + o)
      b = mean(v + o, M, S)
      c = mean(w + o, M, P)
    } else if (which == 1) {
      a = mean(u + o, -S, 4)
      b = v128.load(v + o)
      c = mean(w + o, -S, P)
    } else if (which == 2) {
      a = mean(u + o, -P, 4)
      b = mean(v + o, -P, S)
      c = v128.load(w + o)
    } else {
      a = half(u + o, 4)
      b = half(v + o, S)
      c = half(w + o, P)
    }
    // The forward step comes from behind, its correction from ahead.
    const sign = corrects ? scale : f32x4.neg(scale)
    locate(
      f32x4.add(f32x4.add(splat(<f32>i), f32x4(0, 1, 2, 3)), f32x4.mul(a, sign)),
      f32x4.add(fj, f32x4.mul(b, sign)),
      f32x4.add(fk, f32x4.mul(c, sign)),
      lx,
      ly,
      lz,
      mx,
      my,
      mz,
      row,
      slab,
      scratch,
    )
    const line = inLine(scratch),
      fields = which == 3 ? <i32>SCALAR_COUNT : 1
    for (let n = 0; n < fields; n++) {
      if (!((moved >> n) & 1)) continue
      const f = (<usize>n) << 2
      const source = <usize>load<u32>(g + (which == 3 ? GAS_SCALARS + f : GAS_VELOCITY + ((<usize>which) << 2)))
      if (source == 0) continue
      const hat = <usize>load<u32>(g + GAS_HATS + f),
        at = base + o,
        out = <usize>load<u32>(g + GAS_OUTS + f) + at,
        high = <usize>load<u32>(g + GAS_HIGHS + f) + at
      if (corrects) {
        const back = line ? sampleLine(hat, scratch, S, P) : sample(hat, scratch, S, P)
        const guess = f32x4.add(v128.load(hat + at), f32x4.mul(splat(0.5), f32x4.sub(v128.load(source + at), back)))
        v128.store(out, f32x4.pmin(f32x4.pmax(guess, v128.load(out)), v128.load(high)))
      } else {
        const value = line ? sampleLineBetween(source, scratch, S, P, out, high) : sampleBetween(source, scratch, S, P, out, high)
        v128.store(hat + at, which == 0 && i == 0 ? f32x4.replace_lane(value, 0, load<f32>(source + at)) : value)
      }
    }
  }
}
