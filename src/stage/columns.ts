import { columnsOfPart, type PointColumn, type PointsPart } from '../engine'

/** The columns that go to the graphics side, in the order in which they lie there, one behind the other. The shaders' numbers are made of it. */
export const DRAWN_COLUMNS = ['px', 'py', 'pz', 'vx', 'vy', 'vz', 'age', 'life', 'seed', 'phase'] as const satisfies PointColumn[]

export const drawnColumns = (part: PointsPart): readonly PointColumn[] => (part.more ? [...DRAWN_COLUMNS, ...part.more] : DRAWN_COLUMNS)
/** Constants of the shaders: which column is which. */
export const COLUMN_CONSTANTS = DRAWN_COLUMNS.map((name, i) => `const uint ${name.toUpperCase()} = ${i}u;`).join('\n')
/** Where a column lies of which not every part has one; 0: this one has none. */
export const columnAt = (part: PointsPart, name: PointColumn): number => Math.max(0, drawnColumns(part).indexOf(name))

/** Copies what is drawn of a part into `out`, column behind column: of all its particles, or of some. Returns how many. */
export function writeColumns(part: PointsPart, out: Uint32Array, some: Uint32Array | null): number {
  const n = part.count
  const m = some ? some.length : n
  const source = new Uint32Array(part.data)
  const stored = columnsOfPart(part)
  drawnColumns(part).forEach((name, k) => {
    const from = stored.indexOf(name) * n
    if (!some) out.set(source.subarray(from, from + n), k * n)
    else for (let i = 0, o = k * m; i < m; i++) out[o + i] = source[from + some[i]]
  })
  return m
}
/** Writes numbers of each particle, column behind column: of all, or of some. */
export function writeNumbers(columns: readonly Float32Array[], out: Float32Array, some: Uint32Array | null): void {
  for (const [k, column] of columns.entries()) {
    const m = some ? some.length : column.length
    if (!some) out.set(column, k * m)
    else for (let i = 0; i < m; i++) out[k * m + i] = column[some[i]]
  }
}
