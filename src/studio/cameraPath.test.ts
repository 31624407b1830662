import { readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import { cameraPath, guessColumns, readNumbers } from '../formats/table/camera'
import { timeOf } from '../shot'
import { axesOf, poseOf } from '../stage/camera'
import { cameraOf, columnsOf, pathNotes, rolesOf } from './cameraPath'
import { newCamera, newShot } from './create'

const table = (content: string) => {
  const r = readNumbers(content)
  if (!r.ok) throw new Error(r.problem.message)
  return r.value
}
const path = (content: string) => {
  const t = table(content)
  return cameraPath(t, { columns: guessColumns(t), unit: 1, up: 'y', order: 'xyz' }, { aspect: 16 / 9, rate: 24 })
}
const rolled = 'frame,x,y,z,rx,ry,rz,focal\n1,0,1,2,0,0,170,30\n2,1,1,2,10,-20,179,31\n3,2,1,2,20,-40,188,32\n4,3,1,2,30,-60,197,33\n'

describe('a camera made of a table', () => {
  const shot = newShot('Walk')
  it.each([
    ['of the sample', readFileSync('src/formats/table/samples/camera_quaternion.tsv', 'utf8')],
    ['that is rolled over its top', rolled],
  ])('%s stands, looks and is tilted on every frame as its row says, to a millionth', (_, content) => {
    const rows = path(content)
    const camera = { ...newCamera(shot), ...cameraOf(rows, shot, 10) }
    rows.forEach((c, i) => {
      const p = poseOf(shot, camera, timeOf(shot, 10 + i))
      const { forward, up } = axesOf(p)
      p.place.forEach((v, a) => expect(v).toBeCloseTo(c.place[a], 6))
      forward.forEach((v, a) => expect(v).toBeCloseTo(c.forward[a], 6))
      up.forEach((v, a) => expect(v).toBeCloseTo(c.up[a], 6))
      expect(p.lens).toBeCloseTo(c.lens as number, 6)
    })
    // Between two frames it never turns the long way round.
    for (let i = 0; i + 1 < rows.length; i++) {
      const roll = (f: number) => poseOf(shot, camera, timeOf(shot, f)).roll ?? 0
      expect(Math.abs(roll(10 + i + 1) - roll(10 + i))).toBeLessThan(90)
    }
  })
  it('keeps what stays the same as one value, and what a person chose of its columns', () => {
    const still = path('x,y,z,rx,ry,rz\n1,2,3,0,0,0\n1,2,3,0,0,0\n')
    expect(cameraOf(still, shot, 0)).toEqual({ place: [1, 2, 3], aim: [1, 2, -1], roll: 0, lens: 35 })
    for (const content of [rolled, '1 0 0 0 0 1 0 0 0 0 1 0 5 6 7 1\n', 'time;px;py;pz;qx;qy;qz;qw;fov\n0;1;1;1;0;0;0;1;40\n']) {
      const t = table(content)
      const guess = guessColumns(t)
      expect(columnsOf(rolesOf(guess, t.rows[0].length))).toEqual(guess)
    }
  })
  it('says how its frames and those of the shot match', () => {
    const of = (frames: number[]) =>
      pathNotes(
        path(`frame,x,y,z,rx,ry,rz,focal\n${frames.map((f) => `${f},0,0,0,0,0,0,35`).join('\n')}\n`),
        { ...shot, range: { first: 0, last: 3 } },
        0,
      )
    expect(of([1, 2, 3, 4])).toEqual([])
    expect(of([1, 2])).toEqual([expect.stringMatching(/ends at frame 1; up to frame 3 the camera stands still/)])
    expect(of([1, 2, 3, 4, 5, 6])).toEqual([expect.stringMatching(/goes on to frame 5/)])
    expect(of([1, 3, 4])).toEqual([expect.stringMatching(/no row/)])
    expect(of([0, 0.8, 1.6, 2.4, 3.2])).toContainEqual(expect.stringMatching(/another rate/))
  })
})
