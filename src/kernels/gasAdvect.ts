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
  TILE,
} from './layout'

/** What `locate` leaves: byte offsets of four lower corners, and three weights for each. */
const WX: usize = 16,
  WY: usize = 32,
  WZ: usize = 48,
  LOCATED: usize = 64

// @ts-ignore: decorator
@inline function splat(x: f32): v128 {
  return f32x4.splat(x)
}
/** The cell below a place along an axis, of places from −1 on. */
// @ts-ignore: decorator
@inline function below(p: v128, most: i32): v128 {
  const one = i32x4.splat(1)
  return i32x4.min_s(i32x4.sub(i32x4.trunc_sat_f32x4_s(f32x4.add(p, splat(1))), one), i32x4.splat(most - 1))
}
/** Where four places lie among the cells of a field whose lowest and highest index along each axis are lx to mz. */
// @ts-ignore: decorator
@inline function locate(
  x: v128,
  y: v128,
  z: v128,
  lx: i32,
  ly: i32,
  lz: i32,
  mx: i32,
  my: i32,
  mz: i32,
  row: i32,
  slab: i32,
  out: usize,
): void {
  const px = f32x4.pmin(f32x4.pmax(x, splat(<f32>lx)), splat(<f32>mx)),
    py = f32x4.pmin(f32x4.pmax(y, splat(<f32>ly)), splat(<f32>my)),
    pz = f32x4.pmin(f32x4.pmax(z, splat(<f32>lz)), splat(<f32>mz))
  const i = below(px, mx),
    j = below(py, my),
    k = below(pz, mz)
  v128.store(out, i32x4.shl(i32x4.add(i, i32x4.add(i32x4.mul(j, i32x4.splat(row)), i32x4.mul(k, i32x4.splat(slab)))), 2))
  v128.store(out + WX, f32x4.sub(px, f32x4.convert_i32x4_s(i)))
  v128.store(out + WY, f32x4.sub(py, f32x4.convert_i32x4_s(j)))
  v128.store(out + WZ, f32x4.sub(pz, f32x4.convert_i32x4_s(k)))
}
/** Two neighbours of a row, and those of the next. */
// @ts-ignore: decorator
@inline function quad(q: usize, row: usize): v128 {
  return v128.load64_lane(q + row, v128.load64_zero(q), 1)
}
/** Along z and y: what is left between are the values at both ends along x, in the first two lanes. */
// @ts-ignore: decorator
@inline function edge(field: usize, at: usize, lane: usize, row: usize, slab: usize): v128 {
  const q = field + <usize>load<u32>(at + lane)
  const near = quad(q, row)
  const a = f32x4.add(near, f32x4.mul(f32x4.sub(quad(q + slab, row), near), v128.load32_splat(at + WZ + lane)))
  return f32x4.add(a, f32x4.mul(f32x4.sub(i32x4.shuffle(a, a, 2, 3, 6, 7), a), v128.load32_splat(at + WY + lane)))
}
/** Four values of a field, where `locate` says. All in vectors: a scalar minimum costs more than all of the loads. */
// @ts-ignore: decorator
@inline function sample(field: usize, at: usize, row: usize, slab: usize): v128 {
  const p = i32x4.shuffle(edge(field, at, 0, row, slab), edge(field, at, 4, row, slab), 0, 4, 1, 5),
    q = i32x4.shuffle(edge(field, at, 8, row, slab), edge(field, at, 12, row, slab), 0, 4, 1, 5)
  const low = i32x4.shuffle(p, q, 0, 1, 4, 5)
  return f32x4.add(low, f32x4.mul(f32x4.sub(i32x4.shuffle(p, q, 2, 3, 6, 7), low), v128.load(at + WX)))
}
/** The least of the eight corners in the first two lanes, the largest in the last two. */
// @ts-ignore: decorator
@inline function ends(field: usize, at: usize, lane: usize, row: usize, slab: usize): v128 {
  const q = field + <usize>load<u32>(at + lane)
  const near = quad(q, row),
    far = quad(q + slab, row)
  const low = f32x4.pmin(near, far),
    high = f32x4.pmax(near, far)
  return i32x4.shuffle(
    f32x4.pmin(low, i32x4.shuffle(low, low, 2, 3, 6, 7)),
    f32x4.pmax(high, i32x4.shuffle(high, high, 2, 3, 6, 7)),
    0,
    1,
    4,
    5,
  )
}
/** Four values, each within those of its eight corners. */
// @ts-ignore: decorator
@inline function within(field: usize, at: usize, row: usize, slab: usize, values: v128): v128 {
  const a = ends(field, at, 0, row, slab),
    b = ends(field, at, 4, row, slab),
    c = ends(field, at, 8, row, slab),
    d = ends(field, at, 12, row, slab)
  const lowAB = i32x4.shuffle(a, b, 0, 4, 1, 5),
    lowCD = i32x4.shuffle(c, d, 0, 4, 1, 5),
    highAB = i32x4.shuffle(a, b, 2, 6, 3, 7),
    highCD = i32x4.shuffle(c, d, 2, 6, 3, 7)
  const low = f32x4.pmin(i32x4.shuffle(lowAB, lowCD, 0, 1, 4, 5), i32x4.shuffle(lowAB, lowCD, 2, 3, 6, 7)),
    high = f32x4.pmax(i32x4.shuffle(highAB, highCD, 0, 1, 4, 5), i32x4.shuffle(highAB, highCD, 2, 3, 6, 7))
  return f32x4.pmin(f32x4.pmax(values, low), high)
}
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
      for (let n: usize = 0; n < 16; n += 4)
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
    const fields = which == 3 ? 4 : 1
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
