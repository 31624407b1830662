import { type Draw, particleLook } from '../../acts'
import { type PointsPart, pointColumn } from '../../engine'

export const CSV_COLUMNS = ['id', 'age', 'life', 'px', 'py', 'pz', 'vx', 'vy', 'vz', 'size', 'r', 'g', 'b', 'a', 'phase'] as const
/** Nine significant digits bring every 32-bit float back exactly. */
const digits = (v: number): string => (Number.isInteger(v) && Math.abs(v) < 1e9 ? String(v) : String(Number(v.toPrecision(9))))

/** Particles of one system as CSV: metres, seconds, linear colour, sorted by id. */
export function pointsCsv(part: PointsPart, draw: Draw): string {
  const col = Object.fromEntries((['px', 'py', 'pz', 'vx', 'vy', 'vz', 'age', 'life', 'seed', 'id', 'phase'] as const).map((n) => [n, pointColumn(part, n)]))
  const order = Array.from({ length: part.count }, (_, i) => i).sort((a, b) => col.id[a] - col.id[b])
  const rows = order.map((i) => {
    const look = particleLook(draw, col.age[i], col.life[i], col.seed[i])
    return [col.id[i], col.age[i], col.life[i], col.px[i], col.py[i], col.pz[i], col.vx[i], col.vy[i], col.vz[i], look.size, ...look.colour, look.opacity, col.phase[i]].map(digits).join(',')
  })
  return `${[CSV_COLUMNS.join(','), ...rows].join('\n')}\n`
}
