import { TILE } from '../memory'

/** A box of cells: its first one, and how many along each axis. */
export interface Cells {
  first: readonly [number, number, number]
  count: readonly [number, number, number]
}
type V3 = [number, number, number]
const map = (f: (a: number) => number): V3 => [f(0), f(1), f(2)]

/** Windows grow and shrink by this many cells; the pressure's grids halve them. */
export const STEP = 16
/** Cells around what is there. */
const MARGIN = 8
export const cellsIn = ({ count }: Cells): number => count[0] * count[1] * count[2]
export const holds = (outer: Cells, inner: Cells): boolean =>
  inner.first.every((f, a) => f >= outer.first[a] && f + inner.count[a] <= outer.first[a] + outer.count[a])
export const isEmpty = ({ count }: Cells): boolean => count.some((n) => n <= 0)
/** The smallest box around both; null is nothing. */
export function around(a: Cells | null, b: Cells | null): Cells | null {
  if (!a || isEmpty(a)) return b && !isEmpty(b) ? b : null
  if (!b || isEmpty(b)) return a
  const first = map((k) => Math.min(a.first[k], b.first[k]))
  return { first, count: map((k) => Math.max(a.first[k] + a.count[k], b.first[k] + b.count[k]) - first[k]) }
}
/** What two boxes share. */
export function shared(a: Cells, b: Cells): Cells {
  const first = map((k) => Math.max(a.first[k], b.first[k]))
  return { first, count: map((k) => Math.max(0, Math.min(a.first[k] + a.count[k], b.first[k] + b.count[k]) - first[k])) }
}
/** How many cells a gas may have along each axis: whole steps, at least one. */
export const mostCells = (size: readonly number[], voxel: number): V3 =>
  map((a) => Math.max(1, Math.ceil(size[a] / voxel / STEP - 1e-6)) * STEP)
/** The window for what is to be held: with a margin, in whole steps, tile by tile, within the room. */
export function windowFor(held: Cells, room: Cells): Cells {
  const end = map((a) => room.first[a] + room.count[a])
  const low = map((a) => Math.floor(Math.max(room.first[a], held.first[a] - MARGIN) / TILE) * TILE)
  const count = map((a) =>
    Math.min(room.count[a], Math.ceil((Math.min(end[a], held.first[a] + held.count[a] + MARGIN) - low[a]) / STEP) * STEP),
  )
  return { first: map((a) => Math.max(room.first[a], Math.min(low[a], end[a] - count[a]))), count }
}
/** The window to go on with: the same while it holds everything with half of the margin, and is not more than twice as large as it need be. What is not in the room is left behind. */
export function nextWindow(now: Cells | null, all: Cells | null, room: Cells): Cells | null {
  const held = all && shared(all, room)
  if (!held || isEmpty(held)) return null
  const wanted = windowFor(held, room)
  const close = shared({ first: map((a) => held.first[a] - MARGIN / 2), count: map((a) => held.count[a] + MARGIN) }, room)
  if (!now || !holds(room, now)) return wanted
  if (holds(now, close)) return cellsIn(now) > 2 * cellsIn(wanted) ? wanted : now
  // What grows goes on growing.
  const both = around(wanted, now)
  return both && cellsIn(both) <= 2 * cellsIn(wanted) ? windowFor(shrunk(both), room) : wanted
}
/** Without the margin that `windowFor` adds. */
const shrunk = (c: Cells): Cells => ({ first: map((a) => c.first[a] + MARGIN), count: map((a) => c.count[a] - 2 * MARGIN) })
