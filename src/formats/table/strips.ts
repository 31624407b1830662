import { type Draw, lookTable, type StripDraw, sampleLook, stripTone } from '../../acts'
import { apply, identity, type Matrix, type StripsPart, stripColumn, stripOffsets, stripPoints, stripTints } from '../../engine'
import type { Table } from './points'

/** Columns of a table of strips, a row a point, from the end of each strip to its head: metres, linear colour; the width as it is drawn, m. */
export const STRIP_TABLE_COLUMNS = ['strip', 'id', 'phase', 'along', 'metres', 'px', 'py', 'pz', 'width', 'r', 'g', 'b', 'a'] as const
const WHOLE: ReadonlySet<string> = new Set(['strip', 'id', 'phase'])

/** Strips of one act as a table. `draws`: of the particles, by phase. `matrices`: where the whole stands in the shot, one a copy. */
export function stripsTable(part: StripsPart, draw: StripDraw, draws: readonly Draw[], matrices: readonly Matrix[] = [identity()]): Table {
  const offsets = stripOffsets(part)
  const [x, y, z, along, metres] = (['px', 'py', 'pz', 'along', 'metres'] as const).map((n) => stripPoints(part, n))
  const [id, seed, phase, age, life, fade] = (['id', 'seed', 'phase', 'age', 'life', 'fade'] as const).map((n) => stripColumn(part, n))
  const tints = stripTints(part)
  const rows = part.points * matrices.length
  const columns = STRIP_TABLE_COLUMNS.map((name) => ({ name, data: WHOLE.has(name) ? new Uint32Array(rows) : new Float32Array(rows) }))
  const table = lookTable(draw.look)
  let row = 0
  matrices.forEach((m, copy) => {
    const larger = Math.cbrt(
      Math.abs(m[0] * (m[5] * m[10] - m[6] * m[9]) - m[1] * (m[4] * m[10] - m[6] * m[8]) + m[2] * (m[4] * m[9] - m[5] * m[8])),
    )
    for (let k = 0; k < part.strips; k++) {
      const own = { phase: phase[k], age: age[k], life: life[k], seed: seed[k], tint: tints?.[k], fade: fade[k] }
      const tone = stripTone(draw, draws, own)
      for (let i = offsets[k]; i < offsets[k + 1]; i++) {
        const [r, g, b, opacity, size] = sampleLook(table, along[i])
        const rgb = [r, g, b].map((c, q) => c * tone.colour[q])
        const values = [
          ...[copy * part.strips + k, id[k], phase[k], along[i], metres[i], ...apply(m, x[i], y[i], z[i])],
          ...[draw.width * size * tone.width * larger, ...rgb, opacity * tone.opacity],
        ]
        values.forEach((v, c) => {
          columns[c].data[row] = v
        })
        row++
      }
    }
  })
  return { rows, columns }
}
