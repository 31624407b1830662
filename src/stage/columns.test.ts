import { describe, expect, it } from 'vitest'
import { MORE_POINT_COLUMNS, POINT_COLUMNS, type PointColumn, type PointsPart } from '../engine'
import { COLUMN_CONSTANTS, columnAt, DRAWN_COLUMNS, drawnColumns, writeColumns } from './columns'
import { PARTICLE_VERTEX } from './shaders'

/** Column c of particle i holds 100 c + i. */
const part = (count: number, more: readonly PointColumn[]): PointsPart => {
  const words = Uint32Array.from(
    { length: (POINT_COLUMNS.length + more.length) * count },
    (_, k) => 100 * Math.floor(k / count) + (k % count),
  )
  return { kind: 'points', element: 'a', count, ...(more.length ? { more } : {}), data: words.buffer }
}
describe('the columns on the graphics side', () => {
  it.each([[[]], [[...MORE_POINT_COLUMNS]], [['size' as const]]])(
    'lie in the order of one table, of all particles or of some (and %s)',
    (more) => {
      const p = part(7, more)
      for (const name of MORE_POINT_COLUMNS)
        expect(columnAt(p, name)).toBe((more as string[]).includes(name) ? DRAWN_COLUMNS.length + (more as string[]).indexOf(name) : 0)
      const names = drawnColumns(p)
      const out = new Uint32Array(names.length * 7)
      const stored: readonly string[] = [...POINT_COLUMNS, ...more]
      const expected = (some: number[]) => names.flatMap((n) => some.map((i) => 100 * stored.indexOf(n) + i))
      expect(writeColumns(p, out, null)).toBe(7)
      expect([...out]).toEqual(expected([0, 1, 2, 3, 4, 5, 6]))
      expect(writeColumns(p, out, Uint32Array.of(5, 0))).toBe(2)
      expect([...out.subarray(0, names.length * 2)]).toEqual(expected([5, 0]))
    },
  )
  it('are named in the shader by that table, phase among them', () => {
    expect(PARTICLE_VERTEX).toContain(COLUMN_CONSTANTS)
    DRAWN_COLUMNS.forEach((name, i) => {
      expect(COLUMN_CONSTANTS).toContain(`const uint ${name.toUpperCase()} = ${i}u;`)
      expect(PARTICLE_VERTEX.split(COLUMN_CONSTANTS)[1], name).toMatch(new RegExp(`(word|number)At\\(${name.toUpperCase()}, me\\)`))
    })
    // Nothing is read by a number of its own.
    expect(PARTICLE_VERTEX).not.toMatch(/At\(\d/)
  })
})
