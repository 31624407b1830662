import { type Draw, particleLook } from '../../acts'
import { apply, identity, type Matrix, type PointsPart, pointColumn } from '../../engine'

export const CSV_COLUMNS = ['id', 'age', 'life', 'px', 'py', 'pz', 'vx', 'vy', 'vz', 'size', 'r', 'g', 'b', 'a', 'phase'] as const
/** Nine significant digits bring every 32-bit float back exactly. */
const digits = (v: number): string => (Number.isInteger(v) && Math.abs(v) < 1e9 ? String(v) : String(Number(v.toPrecision(9))))

/**
 * Particles of one system as CSV: metres, seconds, linear colour, sorted by id. `draws`: by phase. `matrices`: where the whole stands in the shot, one a copy;
 * the rows of copies follow one another.
 */
export function pointsCsv(part: PointsPart, draws: readonly Draw[], matrices: readonly Matrix[] = [identity()]): string {
  const col = Object.fromEntries(
    (['px', 'py', 'pz', 'vx', 'vy', 'vz', 'age', 'life', 'seed', 'id', 'phase'] as const).map((n) => [n, pointColumn(part, n)]),
  )
  const order = Array.from({ length: part.count }, (_, i) => i).sort((a, b) => col.id[a] - col.id[b])
  const rows = order.flatMap((i) =>
    matrices.map((m) => {
      const [px, py, pz] = apply(m, col.px[i], col.py[i], col.pz[i])
      const [vx, vy, vz] = [0, 4, 8].map((r) => m[r] * col.vx[i] + m[r + 1] * col.vy[i] + m[r + 2] * col.vz[i])
      const larger = Math.cbrt(
        Math.abs(m[0] * (m[5] * m[10] - m[6] * m[9]) - m[1] * (m[4] * m[10] - m[6] * m[8]) + m[2] * (m[4] * m[9] - m[5] * m[8])),
      )
      const look = particleLook(draws[col.phase[i]] ?? draws[0], col.age[i], col.life[i], col.seed[i])
      return [col.id[i], col.age[i], col.life[i], px, py, pz, vx, vy, vz, look.size * larger, ...look.colour, look.opacity, col.phase[i]]
        .map(digits)
        .join(',')
    }),
  )
  return `${[CSV_COLUMNS.join(','), ...rows].join('\n')}\n`
}
