import type { Draw } from '../../acts'
import type { Matrix, PointsPart } from '../../engine'
import { pointsTable, type Table, type TableColumn } from './points'

/** Nine significant digits bring every 32-bit float back exactly. */
const digits = (v: number): string => (Number.isInteger(v) && Math.abs(v) < 1e9 ? String(v) : String(Number(v.toPrecision(9))))
/** A table as CSV, its names first. Whole numbers stay whole. */
export function tableCsv({ rows, columns }: Table): string {
  const out = [columns.map((c) => c.name).join(',')]
  for (let i = 0; i < rows; i++)
    out.push(columns.map((c) => (c.data instanceof Uint32Array ? String(c.data[i]) : digits(c.data[i]))).join(','))
  return `${out.join('\n')}\n`
}
/** Particles of one system as CSV (see pointsTable). */
export const pointsCsv = (part: PointsPart, draws: readonly Draw[], matrices?: readonly Matrix[], names?: readonly TableColumn[]): string =>
  tableCsv(pointsTable(part, draws, matrices, names))
