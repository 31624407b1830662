import { describe, expect, it } from 'vitest'
import { OPS, OpWriter, type StepTime } from '../engine'
import { boxMesh } from '../engine/testing/meshes'
import type { Shot } from '../shot'
import { compile, meshOf, worldMatrix } from '.'
import { demoShot } from './testing/shots'

const at: StepTime = { t0: 0, t1: 1 / 48, dt: 1 / 48 }
const meshesOf = (s: Shot) => new Map(s.assets.map((a) => [a.hash, boxMesh()]))
const built = (change: (s: Shot) => void = () => {}) => {
  const shot = demoShot()
  change(shot)
  const meshes = meshesOf(shot)
  return { shot, meshes, ...compile(shot, meshes) }
}

describe('a compiled shot', () => {
  it('keeps rate, range, substeps, and resolves ids to places in the lists', () => {
    const { plan, shot } = built()
    expect(plan).toMatchObject({ rate: { num: 24, den: 1 }, first: 0, last: 72, substeps: 2 })
    expect(plan.objects.map((o) => o.id)).toEqual(shot.objects.map((o) => o.id))
    expect(plan.systems[0].births.map((b) => b.params(0).source)).toEqual([0, 0])
    expect(plan.systems[0].contacts[0].colliders).toEqual([0, 1, 2, 3])
  })
  it('samples life, births and contacts at their time, in the units of the engine', () => {
    const { plan } = built((s) => {
      s.systems[0].life = {
        value: {
          keys: [
            { t: 0, v: 1, ease: 'linear' },
            { t: 2, v: 3, ease: 'hold' },
          ],
        },
        vary: 0.5,
      }
      s.systems[0].birth[0].spread = 90
      s.systems[0].birth[0].inherit = 50
      s.systems[0].whole.contact[0].restitution = { value: 40, vary: 10 }
    })
    expect(plan.systems[0].life(1)).toEqual([2, 0.5])
    expect(plan.systems[0].births[0].params(0)).toMatchObject({ spreadTurns: 0.25, inherit: 0.5 })
    expect(plan.systems[0].contacts[0].params(0)).toMatchObject({ restitution: 0.4, restitutionVary: 0.1 })
  })
  it('leaves out what is muted: acts, systems, objects, forces', () => {
    const forces = (change: (s: Shot) => void) => built(change).plan.systems[0].forces.length
    expect(forces(() => {})).toBe(4)
    expect(forces((s) => void (s.systems[0].whole.movement[0].muted = true))).toBe(3)
    const muted = built((s) => {
      s.systems[0].muted = true
      s.objects[1].muted = true
    })
    expect(muted.plan.systems[0].births).toEqual([])
    expect(muted.plan.objects[1].mesh).toBeNull()
    expect(muted.plan.systems[0].contacts[0].colliders).toEqual([0, 2, 3])
  })
  it('puts forces of the shot first, on the systems they reach', () => {
    const wind = {
      id: 'pull',
      name: 'Pull',
      seed: 1,
      reaches: 'all' as const,
      shares: [],
      act: { id: 'pull-act', kind: 'gravity', seed: 2, strength: 1, direction: [1, 0, 0], share: 100 },
    }
    expect(built((s) => void s.forces.push(wind)).plan.systems[0].forces.map((f) => f.id)).toEqual([
      'pull-act',
      'fall',
      'air',
      'draught',
      'swirl',
    ])
    expect(built((s) => void s.forces.push({ ...wind, reaches: ['other'], shares: [] })).plan.systems[0].forces).toHaveLength(4)
    expect(built((s) => void s.forces.push({ ...wind, muted: true })).plan.systems[0].forces).toHaveLength(4)
    expect(built((s) => void s.forces.push({ ...wind, act: { ...wind.act, muted: true } })).plan.systems[0].forces).toHaveLength(4)
  })
  it('writes every force as one op of its own size', () => {
    const w = new OpWriter()
    for (const f of built().plan.systems[0].forces) f.encode(w, at)
    expect(w.count).toBe(4)
    const names: (string | undefined)[] = []
    for (let o = 0; o < w.words.length; o += w.words[o + 1] / 4) names.push(OPS.find((op) => op.code === w.words[o])?.name)
    expect(names).toEqual(['gravity', 'drag', 'wind', 'turbulence'])
  })
  it('says what is missing: a mesh, a part, a muted source', () => {
    const shot = demoShot()
    expect(compile(shot, new Map()).problems.map((p) => p.message)).toContain('the mesh of Anvil is missing; bring its file in again')
    const part = built((s) => void (s.systems[0].birth[0].part = 'Lid')).problems
    expect(part.map((p) => [p.element, p.message])).toContainEqual([
      'sparks',
      'Burst of Sparks starts on the part “Lid”, which Anvil does not have; it starts on all of it',
    ])
    const source = built((s) => void (s.objects[0].muted = true))
    expect(source.problems.some((p) => p.message === 'the source Anvil of Sparks is muted; its births wait')).toBe(true)
    expect(source.plan.systems[0].births[0].due(0.2, 0.3)).toEqual([])
  })
  it('gives every act a seed from its own, its element’s and the shot’s', () => {
    const seeds = (change: (s: Shot) => void) => built(change).plan.systems[0].births.map((b) => b.seed)
    const base = seeds(() => {})
    expect(new Set(base).size).toBe(2)
    expect(seeds((s) => void (s.seed = 5))[0]).not.toBe(base[0])
    expect(seeds((s) => void (s.systems[0].seed = 5))[0]).not.toBe(base[0])
    const one = seeds((s) => void (s.systems[0].birth[0].seed = 5))
    expect(one[0]).not.toBe(base[0])
    expect(one[1]).toBe(base[1])
    expect(seeds((s) => void (s.name = 'other'))).toEqual(base)
  })
  it('uses one mesh for planes of one size, so that a World need not build it again', () => {
    const { shot, meshes } = built()
    expect(meshOf(shot.objects[2], meshes)).toBe(meshOf(structuredClone(shot.objects[2]), meshes))
    expect(meshOf({ ...shot.objects[2], shape: { kind: 'anchor' } }, meshes)).toBeNull()
  })
  it('moves objects by their keys', () => {
    const shot = demoShot()
    shot.objects[0].place = [
      {
        keys: [
          { t: 0, v: 0, ease: 'linear' },
          { t: 2, v: 4, ease: 'linear' },
        ],
      },
      0,
      0,
    ]
    expect(worldMatrix(shot.objects[0], 1)[3]).toBe(2)
  })
})

describe('a birth whose window misses the movement of its source', () => {
  const moved = (
    start: number,
    end: number | null,
    keys = [
      { t: 1, v: 0, ease: 'linear' },
      { t: 2, v: 3, ease: 'linear' },
      { t: 3, v: 3, ease: 'linear' },
    ],
  ) =>
    built((s) => {
      s.objects[0].place = [{ keys } as never, 0, 0]
      s.systems[0].birth = s.systems[0].birth.filter((b) => b.kind === 'steady').map((b) => ({ ...b, source: s.objects[0].id, start, end }))
    })
      .problems.map((p) => p.message)
      .filter((m) => /move/.test(m))
  it('is named on its system, with both frames', () => {
    expect(moved(0, 0.5)).toEqual([expect.stringMatching(/ends at 12 f, before Anvil starts to move at 24 f/)])
    expect(moved(2.5, null)).toEqual([expect.stringMatching(/begins at 60 f, after Anvil has stopped at 48 f/)])
  })
  it('is not when they overlap, or nothing moves', () => {
    expect(moved(0, null)).toEqual([])
    expect(moved(1.9, 2.5)).toEqual([])
    expect(
      moved(0, 0.5, [
        { t: 1, v: 2, ease: 'linear' },
        { t: 2, v: 2, ease: 'linear' },
      ]),
    ).toEqual([])
  })
})
