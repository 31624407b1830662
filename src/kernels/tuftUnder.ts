// What lies under tufts: a picture that is kept, in what they and gases leave of its key light, four pixels at once.
import {
  TUFTS_DEPTH,
  TUFTS_HEIGHT,
  TUFTS_WIDTH,
  TUFT_TILE_X,
  TUFT_TILE_Y,
  UNDER_AHEAD,
  UNDER_BEHIND,
  UNDER_EYE,
  UNDER_FLAT,
  UNDER_KEY,
  UNDER_LEFT,
  UNDER_LEFT_DEPTHS,
  UNDER_LEFT_FROM,
  UNDER_LEFT_HEIGHT,
  UNDER_LEFT_PER,
  UNDER_LEFT_WIDTH,
  UNDER_MIDDLE,
  UNDER_PER_FAR,
  UNDER_REST,
  UNDER_RIGHT,
  UNDER_UP,
  UNDER_WITHIN,
} from './layout'
import { fromHalf4, fromHalves } from './math'
import { between } from './vector'

/** Bytes of one of the four planes of a tile: red, green, blue, and what is left to be seen. */
export const PLANE: usize = (<usize>(TUFT_TILE_X * TUFT_TILE_Y)) << 2
/** Where less than this is left to be seen a pixel is done: nobody sees in which light stands what lies under it. */
export const DONE: f32 = 1.0 / 512.0

/** The k-th of the numbers at a place, four times. */
// @ts-ignore: decorator
@inline export function four(p: usize, k: usize): v128 {
  return v128.load32_splat(p + (k << 2))
}
/** One over the view depths of two pixels in each of two rows, 1/m; `far`: where nothing is. */
// @ts-ignore: decorator
@inline function near4(depth: usize, width: i32, x0: i32, x1: i32, y0: i32, y1: i32, far: v128): v128 {
  const low = depth + ((<usize>(y0 * width)) << 2),
    high = depth + ((<usize>(y1 * width)) << 2),
    a = (<usize>x0) << 2,
    b = (<usize>x1) << 2
  const z = v128.load32_lane(high + b, v128.load32_lane(high + a, v128.load32_lane(low + b, v128.load32_zero(low + a), 1), 2), 3)
  return v128.bitselect(f32x4.div(f32x4.splat(1), z), far, f32x4.gt(z, f32x4.splat(0)))
}
/** Places along an axis, in texels, but none beyond its first and last. */
// @ts-ignore: decorator
@inline function clamped(p: v128, last: i32): v128 {
  return f32x4.pmin(f32x4.pmax(p, f32x4.splat(0)), f32x4.splat(<f32>last))
}
/** Of four texels by their numbers what is left there. */
// @ts-ignore: decorator
@inline function texels(left: usize, at: v128): v128 {
  return fromHalf4(
    i32x4.replace_lane(
      i32x4.replace_lane(
        i32x4.replace_lane(
          i32x4.splat(load<u16>(left + ((<usize>i32x4.extract_lane(at, 0)) << 1))),
          1,
          load<u16>(left + ((<usize>i32x4.extract_lane(at, 1)) << 1)),
        ),
        2,
        load<u16>(left + ((<usize>i32x4.extract_lane(at, 2)) << 1)),
      ),
      3,
      load<u16>(left + ((<usize>i32x4.extract_lane(at, 3)) << 1)),
    ),
  )
}
/** What is left of the key light at places that are seen at so many metres, one over that in `near`. */
function lightLeft(u: usize, near: v128, nx: v128, ny: v128): v128 {
  const one = f32x4.splat(1),
    none = f32x4.splat(0),
    away = f32x4.div(one, near)
  let x = none,
    y = none,
    z = none,
    w = none
  for (let k: usize = 0; k < 4; k++) {
    const way = f32x4.add(
      four(u + UNDER_AHEAD, k),
      f32x4.add(f32x4.mul(nx, four(u + UNDER_RIGHT, k)), f32x4.mul(ny, four(u + UNDER_UP, k))),
    )
    const v = f32x4.add(four(u + UNDER_EYE, k), f32x4.mul(away, way))
    if (k == 0) x = v
    else if (k == 1) y = v
    else if (k == 2) z = v
    else w = v
  }
  const s = f32x4.mul(f32x4.sub(w, four(u + UNDER_LEFT_FROM, 0)), four(u + UNDER_LEFT_PER, 0)),
    half = f32x4.div(f32x4.splat(0.5), z),
    across = f32x4.add(f32x4.mul(x, half), f32x4.splat(0.5)),
    upwards = f32x4.add(f32x4.mul(y, half), f32x4.splat(0.5))
  const inside = v128.and(
    v128.and(
      v128.and(f32x4.gt(s, none), f32x4.gt(z, none)),
      v128.and(f32x4.gt(across, four(u + UNDER_WITHIN, 0)), f32x4.gt(upwards, four(u + UNDER_WITHIN, 1))),
    ),
    v128.and(f32x4.lt(across, four(u + UNDER_WITHIN, 2)), f32x4.lt(upwards, four(u + UNDER_WITHIN, 3))),
  )
  if (!v128.any_true(inside)) return one
  const width = load<i32>(u + UNDER_LEFT_WIDTH),
    height = load<i32>(u + UNDER_LEFT_HEIGHT),
    depths = load<i32>(u + UNDER_LEFT_DEPTHS),
    left = <usize>load<u32>(u + UNDER_LEFT)
  const tx = clamped(f32x4.sub(f32x4.mul(across, f32x4.splat(<f32>width)), f32x4.splat(0.5)), width - 1),
    ty = clamped(f32x4.sub(f32x4.mul(upwards, f32x4.splat(<f32>height)), f32x4.splat(0.5)), height - 1),
    tz = clamped(s, depths - 1)
  const ix = i32x4.trunc_sat_f32x4_s(tx),
    iy = i32x4.trunc_sat_f32x4_s(ty),
    iz = i32x4.trunc_sat_f32x4_s(tz)
  const fx = f32x4.sub(tx, f32x4.convert_i32x4_s(ix)),
    fy = f32x4.sub(ty, f32x4.convert_i32x4_s(iy)),
    fz = f32x4.sub(tz, f32x4.convert_i32x4_s(iz))
  // Behind the last of an axis lies nothing to go to.
  const step = i32x4.splat(1),
    toX = i32x4.min_s(step, i32x4.sub(i32x4.splat(width - 1), ix)),
    toY = i32x4.mul(i32x4.splat(width), i32x4.min_s(step, i32x4.sub(i32x4.splat(height - 1), iy))),
    toZ = i32x4.mul(i32x4.splat(width * height), i32x4.min_s(step, i32x4.sub(i32x4.splat(depths - 1), iz)))
  const at = i32x4.add(ix, i32x4.mul(i32x4.splat(width), i32x4.add(iy, i32x4.mul(i32x4.splat(height), iz)))),
    up = i32x4.add(at, toY),
    on = i32x4.add(at, toZ),
    onUp = i32x4.add(up, toZ)
  const here = between(
    between(texels(left, at), texels(left, i32x4.add(at, toX)), fx),
    between(texels(left, up), texels(left, i32x4.add(up, toX)), fx),
    fy,
  )
  const behind = between(
    between(texels(left, on), texels(left, i32x4.add(on, toX)), fx),
    between(texels(left, onUp), texels(left, i32x4.add(onUp, toX)), fx),
    fy,
  )
  return v128.bitselect(between(here, behind, fz), one, inside)
}
/** The smaller one of two differences, whichever way they go. */
// @ts-ignore: decorator
@inline function smaller(after: v128, before: v128): v128 {
  return v128.bitselect(before, after, f32x4.lt(f32x4.abs(before), f32x4.abs(after)))
}
/** What is left of the key light in four pixels from x, y on, of those that are `lit`. As SHADED of the stage has it, by one over depths: those of a plane lie evenly, too. */
function shadeFour(m: usize, u: usize, x: i32, y: i32, lit: v128): v128 {
  const width = load<i32>(m + TUFTS_WIDTH),
    height = load<i32>(m + TUFTS_HEIGHT),
    depth = <usize>load<u32>(m + TUFTS_DEPTH)
  const x1 = min(x + 1, width - 1),
    y1 = min(y + 1, height - 1),
    xm = max(x - 1, 0),
    ym = max(y - 1, 0),
    xp = min(x + 2, width - 1),
    yp = min(y + 2, height - 1)
  const far = four(u + UNDER_PER_FAR, 0),
    nx = f32x4.sub(
      f32x4.mul(f32x4(0.5, 1.5, 0.5, 1.5), f32x4.splat(<f32>2 / <f32>width)),
      f32x4.splat(<f32>1 - (<f32>2 * <f32>x) / <f32>width),
    ),
    ny = f32x4.sub(
      f32x4.mul(f32x4(0.5, 0.5, 1.5, 1.5), f32x4.splat(<f32>2 / <f32>height)),
      f32x4.splat(<f32>1 - (<f32>2 * <f32>y) / <f32>height),
    )
  const here = near4(depth, width, x, x1, y, y1, far),
    west = near4(depth, width, xm, x, y, y1, far),
    east = near4(depth, width, x1, xp, y, y1, far),
    south = near4(depth, width, x, x1, ym, y, far),
    north = near4(depth, width, x, x1, y1, yp, far)
  const nothing = f32x4.eq(here, far)
  let at = here
  if (v128.any_true(v128.andnot(lit, nothing))) {
    const beforeX = f32x4.sub(here, west),
      beforeY = f32x4.sub(here, south),
      afterX = f32x4.sub(east, here),
      afterY = f32x4.sub(north, here)
    // From where the depth is known to the middle of the pixel it goes on along the surface.
    at = f32x4.add(
      here,
      f32x4.add(
        f32x4.mul(four(u + UNDER_MIDDLE, 0), smaller(afterX, beforeX)),
        f32x4.mul(four(u + UNDER_MIDDLE, 1), smaller(afterY, beforeY)),
      ),
    )
    const bendX = f32x4.abs(f32x4.sub(afterX, beforeX)),
      bendY = f32x4.abs(f32x4.sub(afterY, beforeY)),
      three = f32x4.splat(3),
      flat = four(u + UNDER_FLAT, 0)
    const leastX = f32x4.pmin(f32x4.abs(beforeX), f32x4.abs(afterX)),
      leastY = f32x4.pmin(f32x4.abs(beforeY), f32x4.abs(afterY))
    const edge = v128.and(
      v128.andnot(lit, nothing),
      v128.or(f32x4.gt(bendX, f32x4.add(f32x4.mul(three, leastX), flat)), f32x4.gt(bendY, f32x4.add(f32x4.mul(three, leastY), flat))),
    )
    // Of an edge, where it is not known which side is seen how far, the darker side counts: light would show as a line within a shadow.
    if (v128.any_true(edge)) {
      const flatWise = f32x4.gt(bendX, bendY)
      const sides = f32x4.pmin(
        lightLeft(u, v128.bitselect(v128.bitselect(west, south, flatWise), at, edge), nx, ny),
        lightLeft(u, v128.bitselect(v128.bitselect(east, north, flatWise), at, edge), nx, ny),
      )
      if (!v128.any_true(v128.and(lit, nothing))) return f32x4.pmin(lightLeft(u, at, nx, ny), sides)
      return f32x4.pmin(lightLeft(u, nearest(depth, width, xm, x, x1, xp, ym, y, y1, yp, at, nothing, far), nx, ny), sides)
    }
  }
  // What is lit may cover a part of a pixel whose depth is that of nothing.
  if (v128.any_true(v128.and(lit, nothing))) at = nearest(depth, width, xm, x, x1, xp, ym, y, y1, yp, at, nothing, far)
  return lightLeft(u, at, nx, ny)
}
/** In place of those where nothing is the nearest of the pixels around. */
function nearest(
  depth: usize,
  width: i32,
  xm: i32,
  x: i32,
  x1: i32,
  xp: i32,
  ym: i32,
  y: i32,
  y1: i32,
  yp: i32,
  at: v128,
  nothing: v128,
  far: v128,
): v128 {
  let most = at
  for (let j = 0; j < 3; j++) {
    const low = j == 0 ? ym : j == 1 ? y : y1,
      high = j == 0 ? y : j == 1 ? y1 : yp
    most = f32x4.pmax(most, near4(depth, width, xm, x, low, high, far))
    most = f32x4.pmax(most, near4(depth, width, x, x1, low, high, far))
    most = f32x4.pmax(most, near4(depth, width, x1, xp, low, high, far))
  }
  return v128.bitselect(most, at, nothing)
}
/** Adds what lies under the tufts of a tile to what is seen of them; nothing of it is left to be seen then but by what is clear in it. */
export function layUnder(m: usize, u: usize, scratch: usize, left: i32, low: i32, right: i32, high: i32): void {
  const width = load<i32>(m + TUFTS_WIDTH),
    rest = <usize>load<u32>(u + UNDER_REST),
    key = <usize>load<u32>(u + UNDER_KEY),
    shaded = load<u32>(u + UNDER_LEFT) != 0,
    row = (<usize>width) << 3
  const none = f32x4.splat(0),
    one = f32x4.splat(1)
  for (let y = low; y < high; y += 2) {
    let o = scratch + ((<usize>((y - low) * TUFT_TILE_X)) << 2)
    const from = (<usize>y * <usize>width) << 3
    for (let x = left; x < right; x += 2, o += 16) {
      const open = v128.load(o + PLANE * 3)
      if (!v128.any_true(f32x4.gt(open, none))) continue
      // What lies beyond the picture is read and not kept: there is room for it behind the last row.
      const p = from + ((<usize>x) << 3)
      const a = fromHalves(rest + p),
        b = fromHalves(rest + p + 8),
        c = fromHalves(rest + p + row),
        d = fromHalves(rest + p + row + 8)
      const ab = v128.shuffle<i32>(a, b, 0, 4, 1, 5),
        cd = v128.shuffle<i32>(c, d, 0, 4, 1, 5),
        ab2 = v128.shuffle<i32>(a, b, 2, 6, 3, 7),
        cd2 = v128.shuffle<i32>(c, d, 2, 6, 3, 7)
      let red = v128.shuffle<i64>(ab, cd, 0, 2),
        green = v128.shuffle<i64>(ab, cd, 1, 3),
        blue = v128.shuffle<i64>(ab2, cd2, 0, 2)
      const alpha = v128.shuffle<i64>(ab2, cd2, 1, 3)
      if (key) {
        const ka = fromHalves(key + p),
          kb = fromHalves(key + p + 8),
          kc = fromHalves(key + p + row),
          kd = fromHalves(key + p + row + 8)
        const kab = v128.shuffle<i32>(ka, kb, 0, 4, 1, 5),
          kcd = v128.shuffle<i32>(kc, kd, 0, 4, 1, 5),
          kr = v128.shuffle<i64>(kab, kcd, 0, 2),
          kg = v128.shuffle<i64>(kab, kcd, 1, 3),
          kl = v128.shuffle<i64>(v128.shuffle<i32>(ka, kb, 2, 6, 3, 7), v128.shuffle<i32>(kc, kd, 2, 6, 3, 7), 0, 2)
        const lit = v128.and(f32x4.gt(f32x4.pmax(kr, f32x4.pmax(kg, kl)), none), f32x4.gt(open, f32x4.splat(DONE)))
        const part = shaded && v128.any_true(lit) ? shadeFour(m, u, x, y, lit) : one
        red = f32x4.add(red, f32x4.mul(kr, part))
        green = f32x4.add(green, f32x4.mul(kg, part))
        blue = f32x4.add(blue, f32x4.mul(kl, part))
      }
      const through = f32x4.sub(one, alpha)
      red = f32x4.add(red, f32x4.mul(through, four(u + UNDER_BEHIND, 0)))
      green = f32x4.add(green, f32x4.mul(through, four(u + UNDER_BEHIND, 1)))
      blue = f32x4.add(blue, f32x4.mul(through, four(u + UNDER_BEHIND, 2)))
      const covers = f32x4.add(alpha, f32x4.mul(through, four(u + UNDER_BEHIND, 3)))
      v128.store(o, f32x4.add(v128.load(o), f32x4.mul(open, red)))
      v128.store(o + PLANE, f32x4.add(v128.load(o + PLANE), f32x4.mul(open, green)))
      v128.store(o + PLANE * 2, f32x4.add(v128.load(o + PLANE * 2), f32x4.mul(open, blue)))
      v128.store(o + PLANE * 3, f32x4.mul(open, f32x4.sub(one, covers)))
    }
  }
}
