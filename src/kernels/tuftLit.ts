// The light that falls on a tuft, and how it changes over it: as TUFT_VERTEX of the stage has it.
import {
  TUFTS_LIGHTS,
  TUFT_FAR2,
  TUFT_GAIN,
  TUFT_HEAD,
  TUFT_LIGHT_BYTES,
  TUFT_LIGHT_CELLS,
  TUFT_LIGHT_END,
  TUFT_LIGHT_ROWS,
  TUFT_LIGHT_SIZE_X,
  TUFT_LIGHT_SIZE_Y,
  TUFT_LIGHT_SIZE_Z,
  TUFT_LIT,
  TUFT_OWN,
  TUFT_RIGHT,
  TUFT_SHINE,
  TUFT_UNLIT,
  TUFT_UP,
} from './layout'
import { fromHalves } from './math'
import { between, vec } from './vector'

/** Light between the eight cells around a place, in cells. */
function lightAt(l: usize, p: v128): v128 {
  const width = load<i32>(l + TUFT_LIGHT_SIZE_X),
    height = load<i32>(l + TUFT_LIGHT_SIZE_Y),
    depth = load<i32>(l + TUFT_LIGHT_SIZE_Z)
  const last = vec(<f32>(width - 1), <f32>(height - 1), <f32>(depth - 1), 0),
    at = f32x4.pmin(f32x4.pmax(p, f32x4.splat(0)), last),
    cell = i32x4.trunc_sat_f32x4_s(at),
    part = f32x4.sub(at, f32x4.convert_i32x4_s(cell))
  const x = i32x4.extract_lane(cell, 0),
    y = i32x4.extract_lane(cell, 1),
    z = i32x4.extract_lane(cell, 2)
  const fx = f32x4.splat(f32x4.extract_lane(part, 0)),
    fy = f32x4.splat(f32x4.extract_lane(part, 1)),
    fz = f32x4.splat(f32x4.extract_lane(part, 2))
  // Beyond the last of an axis lies nothing to go to.
  const a = <usize>load<u32>(l + TUFT_LIGHT_CELLS) + ((<usize>(x + width * (y + height * z))) << 3),
    toX: usize = x + 1 < width ? 8 : 0,
    toY = y + 1 < height ? (<usize>width) << 3 : 0,
    toZ = z + 1 < depth ? (<usize>(width * height)) << 3 : 0
  const near = between(row(a, toX, fx), row(a + toY, toX, fx), fy)
  return between(near, between(row(a + toZ, toX, fx), row(a + toZ + toY, toX, fx), fy), fz)
}
// @ts-ignore: decorator
@inline function row(at: usize, to: usize, by: v128): v128 {
  return between(fromHalves(at), fromHalves(at + to), by)
}
/** A direction of the camera's space in cells. */
// @ts-ignore: decorator
@inline function turned(l: usize, x: f32, y: f32, z: f32): v128 {
  const r = l + TUFT_LIGHT_ROWS
  return vec(
    load<f32>(r) * x + load<f32>(r, 4) * y + load<f32>(r, 8) * z,
    load<f32>(r, 16) * x + load<f32>(r, 20) * y + load<f32>(r, 24) * z,
    load<f32>(r, 32) * x + load<f32>(r, 36) * y + load<f32>(r, 40) * z,
    0,
  )
}
/** Half of what lies between both ends of a way through a place. */
// @ts-ignore: decorator
@inline function change(l: usize, middle: v128, way: v128, own: v128): v128 {
  return f32x4.mul(f32x4.mul(f32x4.splat(0.5), f32x4.sub(lightAt(l, f32x4.add(middle, way)), lightAt(l, f32x4.sub(middle, way)))), own)
}
// @ts-ignore: decorator
@inline function put(t: usize, k: usize, v: v128): void {
  const at = t + TUFT_LIT + k * 12
  v128.store64_lane(at, v, 0)
  v128.store32_lane(at + 8, v, 2)
}
/** Lights one whose disc is known, unless it is lit. Two threads that meet over it leave the same. */
export function lightTuft(m: usize, t: usize): void {
  const n = atomic.load<i32>(t + TUFT_UNLIT)
  if (n < 0) return
  let l = <usize>load<u32>(m + TUFTS_LIGHTS)
  while (n >= load<i32>(l + TUFT_LIGHT_END)) l += TUFT_LIGHT_BYTES
  const x = load<f32>(t + TUFT_HEAD),
    y = load<f32>(t + TUFT_HEAD, 4),
    z = load<f32>(t + TUFT_HEAD, 8),
    far2 = load<f32>(t + TUFT_FAR2),
    r = far2 / load<f32>(t + TUFT_GAIN),
    eye: f32 = -r / Mathf.sqrt(far2)
  const rows = l + TUFT_LIGHT_ROWS,
    middle = f32x4.add(turned(l, x, y, z), vec(load<f32>(rows, 12), load<f32>(rows, 28), load<f32>(rows, 44), 0)),
    own = vec(load<f32>(t + TUFT_OWN), load<f32>(t + TUFT_OWN, 4), load<f32>(t + TUFT_OWN, 8), 0)
  put(t, 0, f32x4.mul(f32x4.add(lightAt(l, middle), v128.load32_splat(t + TUFT_SHINE)), own))
  const right = t + TUFT_RIGHT,
    up = t + TUFT_UP
  put(t, 1, change(l, middle, turned(l, r * load<f32>(right), r * load<f32>(right, 4), r * load<f32>(right, 8)), own))
  put(t, 2, change(l, middle, turned(l, r * load<f32>(up), r * load<f32>(up, 4), r * load<f32>(up, 8)), own))
  put(t, 3, change(l, middle, turned(l, eye * x, eye * y, eye * z), own))
  atomic.store<i32>(t + TUFT_UNLIT, -1)
}
