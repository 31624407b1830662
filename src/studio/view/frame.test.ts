import { describe, expect, it } from 'vitest'
import type { Pose } from '../../shot'
import { project } from '../../stage/camera'
import { dragged, wheeled } from './frame'

const pose: Pose = { place: [0, 1, 5], aim: [0, 0.5, 0], lens: 35 }
const far = (p: Pose) => Math.hypot(...p.place.map((v, a) => v - p.aim[a]))
const [W, H] = [640, 360]

describe('dragging over a picture', () => {
  it('turns around the aim: back by the same way is where it was, and over the whole width more than half round', () => {
    const there = dragged(pose, 'orbit', 120, -40, W, H)
    expect(far(there)).toBeCloseTo(far(pose), 9)
    expect(there.aim).toEqual(pose.aim)
    dragged(there, 'orbit', -120, 40, W, H).place.forEach((v, a) => expect(v).toBeCloseTo(pose.place[a], 9))
    const round = dragged(pose, 'orbit', W, 0, W, H)
    expect(round.place[1]).toBeCloseTo(pose.place[1], 9)
    expect(Math.hypot(round.place[0] - pose.place[0], round.place[2] - pose.place[2])).toBeGreaterThan(far(pose))
  })
  it('moves sideways with the pointer: what is aimed at goes as many pixels', () => {
    const at = project(dragged(pose, 'pan', 64, 36, W, H), W / H, pose.aim)
    expect(((at?.x ?? 0) * W) / 2).toBeCloseTo(64, 6)
    expect((-(at?.y ?? 0) * H) / 2).toBeCloseTo(36, 6)
  })
  it('comes nearer and goes farther by the wheel, no faster than so much at once', () => {
    expect(far(wheeled(pose, -100))).toBeLessThan(far(pose))
    expect(far(wheeled(wheeled(pose, 100), -100))).toBeCloseTo(far(pose), 9)
    expect(wheeled(pose, 1e6)).toEqual(wheeled(pose, 120))
  })
})
