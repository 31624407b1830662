import { describe, expect, it } from 'vitest'
import { demoShot } from '../acts/testing/shots'
import { type Frame, type Part, POINT_COLUMNS, type PointColumn, type PointsPart, pointColumn } from '../engine'
import { besideFrame } from './besideFrame'

const points = (element: string, phases: number[], more?: PointColumn[]): PointsPart => {
  const count = phases.length
  const part: PointsPart = {
    kind: 'points',
    element,
    count,
    more,
    data: new ArrayBuffer((POINT_COLUMNS.length + (more?.length ?? 0)) * count * 4),
  }
  pointColumn(part, 'phase').set(phases)
  return part
}
const frame = (parts: Part[]): Frame => ({ frame: 7, parts, stats: {}, notices: [], ms: 0 })
const shot = demoShot()
const [{ id }] = shot.systems
const phasesOf = (p: Part) => (p.kind === 'points' ? [...pointColumn(p, 'phase')] : null)

describe('a frame of a bake beside the shot as it is now', () => {
  it('lacks elements that are gone, and is as it was baked otherwise', () => {
    const baked = frame([points('gone', [0]), points(id, [0, 0])])
    const made = besideFrame(baked, frame([points(id, [0])]), shot, [])
    expect(made.parts).toEqual([baked.parts[1]])
    expect(made.parts[0]).toBe(baked.parts[1])
  })
  it('shows particles of phases that are gone as those of the last, and leaves the bake as it is', () => {
    const last = shot.systems[0].phases.length - 1
    const baked = frame([points(id, [last + 3, 0])])
    const made = besideFrame(baked, frame([points(id, [0])]), shot, [])
    expect(phasesOf(made.parts[0])).toEqual([last, 0])
    expect(phasesOf(baked.parts[0])).toEqual([last + 3, 0])
  })
  it('lacks what keeps less than its looks now ask for', () => {
    const now = frame([points(id, [0], ['tint'])])
    expect(besideFrame(frame([points(id, [0])]), now, shot, []).parts).toEqual([])
    expect(besideFrame(frame([points(id, [0, 0], ['tint'])]), now, shot, []).parts).toHaveLength(1)
  })
  it('takes what was not baked from the shot', () => {
    const second = { ...structuredClone(shot.systems[0]), id: 'second' }
    const two = { ...shot, systems: [...shot.systems, second] }
    const now = frame([points(id, [0]), points('second', [0])])
    const baked = frame([points('second', [0, 0, 0])])
    expect(besideFrame(baked, now, two, ['second']).parts).toEqual([now.parts[0], baked.parts[0]])
  })
})
