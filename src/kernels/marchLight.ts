// The light that a gas scatters: of lights through the gas, of flames and of the surroundings. More than one scattering stands for by the same
// light once more, less dimmed, less forward and weaker (after Wrenninge, Kulla and Lundqvist 2013).
import {
  MARCH_ABOVE,
  MARCH_AGAIN,
  MARCH_ALBEDO,
  MARCH_BELOW,
  MARCH_CELLS,
  MARCH_DIMS,
  MARCH_EVEN,
  MARCH_EYE,
  MARCH_FAR,
  MARCH_FAR_BYTES,
  MARCH_FILL,
  MARCH_FLAMES,
  MARCH_FLAME_COUNT,
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
import { shade } from './marchCells'
import { through, toFar, towards, toX, toY, toZ } from './marchWay'
import { exp2x4 } from './math'

const LOG2E: f32 = 1.44269504
/** 1 / 4π: what goes each way of light that is scattered evenly. */
const EVENLY: f32 = 0.0795774715
// @ts-ignore: decorator
@inline function splat3(r: usize): v128 {
  return f32x4.replace_lane(f32x4.replace_lane(f32x4.replace_lane(f32x4.splat(0), 0, load<f32>(r)), 1, load<f32>(r, 4)), 2, load<f32>(r, 8))
}
// @ts-ignore: decorator
@inline function exp(x: f32): f32 {
  return f32x4.extract_lane(exp2x4(f32x4.splat(x * LOG2E)), 0)
}
/** The surroundings, the flames, and what is far in the way of lights, coarsely: a cell of 4³ voxels in each eighth of a tile. */
export function fillTile(m: usize, t: i32): void {
  if (!load<u8>(<usize>load<u32>(m + MARCH_FULL) + <usize>t)) return
  const tx = load<i32>(m + MARCH_TILES),
    ty = load<i32>(m + MARCH_TILES + 4)
  const row = load<i32>(m + MARCH_ROWS + 8),
    slab = load<i32>(m + MARCH_SLABS + 8)
  const above = splat3(m + MARCH_ABOVE),
    below = splat3(m + MARCH_BELOW),
    voxel = load<f32>(m + MARCH_VOXEL)
  const shade = load<f32>(m + MARCH_SHADE)
  for (let c = 0; c < 8; c++) {
    const i = (t % tx) * 2 + (c & 1),
      j = ((t / tx) % ty) * 2 + ((c >> 1) & 1),
      k = (t / (tx * ty)) * 2 + (c >> 2)
    const x: f32 = <f32>i * 4 + 2,
      y: f32 = <f32>j * 4 + 2,
      z: f32 = <f32>k * 4 + 2
    let sum = f32x4.splat(0)
    // The six sides and the eight corners of a cube.
    for (let d = 0; d < 14; d++) {
      let dx: f32 = 0,
        dy: f32 = 0,
        dz: f32 = 0
      if (d < 6) {
        const s: f32 = d & 1 ? 1 : -1
        if (d < 2) dx = s
        else if (d < 4) dy = s
        else dz = s
      } else {
        dx = (d & 1 ? 1 : -1) * <f32>0.57735
        dy = ((d >> 1) & 1 ? 1 : -1) * <f32>0.57735
        dz = (d >= 10 ? 1 : -1) * <f32>0.57735
      }
      const left = exp(-shade * through(m, x, y, z, dx, dy, dz, 0, 1e9, true))
      const up = f32x4.splat(<f32>0.5 + <f32>0.5 * dy)
      sum = f32x4.add(sum, f32x4.mul(f32x4.add(below, f32x4.mul(f32x4.sub(above, below), up)), f32x4.splat(left * (<f32>1 / 14))))
    }
    const flames = <usize>load<u32>(m + MARCH_FLAMES),
      count = load<i32>(m + MARCH_FLAME_COUNT)
    for (let n = 0; n < count; n++) {
      const f = flames + ((<usize>n) << 5)
      const dx = load<f32>(f) - x,
        dy = load<f32>(f, 4) - y,
        dz = load<f32>(f, 8) - z,
        r = load<f32>(f, 12)
      const d2 = dx * dx + dy * dy + dz * dz,
        d = Mathf.sqrt(d2) + <f32>1e-6,
        per: f32 = 1 / d
      // What would hardly be seen is not looked for.
      if (load<f32>(f, 28) < <f32>0.002 * (d2 + r * r)) continue
      const left = exp(-shade * through(m, x, y, z, dx * per, dy * per, dz * per, 0, max(<f32>0, d - r), true))
      sum = f32x4.add(sum, f32x4.mul(splat3(f + 16), f32x4.splat((EVENLY * left) / ((d2 + r * r) * voxel * voxel))))
    }
    const at = (<usize>(i + 1 + (j + 1) * row + (k + 1) * slab)) << 4
    v128.store(<usize>load<u32>(m + MARCH_FILL) + at, f32x4.replace_lane(sum, 3, 1))
    const lights = load<i32>(m + MARCH_LIGHT_COUNT),
      far = <usize>load<u32>(m + MARCH_FAR) + at,
      farBytes = <usize>load<u32>(m + MARCH_FAR_BYTES)
    for (let n = 0; n < lights; n++) {
      towards(<usize>load<u32>(m + MARCH_LIGHTS) + <usize>n * MARCH_LIGHT_BYTES, x, y, z)
      const inWay = toFar > <f32>MARCH_NEAR ? through(m, x, y, z, toX, toY, toZ, <f32>MARCH_NEAR, toFar, false) : <f32>0
      store<f32>(far + <usize>(n >> 2) * farBytes + ((<usize>(n & 3)) << 2), inWay)
    }
  }
}
/** Four floats of a grid between its cells; `q` counts cells from the one around. */
// @ts-ignore: decorator
@inline export function between(base: usize, row: i32, slab: i32, qx: f32, qy: f32, qz: f32): v128 {
  const i = <i32>qx,
    j = <i32>qy,
    k = <i32>qz
  const fx = f32x4.splat(qx - <f32>i),
    fy = f32x4.splat(qy - <f32>j),
    fz = f32x4.splat(qz - <f32>k)
  const at = base + ((<usize>(i + j * row + k * slab)) << 4)
  const S = (<usize>row) << 4,
    P = (<usize>slab) << 4
  let a = v128.load(at),
    b = v128.load(at, 16),
    c = v128.load(at + S),
    d = v128.load(at + S, 16)
  a = f32x4.add(a, f32x4.mul(f32x4.sub(v128.load(at + P), a), fz))
  b = f32x4.add(b, f32x4.mul(f32x4.sub(v128.load(at + P, 16), b), fz))
  c = f32x4.add(c, f32x4.mul(f32x4.sub(v128.load(at + S + P), c), fz))
  d = f32x4.add(d, f32x4.mul(f32x4.sub(v128.load(at + S + P, 16), d), fz))
  a = f32x4.add(a, f32x4.mul(f32x4.sub(c, a), fy))
  b = f32x4.add(b, f32x4.mul(f32x4.sub(d, b), fy))
  return f32x4.add(a, f32x4.mul(f32x4.sub(b, a), fx))
}
/** Of cells some of which were not computed, as the last of their four floats says: the mean of those that were. */
// @ts-ignore: decorator
@inline function known(c: v128): v128 {
  return f32x4.mul(c, f32x4.splat(<f32>1 / max(f32x4.extract_lane(c, 3), <f32>1e-3)))
}
/** How much of light goes on at an angle, by its cosine, 1 when evenly: three scatterings, each less forward (Henyey and Greenstein 1941). */
// @ts-ignore: decorator
@inline function phase(m: usize, cosine: f32): v128 {
  const forward = load<f32>(m + MARCH_FORWARD),
    even = load<f32>(m + MARCH_EVEN)
  const g = f32x4.mul(f32x4.splat(forward), f32x4(1, 0.5, 0.25, 0))
  const g2 = f32x4.mul(g, g)
  const d = f32x4.sub(f32x4.add(f32x4.splat(1), g2), f32x4.mul(f32x4.mul(f32x4.splat(2), g), f32x4.splat(cosine)))
  const hg = f32x4.div(f32x4.sub(f32x4.splat(1), g2), f32x4.mul(d, f32x4.sqrt(d)))
  return f32x4.add(f32x4.splat(even), f32x4.mul(f32x4.splat(1 - even), hg))
}
/** Whether any of the tiles around one is full. */
function nearFull(m: usize, t: i32): bool {
  const tx = load<i32>(m + MARCH_TILES),
    ty = load<i32>(m + MARCH_TILES + 4),
    tz = load<i32>(m + MARCH_TILES + 8)
  const i = t % tx,
    j = (t / tx) % ty,
    k = t / (tx * ty)
  const full = <usize>load<u32>(m + MARCH_FULL)
  for (let c = max(0, k - 1); c <= min(tz - 1, k + 1); c++)
    for (let b = max(0, j - 1); b <= min(ty - 1, j + 1); b++)
      for (let a = max(0, i - 1); a <= min(tx - 1, i + 1); a++) if (load<u8>(full + <usize>(a + tx * (b + ty * c)))) return true
  return false
}
/** Cells without light of their own beside some that have it take the mean of those: samples between them must not be darker. */
export function edgeTile(m: usize, t: i32): void {
  if (load<u8>(<usize>load<u32>(m + MARCH_FULL) + <usize>t) || !nearFull(m, t)) return
  const tx = load<i32>(m + MARCH_TILES),
    ty = load<i32>(m + MARCH_TILES + 4),
    many = TILE / load<i32>(m + MARCH_WIDE)
  const row = load<i32>(m + MARCH_LIGHT_ROW),
    slab = load<i32>(m + MARCH_LIGHT_SLAB)
  const first = 1 + (t % tx) * many + (1 + ((t / tx) % ty) * many) * row + (1 + (t / (tx * ty)) * many) * slab
  const light = <usize>load<u32>(m + MARCH_LIGHT)
  for (let k = 0; k < many; k++)
    for (let j = 0; j < many; j++)
      for (let i = 0; i < many; i++) {
        // Only the cells on the outside have some beside them.
        if (i > 0 && j > 0 && k > 0 && i < many - 1 && j < many - 1 && k < many - 1) continue
        const at = first + i + j * row + k * slab
        let sum = f32x4.splat(0),
          count: f32 = 0
        for (let c = -1; c <= 1; c++)
          for (let b = -1; b <= 1; b++)
            for (let a = -1; a <= 1; a++) {
              const l = v128.load(light + ((<usize>(at + a + b * row + c * slab)) << 4))
              if (f32x4.extract_lane(l, 3) != 1) continue
              sum = f32x4.add(sum, l)
              count += 1
            }
        // Marked otherwise than what was computed, which alone counts.
        if (count > 0) v128.store(light + ((<usize>at) << 4), f32x4.replace_lane(f32x4.mul(sum, f32x4.splat(1 / count)), 3, 0.5))
      }
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
/** The light of the cells of a tile towards the eye. */
export function lightTile(m: usize, t: i32): void {
  if (!load<u8>(<usize>load<u32>(m + MARCH_FULL) + <usize>t)) return
  const tx = load<i32>(m + MARCH_TILES),
    ty = load<i32>(m + MARCH_TILES + 4)
  const wide = load<i32>(m + MARCH_WIDE),
    many = TILE / wide
  const row = load<i32>(m + MARCH_LIGHT_ROW),
    slab = load<i32>(m + MARCH_LIGHT_SLAB)
  const light = <usize>load<u32>(m + MARCH_LIGHT)
  const fillRow = load<i32>(m + MARCH_ROWS + 8),
    fillSlab = load<i32>(m + MARCH_SLABS + 8),
    fill = <usize>load<u32>(m + MARCH_FILL)
  const lights = <usize>load<u32>(m + MARCH_LIGHTS),
    count = load<i32>(m + MARCH_LIGHT_COUNT),
    far = <usize>load<u32>(m + MARCH_FAR),
    farBytes = <usize>load<u32>(m + MARCH_FAR_BYTES)
  const voxel = load<f32>(m + MARCH_VOXEL),
    again = load<f32>(m + MARCH_AGAIN)
  const albedo = splat3(m + MARCH_ALBEDO),
    tints = <usize>load<u32>(m + MARCH_TINTS)
  const dims = f32x4.splat(-LOG2E * load<f32>(m + MARCH_SHADE))
  const dimmed = f32x4.mul(dims, f32x4(1, 0.4, 0.14, 0))
  const weights = f32x4.replace_lane(f32x4.replace_lane(f32x4(1, 0, 0, 0), 1, <f32>0.9 * again), 2, <f32>0.7 * again * again)
  for (let kk = 0; kk < many; kk++)
    for (let jj = 0; jj < many; jj++)
      for (let ii = 0; ii < many; ii++) {
        const i = (t % tx) * many + ii,
          j = ((t / tx) % ty) * many + jj,
          k = (t / (tx * ty)) * many + kk
        const x = (<f32>i + <f32>0.5) * <f32>wide,
          y = (<f32>j + <f32>0.5) * <f32>wide,
          z = (<f32>k + <f32>0.5) * <f32>wide
        let wx = x - load<f32>(m + MARCH_EYE),
          wy = y - load<f32>(m + MARCH_EYE + 4),
          wz = z - load<f32>(m + MARCH_EYE + 8)
        const w: f32 = 1 / Mathf.sqrt(wx * wx + wy * wy + wz * wz + <f32>1e-12)
        wx *= w
        wy *= w
        wz *= w
        const qx = x * <f32>0.25 + <f32>0.5,
          qy = y * <f32>0.25 + <f32>0.5,
          qz = z * <f32>0.25 + <f32>0.5
        const around = between(fill, fillRow, fillSlab, qx, qy, qz),
          computed = f32x4.splat(<f32>1 / max(f32x4.extract_lane(around, 3), <f32>1e-3))
        let sum = f32x4.mul(around, computed),
          far0: f32 = 0,
          far1: f32 = 0,
          far2: f32 = 0,
          far3: f32 = 0
        for (let n = 0; n < count; n++) {
          const l = lights + <usize>n * MARCH_LIGHT_BYTES
          if ((n & 3) == 0) {
            const four = f32x4.mul(between(far + <usize>(n >> 2) * farBytes, fillRow, fillSlab, qx, qy, qz), computed)
            far0 = f32x4.extract_lane(four, 0)
            far1 = f32x4.extract_lane(four, 1)
            far2 = f32x4.extract_lane(four, 2)
            far3 = f32x4.extract_lane(four, 3)
          }
          towards(l, x, y, z)
          const dx = toX,
            dy = toY,
            dz = toZ
          let strength: f32 = EVENLY
          if (!load<u32>(l + MARCH_LIGHT_SUN)) {
            strength /= (toFar * toFar + 1) * voxel * voxel
            const from = load<f32>(l + MARCH_LIGHT_FROM)
            if (from > -2) {
              const c = -(
                dx * load<f32>(l + MARCH_LIGHT_AIM) +
                dy * load<f32>(l + MARCH_LIGHT_AIM + 4) +
                dz * load<f32>(l + MARCH_LIGHT_AIM + 8)
              )
              const s = min(max((c - from) / (load<f32>(l + MARCH_LIGHT_TO) - from), <f32>0), <f32>1)
              strength *= s * s * (3 - 2 * s)
            }
          }
          if (load<u32>(l + MARCH_LIGHT_MAP) && strength > 0) strength *= reached(l, x, y, z)
          if (!(strength > 0)) continue
          const inWay =
            through(m, x, y, z, dx, dy, dz, 0, min(toFar, <f32>MARCH_NEAR), false) + (n & 2 ? (n & 1 ? far3 : far2) : n & 1 ? far1 : far0)
          const left = f32x4.mul(f32x4.mul(exp2x4(f32x4.mul(dimmed, f32x4.splat(inWay))), weights), phase(m, dx * wx + dy * wy + dz * wz))
          const all = f32x4.extract_lane(left, 0) + f32x4.extract_lane(left, 1) + f32x4.extract_lane(left, 2)
          sum = f32x4.add(sum, f32x4.mul(splat3(l + MARCH_LIGHT_COLOUR), f32x4.splat(strength * all)))
        }
        v128.store(
          light + ((<usize>(i + 1 + (j + 1) * row + (k + 1) * slab)) << 4),
          f32x4.replace_lane(f32x4.mul(sum, tints ? tinted(m, tints, i, j, k) : albedo), 3, 1),
        )
      }
}
