// The pixels of tufts, a tile of the picture at a time and four pixels at once: as TUFT_FRAGMENT of the stage has them, but from the nearest on, so
// that what is hidden already costs nothing.
import {
  LUMPS_ACROSS,
  LUMPS_SIDE,
  LUMPS_SLOPE,
  TUFTS_ACROSS,
  TUFTS_DEPTH,
  TUFTS_HEIGHT,
  TUFTS_LISTS,
  TUFTS_LUMPS,
  TUFTS_OUT,
  TUFTS_SHIFT_X,
  TUFTS_SHIFT_Y,
  TUFTS_STARTS,
  TUFTS_TILES_X,
  TUFTS_TUFTS,
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
import { exp2x4, LOG2E, log2x4, toHalves } from './math'
import { dot } from './vector'

/** Where less than this is left to be seen a pixel is done. */
const DONE: f32 = 1.0 / 1024.0
/** Tufts after which it is looked whether a whole tile is done. */
const LOOK: i32 = 32
const PLANE: usize = (<usize>(TUFT_TILE_X * TUFT_TILE_Y)) << 2
/** What a slope of a texel is worth in radii, for one texel a radius. */
const LEAN: f32 = (<f32>2 * <f32>LUMPS_SLOPE * <f32>LUMPS_ACROSS) / <f32>LUMPS_SIDE

// @ts-ignore: decorator
@inline function all(x: f32): v128 {
  return f32x4.splat(x)
}
// @ts-ignore: decorator
@inline function at(p: usize, k: usize): v128 {
  return v128.load32_splat(p + (k << 2))
}
/** A vector of a tuft along four directions. */
// @ts-ignore: decorator
@inline function along(p: usize, x: v128, y: v128, z: v128): v128 {
  return dot(at(p, 0), at(p, 1), at(p, 2), x, y, z)
}
/** Of three vectors, one after the other, their k-th components times four numbers each. */
// @ts-ignore: decorator
@inline function mixed(p: usize, k: usize, x: v128, y: v128, z: v128): v128 {
  return dot(at(p, k), at(p, k + 3), at(p, k + 6), x, y, z)
}
// @ts-ignore: decorator
@inline function between(a: v128, b: v128, part: v128): v128 {
  return i16x8.add(a, i16x8.q15mulr_sat_s(i16x8.sub(b, a), part))
}
/** Four values of the lumps at a place: those of the eight texels around it. Addresses of the four pairs along x, and where between them, of 32768. */
// @ts-ignore: decorator
@inline function texel(a: i32, b: i32, c: i32, d: i32, x: i32, y: i32, z: i32): v128 {
  const part = i16x8.splat(<i16>y)
  const near = between(v128.load(<usize>a), v128.load(<usize>b), part),
    far = between(v128.load(<usize>c), v128.load(<usize>d), part)
  const pair = between(near, far, i16x8.splat(<i16>z))
  return between(pair, i8x16.shuffle(pair, pair, 8, 9, 10, 11, 12, 13, 14, 15, 8, 9, 10, 11, 12, 13, 14, 15), i16x8.splat(<i16>x))
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
  if (from < to) {
    begin(scratch)
    for (let k = from; k < to; k++) {
      if (((k - from + 1) & (LOOK - 1)) == 0 && isDone(scratch)) break
      const t = tufts + <usize>load<u32>(lists + ((<usize>k) << 2)) * TUFT_BYTES
      drawTuft(m, t, scratch, left, low, right, high)
    }
  }
  write(m, scratch, from < to, left, low, right, high)
}
/** The part of one that lies in a tile. */
function drawTuft(m: usize, t: usize, scratch: usize, left: i32, low: i32, right: i32, high: i32): void {
  const width = load<i32>(m + TUFTS_WIDTH)
  // Of what is seen, what it is to the right and up, a metre ahead.
  const perX: f32 = <f32>2 / <f32>width / load<f32>(m + TUFTS_ACROSS),
    perY: f32 = <f32>2 / <f32>load<i32>(m + TUFTS_HEIGHT) / load<f32>(m + TUFTS_UPWARDS)
  const zeroX: f32 = (load<f32>(m + TUFTS_SHIFT_X) - 1) / load<f32>(m + TUFTS_ACROSS),
    zeroY: f32 = (load<f32>(m + TUFTS_SHIFT_Y) - 1) / load<f32>(m + TUFTS_UPWARDS)
  const x0 = left + ((max(load<i32>(t + TUFT_X0), left) - left) & ~3),
    x1 = min(load<i32>(t + TUFT_X1), right),
    y1 = min(load<i32>(t + TUFT_Y1), high)
  const one = all(1),
    none = all(0),
    done = all(DONE)
  const depth = <usize>load<u32>(m + TUFTS_DEPTH),
    lumps = <usize>load<u32>(m + TUFTS_LUMPS)
  const far2 = at(t, TUFT_FAR2 >> 2),
    gain = at(t, TUFT_GAIN >> 2),
    torn = at(t, TUFT_TORN >> 2),
    isTorn = load<f32>(t + TUFT_TORN) > 0,
    thickness = f32x4.mul(at(t, TUFT_THICKNESS >> 2), all(-LOG2E)),
    power = at(t, TUFT_POWER >> 2),
    texels = at(t, TUFT_TEXELS >> 2),
    meets = load<f32>(t + TUFT_MEETS),
    perMeets = all(meets > 0 ? 1 / meets : 0)
  const mask = i32x4.splat(LUMPS_SIDE - 1),
    lumpsAt = i32x4.splat(<i32>lumps)
  for (let y = max(load<i32>(t + TUFT_Y0), low); y < y1; y++) {
    const dy = all(zeroY + perY * (<f32>y + <f32>0.5))
    let o = scratch + ((<usize>((y - low) * TUFT_TILE_X + (x0 - left))) << 2)
    for (let x = x0; x < x1; x += 4, o += 16) {
      const leftHere = v128.load(o + PLANE * 3)
      let alive = f32x4.gt(leftHere, done)
      if (!v128.any_true(alive)) continue
      const dx = f32x4.add(all(zeroX), f32x4.mul(all(perX), f32x4.add(all(<f32>x), f32x4(0.5, 1.5, 2.5, 3.5))))
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
        const p = depth + ((<usize>(y * width + x)) << 2)
        // What lies beyond the last pixel of a row is not looked at; the list ends with room for it.
        const z = v128.load(p),
          nothing = f32x4.eq(z, none),
          room = f32x4.sub(z, f32x4.mul(far2, per))
        alive = v128.and(alive, v128.or(nothing, f32x4.gt(room, none)))
        if (!v128.any_true(alive)) continue
        // From its middle on, as it fades as a whole.
        if (meets > 0) {
          const after = f32x4.mul(f32x4.add(z, at(t, (TUFT_HEAD >> 2) + 2)), perMeets)
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
        const lx = f32x4.add(f32x4.mul(ownX, texels), at(t, TUFT_LUMPS >> 2)),
          ly = f32x4.add(f32x4.mul(ownY, texels), at(t, (TUFT_LUMPS >> 2) + 1)),
          lz = f32x4.add(f32x4.mul(ownZ, texels), at(t, (TUFT_LUMPS >> 2) + 2))
        const fx = f32x4.floor(lx),
          fy = f32x4.floor(ly),
          fz = f32x4.floor(lz)
        const whole = all(32767),
          px = i32x4.trunc_sat_f32x4_s(f32x4.mul(f32x4.sub(lx, fx), whole)),
          py = i32x4.trunc_sat_f32x4_s(f32x4.mul(f32x4.sub(ly, fy), whole)),
          pz = i32x4.trunc_sat_f32x4_s(f32x4.mul(f32x4.sub(lz, fz), whole))
        const ix = i32x4.trunc_sat_f32x4_s(fx),
          iy = i32x4.trunc_sat_f32x4_s(fy),
          iz = i32x4.trunc_sat_f32x4_s(fz),
          step = i32x4.splat(1)
        const column = i32x4.add(lumpsAt, i32x4.shl(v128.and(ix, mask), 4)),
          row0 = i32x4.shl(v128.and(iy, mask), 9),
          row1 = i32x4.shl(v128.and(i32x4.add(iy, step), mask), 9),
          slab0 = i32x4.add(column, i32x4.shl(v128.and(iz, mask), 14)),
          slab1 = i32x4.add(column, i32x4.shl(v128.and(i32x4.add(iz, step), mask), 14))
        const a = i32x4.add(slab0, row0),
          b = i32x4.add(slab0, row1),
          c = i32x4.add(slab1, row0),
          d = i32x4.add(slab1, row1)
        const p0 = texel(
          i32x4.extract_lane(a, 0),
          i32x4.extract_lane(b, 0),
          i32x4.extract_lane(c, 0),
          i32x4.extract_lane(d, 0),
          i32x4.extract_lane(px, 0),
          i32x4.extract_lane(py, 0),
          i32x4.extract_lane(pz, 0),
        )
        const p1 = texel(
          i32x4.extract_lane(a, 1),
          i32x4.extract_lane(b, 1),
          i32x4.extract_lane(c, 1),
          i32x4.extract_lane(d, 1),
          i32x4.extract_lane(px, 1),
          i32x4.extract_lane(py, 1),
          i32x4.extract_lane(pz, 1),
        )
        const p2 = texel(
          i32x4.extract_lane(a, 2),
          i32x4.extract_lane(b, 2),
          i32x4.extract_lane(c, 2),
          i32x4.extract_lane(d, 2),
          i32x4.extract_lane(px, 2),
          i32x4.extract_lane(py, 2),
          i32x4.extract_lane(pz, 2),
        )
        const p3 = texel(
          i32x4.extract_lane(a, 3),
          i32x4.extract_lane(b, 3),
          i32x4.extract_lane(c, 3),
          i32x4.extract_lane(d, 3),
          i32x4.extract_lane(px, 3),
          i32x4.extract_lane(py, 3),
          i32x4.extract_lane(pz, 3),
        )
        // Four values of each to each value of four.
        const q0 = i8x16.shuffle(p0, p1, 0, 1, 16, 17, 2, 3, 18, 19, 4, 5, 20, 21, 6, 7, 22, 23),
          q1 = i8x16.shuffle(p2, p3, 0, 1, 16, 17, 2, 3, 18, 19, 4, 5, 20, 21, 6, 7, 22, 23)
        const xy = i8x16.shuffle(q0, q1, 0, 1, 2, 3, 16, 17, 18, 19, 4, 5, 6, 7, 20, 21, 22, 23),
          za = i8x16.shuffle(q0, q1, 8, 9, 10, 11, 24, 25, 26, 27, 12, 13, 14, 15, 28, 29, 30, 31)
        const unit = all(<f32>(1.0 / 16384.0)),
          lean = f32x4.mul(f32x4.mul(torn, texels), all(<f32>(1.0 / 16384.0) * LEAN))
        rim = f32x4.sub(one, f32x4.mul(torn, f32x4.mul(unit, f32x4.convert_i32x4_s(i32x4.extend_high_i16x8_s(za)))))
        const gx = f32x4.mul(lean, f32x4.convert_i32x4_s(i32x4.extend_low_i16x8_s(xy))),
          gy = f32x4.mul(lean, f32x4.convert_i32x4_s(i32x4.extend_high_i16x8_s(xy))),
          gz = f32x4.mul(lean, f32x4.convert_i32x4_s(i32x4.extend_low_i16x8_s(za)))
        sx = along(t + TUFT_TURN_X, gx, gy, gz)
        sy = along(t + TUFT_TURN_Y, gx, gy, gz)
        sz = along(t + TUFT_TURN_Z, gx, gy, gz)
      }
      const inside = f32x4.sub(one, f32x4.div(r2, f32x4.mul(rim, rim)))
      alive = v128.and(alive, f32x4.gt(inside, all(1e-9)))
      if (!v128.any_true(alive)) continue
      const deep = exp2x4(f32x4.mul(power, log2x4(f32x4.pmax(inside, all(1e-9)))))
      const through = exp2x4(f32x4.mul(f32x4.mul(thickness, rim), deep)),
        a = f32x4.mul(f32x4.sub(one, through), faint)
      alive = v128.and(alive, f32x4.ge(a, all(0.002)))
      if (!v128.any_true(alive)) continue
      const cover = v128.and(a, alive)
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
        const light = f32x4.pmax(none, f32x4.add(at(t + TUFT_LIT, k), mixed(t + TUFT_LIT_X, k, ux, uy, uz)))
        const plane = o + PLANE * k
        v128.store(plane, f32x4.add(v128.load(plane), f32x4.mul(seen, f32x4.add(light, at(t + TUFT_VEIL, k)))))
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
    let to = out + ((<usize>(y * width + left)) << 3)
    if (!holds) {
      memory.fill(to, 0, (<usize>(right - left)) << 3)
      continue
    }
    let o = scratch + ((<usize>((y - low) * TUFT_TILE_X)) << 2)
    for (let x = left; x < right; x += 4, o += 16, to += 32) {
      const rg = toHalves(v128.load(o), v128.load(o + PLANE)),
        ba = toHalves(v128.load(o + PLANE * 2), f32x4.sub(all(1), v128.load(o + PLANE * 3)))
      // Of four reds and four greens, four blues and four coverages, pixel by pixel.
      const r = i8x16.shuffle(rg, rg, 0, 1, 8, 9, 2, 3, 10, 11, 4, 5, 12, 13, 6, 7, 14, 15),
        b = i8x16.shuffle(ba, ba, 0, 1, 8, 9, 2, 3, 10, 11, 4, 5, 12, 13, 6, 7, 14, 15)
      const first = i8x16.shuffle(r, b, 0, 1, 2, 3, 16, 17, 18, 19, 4, 5, 6, 7, 20, 21, 22, 23),
        second = i8x16.shuffle(r, b, 8, 9, 10, 11, 24, 25, 26, 27, 12, 13, 14, 15, 28, 29, 30, 31)
      const count = right - x
      if (count > 1) v128.store(to, first)
      else v128.store64_lane(to, first, 0)
      if (count > 3) v128.store(to + 16, second)
      else if (count > 2) v128.store64_lane(to + 16, second, 0)
    }
  }
}
