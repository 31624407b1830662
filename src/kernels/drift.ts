// Positions and velocities of a block through a substep: position Verlet (Tuckerman, Berne and Martyna 1992).
import { SCRATCH_ROW } from './layout'

/** Three columns into three rows of scratch. */
export function keepRows(x: usize, y: usize, z: usize, rows: usize, bytes: usize): void {
  memory.copy(rows, x, bytes)
  memory.copy(rows + SCRATCH_ROW, y, bytes)
  memory.copy(rows + 2 * SCRATCH_ROW, z, bytes)
}
/** And back. */
export function bringRows(x: usize, y: usize, z: usize, rows: usize, bytes: usize): void {
  memory.copy(x, rows, bytes)
  memory.copy(y, rows + SCRATCH_ROW, bytes)
  memory.copy(z, rows + 2 * SCRATCH_ROW, bytes)
}
/** Half of the way by the velocity as it is, on one axis: where forces are asked for. */
export function halfWay(p: usize, v: usize, dts: usize, bytes: usize): void {
  const half = f32x4.splat(0.5)
  for (let o: usize = 0; o < bytes; o += 16)
    v128.store(p + o, f32x4.add(v128.load(p + o), f32x4.mul(v128.load(v + o), f32x4.mul(half, v128.load(dts + o)))))
}
/** All of the way from where it was, by the mean of the velocities before and after the forces, on one axis. */
export function wholeWay(p: usize, v: usize, before: usize, dts: usize, bytes: usize): void {
  const half = f32x4.splat(0.5)
  for (let o: usize = 0; o < bytes; o += 16) {
    const mean = f32x4.mul(half, f32x4.add(v128.load(before + o), v128.load(v + o)))
    v128.store(p + o, f32x4.add(v128.load(p + o), f32x4.mul(mean, v128.load(dts + o))))
  }
}
