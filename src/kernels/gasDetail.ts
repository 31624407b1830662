// Finer cells that a gas carries along: its own velocity, and below its voxels noise that is free of divergence, as strong as the smallest
// eddies that it has (Kim, Thürey, James and Gross 2008). What sources and burning do to the gas they do to its finer cells; and each step ends
// with the finer cells brought to what the gas has by blocks of 4³ cells, so that the large shapes are those of the gas itself.
import {
  DETAIL_BEFORE,
  DETAIL_CHANGES,
  DETAIL_GONE,
  DETAIL_GONE_NEXT,
  DETAIL_MOVES,
  DETAIL_STRENGTH,
  GAS_BUSY,
  GAS_DETAIL,
  GAS_DIMS,
  GAS_DT,
  GAS_ROW,
  GAS_SCALARS,
  GAS_SLAB,
  GAS_VELOCITY,
  GAS_VOXEL,
  TILE,
} from './layout'
import { blend, lane0, lane1, lane2 } from './gasBlend'
import { splat } from './gasSample'

// @ts-ignore: decorator
@inline function clamp(i: i32, most: i32): i32 {
  return min(max(i, 0), most)
}
// @ts-ignore: decorator
@inline function isBusy(g: usize, i: i32, j: i32, k: i32): bool {
  const tx = load<i32>(g + GAS_DIMS) / TILE,
    ty = load<i32>(g + GAS_DIMS + 4) / TILE
  return load<u8>(<usize>load<u32>(g + GAS_BUSY) + <usize>(i / TILE + tx * (j / TILE + ty * (k / TILE)))) != 0
}
/** Velocity at the middles of the cells of a row and of those around the window, in cells a step. */
export function middlesRow(g: usize, r: i32): void {
  const nx = load<i32>(g + GAS_DIMS),
    ny = load<i32>(g + GAS_DIMS + 4),
    nz = load<i32>(g + GAS_DIMS + 8),
    row = load<i32>(g + GAS_ROW),
    slab = load<i32>(g + GAS_SLAB)
  const j = (r % (ny + 2)) - 1,
    k = r / (ny + 2) - 1
  const cj = clamp(j, ny - 1),
    ck = clamp(k, nz - 1)
  const base = (<usize>cj * row + <usize>ck * slab) << 2
  const S = (<usize>row) << 2,
    P = (<usize>slab) << 2
  const u = <usize>load<u32>(g + GAS_VELOCITY) + base,
    v = <usize>load<u32>(g + GAS_VELOCITY + 4) + base,
    w = <usize>load<u32>(g + GAS_VELOCITY + 8) + base
  const half = splat((<f32>0.5 * load<f32>(g + GAS_DT)) / load<f32>(g + GAS_VOXEL))
  const out = <usize>load<u32>(<usize>load<u32>(g + GAS_DETAIL) + DETAIL_MOVES) + <usize>((j * row + k * slab) << 4)
  for (let i = -1; i <= nx; i++) {
    const ci = clamp(i, nx - 1),
      o = (<usize>ci) << 2
    let m = splat(0)
    if (isBusy(g, ci, cj, ck)) {
      m = f32x4.replace_lane(m, 0, load<f32>(u + o) + load<f32>(u + o, 4))
      m = f32x4.replace_lane(m, 1, load<f32>(v + o) + load<f32>(v + o + S))
      m = f32x4.mul(f32x4.replace_lane(m, 2, load<f32>(w + o) + load<f32>(w + o + P)), half)
    }
    v128.store(out + <usize>(i << 4), m)
  }
}
/** The squared length of the first three. */
// @ts-ignore: decorator
@inline function square(v: v128): f32 {
  const s = f32x4.mul(v, v)
  return f32x4.extract_lane(s, 0) + f32x4.extract_lane(s, 1) + f32x4.extract_lane(s, 2)
}
/** What came, and what share of what was there is left. */
// @ts-ignore: decorator
@inline function change(to: usize, before: f32, after: f32): void {
  store<f32>(to, max(after - before, <f32>0))
  store<f32>(to, after < before ? max(after, <f32>0) / before : <f32>1, 8)
}
/** How strongly it turns within a cell, and where the coordinates of the noise have gone. They begin anew where they are stretched. */
export function stirRow(g: usize, r: i32): void {
  const d = <usize>load<u32>(g + GAS_DETAIL)
  const nx = load<i32>(g + GAS_DIMS),
    ny = load<i32>(g + GAS_DIMS + 4),
    nz = load<i32>(g + GAS_DIMS + 8)
  const S = (<usize>load<i32>(g + GAS_ROW)) << 4,
    P = (<usize>load<i32>(g + GAS_SLAB)) << 4
  const j = r % ny,
    k = r / ny
  const base = <usize>j * S + <usize>k * P
  const moves = <usize>load<u32>(d + DETAIL_MOVES) + base,
    gone = <usize>load<u32>(d + DETAIL_GONE),
    next = <usize>load<u32>(d + DETAIL_GONE_NEXT) + base
  const strength = load<f32>(d + DETAIL_STRENGTH)
  const one = f32x4(<f32>1, 0, 0, 0),
    two = f32x4(0, <f32>1, 0, 0),
    three = f32x4(0, 0, <f32>1, 0)
  const most = f32x4(<f32>(nx - 1), <f32>(ny - 1), <f32>(nz - 1), 0)
  const changes = <usize>load<u32>(d + DETAIL_CHANGES) + base,
    flat = base >> 2
  const density = <usize>load<u32>(g + GAS_SCALARS) + flat,
    flame = <usize>load<u32>(g + GAS_SCALARS + 12),
    density0 = <usize>load<u32>(d + DETAIL_BEFORE) + flat,
    flame0 = <usize>load<u32>(d + DETAIL_BEFORE + 4) + flat
  for (let i = 0; i < nx; i++) {
    const o = (<usize>i) << 4
    if (!isBusy(g, i, j, k)) {
      v128.store(next + o, splat(0))
      v128.store(changes + o, f32x4(0, 0, <f32>1, <f32>1))
      continue
    }
    const e = (<usize>i) << 2
    change(changes + o, load<f32>(density0 + e), load<f32>(density + e))
    if (flame) change(changes + o + 4, load<f32>(flame0 + e), load<f32>(flame + flat + e))
    else change(changes + o + 4, 0, 0)
    const u = v128.load(moves + o)
    const around = f32x4.add(
      f32x4.add(
        f32x4.add(v128.load(moves + o - 16), v128.load(moves + o, 16)),
        f32x4.add(v128.load(moves + o - S), v128.load(moves + o + S)),
      ),
      f32x4.add(v128.load(moves + o - P), v128.load(moves + o + P)),
    )
    store<f32>(moves + o, strength * sqrt(square(f32x4.sub(u, f32x4.mul(around, splat(<f32>1 / 6))))), 12)
    const c = gone + base + o
    const half = splat(0.5)
    const gx = square(f32x4.add(one, f32x4.mul(half, f32x4.sub(v128.load(c, 16), v128.load(c - 16))))),
      gy = square(f32x4.add(two, f32x4.mul(half, f32x4.sub(v128.load(c + S), v128.load(c - S))))),
      gz = square(f32x4.add(three, f32x4.mul(half, f32x4.sub(v128.load(c + P), v128.load(c - P)))))
    if (min(gx, min(gy, gz)) < <f32>0.25 || max(gx, max(gy, gz)) > <f32>4) {
      v128.store(next + o, splat(0))
      continue
    }
    const p = f32x4.pmin(f32x4.pmax(f32x4.sub(f32x4(<f32>i, <f32>j, <f32>k, 0), u), splat(0)), most)
    const q = i32x4.trunc_sat_f32x4_s(p),
      f = f32x4.sub(p, f32x4.convert_i32x4_s(q))
    const from = gone + ((<usize>i32x4.extract_lane(q, 0)) << 4) + <usize>i32x4.extract_lane(q, 1) * S + <usize>i32x4.extract_lane(q, 2) * P
    // What turns is not part of where it goes.
    v128.store(next + o, f32x4.replace_lane(f32x4.sub(blend(from, S, P, lane0(f), lane1(f), lane2(f)), u), 3, 0))
  }
}
