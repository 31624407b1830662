import { MORE_POINT_COLUMNS, POINT_COLUMNS, type PointColumn, type PointsPart } from '../frame'
import type { ColumnName, Columns } from '../memory'

/** What of a frame's columns beyond those of every system this one has; since when they are in a phase is of use with the one before alone. */
const moreOf = (columns: Columns) => MORE_POINT_COLUMNS.filter((name) => columns.has(name === 'phaseStart' ? 'phaseFrom' : name))

/** What a frame keeps of the particles of a system. `kept`: columns that it keeps because somebody asks for them. */
export function pointsOf(element: string, columns: Columns, kept: readonly (ColumnName & PointColumn)[] = []): PointsPart {
  const n = columns.count
  const more = [...moreOf(columns), ...kept.filter((name) => columns.has(name))]
  const names = more.length ? [...POINT_COLUMNS, ...more] : POINT_COLUMNS
  const data = new ArrayBuffer(n * 4 * names.length)
  names.forEach((name, i) => new Uint32Array(data, i * n * 4, n).set(columns.words(name)))
  return { kind: 'points', element, count: n, ...(more.length ? { more } : {}), data }
}
/** How many are in each of so many phases. */
export function countPhases(columns: Columns, phases: number): number[] {
  const counts = new Array<number>(phases).fill(0)
  for (const phase of columns.words('phase')) counts[phase]++
  return counts
}
