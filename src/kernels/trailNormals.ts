// How the particle of a trail lies, for trails whose points keep it.
import { col } from './columns'
import { QW, QX, QY, QZ, TRAILS_NORMALS, WX, WY, WZ } from './layout'
import { cosTurn, sinTurn } from './math'
import { vec } from './vector'

/** 1 / 2π */
const TURN: f32 = 0.15915494
/** The way that the own Y of the particle at hand points as the substep ends, about which axis (unit) it spins and how fast, turns a second; of this thread. */
let normalX: f32 = 0
let normalY: f32 = 0
let normalZ: f32 = 0
let axisX: f32 = 0
let axisY: f32 = 0
let axisZ: f32 = 0
let spin: f32 = 0
/** The own Y of the particle at byte i, turned as it lies; up where it lies no way yet. */
export function normalOf(columns: usize, i: usize): v128 {
  const x = load<f32>(col(columns, QX, 0) + i),
    y = load<f32>(col(columns, QY, 0) + i),
    z = load<f32>(col(columns, QZ, 0) + i),
    w = load<f32>(col(columns, QW, 0) + i)
  return vec(2 * (x * y - w * z), 1 - 2 * (x * x + z * z), 2 * (y * z + w * x), 0)
}
// @ts-ignore: decorator
@inline export function takeNormal(t: usize, columns: usize, i: usize): void {
  if (!load<u32>(t + TRAILS_NORMALS)) return
  const n = normalOf(columns, i)
  normalX = f32x4.extract_lane(n, 0)
  normalY = f32x4.extract_lane(n, 1)
  normalZ = f32x4.extract_lane(n, 2)
  const x = load<f32>(col(columns, WX, 0) + i),
    y = load<f32>(col(columns, WY, 0) + i),
    z = load<f32>(col(columns, WZ, 0) + i)
  const fast = Mathf.sqrt(x * x + y * y + z * z),
    per: f32 = fast > 0 ? 1 / fast : 0
  axisX = x * per
  axisY = y * per
  axisZ = z * per
  spin = fast * TURN
}
/** Where it pointed so many seconds before the substep ends, by its spin (Rodrigues 1840). */
export function normalBefore(ago: f32): v128 {
  const turns = spin * ago,
    part = turns - Mathf.floor(turns)
  const c = cosTurn(part),
    s = -sinTurn(part),
    d = (axisX * normalX + axisY * normalY + axisZ * normalZ) * (1 - c)
  return vec(
    normalX * c + (axisY * normalZ - axisZ * normalY) * s + axisX * d,
    normalY * c + (axisZ * normalX - axisX * normalZ) * s + axisY * d,
    normalZ * c + (axisX * normalY - axisY * normalX) * s + axisZ * d,
    0,
  )
}
