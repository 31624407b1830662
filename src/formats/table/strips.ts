import { type Draw, lookTable, particleLook, type StripDraw, sampleLook } from '../../acts'
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
      const look = draws[phase[k]] ?? draws[0]
      const own = draw.own && look ? particleLook(look, age[k], life[k], seed[k], tints?.[k]) : { colour: [1, 1, 1], opacity: 1, size: 1 }
      const g = draw.generations
      const relative = (draw.own && look?.size > 0 ? own.size / look.size : 1) * (g ? g.width ** phase[k] : 1)
      const bright = draw.brightness * (g ? g.brightness ** phase[k] : 1)
      for (let i = offsets[k]; i < offsets[k + 1]; i++) {
        const [r, g, b, opacity, size] = sampleLook(table, along[i])
        const rgb = [r, g, b].map((c, q) => c * own.colour[q] * bright)
        const values = [
          ...[copy * part.strips + k, id[k], phase[k], along[i], metres[i], ...apply(m, x[i], y[i], z[i])],
          ...[draw.width * size * relative * larger, ...rgb, opacity * own.opacity * draw.opacity * fade[k]],
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
