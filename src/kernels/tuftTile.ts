// The pixels of tufts, a tile of the picture at a time and four pixels at once: as TUFT_FRAGMENT of the stage has them, but from the nearest on, so
// that what is hidden already costs nothing.
import {
  LUMPS_ACROSS,
  LUMPS_SIDE,
  LUMPS_SLOPE,
  TUFTS_ACROSS,
  TUFTS_DEPTH,
  TUFTS_HEIGHT,
  TUFTS_LEAST,
  TUFTS_LISTS,
  TUFTS_LUMPS,
  TUFTS_OUT,
  TUFTS_SHIFT_X,
  TUFTS_SHIFT_Y,
  TUFTS_STARTS,
  TUFTS_TILES_X,
  TUFTS_TUFTS,
  TUFTS_UNDER,
  TUFTS_UPWARDS,
  TUFTS_WIDTH,
  TUFT_BYTES,
  TUFT_FAR2,
  TUFT_GAIN,
  TUFT_HEAD,
  TUFT_LIT,
  TUFT_LIT_X,
  TUFT_LIT_Y,
  TUFT_LIT_Z,
  TUFT_LUMPS,
  TUFT_MEETS,
  TUFT_POWER,
  TUFT_RIGHT,
  TUFT_TEXELS,
  TUFT_THICKNESS,
  TUFT_TILE_X,
  TUFT_TILE_Y,
  TUFT_TORN,
  TUFT_TURN_X,
  TUFT_TURN_Y,
  TUFT_TURN_Z,
  TUFT_UP,
  TUFT_VEIL,
  TUFT_X0,
  TUFT_X1,
  TUFT_Y0,
  TUFT_Y1,
} from './layout'
import { LOG2E, logarithm2, power2, toHalves, WHOLE } from './math'
import { lightTuft } from './tuftLit'
import { DONE, four, layUnder, PLANE } from './tuftUnder'
import { all, dot } from './vector'

/** Tufts after which it is looked whether a whole tile is done. */
const LOOK: i32 = 32
/** One over what stands for one, of weights and of values. */
const UNIT: f32 = 1.0 / 268435456.0
/** What a slope of a texel is worth in radii, for one texel a radius. */
const LEAN: f32 = (<f32>2 * <f32>LUMPS_SLOPE * <f32>LUMPS_ACROSS) / <f32>LUMPS_SIDE

/** A vector of a tuft along four directions. */
// @ts-ignore: decorator
@inline function along(p: usize, x: v128, y: v128, z: v128): v128 {
  return dot(four(p, 0), four(p, 1), four(p, 2), x, y, z)
}
/** Of three vectors, one after the other, their k-th components times four numbers each. */
// @ts-ignore: decorator
@inline function mixed(p: usize, k: usize, x: v128, y: v128, z: v128): v128 {
  return dot(four(p, k), four(p, k + 3), four(p, k + 6), x, y, z)
}
/** Four values of the lumps in a pixel of four: the corners around it by their weights, pairs along x in each word. */
// @ts-ignore: decorator
@inline function texel(a: i32, b: i32, c: i32, d: i32, wa: v128, wb: v128, wc: v128, wd: v128): v128 {
  return i32x4.add(
    i32x4.add(i32x4.dot_i16x8_s(v128.load(<usize>a), wa), i32x4.dot_i16x8_s(v128.load(<usize>b), wb)),
    i32x4.add(i32x4.dot_i16x8_s(v128.load(<usize>c), wc), i32x4.dot_i16x8_s(v128.load(<usize>d), wd)),
  )
}
/** The weights of both corners along x, 16384 for one, in a word. */
// @ts-ignore: decorator
@inline function weights(w: v128, x: v128): v128 {
  const next = f32x4.mul(w, x)
  return v128.or(v128.and(f32x4.add(f32x4.sub(w, next), all(WHOLE)), i32x4.splat(0xffff)), i32x4.shl(f32x4.add(next, all(WHOLE)), 16))
}
/** Empties the tile: no light, and all is left to be seen. */
function begin(scratch: usize): void {
  memory.fill(scratch, 0, PLANE * 3)
  for (let o: usize = 0; o < PLANE; o += 16) v128.store(scratch + PLANE * 3 + o, all(1))
}
function isDone(scratch: usize): bool {
  const left = scratch + PLANE * 3
  let most = all(0)
  for (let o: usize = 0; o < PLANE; o += 16) most = f32x4.pmax(most, v128.load(left + o))
  return !v128.any_true(f32x4.gt(most, all(DONE)))
}
/** One tile of the picture. */
export function drawTile(m: usize, n: i32, scratch: usize): void {
  const width = load<i32>(m + TUFTS_WIDTH),
    height = load<i32>(m + TUFTS_HEIGHT),
    tilesX = load<i32>(m + TUFTS_TILES_X)
  const left = (n % tilesX) * TUFT_TILE_X,
    low = (n / tilesX) * TUFT_TILE_Y,
    right = min(left + TUFT_TILE_X, width),
    high = min(low + TUFT_TILE_Y, height)
  const starts = <usize>load<u32>(m + TUFTS_STARTS),
    lists = <usize>load<u32>(m + TUFTS_LISTS),
    tufts = <usize>load<u32>(m + TUFTS_TUFTS)
  const from = n ? load<u32>(starts + ((<usize>(n - 1)) << 2)) : 0,
    to = load<u32>(starts + ((<usize>n) << 2))
  const under = <usize>load<u32>(m + TUFTS_UNDER)
  if (from < to || under) begin(scratch)
  if (from < to) {
    for (let k = from; k < to; k++) {
      if (((k - from + 1) & (LOOK - 1)) == 0 && isDone(scratch)) break
      const t = tufts + <usize>load<u32>(lists + ((<usize>k) << 2)) * TUFT_BYTES
      drawTuft(m, t, scratch, left, low, right, high)
    }
  }
  if (under) layUnder(m, under, scratch, left, low, right, high)
  write(m, scratch, from < to || under != 0, left, low, right, high)
}
/** The part of one that lies in a tile. */
function drawTuft(m: usize, t: usize, scratch: usize, left: i32, low: i32, right: i32, high: i32): void {
  const width = load<i32>(m + TUFTS_WIDTH)
  // Of what is seen, what it is to the right and up, a metre ahead.
  const perX: f32 = <f32>2 / <f32>width / load<f32>(m + TUFTS_ACROSS),
    perY: f32 = <f32>2 / <f32>load<i32>(m + TUFTS_HEIGHT) / load<f32>(m + TUFTS_UPWARDS)
  const zeroX: f32 = (load<f32>(m + TUFTS_SHIFT_X) - 1) / load<f32>(m + TUFTS_ACROSS),
    zeroY: f32 = (load<f32>(m + TUFTS_SHIFT_Y) - 1) / load<f32>(m + TUFTS_UPWARDS)
  const x0 = left + ((max(load<i32>(t + TUFT_X0), left) - left) & ~1),
    y0 = low + ((max(load<i32>(t + TUFT_Y0), low) - low) & ~1),
    x1 = min(load<i32>(t + TUFT_X1), right),
    y1 = min(load<i32>(t + TUFT_Y1), high)
  const one = all(1),
    none = all(0),
    done = all(DONE)
  const depth = <usize>load<u32>(m + TUFTS_DEPTH),
    lumps = <usize>load<u32>(m + TUFTS_LUMPS)
  const far2 = four(t, TUFT_FAR2 >> 2),
    gain = four(t, TUFT_GAIN >> 2),
    torn = four(t, TUFT_TORN >> 2),
    isTorn = load<f32>(t + TUFT_TORN) > 0,
    thickness = f32x4.mul(four(t, TUFT_THICKNESS >> 2), all(-LOG2E)),
    power = four(t, TUFT_POWER >> 2),
    texels = four(t, TUFT_TEXELS >> 2),
    meets = load<f32>(t + TUFT_MEETS),
    perMeets = all(meets > 0 ? 1 / meets : 0)
  // Less a half: the nearest whole number is the one before then.
  const lumpsX = f32x4.sub(four(t, TUFT_LUMPS >> 2), all(0.5)),
    lumpsY = f32x4.sub(four(t, (TUFT_LUMPS >> 2) + 1), all(0.5)),
    lumpsZ = f32x4.sub(four(t, (TUFT_LUMPS >> 2) + 2), all(0.5))
  const mask = i32x4.splat(LUMPS_SIDE - 1),
    lumpsAt = i32x4.splat(<i32>lumps),
    leastAt = i32x4.splat(load<u32>(m + TUFTS_LEAST))
  let isLit = false
  for (let y = y0; y < y1; y += 2) {
    const dy = f32x4.add(all(zeroY), f32x4.mul(all(perY), f32x4.add(all(<f32>y), f32x4(0.5, 0.5, 1.5, 1.5))))
    let o = scratch + ((<usize>((y - low) * TUFT_TILE_X + ((x0 - left) << 1))) << 2)
    for (let x = x0; x < x1; x += 2, o += 16) {
      const leftHere = v128.load(o + PLANE * 3)
      let alive = f32x4.gt(leftHere, done)
      if (!v128.any_true(alive)) continue
      const dx = f32x4.add(all(zeroX), f32x4.mul(all(perX), f32x4.add(all(<f32>x), f32x4(0.5, 1.5, 0.5, 1.5))))
      const ahead = all(-1)
      const per = f32x4.div(one, along(t + TUFT_HEAD, dx, dy, ahead)),
        size = f32x4.mul(gain, per)
      const ax = f32x4.mul(size, along(t + TUFT_RIGHT, dx, dy, ahead)),
        ay = f32x4.mul(size, along(t + TUFT_UP, dx, dy, ahead))
      const r2 = f32x4.add(f32x4.mul(ax, ax), f32x4.mul(ay, ay))
      alive = v128.and(alive, v128.and(f32x4.lt(r2, one), f32x4.gt(per, none)))
      if (!v128.any_true(alive)) continue
      let faint = one
      if (depth) {
        // What lies beyond the picture is read and not looked at: there is room for it behind the list.
        const p = depth + ((<usize>(y * width + x)) << 2)
        const z = v128.load64_lane(p + ((<usize>width) << 2), v128.load64_zero(p), 1),
          nothing = f32x4.eq(z, none),
          room = f32x4.sub(z, f32x4.mul(far2, per))
        alive = v128.and(alive, v128.or(nothing, f32x4.gt(room, none)))
        if (!v128.any_true(alive)) continue
        // From its middle on, as it fades as a whole.
        if (meets > 0) {
          const after = f32x4.mul(f32x4.add(z, four(t, (TUFT_HEAD >> 2) + 2)), perMeets)
          faint = v128.bitselect(one, f32x4.pmin(one, f32x4.pmax(none, after)), nothing)
        }
      }
      const az = f32x4.sqrt(f32x4.pmax(none, f32x4.sub(one, r2)))
      let rim = one,
        sx = none,
        sy = none,
        sz = none
      if (isTorn) {
        const ownX = mixed(t + TUFT_TURN_X, 0, ax, ay, az),
          ownY = mixed(t + TUFT_TURN_X, 1, ax, ay, az),
          ownZ = mixed(t + TUFT_TURN_X, 2, ax, ay, az)
        const lx = f32x4.add(f32x4.mul(ownX, texels), lumpsX),
          ly = f32x4.add(f32x4.mul(ownY, texels), lumpsY),
          lz = f32x4.add(f32x4.mul(ownZ, texels), lumpsZ)
        // Half way between two whole numbers either will do: the weights meet there.
        const nx = f32x4.add(lx, all(WHOLE)),
          ny = f32x4.add(ly, all(WHOLE)),
          nz = f32x4.add(lz, all(WHOLE)),
          fx = f32x4.sub(nx, all(WHOLE)),
          fy = f32x4.sub(ny, all(WHOLE)),
          fz = f32x4.sub(nz, all(WHOLE))
        const ix = v128.and(nx, mask),
          iy = v128.and(ny, mask),
          iz = v128.and(nz, mask)
        // Most of what is torn off is known by the least that is taken away in a cell.
        const cell = i32x4.add(leastAt, i32x4.add(ix, i32x4.add(i32x4.shl(iy, 5), i32x4.shl(iz, 10))))
        const least = i32x4.replace_lane(
          i32x4.replace_lane(
            i32x4.replace_lane(i32x4.splat(load<u8>(<usize>i32x4.extract_lane(cell, 0))), 1, load<u8>(<usize>i32x4.extract_lane(cell, 1))),
            2,
            load<u8>(<usize>i32x4.extract_lane(cell, 2)),
          ),
          3,
          load<u8>(<usize>i32x4.extract_lane(cell, 3)),
        )
        const most = f32x4.sub(one, f32x4.mul(torn, f32x4.mul(f32x4.convert_i32x4_s(least), all(<f32>(1.0 / 255.0)))))
        alive = v128.and(alive, f32x4.lt(r2, f32x4.mul(most, most)))
        if (!v128.any_true(alive)) continue
        const step = i32x4.splat(1),
          column = i32x4.add(lumpsAt, i32x4.shl(ix, 4)),
          row0 = i32x4.shl(iy, 9),
          row1 = i32x4.shl(v128.and(i32x4.add(iy, step), mask), 9),
          slab0 = i32x4.add(column, i32x4.shl(iz, 14)),
          slab1 = i32x4.add(column, i32x4.shl(v128.and(i32x4.add(iz, step), mask), 14))
        const a = i32x4.add(slab0, row0),
          b = i32x4.add(slab0, row1),
          c = i32x4.add(slab1, row0),
          d = i32x4.add(slab1, row1)
        const px = f32x4.add(f32x4.sub(lx, fx), all(0.5)),
          py = f32x4.add(f32x4.sub(ly, fy), all(0.5)),
          pz = f32x4.add(f32x4.mul(f32x4.sub(lz, fz), all(16384)), all(8192)),
          qz = f32x4.sub(all(16384), pz),
          nearUp = f32x4.mul(qz, py),
          farUp = f32x4.mul(pz, py)
        const wa = weights(f32x4.sub(qz, nearUp), px),
          wb = weights(nearUp, px),
          wc = weights(f32x4.sub(pz, farUp), px),
          wd = weights(farUp, px)
        const p0 = texel(
          i32x4.extract_lane(a, 0),
          i32x4.extract_lane(b, 0),
          i32x4.extract_lane(c, 0),
          i32x4.extract_lane(d, 0),
          v128.shuffle<i32>(wa, wa, 0, 0, 0, 0),
          v128.shuffle<i32>(wb, wb, 0, 0, 0, 0),
          v128.shuffle<i32>(wc, wc, 0, 0, 0, 0),
          v128.shuffle<i32>(wd, wd, 0, 0, 0, 0),
        )
        const p1 = texel(
          i32x4.extract_lane(a, 1),
          i32x4.extract_lane(b, 1),
          i32x4.extract_lane(c, 1),
          i32x4.extract_lane(d, 1),
          v128.shuffle<i32>(wa, wa, 1, 1, 1, 1),
          v128.shuffle<i32>(wb, wb, 1, 1, 1, 1),
          v128.shuffle<i32>(wc, wc, 1, 1, 1, 1),
          v128.shuffle<i32>(wd, wd, 1, 1, 1, 1),
        )
        const p2 = texel(
          i32x4.extract_lane(a, 2),
          i32x4.extract_lane(b, 2),
          i32x4.extract_lane(c, 2),
          i32x4.extract_lane(d, 2),
          v128.shuffle<i32>(wa, wa, 2, 2, 2, 2),
          v128.shuffle<i32>(wb, wb, 2, 2, 2, 2),
          v128.shuffle<i32>(wc, wc, 2, 2, 2, 2),
          v128.shuffle<i32>(wd, wd, 2, 2, 2, 2),
        )
        const p3 = texel(
          i32x4.extract_lane(a, 3),
          i32x4.extract_lane(b, 3),
          i32x4.extract_lane(c, 3),
          i32x4.extract_lane(d, 3),
          v128.shuffle<i32>(wa, wa, 3, 3, 3, 3),
          v128.shuffle<i32>(wb, wb, 3, 3, 3, 3),
          v128.shuffle<i32>(wc, wc, 3, 3, 3, 3),
          v128.shuffle<i32>(wd, wd, 3, 3, 3, 3),
        )
        // Four values of each to each value of four.
        const q0 = v128.shuffle<i32>(p0, p1, 0, 4, 1, 5),
          q1 = v128.shuffle<i32>(p0, p1, 2, 6, 3, 7),
          q2 = v128.shuffle<i32>(p2, p3, 0, 4, 1, 5),
          q3 = v128.shuffle<i32>(p2, p3, 2, 6, 3, 7)
        const lean = f32x4.mul(f32x4.mul(torn, texels), all(UNIT * LEAN))
        const gx = f32x4.mul(lean, f32x4.convert_i32x4_s(v128.shuffle<i32>(q0, q2, 0, 1, 4, 5))),
          gy = f32x4.mul(lean, f32x4.convert_i32x4_s(v128.shuffle<i32>(q0, q2, 2, 3, 6, 7))),
          gz = f32x4.mul(lean, f32x4.convert_i32x4_s(v128.shuffle<i32>(q1, q3, 0, 1, 4, 5))),
          taken = f32x4.convert_i32x4_s(v128.shuffle<i32>(q1, q3, 2, 3, 6, 7))
        rim = f32x4.sub(one, f32x4.mul(torn, f32x4.mul(all(UNIT), taken)))
        sx = along(t + TUFT_TURN_X, gx, gy, gz)
        sy = along(t + TUFT_TURN_Y, gx, gy, gz)
        sz = along(t + TUFT_TURN_Z, gx, gy, gz)
      }
      const inside = f32x4.sub(one, f32x4.div(r2, f32x4.mul(rim, rim)))
      alive = v128.and(alive, f32x4.gt(inside, all(1e-9)))
      if (!v128.any_true(alive)) continue
      const deep = power2(f32x4.mul(power, logarithm2(f32x4.pmax(inside, all(1e-9)))))
      const through = power2(f32x4.pmax(all(-100), f32x4.mul(f32x4.mul(thickness, rim), deep))),
        a = f32x4.mul(f32x4.sub(one, through), faint)
      alive = v128.and(alive, f32x4.ge(a, all(0.002)))
      if (!v128.any_true(alive)) continue
      const cover = v128.and(a, alive)
      if (!isLit) lightTuft(m, t)
      isLit = true
      // The disc with what its lumps add, less what of that goes along it.
      const off = dot(ax, ay, az, sx, sy, sz)
      const nx = f32x4.add(ax, f32x4.sub(sx, f32x4.mul(ax, off))),
        ny = f32x4.add(ay, f32x4.sub(sy, f32x4.mul(ay, off))),
        nz = f32x4.add(f32x4.add(az, f32x4.sub(sz, f32x4.mul(az, off))), all(1e-4))
      const long = f32x4.div(one, f32x4.sqrt(dot(nx, ny, nz, nx, ny, nz))),
        ux = f32x4.mul(nx, long),
        uy = f32x4.mul(ny, long),
        uz = f32x4.mul(nz, long)
      const seen = f32x4.mul(leftHere, cover)
      for (let k: usize = 0; k < 3; k++) {
        const light = f32x4.pmax(none, f32x4.add(four(t + TUFT_LIT, k), mixed(t + TUFT_LIT_X, k, ux, uy, uz)))
        const plane = o + PLANE * k
        v128.store(plane, f32x4.add(v128.load(plane), f32x4.mul(seen, f32x4.add(light, four(t + TUFT_VEIL, k)))))
      }
      v128.store(o + PLANE * 3, f32x4.sub(leftHere, seen))
    }
  }
}
/** Leaves a tile in the picture. */
function write(m: usize, scratch: usize, holds: bool, left: i32, low: i32, right: i32, high: i32): void {
  const width = load<i32>(m + TUFTS_WIDTH),
    out = <usize>load<u32>(m + TUFTS_OUT)
  for (let y = low; y < high; y++) {
    const to = out + ((<usize>(y * width + left)) << 3)
    if (!holds) {
      memory.fill(to, 0, (<usize>(right - left)) << 3)
      continue
    }
    // Two of each four lie in this row.
    const half = (<usize>((y - low) & 1)) << 3
    let o = scratch + ((<usize>(((y - low) & ~1) * TUFT_TILE_X)) << 2) + half
    for (let x = left; x < right; x += 2, o += 16) {
      const rg = v128.load64_lane(o + PLANE, v128.load64_zero(o), 1),
        ba = v128.load64_lane(o + PLANE * 3, v128.load64_zero(o + PLANE * 2), 1)
      // Red, red, green, green, blue, blue, and twice what is covered.
      const h = toHalves(rg, v128.shuffle<i32>(ba, f32x4.sub(all(1), ba), 0, 1, 6, 7)),
        pixels = i8x16.shuffle(h, h, 0, 1, 4, 5, 8, 9, 12, 13, 2, 3, 6, 7, 10, 11, 14, 15)
      const at = to + ((<usize>(x - left)) << 3)
      if (x + 1 < right) v128.store(at, pixels)
      else v128.store64_lane(at, pixels, 0)
    }
  }
}
