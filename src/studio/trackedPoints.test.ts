import fc from 'fast-check'
import { beforeEach, describe, expect, it } from 'vitest'
import { checkShot, shotPose, tieShot, worldMatrix } from '../acts'
import { demoShot } from '../acts/testing/shots'
import { apply } from '../engine'
import { cameraPath, guessColumns, readNumbers, tablePoints } from '../formats/table/camera'
import { keyedNumber, type ObjectDoc, problemText, type Shot, type Vec3 } from '../shot'
import { project } from '../stage/camera'
import { cameraOf } from './cameraPath'
import { newCamera } from './create'
import { anchorsOf, distanceOf, planeThrough, scaled, scaleTracked } from './trackedPoints'

let shot: Shot
let points: ObjectDoc[]
const PLACES: Vec3[] = [
  [1, 0.2, -1],
  [-1.5, 0.3, 0.4],
  [0.6, 0.1, 1.2],
  [0.1, 1.4, -0.7],
]
beforeEach(() => {
  shot = demoShot()
  const ride = { keys: [0, 2].map((t) => ({ t, v: t - 1, ease: 'curve' as const, bend: [0.2, 0.5, 0.7, -0.3] as never })) }
  Object.assign(shot.cameras[0], { place: [ride, 1.5, 4], aim: [0, 0.5, ride], roll: 7, shiftX: 4 })
  const [group, ...anchors] = anchorsOf(shot, 'Quay', PLACES)
  shot.objects.push({ ...group, place: [0.2, 0, -0.1], rotate: [0, 30, 0] }, ...anchors)
  points = anchors
  tieShot(shot)
})
const world = (o: ObjectDoc) => apply(worldMatrix(shot.objects.find((x) => x.id === o.id) ?? o, 0), 0, 0, 0) as Vec3
const sound = () => {
  const r = checkShot(structuredClone(shot))
  expect(r.ok ? [] : r.problems.map(problemText)).toEqual([])
}

describe('points of a table', () => {
  const read = (text: string) => {
    const r = readNumbers(text)
    if (!r.ok) throw new Error(r.problem.message)
    return r.value
  }
  it('have the names that stand before them, with a header and without', () => {
    const plain = read('bell 1 2 3\nmast 4 5 6\n')
    expect([plain.header, plain.names, plain.rows]).toEqual([
      null,
      ['bell', 'mast'],
      [
        [1, 2, 3],
        [4, 5, 6],
      ],
    ]) // prettier-ignore
    const headed = read('point,x,y,z\nbell,1,2,3\nmast,4,5,6\n')
    expect([headed.header, headed.names]).toEqual([
      ['x', 'y', 'z'],
      ['bell', 'mast'],
    ])
    expect(read('x,y,z\n1,2,3\n').names).toBeUndefined()
    const r = readNumbers('bell 1 2 3\nmast 4 five 6\n')
    expect(r.ok ? '' : r.problem.message).toBe('“five” is no number, in column 3')
  })
  it('are taken as their camera is: in its unit, with Z up', () => {
    expect(tablePoints(read('x,y,z\n100,200,300\n'), [0, 1, 2], { unit: 0.01, up: 'z' })).toEqual([[1, 3, -2]])
  })
  it('stay on their pixels when they are taken with their camera, whatever its unit and its upward axis (property)', () => {
    const camera = read('x,y,z,rx,ry,rz,focal\n1,2,8,-10,15,3,35\n')
    const table = read(`x,y,z\n${PLACES.map((p) => p.join(',')).join('\n')}\n`)
    const columns = guessColumns(camera)
    const pixels = (unit: number, up: 'y' | 'z') => {
      const taking = { columns, unit, up, order: 'xyz' as const }
      const [c] = cameraPath(camera, taking, { aspect: 16 / 9, rate: 24 })
      const s = demoShot()
      s.cameras[0] = { ...newCamera(s), id: 'camera', ...cameraOf([c], s, 0) }
      return tablePoints(table, [0, 1, 2], taking).map((p) => project(shotPose(s, 0), 16 / 9, p))
    }
    const own = pixels(1, 'y')
    expect(own.every((p) => p !== null && Math.hypot(p.x, p.y) < 3)).toBe(true)
    fc.assert(
      fc.property(fc.constantFrom(1, 0.01, 0.3048, 25), fc.constantFrom('y' as const, 'z' as const), (unit, up) => {
        pixels(unit, up).forEach((p, i) => {
          expect(p?.x).toBeCloseTo(own[i]?.x ?? 99, 6)
          expect(p?.y).toBeCloseTo(own[i]?.y ?? 99, 6)
        })
      }),
    )
  })
  it('become anchors of one group, in a sound shot', () => {
    sound()
    const [group] = anchorsOf(shot, 'Mast', [[1, 2, 3]], ['top'])
    expect(group.name).toBe('Mast')
    expect(points.map((p) => p.name)).toEqual(['Quay 1', 'Quay 2', 'Quay 3', 'Quay 4'])
  })
})
describe('a plane through three points', () => {
  it('goes through all three, upwards to the camera, and hangs with them', () => {
    const eye = shotPose(shot, 0).place
    const plane = planeThrough(shot, points.slice(0, 3), 0, eye)
    if (!plane) throw new Error('no plane')
    expect(plane.parent).toBe(points[0].parent)
    shot.objects.push(plane)
    sound()
    tieShot(shot)
    const m = worldMatrix(plane, 0)
    const normal = [m[1], m[5], m[9]]
    const off = (p: Vec3) => normal.reduce((sum, n, k) => sum + n * (p[k] - [m[3], m[7], m[11]][k]), 0)
    for (const p of points.slice(0, 3)) expect(Math.abs(off(world(p)))).toBeLessThan(1e-5)
    expect(off(eye)).toBeGreaterThan(0)
  })
  it('there is none through points of a line', () => {
    const line = points.slice(0, 3).map((p, i) => ({ ...p, place: [i, 2 * i, 0] as Vec3 }))
    expect(planeThrough(shot, line, 0, [0, 5, 0])).toBeNull()
  })
})
describe('the scale of what was tracked', () => {
  it('brings two points as far apart as they are, and moves nothing in the picture (property)', () => {
    const before = structuredClone(shot)
    tieShot(before)
    fc.assert(
      fc.property(fc.double({ min: 0.01, max: 100, noNaN: true }), fc.double({ min: 0, max: 2, noNaN: true }), (k, t) => {
        shot = structuredClone(before)
        tieShot(shot)
        const at = (s: Shot, p: ObjectDoc) => {
          const o = s.objects.find((x) => x.id === p.id) as ObjectDoc
          return project(shotPose(s, t), 16 / 9, apply(worldMatrix(o, t), 0, 0, 0) as Vec3)
        }
        const old = points.map((p) => at(before, p))
        const apart = distanceOf(points[0], points[1], t)
        scaleTracked(shot, [points[0].id, points[1].id], 'camera', k)
        tieShot(shot)
        const next = points.map((p) => at(shot, p))
        next.forEach((p, i) => {
          expect(p?.x).toBeCloseTo(old[i]?.x ?? 9, 7)
          expect(p?.y).toBeCloseTo(old[i]?.y ?? 9, 7)
          expect((p?.depth ?? 0) / k).toBeCloseTo(old[i]?.depth ?? 9, 6)
        })
        const [a, b] = points.map((p) => shot.objects.find((o) => o.id === p.id) as ObjectDoc)
        expect(distanceOf(a, b, t) / apart / k).toBeCloseTo(1, 7)
      }),
      { numRuns: 30 },
    )
  })
  it('of a value goes to its keys, their handles, and what modulators move', () => {
    const keyed = {
      keys: [0, 1].map((t) => ({ t, v: t, ease: 'curve' as const, bend: [0.3, 0.4, 0.6, -0.2] as [number, number, number, number] })),
    }
    for (const t of [0, 0.3, 0.8, 1]) expect(keyedNumber(scaled(keyed, 3), t)).toBeCloseTo(3 * keyedNumber(keyed, t), 9)
    const free = { value: 2, modulators: [] }
    expect(scaled(free, 3)).toEqual({ value: 6, modulators: [] })
  })
})
