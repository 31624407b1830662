// A gas moves by its own velocity: MacCormack's scheme over semi-Lagrangian steps (Selle, Fedkiw, Kim, Liu and Rossignac 2008), limited to
// the values that it comes from. Every cell is computed from fields that nobody writes meanwhile, so any number of threads gives the same.
import {
  GAS_BUSY,
  GAS_DIMS,
  GAS_DT,
  GAS_HATS,
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
import { LOCATED, locate, sample, splat, within } from './gasSample'

// @ts-ignore: decorator
@inline function half(a: usize, step: usize): v128 {
  return f32x4.mul(splat(0.5), f32x4.add(v128.load(a), v128.load(a + step)))
}
/** The mean of four faces: those at 0 and `b`, and both shifted by `a`. */
// @ts-ignore: decorator
@inline function mean(f: usize, a: usize, b: usize): v128 {
  return f32x4.mul(splat(0.25), f32x4.add(f32x4.add(v128.load(f), v128.load(f + a)), f32x4.add(v128.load(f + b), v128.load(f + a + b))))
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
  if ((which == 1 && j == 0) || (which == 2 && k == 0)) return
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
  const back = scratch,
    ahead = scratch + LOCATED
  const M: usize = -4
  const busy = which == 3 ? <usize>load<u32>(g + GAS_BUSY) + <usize>((nx / TILE) * (j / TILE + (ny / TILE) * (k / TILE))) : 0
  for (let i = 0; i < nx; i += 4) {
    const o = (<usize>i) << 2
    if (which == 3 && !load<u8>(busy + <usize>(i / TILE))) {
      for (let n: usize = 0; n < SCALAR_COUNT << 2; n += 4)
        if (load<u32>(g + GAS_SCALARS + n)) v128.store(<usize>load<u32>(g + (corrects ? GAS_OUTS : GAS_HATS) + n) + base + o, splat(0))
      continue
    }
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
    a = f32x4.mul(a, scale)
    b = f32x4.mul(b, scale)
    c = f32x4.mul(c, scale)
    const fi = f32x4.add(splat(<f32>i), f32x4(0, 1, 2, 3))
    locate(f32x4.sub(fi, a), f32x4.sub(fj, b), f32x4.sub(fk, c), lx, ly, lz, mx, my, mz, row, slab, back)
    if (corrects) locate(f32x4.add(fi, a), f32x4.add(fj, b), f32x4.add(fk, c), lx, ly, lz, mx, my, mz, row, slab, ahead)
    const first = which == 0 && i == 0
    const fields = which == 3 ? <i32>SCALAR_COUNT : 1
    for (let n = 0; n < fields; n++) {
      const f = (<usize>n) << 2
      const source = <usize>load<u32>(g + (which == 3 ? GAS_SCALARS + f : GAS_VELOCITY + ((<usize>which) << 2)))
      if (source == 0) continue
      const hat = <usize>load<u32>(g + GAS_HATS + f)
      const at = base + o
      const out = corrects ? <usize>load<u32>(g + GAS_OUTS + f) + at : hat + at
      let value: v128
      if (corrects) {
        const guess = f32x4.add(v128.load(hat + at), f32x4.mul(splat(0.5), f32x4.sub(v128.load(source + at), sample(hat, ahead, S, P))))
        value = within(source, back, S, P, guess)
      } else value = sample(source, back, S, P)
      v128.store(out, first ? f32x4.replace_lane(value, 0, load<f32>(out)) : value)
    }
  }
}
