// What every substep reads and writes of trails: columns, a row for each particle.
import { col } from './columns'
import {
  TRAILS_TABLE,
  TRAIL_ROW_HEAD,
  TRAIL_ROW_KEPT_T,
  TRAIL_ROW_KEPT_X,
  TRAIL_ROW_KEPT_Y,
  TRAIL_ROW_KEPT_Z,
  TRAIL_ROW_SLOT,
  TRAIL_ROW_TANGENT_X,
  TRAIL_ROW_TANGENT_Y,
  TRAIL_ROW_TANGENT_Z,
  TRAIL_ROW_TIP_X,
  TRAIL_ROW_TIP_Y,
  TRAIL_ROW_TIP_Z,
  TRAIL_ROW_VELOCITY_X,
  TRAIL_ROW_VELOCITY_Y,
  TRAIL_ROW_VELOCITY_Z,
} from './layout'
import { vec } from './vector'

/** The columns of the trails at hand; of this thread. */
export let slots: usize = 0
export let keptX: usize = 0
export let keptY: usize = 0
export let keptZ: usize = 0
export let keptT: usize = 0
export let tangentX: usize = 0
export let tangentY: usize = 0
export let tangentZ: usize = 0
export let tipX: usize = 0
export let tipY: usize = 0
export let tipZ: usize = 0
export let velocityX: usize = 0
export let velocityY: usize = 0
export let velocityZ: usize = 0
export let heads: usize = 0

export function openRows(t: usize): void {
  const table = <usize>load<u32>(t + TRAILS_TABLE)
  slots = col(table, TRAIL_ROW_SLOT, 0)
  keptX = col(table, TRAIL_ROW_KEPT_X, 0)
  keptY = col(table, TRAIL_ROW_KEPT_Y, 0)
  keptZ = col(table, TRAIL_ROW_KEPT_Z, 0)
  keptT = col(table, TRAIL_ROW_KEPT_T, 0)
  tangentX = col(table, TRAIL_ROW_TANGENT_X, 0)
  tangentY = col(table, TRAIL_ROW_TANGENT_Y, 0)
  tangentZ = col(table, TRAIL_ROW_TANGENT_Z, 0)
  tipX = col(table, TRAIL_ROW_TIP_X, 0)
  tipY = col(table, TRAIL_ROW_TIP_Y, 0)
  tipZ = col(table, TRAIL_ROW_TIP_Z, 0)
  velocityX = col(table, TRAIL_ROW_VELOCITY_X, 0)
  velocityY = col(table, TRAIL_ROW_VELOCITY_Y, 0)
  velocityZ = col(table, TRAIL_ROW_VELOCITY_Z, 0)
  heads = col(table, TRAIL_ROW_HEAD, 0)
}
/** Three columns of a row, i bytes from their beginnings. */
// @ts-ignore: decorator
@inline export function three(x: usize, y: usize, z: usize, i: usize): v128 {
  return vec(load<f32>(x + i), load<f32>(y + i), load<f32>(z + i), 0)
}
// @ts-ignore: decorator
@inline export function putThree(x: usize, y: usize, z: usize, i: usize, v: v128): void {
  store<f32>(x + i, f32x4.extract_lane(v, 0))
  store<f32>(y + i, f32x4.extract_lane(v, 1))
  store<f32>(z + i, f32x4.extract_lane(v, 2))
}
/** The last kept point, and when. */
// @ts-ignore: decorator
@inline export function keptOf(i: usize): v128 {
  return vec(load<f32>(keptX + i), load<f32>(keptY + i), load<f32>(keptZ + i), load<f32>(keptT + i))
}
/** Where it was as the substep began. */
// @ts-ignore: decorator
@inline export function tipOf(i: usize): v128 {
  return three(tipX, tipY, tipZ, i)
}
// @ts-ignore: decorator
@inline export function velocityOf(i: usize): v128 {
  return three(velocityX, velocityY, velocityZ, i)
}
// @ts-ignore: decorator
@inline export function putTip(i: usize, p: v128, v: v128): void {
  putThree(tipX, tipY, tipZ, i, p)
  putThree(velocityX, velocityY, velocityZ, i, v)
}
/** The square of the length of a cross product, of four at once. */
// @ts-ignore: decorator
@inline export function across4(ax: v128, ay: v128, az: v128, bx: v128, by: v128, bz: v128): v128 {
  const x = f32x4.sub(f32x4.mul(ay, bz), f32x4.mul(az, by)),
    y = f32x4.sub(f32x4.mul(az, bx), f32x4.mul(ax, bz)),
    z = f32x4.sub(f32x4.mul(ax, by), f32x4.mul(ay, bx))
  return f32x4.add(f32x4.add(f32x4.mul(x, x), f32x4.mul(y, y)), f32x4.mul(z, z))
}
