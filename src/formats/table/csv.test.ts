import { describe, expect, it } from 'vitest'
import { drawOf, drawsOf } from '../../acts'
import { demoShot } from '../../acts/testing/shots'
import { pointColumn } from '../../engine'
import { framesOn, gravity, plan, points, system, withWorld } from '../../engine/testing/plans'
import { CSV_COLUMNS, pointsCsv } from '..'

describe('particles as a table', () => {
  it('has the named columns, sorted by id, and brings every number back bit for bit', async () => {
    const shot = demoShot()
    const draw = drawOf(shot, shot.systems[0], 0)
    await withWorld(
      plan([system({ burst: 40, life: () => [1, 0.5], birth: { speed: 3, spreadTurns: 0.5 }, forces: [gravity()] })]),
      (w) => {
        const part = points(framesOn(w, 20))
        const lines = pointsCsv(part, [draw]).trimEnd().split('\n')
        expect(lines[0]).toBe('id,age,life,px,py,pz,vx,vy,vz,size,r,g,b,a,phase')
        expect(lines.length).toBe(part.count + 1)
        const rows = lines.slice(1).map((l) => l.split(',').map(Number))
        const ids = rows.map((r) => r[0])
        expect(ids).toEqual([...ids].sort((a, b) => a - b))
        const col = (name: 'px' | 'vy' | 'age' | 'life') => pointColumn(part, name) as Float32Array
        const id = pointColumn(part, 'id')
        for (const r of rows) {
          const i = id.indexOf(r[0])
          for (const name of ['px', 'vy', 'age', 'life'] as const) expect(Math.fround(r[CSV_COLUMNS.indexOf(name)])).toBe(col(name)[i])
          expect(r[CSV_COLUMNS.indexOf('a')]).toBeGreaterThan(0)
        }
      },
    )
  })
  it('is its head alone when nobody lives', async () => {
    const shot = demoShot()
    await withWorld(plan([system({ births: [] })]), (w) => {
      expect(pointsCsv(points(framesOn(w, 1)), drawsOf(shot, shot.systems[0], 0))).toBe(`${CSV_COLUMNS.join(',')}\n`)
    })
  })
})
