import { describe, expect, it } from 'vitest'
import {
  type ContactPlan,
  encodeFlock,
  encodeGravity,
  frameMark,
  identity,
  type Plan,
  type PlanBody,
  type PlanSystem,
  Poses,
  particleStateOf,
  partsOf,
  TOUCH_COLUMNS,
  World,
} from '..'
import { boxMesh } from '../testing/meshes'
import { bounce, framesOn, gravity, plan, still, system, withWorld } from '../testing/plans'

const flocking: PlanSystem = system({
  id: 'flock',
  burst: 300,
  birth: { speed: 2, spreadTurns: 0.5 },
  forces: [
    {
      id: 'together',
      encode: (w, at) => encodeFlock(w, { radius: 0.5, room: 0.1, cosView: -1, apart: 4, align: 2, together: 1, dt: at.dt }),
    },
  ],
})
const falling: PlanSystem = system({
  id: 'falling',
  burst: 500,
  birth: { speed: 3, spreadTurns: 0.5 },
  forces: [gravity()],
  contacts: [bounce(0.4, 0, [0, 1])],
})
const silent: ContactPlan = { ...bounce(0.5), colliders: [0] }
const body: PlanBody = {
  object: 1,
  at: 0.1,
  middle: [0, 0, 0],
  velocity: [1, 2, 0],
  spin: [0, 0, 3],
  inherit: 0,
  contact: () => ({ friction: 0.2, rolling: 0, restitution: 0.5 }),
  system: {
    ...system({ id: 'crate', forces: [{ id: 'g', encode: (w) => encodeGravity(w, [0, -9.81, 0]) }] }),
    births: [],
    limit: 1,
    contacts: [silent],
    ball: () => 0.1,
    extraColumns: TOUCH_COLUMNS,
  },
}
const poses = new Poses()
const crate = {
  ...still(boxMesh([0.2, 0.2, 0.2])),
  id: 'crate',
  matrix: (t: number, out: Float64Array) => poses.at('crate', t) ?? identity(out),
}
const whole = (o: Partial<Plan> = {}): Plan =>
  plan([flocking, falling], [{ ...still(null, true), id: 'floor' }, crate], { bodies: [body], poses, ...o })

describe('a World', () => {
  it('knows whose every byte of its memory is, and gives all back', async () => {
    await withWorld(whole(), (w) => {
      framesOn(w, 6)
      const by = w.bytesBy
      expect(Object.values(by).reduce((a, b) => a + b, 0)).toBe(w.usedBytes)
      for (const id of ['flock', 'falling', 'crate', 'objects', 'scratch', 'neighbourhood of systems'])
        expect(by[id], id).toBeGreaterThan(0)
      // Six hundred bytes of columns a particle and more: the larger system holds more.
      expect(by.flock).toBeGreaterThan(300 * 17 * 4)
      w.dispose()
      w.dispose()
      expect(w.usedBytes).toBe(0)
    })
  })
  it('keys its states by solver, and goes on from them exactly, on another plan of the same solvers too', async () => {
    await withWorld(whole(), async (w) => {
      framesOn(w, 5)
      const here = w.save()
      expect(Object.keys(here.states).sort()).toEqual(
        ['crate', 'falling', 'flock', 'neighbourhood of systems', 'neighbourhood of thrown objects'].sort(),
      )
      const after = frameMark(framesOn(w, 5))
      w.load(whole())
      expect(w.canRestore(here)).toBe(true)
      w.restore(here)
      expect(frameMark(framesOn(w, 5))).toBe(after)
      w.load(plan([flocking]))
      expect(w.canRestore(here)).toBe(false)
      w.load(plan([flocking, falling, system({ id: 'new' })], whole().objects as never))
      expect(() => w.restore(here)).toThrow('the snapshot has no state of new')
    })
  })
  it('gives parts of several kinds: points of systems, places of thrown objects from when they are released', async () => {
    await withWorld(whole(), (w) => {
      expect(framesOn(w, 2).parts.map((p) => p.kind)).toEqual(['points', 'points'])
      const f = framesOn(w, 8)
      expect(partsOf(f.parts, 'points').map((p) => p.element)).toEqual(['flock', 'falling'])
      expect(partsOf(f.parts, 'place').map((p) => p.element)).toEqual(['crate'])
      expect(Object.keys(f.stats)).toEqual(['flock', 'falling'])
    })
  })
  it('lets a system be looked at without going on', async () => {
    await withWorld(whole(), (w) => {
      framesOn(w, 4)
      const before = particleStateOf(w.save(), 'flock').words
      expect(w.examine('flock', (s) => [s.id, s.count, s.marks.map((m) => m.id)])).toEqual(['flock', 300, ['together']])
      expect(w.examine('crate', () => 1)).toBeNull()
      expect(particleStateOf(w.save(), 'flock').words).toEqual(before)
      expect(w.frame).toBe(4)
    })
  })
  it('runs nothing when there is nothing', async () => {
    await withWorld(plan([]), (w) => {
      expect(framesOn(w, 3)).toMatchObject({ frame: 3, parts: [], stats: {}, notices: [] })
      expect(w instanceof World && w.save().states).toEqual({})
    })
  })
})
