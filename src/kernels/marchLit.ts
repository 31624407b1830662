// The light that the cells of a gas scatter towards the eye, four cells of a row at once; cells are one, two or four voxels wide. More than one scattering is stood for by the same light
// once more, less dimmed, less forward and weaker (after Wrenninge, Kulla and Lundqvist 2013).
import {
  MARCH_AGAIN,
  MARCH_ALBEDO,
  MARCH_CELLS,
  MARCH_DIMS,
  MARCH_EVEN,
  MARCH_EYE,
  MARCH_FAR,
  MARCH_FAR_BYTES,
  MARCH_FILL,
  MARCH_FORWARD,
  MARCH_FULL,
  MARCH_LIGHT,
  MARCH_LIGHTS,
  MARCH_LIGHT_AIM,
  MARCH_LIGHT_BYTES,
  MARCH_LIGHT_COLOUR,
  MARCH_LIGHT_COUNT,
  MARCH_LIGHT_FROM,
  MARCH_LIGHT_MAP,
  MARCH_LIGHT_MAP_BIAS,
  MARCH_LIGHT_MAP_ROWS,
  MARCH_LIGHT_MAP_SIZE,
  MARCH_LIGHT_PLACE,
  MARCH_LIGHT_ROW,
  MARCH_LIGHT_SLAB,
  MARCH_LIGHT_SUN,
  MARCH_LIGHT_TO,
  MARCH_NEAR,
  MARCH_ROW,
  MARCH_ROWS,
  MARCH_SHADE,
  MARCH_SLAB,
  MARCH_SLABS,
  MARCH_TILES,
  MARCH_TINTS,
  MARCH_VOXEL,
  MARCH_WIDE,
  TILE,
} from './layout'
import { shade, store4 } from './marchCells'
import { dims4 } from './marchWay'
import { exp2x4, LOG2E } from './math'
import { all } from './vector'

/** 1 / 4π: what goes each way of light that is scattered evenly. */
const EVENLY: f32 = 0.0795774715
// @ts-ignore: decorator
@inline function dot(ax: v128, ay: v128, az: v128, bx: v128, by: v128, bz: v128): v128 {
  return f32x4.add(f32x4.add(f32x4.mul(ax, bx), f32x4.mul(ay, by)), f32x4.mul(az, bz))
}
/** The n-th floats of four vectors. */
// @ts-ignore: decorator
@inline function first(a: v128, b: v128, c: v128, d: v128): v128 {
  return v128.shuffle<f32>(v128.shuffle<f32>(a, b, 0, 4, 0, 4), v128.shuffle<f32>(c, d, 0, 4, 0, 4), 0, 1, 4, 5)
}
// @ts-ignore: decorator
@inline function second(a: v128, b: v128, c: v128, d: v128): v128 {
  return v128.shuffle<f32>(v128.shuffle<f32>(a, b, 1, 5, 1, 5), v128.shuffle<f32>(c, d, 1, 5, 1, 5), 0, 1, 4, 5)
}
// @ts-ignore: decorator
@inline function third(a: v128, b: v128, c: v128, d: v128): v128 {
  return v128.shuffle<f32>(v128.shuffle<f32>(a, b, 2, 6, 2, 6), v128.shuffle<f32>(c, d, 2, 6, 2, 6), 0, 1, 4, 5)
}
// @ts-ignore: decorator
@inline function fourth(a: v128, b: v128, c: v128, d: v128): v128 {
  return v128.shuffle<f32>(v128.shuffle<f32>(a, b, 3, 7, 3, 7), v128.shuffle<f32>(c, d, 3, 7, 3, 7), 0, 1, 4, 5)
}
/** Four floats of a cell of a coarse grid, between it and those above and behind it. */
// @ts-ignore: decorator
@inline function column(at: usize, S: usize, P: usize, fy: v128, fz: v128): v128 {
  let a = v128.load(at),
    c = v128.load(at + S)
  a = f32x4.add(a, f32x4.mul(f32x4.sub(v128.load(at + P), a), fz))
  c = f32x4.add(c, f32x4.mul(f32x4.sub(v128.load(at + S + P), c), fz))
  return f32x4.add(a, f32x4.mul(f32x4.sub(c, a), fy))
}
/** What a grid of cells of 4³ voxels says at four cells of light that lie side by side from the edge of one of its cells on, one by one. */
let of0: v128 = i64x2.splat(0)
let of1: v128 = i64x2.splat(0)
let of2: v128 = i64x2.splat(0)
let of3: v128 = i64x2.splat(0)
// @ts-ignore: decorator
@inline function spread(at: usize, S: usize, P: usize, fy: v128, fz: v128, wide: i32): void {
  const a = column(at, S, P, fy, fz),
    b = column(at + 16, S, P, fy, fz),
    c = column(at + 32, S, P, fy, fz)
  const ab = f32x4.sub(b, a),
    bc = f32x4.sub(c, b)
  if (wide == 4) {
    // The same cells, of which a tile has two; the others say nothing.
    of0 = b
    of1 = c
    of2 = c
    of3 = c
    return
  }
  if (wide == 1) {
    of0 = f32x4.add(a, f32x4.mul(ab, all(0.625)))
    of1 = f32x4.add(a, f32x4.mul(ab, all(0.875)))
    of2 = f32x4.add(b, f32x4.mul(bc, all(0.125)))
    of3 = f32x4.add(b, f32x4.mul(bc, all(0.375)))
    return
  }
  of0 = f32x4.add(a, f32x4.mul(ab, all(0.75)))
  of1 = f32x4.add(b, f32x4.mul(bc, all(0.25)))
  of2 = f32x4.add(b, f32x4.mul(bc, all(0.75)))
  of3 = f32x4.add(c, f32x4.mul(f32x4.sub(column(at + 48, S, P, fy, fz), c), all(0.25)))
}
/** How much is in the way from four places to `length` at the most, `near` voxels on: the first `fine` ones one by one, then two by two. */
// @ts-ignore: decorator
@inline function nearWay(m: usize, x: v128, y: v128, z: v128, dx: v128, dy: v128, dz: v128, length: v128, near: f32, fine: f32): v128 {
  const nx = all(<f32>load<i32>(m + MARCH_DIMS)),
    ny = all(<f32>load<i32>(m + MARCH_DIMS + 4)),
    nz = all(<f32>load<i32>(m + MARCH_DIMS + 8)),
    zero = all(0)
  let sum = zero,
    t: f32 = 0
  while (t < near) {
    const level: usize = t < fine ? 0 : 1,
      step: f32 = level == 0 ? 1 : 2
    const wide = f32x4.max(zero, f32x4.min(all(step), f32x4.sub(length, all(t))))
    const s = f32x4.add(all(t), f32x4.mul(all(0.5), wide))
    const px = f32x4.add(x, f32x4.mul(dx, s)),
      py = f32x4.add(y, f32x4.mul(dy, s)),
      pz = f32x4.add(z, f32x4.mul(dz, s))
    const inside = v128.and(
      v128.and(v128.and(f32x4.gt(px, zero), f32x4.lt(px, nx)), v128.and(f32x4.gt(py, zero), f32x4.lt(py, ny))),
      v128.and(f32x4.gt(pz, zero), f32x4.lt(pz, nz)),
    )
    const dims = dims4(m, level, f32x4.min(f32x4.max(px, zero), nx), f32x4.min(f32x4.max(py, zero), ny), f32x4.min(f32x4.max(pz, zero), nz))
    sum = f32x4.add(sum, v128.and(f32x4.mul(dims, wide), inside))
    t += step
  }
  return sum
}
/** How much of light goes on at an angle, by its cosine, 1 when evenly (Henyey and Greenstein 1941). */
// @ts-ignore: decorator
@inline function phase(g: f32, even: f32, cosine: v128): v128 {
  const d = f32x4.sub(all(1 + g * g), f32x4.mul(all(2 * g), cosine))
  return f32x4.add(all(even), f32x4.div(all((1 - even) * (1 - g * g)), f32x4.mul(d, f32x4.sqrt(d))))
}
/** The share of a place in voxels that objects leave lit, between four pixels of the light's picture of them. Beyond the picture all is lit. */
function reached(l: usize, x: f32, y: f32, z: f32): f32 {
  const r = l + MARCH_LIGHT_MAP_ROWS
  const u = load<f32>(r) * x + load<f32>(r, 4) * y + load<f32>(r, 8) * z + load<f32>(r, 12),
    v = load<f32>(r, 16) * x + load<f32>(r, 20) * y + load<f32>(r, 24) * z + load<f32>(r, 28),
    w = load<f32>(r, 32) * x + load<f32>(r, 36) * y + load<f32>(r, 40) * z + load<f32>(r, 44),
    d = load<f32>(r, 48) * x + load<f32>(r, 52) * y + load<f32>(r, 56) * z + load<f32>(r, 60) - load<f32>(l + MARCH_LIGHT_MAP_BIAS)
  if (!(w > 0)) return 1
  const size = load<i32>(l + MARCH_LIGHT_MAP_SIZE),
    map = <usize>load<u32>(l + MARCH_LIGHT_MAP)
  const px = (u / w + 1) * <f32>0.5 * <f32>size - <f32>0.5,
    py = (v / w + 1) * <f32>0.5 * <f32>size - <f32>0.5
  if (!(px >= 0 && py >= 0 && px < <f32>(size - 1) && py < <f32>(size - 1))) return 1
  const i = <i32>px,
    j = <i32>py
  const at = map + ((<usize>(i + j * size)) << 2),
    next = at + ((<usize>size) << 2)
  const fx = px - <f32>i,
    fy = py - <f32>j
  const a = open(load<f32>(at), d) * (1 - fx) + open(load<f32>(at, 4), d) * fx,
    b = open(load<f32>(next), d) * (1 - fx) + open(load<f32>(next, 4), d) * fx
  return a * (1 - fy) + b * fy
}
// @ts-ignore: decorator
@inline function open(blocked: f32, d: f32): f32 {
  return blocked > 0 && blocked < d ? 0 : 1
}
/** Of four places. */
function reached4(l: usize, x: v128, y: f32, z: f32): v128 {
  return f32x4(
    reached(l, f32x4.extract_lane(x, 0), y, z),
    reached(l, f32x4.extract_lane(x, 1), y, z),
    reached(l, f32x4.extract_lane(x, 2), y, z),
    reached(l, f32x4.extract_lane(x, 3), y, z),
  )
}
/** The colour that voxels scatter in: their mean, each by what it dims, which is summed as the fourth. */
function colourOf(m: usize, tints: usize, first: i32, count: i32): v128 {
  const row = load<i32>(m + MARCH_ROW),
    slab = load<i32>(m + MARCH_SLAB)
  let sum = f32x4.splat(0)
  for (let c = 0; c < count; c++)
    for (let b = 0; b < count; b++)
      for (let a = 0; a < count; a++) {
        const cell = <usize>load<u32>(m + MARCH_CELLS) + ((<usize>(first + a + b * row + c * slab)) << 4)
        const by = load<f32>(cell)
        if (by > 0) sum = f32x4.add(sum, f32x4.mul(f32x4.replace_lane(shade(tints, load<f32>(cell, 12)), 3, 1), f32x4.splat(by)))
      }
  const all = f32x4.extract_lane(sum, 3)
  return all > 0 ? f32x4.replace_lane(f32x4.mul(sum, f32x4.splat(<f32>1 / all)), 3, all) : sum
}
/** The colour that a cell of light scatters in. One that dims nothing takes that of the voxels beside it: samples lie between both. */
function tinted(m: usize, tints: usize, i: i32, j: i32, k: i32): v128 {
  const wide = load<i32>(m + MARCH_WIDE),
    row = load<i32>(m + MARCH_ROW),
    slab = load<i32>(m + MARCH_SLAB)
  const first = 1 + i * wide + (1 + j * wide) * row + (1 + k * wide) * slab
  const own = colourOf(m, tints, first, wide)
  return f32x4.extract_lane(own, 3) > 0 ? own : colourOf(m, tints, first - 1 - row - slab, wide + 2)
}
/** The light of four cells of a row, the first of number i, j, k; of two where they are four voxels wide, as many as a tile has. */
function lightFour(m: usize, i: i32, j: i32, k: i32): void {
  const wide = load<i32>(m + MARCH_WIDE),
    fillRow = load<i32>(m + MARCH_ROWS + 8),
    fillSlab = load<i32>(m + MARCH_SLABS + 8),
    voxel = load<f32>(m + MARCH_VOXEL),
    near = load<f32>(m + MARCH_NEAR)
  // Beside wide cells of light only the nearest is seen voxel by voxel.
  const fine: f32 = wide > 1 ? 2 : 8
  const y: f32 = (<f32>j + <f32>0.5) * <f32>wide,
    z: f32 = (<f32>k + <f32>0.5) * <f32>wide,
    vx = f32x4.mul(f32x4.add(all(<f32>i), f32x4(0.5, 1.5, 2.5, 3.5)), all(<f32>wide)),
    vy = all(y),
    vz = all(z)
  let wx = f32x4.sub(vx, all(load<f32>(m + MARCH_EYE))),
    wy = f32x4.sub(vy, all(load<f32>(m + MARCH_EYE + 4))),
    wz = f32x4.sub(vz, all(load<f32>(m + MARCH_EYE + 8)))
  const w = f32x4.div(all(1), f32x4.sqrt(f32x4.add(dot(wx, wy, wz, wx, wy, wz), all(1e-12))))
  wx = f32x4.mul(wx, w)
  wy = f32x4.mul(wy, w)
  wz = f32x4.mul(wz, w)
  const qy = y * <f32>0.25 + <f32>0.5,
    qz = z * <f32>0.25 + <f32>0.5
  const cell = (<usize>(((i * wide) >> 2) + <i32>qy * fillRow + <i32>qz * fillSlab)) << 4,
    fy = all(qy - Mathf.floor(qy)),
    fz = all(qz - Mathf.floor(qz)),
    S = (<usize>fillRow) << 4,
    P = (<usize>fillSlab) << 4
  spread(<usize>load<u32>(m + MARCH_FILL) + cell, S, P, fy, fz, wide)
  // Of cells some of which were not computed, as the last of their four floats says: the mean of those that were.
  const computed = f32x4.div(all(1), f32x4.max(fourth(of0, of1, of2, of3), all(1e-3)))
  let red = f32x4.mul(first(of0, of1, of2, of3), computed),
    green = f32x4.mul(second(of0, of1, of2, of3), computed),
    blue = f32x4.mul(third(of0, of1, of2, of3), computed)
  const again = load<f32>(m + MARCH_AGAIN),
    even = load<f32>(m + MARCH_EVEN),
    forward = load<f32>(m + MARCH_FORWARD),
    shades = -LOG2E * load<f32>(m + MARCH_SHADE)
  for (let n = 0, count = load<i32>(m + MARCH_LIGHT_COUNT); n < count; n++) {
    const l = <usize>load<u32>(m + MARCH_LIGHTS) + <usize>n * MARCH_LIGHT_BYTES,
      isSun = load<u32>(l + MARCH_LIGHT_SUN) != 0
    if ((n & 3) == 0)
      spread(<usize>load<u32>(m + MARCH_FAR) + <usize>(n >> 2) * <usize>load<u32>(m + MARCH_FAR_BYTES) + cell, S, P, fy, fz, wide)
    let dx = all(load<f32>(l + MARCH_LIGHT_PLACE)),
      dy = all(load<f32>(l + MARCH_LIGHT_PLACE + 4)),
      dz = all(load<f32>(l + MARCH_LIGHT_PLACE + 8)),
      length = all(near),
      strength = all(EVENLY)
    if (!isSun) {
      dx = f32x4.sub(dx, vx)
      dy = f32x4.sub(dy, vy)
      dz = f32x4.sub(dz, vz)
      const d2 = dot(dx, dy, dz, dx, dy, dz),
        far = f32x4.add(f32x4.sqrt(d2), all(1e-6)),
        per = f32x4.div(all(1), far)
      dx = f32x4.mul(dx, per)
      dy = f32x4.mul(dy, per)
      dz = f32x4.mul(dz, per)
      length = f32x4.min(far, length)
      strength = f32x4.div(strength, f32x4.mul(f32x4.add(d2, all(1)), all(voxel * voxel)))
      const from = load<f32>(l + MARCH_LIGHT_FROM)
      if (from > -2) {
        const a = l + MARCH_LIGHT_AIM,
          c = f32x4.neg(dot(dx, dy, dz, all(load<f32>(a)), all(load<f32>(a, 4)), all(load<f32>(a, 8))))
        const s = f32x4.min(f32x4.max(f32x4.div(f32x4.sub(c, all(from)), all(load<f32>(l + MARCH_LIGHT_TO) - from)), all(0)), all(1))
        strength = f32x4.mul(strength, f32x4.mul(f32x4.mul(s, s), f32x4.sub(all(3), f32x4.add(s, s))))
      }
    }
    if (load<u32>(l + MARCH_LIGHT_MAP)) strength = f32x4.mul(strength, reached4(l, vx, y, z))
    if (!v128.any_true(f32x4.gt(strength, all(0)))) continue
    const far =
      n & 2
        ? n & 1
          ? fourth(of0, of1, of2, of3)
          : third(of0, of1, of2, of3)
        : n & 1
          ? second(of0, of1, of2, of3)
          : first(of0, of1, of2, of3)
    const inWay = f32x4.mul(all(shades), f32x4.add(nearWay(m, vx, vy, vz, dx, dy, dz, length, near, fine), f32x4.mul(far, computed)))
    const cosine = dot(dx, dy, dz, wx, wy, wz)
    let left = f32x4.mul(exp2x4(inWay), phase(forward, even, cosine))
    // More than one scattering: less dimmed, less forward and weaker.
    if (again > 0) {
      const twice = f32x4.mul(exp2x4(f32x4.mul(inWay, all(0.4))), phase(forward * <f32>0.5, even, cosine)),
        thrice = f32x4.mul(exp2x4(f32x4.mul(inWay, all(0.14))), phase(forward * <f32>0.25, even, cosine))
      left = f32x4.add(left, f32x4.add(f32x4.mul(twice, all(<f32>0.9 * again)), f32x4.mul(thrice, all(<f32>0.7 * again * again))))
    }
    left = f32x4.mul(left, strength)
    const c = l + MARCH_LIGHT_COLOUR
    red = f32x4.add(red, f32x4.mul(left, all(load<f32>(c))))
    green = f32x4.add(green, f32x4.mul(left, all(load<f32>(c, 4))))
    blue = f32x4.add(blue, f32x4.mul(left, all(load<f32>(c, 8))))
  }
  const out =
    <usize>load<u32>(m + MARCH_LIGHT) +
    ((<usize>(i + 1 + (j + 1) * load<i32>(m + MARCH_LIGHT_ROW) + (k + 1) * load<i32>(m + MARCH_LIGHT_SLAB))) << 4)
  const tints = <usize>load<u32>(m + MARCH_TINTS),
    one = all(1)
  if (!tints) {
    const a = m + MARCH_ALBEDO
    red = f32x4.mul(red, all(load<f32>(a)))
    green = f32x4.mul(green, all(load<f32>(a, 4)))
    blue = f32x4.mul(blue, all(load<f32>(a, 8)))
  }
  const count = min(4, TILE / wide)
  if (count == 4) store4(out, red, green, blue, one)
  else {
    v128.store(out, first(red, green, blue, one))
    v128.store(out, second(red, green, blue, one), 16)
  }
  if (!tints) return
  for (let n = 0; n < count; n++) {
    const at = out + ((<usize>n) << 4)
    v128.store(at, f32x4.replace_lane(f32x4.mul(v128.load(at), tinted(m, tints, i + n, j, k)), 3, 1))
  }
}
/** The light of the cells of a tile. */
export function lightTile(m: usize, t: i32): void {
  if (!load<u8>(<usize>load<u32>(m + MARCH_FULL) + <usize>t)) return
  const tx = load<i32>(m + MARCH_TILES),
    ty = load<i32>(m + MARCH_TILES + 4)
  const many = TILE / load<i32>(m + MARCH_WIDE)
  const i = (t % tx) * many,
    j = ((t / tx) % ty) * many,
    k = (t / (tx * ty)) * many
  for (let c = 0; c < many; c++) for (let b = 0; b < many; b++) for (let a = 0; a < many; a += 4) lightFour(m, i + a, j + b, k + c)
}
