// What lights a gas, for cells of 4³ voxels: the surroundings, flames, and what lies far in the way of lights; and the light of cells beside lit ones.
import {
  MARCH_FAR,
  MARCH_FAR_BYTES,
  MARCH_FILL,
  MARCH_FLAMES,
  MARCH_FLAME_COUNT,
  MARCH_FULL,
  MARCH_LIGHT,
  MARCH_LIGHTS,
  MARCH_LIGHT_BYTES,
  MARCH_LIGHT_COUNT,
  MARCH_LIGHT_ROW,
  MARCH_LIGHT_SLAB,
  MARCH_NEAR,
  MARCH_ROWS,
  MARCH_SHADE,
  MARCH_SLABS,
  MARCH_TILES,
  MARCH_VOXEL,
  MARCH_WIDE,
  TILE,
} from './layout'
import { skyOf } from './marchSky'
import { through, toFar, towards, toX, toY, toZ } from './marchWay'
import { exp2x4, LOG2E } from './math'

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
  const voxel = load<f32>(m + MARCH_VOXEL),
    near = load<f32>(m + MARCH_NEAR)
  const shade = load<f32>(m + MARCH_SHADE)
  for (let c = 0; c < 8; c++) {
    const i = (t % tx) * 2 + (c & 1),
      j = ((t / tx) % ty) * 2 + ((c >> 1) & 1),
      k = (t / (tx * ty)) * 2 + (c >> 2)
    const x: f32 = <f32>i * 4 + 2,
      y: f32 = <f32>j * 4 + 2,
      z: f32 = <f32>k * 4 + 2
    const cell = <usize>(i + 1 + (j + 1) * row + (k + 1) * slab)
    let sum = skyOf(m, cell)
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
      const left = exp(-shade * through(m, x, y, z, dx * per, dy * per, dz * per, 0, max(<f32>0, d - r), 2, 16))
      sum = f32x4.add(sum, f32x4.mul(splat3(f + 16), f32x4.splat((EVENLY * left) / ((d2 + r * r) * voxel * voxel))))
    }
    const at = cell << 4
    v128.store(<usize>load<u32>(m + MARCH_FILL) + at, f32x4.replace_lane(sum, 3, 1))
    const lights = load<i32>(m + MARCH_LIGHT_COUNT),
      far = <usize>load<u32>(m + MARCH_FAR) + at,
      farBytes = <usize>load<u32>(m + MARCH_FAR_BYTES)
    for (let n = 0; n < lights; n++) {
      towards(<usize>load<u32>(m + MARCH_LIGHTS) + <usize>n * MARCH_LIGHT_BYTES, x, y, z)
      const inWay = toFar > near ? through(m, x, y, z, toX, toY, toZ, near, toFar, 2, 64) : <f32>0
      store<f32>(far + <usize>(n >> 2) * farBytes + ((<usize>(n & 3)) << 2), inWay)
    }
  }
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
