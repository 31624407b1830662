import { type Draw, partLooks } from '../../acts'
import { apply, identity, type Matrix, type PointsPart, pointColumn } from '../../engine'

/** Columns of a table of particles: metres, seconds, linear colour; the size as it is drawn, in metres. */
export const TABLE_COLUMNS = ['id', 'age', 'life', 'px', 'py', 'pz', 'vx', 'vy', 'vz', 'size', 'r', 'g', 'b', 'a', 'phase', 'seed'] as const
export type TableColumn = (typeof TABLE_COLUMNS)[number]
/** Those that a table has when nobody chooses. */
export const CSV_COLUMNS = TABLE_COLUMNS.slice(0, 15)
const WHOLE: ReadonlySet<TableColumn> = new Set(['id', 'phase', 'seed'])

export interface Table {
  rows: number
  columns: { name: string; data: Float32Array | Uint32Array }[]
}
/**
 * Particles of one system as a table, sorted by id. `draws`: by phase. `matrices`: where the whole stands in the shot, one a copy; the rows of
 * copies follow one another. `blends`: seconds over which each phase sets in.
 */
export function pointsTable(
  part: PointsPart,
  draws: readonly Draw[],
  matrices: readonly Matrix[] = [identity()],
  names: readonly TableColumn[] = CSV_COLUMNS,
  blends: readonly number[] = [],
): Table {
  const col = Object.fromEntries(
    (['px', 'py', 'pz', 'vx', 'vy', 'vz', 'age', 'life', 'seed', 'id', 'phase'] as const).map((n) => [n, pointColumn(part, n)]),
  )
  // Mappings may go by where a copy is.
  const isMapped = draws.some((d) => d.mappings.length > 0)
  const looks = (isMapped ? matrices : matrices.slice(0, 1)).map((m) => partLooks(part, draws, blends, m))
  const order = Array.from({ length: part.count }, (_, i) => i).sort((a, b) => col.id[a] - col.id[b])
  const rows = part.count * matrices.length
  const columns = names.map((name) => ({ name, data: WHOLE.has(name) ? new Uint32Array(rows) : new Float32Array(rows) }))
  const larger = matrices.map((m) =>
    Math.cbrt(Math.abs(m[0] * (m[5] * m[10] - m[6] * m[9]) - m[1] * (m[4] * m[10] - m[6] * m[8]) + m[2] * (m[4] * m[9] - m[5] * m[8]))),
  )
  let row = 0
  for (const i of order) {
    const own = looks.map((look) => look(i))
    matrices.forEach((m, copy) => {
      const look = own[copy] ?? own[0]
      const [px, py, pz] = apply(m, col.px[i], col.py[i], col.pz[i])
      const [vx, vy, vz] = [0, 4, 8].map((r) => m[r] * col.vx[i] + m[r + 1] * col.vy[i] + m[r + 2] * col.vz[i])
      const [r, g, b] = look.colour
      const values: Record<TableColumn, number> = {
        ...{ id: col.id[i], age: col.age[i], life: col.life[i], px, py, pz, vx, vy, vz },
        ...{ size: look.size * larger[copy], r, g, b, a: look.opacity, phase: col.phase[i], seed: col.seed[i] },
      }
      names.forEach((name, k) => {
        columns[k].data[row] = values[name]
      })
      row++
    })
  }
  return { rows, columns }
}
