import type { Matrix } from '../math'
import { f32, u32 } from '../memory'
import { defineOp } from './define'
import { perSoft } from './falloff'
import { FULL } from './share'
import type { OpWriter } from './writer'

type V3 = readonly [number, number, number]
export const carryOp = defineOp({
  name: 'carry',
  code: 23,
  group: 'force',
  kernel: 'volume',
  words: {
    volume: u32(),
    pushes: u32(),
    response: f32(),
    /** m/s, along each of its axes. */
    max: f32(3),
    half: f32(3),
    perSoft: f32(),
    into: f32(12),
    /** Directions of its axes, four words each. */
    axisX: f32(4),
    axisY: f32(4),
    axisZ: f32(4),
  },
})
/**
 * What flows in a box of half sizes (m) about the middle of its own space, from which `out` leads: made at the nodes of a grid by the ops of
 * another writer, as accelerations and wakes for a second. Carries within the response (s), or pushes; `max` along each axis, m/s.
 */
export function encodeCarry(
  w: OpWriter,
  p: { flow: OpWriter; half: V3; cell: number; soft: number; pushes: boolean; responseS: number; max: V3; into: Matrix; out: Matrix },
  seed = 0,
  share = FULL,
): void {
  const axis = (a: number): number[] => {
    const v = [p.out[a], p.out[4 + a], p.out[8 + a]]
    const length = Math.sqrt(v[0] ** 2 + v[1] ** 2 + v[2] ** 2)
    return [...v.map((x) => x / Math.max(length, 1e-12)), 0]
  }
  const { half, into } = p
  const max = p.max.map((v) => Math.min(v, 1e12))
  const box = { max, half, perSoft: perSoft(p.soft), into, axisX: axis(0), axisY: axis(1), axisZ: axis(2) }
  const start = w.write(carryOp, { volume: 0, pushes: p.pushes ? 1 : 0, response: p.responseS, ...box }, seed, share)
  w.volumes.push({
    dims: half.map((h) => Math.max(2, Math.ceil((2 * h) / p.cell - 1e-6) + 1)) as [number, number, number],
    low: half.map((h) => -h) as [number, number, number],
    cell: p.cell,
    words: p.flow.words.slice(),
    ops: p.flow.count,
    at: w.wordOf(start, carryOp, 'volume'),
  })
}
