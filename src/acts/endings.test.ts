import { describe, expect, it } from 'vitest'
import { apply, encodeBounds, type ForcePlan, invert, pointColumn } from '../engine'
import { column, framesOn, plan, point, points, system, withWorld } from '../engine/testing/plans'
import type { Shot } from '../shot'
import { compile, drawOf, particleLook, touchedFrom, viewPlanes } from '.'
import { demoShot } from './testing/shots'

const ended = (act: Record<string, unknown>, change: (s: Shot) => void = () => {}): Shot => {
  const s = demoShot()
  s.opens = null
  s.systems[0].whole.contact = [{ id: 'e', seed: 1, ...act } as never]
  change(s)
  return s
}
/** What a compiled system's endings let live, of particles that stand still at random places. */
async function left(s: Shot): Promise<{ all: number[][]; lives: number[][] }> {
  const compiled = compile(s, new Map()).plan.systems[0]
  const run = (endings: typeof compiled.endings) =>
    withWorld(
      plan([
        system({
          burst: 4000,
          endings,
          births: [
            {
              id: 'b',
              seed: 3,
              due: (t0) => (t0 === 0 ? [{ count: 4000, at: 0, spacing: 0 }] : []),
              params: () => ({ ...point, spreadTurns: 0.5, speed: 60, speedVary: 59 }),
            },
          ],
          life: () => [10, 0],
        }),
      ]),
      (w) => {
        const f = framesOn(w, 2)
        return Array.from(column(f, 'px'), (x, i) => [x, column(f, 'py')[i], column(f, 'pz')[i]])
      },
    )
  return { all: await run([]), lives: await run(compiled.endings) }
}

describe('endings', () => {
  it('outside the box of an object: those inside live on, as it stands, turns and is scaled', async () => {
    const s = ended({ kind: 'outsideBox', object: 'box', margin: 0.25 }, (d) => {
      d.objects.push({
        ...d.objects[0],
        id: 'box',
        shape: { kind: 'box', width: 2, height: 1, depth: 3 } as never,
        place: [0.5, 1, 0],
        rotate: [0, 30, 0],
        scale: [1, 2, 1],
        reshape: [],
        regions: [],
      })
    })
    const { all, lives } = await left(s)
    const object = compile(s, new Map()).plan.objects.at(-1)
    const into = invert(object?.matrix(0, new Float64Array(12)) as Float64Array) as Float64Array
    const inside = all.filter((p) => {
      const [x, y, z] = apply(into, p[0], p[1], p[2])
      return Math.abs(x) <= 1.25 && Math.abs(y) * 2 <= 1 + 0.25 && Math.abs(z) <= 1.75
    })
    expect(lives.length).toBeGreaterThan(50)
    expect(lives.length).toBeLessThan(3000)
    expect(lives).toEqual(inside)
  })
  it('out of view: what projects into the picture with its margin lives on', async () => {
    const s = ended({ kind: 'unseen', margin: 25 })
    const { all, lives } = await left(s)
    const planes = viewPlanes(s, 0, 1.5)
    expect(lives).toEqual(all.filter((p) => planes.every((q) => q[0] * p[0] + q[1] * p[1] + q[2] * p[2] + q[3] >= -1e-6)))
    expect(lives.length).toBeGreaterThan(20)
    expect(lives.length).toBeLessThan(all.length / 2)
    // The corners of the picture lie on two planes at once.
    const c = s.cameras[0]
    expect(
      viewPlanes(s, 0, 1).every((q) => q[0] * (c.aim[0] as number) + q[1] * (c.aim[1] as number) + q[2] * (c.aim[2] as number) + q[3] > 0),
    ).toBe(true)
  })
  it('nothing to leave, nothing ends; the problem is not one of the run', async () => {
    const { all, lives } = await left(ended({ kind: 'outsideBox', object: null, margin: 0 }))
    expect(lives).toEqual(all)
  })
  it('an endless life goes on behind its length, and ends where something ends it', async () => {
    const s = system({ burst: 10, life: () => [0.1, 0], endless: true, birth: { speed: 1 } })
    await withWorld(plan([s]), (w) => {
      const f = framesOn(w, 24)
      expect(points(f).count).toBe(10)
      expect(column(f, 'age')[0]).toBeCloseTo(1, 4)
      expect(column(f, 'life')[0]).toBeCloseTo(0.1, 5)
    })
    const floor: ForcePlan = { id: 'up', encode: (w) => encodeBounds(w, [[0, -1, 0, 0.5]]) }
    await withWorld(plan([{ ...s, endings: [floor] }]), (w) => expect(points(framesOn(w, 24)).count).toBe(0))
  })
  it('when small: by the size that is drawn, with its ± and its curve', async () => {
    const s = ended({ kind: 'small', size: 0.01 }, (d) => {
      d.systems[0].whole.look.find((a) => a.kind === 'overLife' && Object.assign(a, { size: { value: 0.012, vary: 0.008 } }))
      d.shared.looks[0].size = {
        points: [
          { at: 0, v: 1 },
          { at: 1, v: 0.5 },
        ],
      }
    })
    const compiled = compile(s, new Map()).plan.systems[0]
    const births = [
      { id: 'b', seed: 3, due: (t0: number) => (t0 === 0 ? [{ count: 3000, at: 0, spacing: 0 }] : []), params: () => ({ ...point }) },
    ]
    const run = (endings: typeof compiled.endings) =>
      withWorld(plan([system({ births, endings, life: () => [4, 0] })]), (w) => {
        const f = framesOn(w, 24)
        return { part: points(f), ids: new Set(column(f, 'id')) }
      })
    const all = await run([]),
      lives = await run(compiled.endings)
    const draw = drawOf(s, s.systems[0], 1)
    const [age, life, seed, id] = (['age', 'life', 'seed', 'id'] as const).map((n) => pointColumn(all.part, n))
    let near = 0
    for (let i = 0; i < all.part.count; i++) {
      const size = particleLook(draw, age[i], life[i], seed[i]).size
      // Within a substep of the border either may be right.
      if (Math.abs(size - 0.01) < 1e-4) near++
      else expect(lives.ids.has(id[i]), `size ${size}`).toBe(size > 0.01)
    }
    expect(near).toBeLessThan(100)
    expect(lives.part.count).toBeGreaterThan(500)
    expect(lives.part.count).toBeLessThan(2500)
  })
  it('with an ending by size a changed size or curve is one of the simulation, a changed colour is not', () => {
    const s = ended({ kind: 'small', size: 0.01 })
    const other = structuredClone(s)
    other.shared.looks[0].size = { points: [{ at: 0, v: 2 }] }
    expect(touchedFrom(s, other)).not.toBeNull()
    const red = structuredClone(s)
    red.shared.looks[0].colour.stops[0].colour = [1, 0, 0]
    expect(touchedFrom(s, red)).toBeNull()
  })
})
