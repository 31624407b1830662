import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { compile } from '../../acts/index'
import { demoShot } from '../../acts/testing/shots'
import { nodeKernels } from '../../hosts/node/kernels'
import { loadShot } from '../../hosts/node/shot'
import { encodeDrag, encodeTurbulence, frameMark, type OpWriter, type Plan, type PlanSystem, World } from '..'
import { boxMesh, sphereMesh } from '../testing/meshes'
import { bounce, framesOn, gravity, plan, point, still, system, withWorld } from '../testing/plans'

const swirl = (seed = 3) => ({
  id: 'swirl',
  encode: (w: OpWriter, at: { t0: number }) =>
    encodeTurbulence(w, { carry: false, strength: 5, eddy: 0.7, octaves: 3, phase: at.t0, responseS: 0.1 }, seed),
})
const drag = { id: 'drag', encode: (w: OpWriter) => encodeDrag(w, 0.8) }
/** Births over time, deaths in disorder, forces, two colliders: more than one chunk of particles. */
const busy = (id = 'system', seed = 1): PlanSystem =>
  system({
    id,
    seed,
    life: () => [0.6, 0.4],
    forces: [gravity(), drag, swirl(seed)],
    contacts: [bounce(0.5, 0.2, [0, 1])],
    births: [
      {
        id: `${id}-b`,
        seed: seed * 31,
        due: () => [{ count: 900, at: 0.001, spacing: 0.00002 }],
        params: () => ({ ...point, source: 1, on: 'faces', along: 'normal', spreadTurns: 0.1, speed: 3, speedVary: 2 }),
      },
    ],
  })
const stage = [still(null, true), { ...still(sphereMesh(0.4, 16)), id: 'ball' }]
const marks = async (p: Plan, frames: number, threads: number): Promise<string[]> =>
  withWorld(
    p,
    (w) =>
      Array.from({ length: frames }, () => {
        w.step()
        return frameMark(w.capture())
      }),
    threads,
  )

describe('one result, bit for bit', () => {
  it('at 1, 2 and 4 threads', async () => {
    const one = await marks(plan([busy()], stage), 20, 1)
    expect(new Set(one).size).toBe(20)
    expect(await marks(plan([busy()], stage), 20, 2)).toEqual(one)
    expect(await marks(plan([busy()], stage), 20, 4)).toEqual(one)
  })
  it('of the demo shot at 1 and 3 threads, whole', async () => {
    const { shot, meshes } = await loadShot('demo/anvil-strike/shot.json')
    const { plan: p, problems } = compile(shot, meshes)
    expect(problems).toEqual([])
    const one = await marks(p, 72, 1)
    expect(await marks(p, 72, 3)).toEqual(one)
  })
  it('of a system when another one is added, before or behind it', async () => {
    const own = async (systems: PlanSystem[]) =>
      withWorld(plan(systems, stage), (w) => {
        for (let k = 0; k < 12; k++) w.step()
        const f = w.capture()
        return frameMark({ ...f, parts: f.parts.filter((x) => x.element === 'system') })
      })
    const alone = await own([busy()])
    expect(await own([busy(), busy('other', 9)])).toBe(alone)
    expect(await own([busy('other', 9), busy()])).toBe(alone)
  })
  it('after going on from any saved state', async () => {
    const p = plan([busy()], stage)
    const whole = await marks(p, 16, 1)
    await withWorld(
      p,
      (w) => {
        const saved = []
        for (let k = 0; k < 16; k++) {
          saved.push(w.save())
          w.step()
        }
        for (const at of [11, 3, 7, 0]) {
          w.restore(saved[at])
          for (let k = at; k < 16; k++) {
            w.step()
            expect(frameMark(w.capture())).toBe(whole[k])
          }
        }
      },
      2,
    )
  })
  it('of two Worlds that run side by side, each in its own memory', async () => {
    const p = plan([busy()], stage)
    const whole = await marks(p, 8, 1)
    const a = new World(await nodeKernels(), p, 1 << 28)
    const b = new World(await nodeKernels(), plan([busy('other', 5)], stage), 1 << 28)
    for (let k = 0; k < 8; k++) {
      a.step()
      b.step()
      expect(frameMark(a.capture())).toBe(whole[k])
    }
    a.dispose()
    b.dispose()
  })
  it('with another seed it is another result', async () => {
    expect((await marks(plan([busy()], stage), 3, 1))[2]).not.toBe((await marks(plan([busy('system', 2)], stage), 3, 1))[2])
    const seeded = (seed: number) => compile({ ...demoShot(), seed }, new Map()).plan.systems[0].births[0].seed
    expect(seeded(1)).not.toBe(seeded(2))
  })
  it('of random plans at one and three threads (property)', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.record({
          count: fc.integer({ min: 1, max: 6000 }),
          speed: fc.float({ min: 0, max: 30, noNaN: true }),
          restitution: fc.float({ min: 0, max: 1, noNaN: true }),
          life: fc.float({ min: Math.fround(0.05), max: 2, noNaN: true }),
          seed: fc.integer({ min: 0, max: 0xffffffff }),
          substeps: fc.integer({ min: 1, max: 4 }),
        }),
        async (o) => {
          const p = plan(
            [
              system({
                seed: o.seed,
                burst: o.count,
                life: () => [o.life, o.life / 2],
                birth: { speed: o.speed, spreadTurns: 0.5 },
                forces: [gravity(), swirl(o.seed)],
                contacts: [bounce(o.restitution, 0.1)],
              }),
            ],
            [still(boxMesh([3, 0.2, 3]))],
            { substeps: o.substeps },
          )
          expect(await marks(p, 5, 3)).toEqual(await marks(p, 5, 1))
        },
      ),
      { numRuns: 15, seed: 20261124 },
    )
  })
})

describe('a team', () => {
  it('whose members change from step to step, and from job to job, gives what one thread gives', async () => {
    const p = plan([busy()], stage, { substeps: 3 })
    const alone = await withWorld(p, (w) => frameMark(framesOn(w, 24)))
    const host = await nodeKernels({ threads: 4 })
    const w = new World(host, p, 1 << 28)
    const counts = [1, 4, 2, 3, 4, 1, 0, 9]
    for (let k = 0; k < 24; k++) {
      host.team.limit(counts[k % counts.length])
      w.step()
    }
    expect(frameMark(w.capture())).toBe(alone)
    // Late ones of an earlier job must not take part in the next: many tiny jobs, each with other members.
    const tiny = new World(host, plan([system({ burst: 5000, life: () => [100, 0], forces: [gravity()] })], [], { substeps: 8 }), 1 << 28)
    for (let k = 0; k < 200; k++) {
      host.team.limit(1 + (k % 4))
      tiny.step()
    }
    const much = await withWorld(plan([system({ burst: 5000, life: () => [100, 0], forces: [gravity()] })], [], { substeps: 8 }), (x) =>
      frameMark(framesOn(x, 200)),
    )
    expect(frameMark(tiny.capture())).toBe(much)
    w.dispose()
    tiny.dispose()
    host.team.dispose()
  })
})

describe('memory', () => {
  it('a World gives back all it took, at any time, and twice is once', async () => {
    const host = await nodeKernels({ threads: 2 })
    for (const frames of [0, 1, 9]) {
      const w = new World(host, plan([busy(), busy('other', 4)], stage), 1 << 28)
      for (let k = 0; k < frames; k++) w.step()
      expect(w.heap.usedBytes).toBeGreaterThan(0)
      w.dispose()
      w.dispose()
      expect(w.heap.usedBytes).toBe(0)
    }
    host.team.dispose()
    host.team.dispose()
  })
  it('loading plans over and over takes no more than once', async () => {
    await withWorld(plan([busy()], stage), (w) => {
      for (let k = 0; k < 6; k++) w.step()
      const used = w.heap.usedBytes
      for (let i = 0; i < 20; i++) {
        w.load(plan([busy()], stage))
        for (let k = 0; k < 6; k++) w.step()
      }
      expect(w.heap.usedBytes).toBe(used)
    })
  })
  it('a mesh that is no longer used is given back', async () => {
    await withWorld(plan([busy()], stage), (w) => {
      w.step()
      const used = w.heap.usedBytes
      w.load(plan([system()], []))
      expect(w.heap.usedBytes).toBeLessThan(used / 2)
    })
  })
})
