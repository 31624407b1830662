import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { type CameraTaking, cameraPath, columnsProblem, guessColumns, readNumbers } from './camera'

const text = (name: string) => readFileSync(join(import.meta.dirname, 'samples', name), 'utf8')
function table(content: string) {
  const r = readNumbers(content)
  if (!r.ok) throw new Error(r.problem.message)
  return r.value
}
const taken = (content: string, o: Partial<CameraTaking> = {}) => {
  const t = table(content)
  return cameraPath(t, { columns: guessColumns(t), unit: 1, up: 'y', order: 'xyz', ...o }, { aspect: 16 / 9, rate: 24 })
}
const near = (a: readonly number[], b: readonly number[], digits = 6) => a.forEach((v, i) => expect(v).toBeCloseTo(b[i], digits))

describe('a camera out of a table', () => {
  // The walk that all samples hold: 24 frames, X by −5° and then Y from 20° to −20°, from −4, 1.7, 6 to 4, 1.7, 5, from 35 to 50 mm.
  it.each(['camera_euler.csv', 'camera_quaternion.tsv', 'camera_semicolon_decimal_comma.csv', 'camera_matrix_no_header.txt'])(
    '%s is the walk that it was made from, to a millionth',
    (name) => {
      const path = taken(text(name))
      expect(path.length).toBe(24)
      path.forEach((c, i) => {
        const t = i / 23
        near(c.place, [-4 + 8 * t, 1.7, 6 - t])
        const [pitch, turn] = [-5, 20 - 40 * t].map((d) => (d * Math.PI) / 180)
        // Ry · Rx of −Z, and of Y.
        near(c.forward, [-Math.sin(turn) * Math.cos(pitch), Math.sin(pitch), -Math.cos(turn) * Math.cos(pitch)])
        near(c.up, [Math.sin(turn) * Math.sin(pitch), Math.cos(pitch), Math.cos(turn) * Math.sin(pitch)])
        if (/euler|quaternion/.test(name)) expect(c.lens).toBeCloseTo(35 + 15 * t, 5)
        else expect(c.lens).toBeNull()
      })
      const frames = path.map((c) => c.frame)
      frames.forEach((f, i) => expect(f - frames[0]).toBeCloseTo(i, 5))
    },
  )
  it('guesses what its columns are, and says what is missing', () => {
    const t = table('frame\tx\ty\tz\n1\t0\t0\t0\n')
    expect(guessColumns(t)).toEqual({ time: { column: 0, in: 'frames' }, place: [1, 2, 3], rotation: null, lens: null })
    expect(columnsProblem(guessColumns(t))).toMatch(/which columns hold the rotation/)
    expect(guessColumns(table('1 0 0 0 0 0 0 35\n2 0 0 0 0 0 0 35\n'))).toMatchObject({
      time: { column: 0 },
      place: [1, 2, 3],
      lens: { column: 7, in: 'mm' },
    })
    expect(guessColumns(table('0 0 0 0 0 0 1\n1 0 0 0 0 0 1\n')).rotation).toMatchObject({ kind: 'quaternion' })
    const rows = '1 0 0 0 0 1 0 0 0 0 1 0 5 6 7 1'
    const at = taken(rows)[0]
    near(at.place, [5, 6, 7])
    near(at.forward, [0, 0, -1])
  })
  it('is taken in its unit, with Z up, and about its axes in any order', () => {
    const line = 'x,y,z,rx,ry,rz\n100,200,300,0,0,0\n'
    near(taken(line, { unit: 0.01, up: 'z' })[0].place, [1, 3, -2])
    // Where Z is up, a camera without rotation looks down, with the picture's up along Y.
    near(taken(line, { up: 'z' })[0].forward, [0, -1, 0])
    near(taken(line, { up: 'z' })[0].up, [0, 0, -1])
    const both = 'x,y,z,rx,ry,rz\n0,0,0,90,90,0\n'
    // First about X −Z goes to Y, which stays; first about Y it goes to −X, which stays.
    near(taken(both, { order: 'xyz' })[0].forward, [0, 1, 0])
    near(taken(both, { order: 'yxz' })[0].forward, [-1, 0, 0])
  })
  it('refuses what is no table of numbers with the line', () => {
    const said = (content: string) => {
      const r = readNumbers(content)
      return r.ok ? null : [r.problem.line ?? null, r.problem.message]
    }
    expect(said('')).toEqual([null, expect.stringContaining('without a row')])
    expect(said('a,b\n1,2\n# a note\n1,2,3\n')).toEqual([4, expect.stringContaining('3 values where the rows before have 2')])
    expect(said('a,b\n1,2\n1,none\n')).toEqual([3, expect.stringContaining('“none” is no number')])
    expect(said('a,b\n')).toEqual([1, expect.stringContaining('no row of numbers')])
  })
})
