import { describe, expect, it } from 'vitest'
import type { Frame } from '../engine'
import { column, points } from '../engine/testing/plans'
import type { ActDoc, AnimatedVec3, ForceDoc, ObjectDoc, Shot } from '../shot'
import { checkShot, compile, touchedFrom } from '.'
import { actOf, actsOfSort } from './registry'
import { act, after, quiet } from './testing/quiet'
import { primitive, thing } from './testing/things'

const element = (a: ActDoc, more: Partial<ForceDoc> = {}): ForceDoc => ({
  id: 'force',
  name: 'Force',
  seed: 3,
  act: a,
  reaches: 'all',
  shares: [],
  ...more,
})
const anchor = (id: string, place: ObjectDoc['place'], values: Partial<ObjectDoc> = {}): ObjectDoc => thing(id, { place, ...values })

const mean = (f: Frame, k: 'px' | 'py' | 'pz' | 'vx' | 'vy' | 'vz', part = 0) =>
  column(f, k, part).reduce((a, b) => a + b, 0) / points(f, part).count

describe('forces in a shot', () => {
  it.each(actsOfSort('force').map((a) => a.kind))(
    '%s runs as a card and as an element, with every limit, and stays finite',
    async (kind) => {
      const limits = actsOfSort('limit').map((l) => act(l.kind, 'object' in actOf(l.kind).params ? { object: 'post' } : {}))
      const values = 'object' in actOf(kind).params ? { object: kind === 'path' ? 'way' : 'post' } : {}
      const way = anchor('way', [0, 0, 0], {
        shape: primitive('path', {
          points: [
            [-1, 0, 0],
            [1, 0, 0],
          ],
          mode: 'straight',
          pieces: 1,
        }),
      })
      for (const withLimits of [false, true]) {
        const a = act(kind, { ...values, limits: withLimits ? limits : [] })
        const card = quiet((s) => {
          s.objects = [anchor('post', [0.2, 0.1, 0]), way]
          s.systems[0].whole.movement = [a]
        })
        const placed = quiet((s) => {
          s.objects = [anchor('post', [0.2, 0.1, 0]), way]
          s.forces = [element(a)]
        })
        const [f, g] = [await after(card, 30), await after(placed, 30)]
        expect(f.stats.sparks.alive).toBe(50)
        for (const k of ['px', 'vy'] as const) {
          expect([...column(f, k)].every(Number.isFinite)).toBe(true)
          // The element has a seed of its own, so noise differs; all others are the same force.
          if (kind !== 'turbulence' && kind !== 'wind' && kind !== 'wake' && !withLimits)
            column(f, k).forEach((v, i) => expect(column(g, k)[i]).toBeCloseTo(v, 4))
        }
      }
    },
  )
  it('a force is parented to an object that moves, and acts in the space of a system', async () => {
    const moving: AnimatedVec3 = [
      {
        keys: [
          { t: 0, v: 0.5, ease: 'hold' },
          { t: 1, v: -0.5, ease: 'hold' },
        ],
      },
      0,
      0,
    ]
    const pull = act('attract', { object: 'post', strength: 2, falloff: 'even', reach: 5 })
    const s = quiet((x) => {
      x.objects = [anchor('post', moving)]
      x.systems[0].whole.movement = [pull]
    })
    expect(mean(await after(s, 12), 'vx')).toBeCloseTo(1, 1)
    expect(mean(await after(s, 36), 'vx')).toBeLessThan(1.2)
    // The space is turned a quarter round Y: what is at +X of the shot is at +Z of it.
    const turned = quiet((x) => {
      x.objects = [anchor('post', [3, 0, 0]), anchor('room', [0, 0, 0], { rotate: [0, 90, 0] })]
      x.systems[0].space = 'room'
      x.systems[0].whole.movement = [{ ...pull, object: 'post' }]
    })
    const f = await after(turned, 6)
    expect(Math.abs(mean(f, 'vx'))).toBeLessThan(1e-3)
    expect(mean(f, 'vz')).toBeGreaterThan(0.3)
  })
  it('a velocity volume of a wake flows where the object went, in the box alone, no faster than each axis lets it', async () => {
    const going: AnimatedVec3 = [
      {
        keys: [
          { t: 0, v: -1, ease: 'linear' },
          { t: 1, v: 1, ease: 'linear' },
        ],
      },
      0,
      0,
    ]
    const flowing = (values: object) =>
      after(
        quiet((s) => {
          s.objects = [anchor('post', going)]
          s.forces = [
            element(
              act('carry', {
                made: 'wake',
                mover: 'post',
                drags: 50,
                thickness: 0.5,
                decay: 2,
                strength: 0,
                soft: 0,
                response: 0,
                falloff: 'even',
                ...values,
              }),
            ),
          ]
        }),
        22,
      )
    // Half of 2 m/s at most, wherever in the wake they are by now.
    const all = mean(await flowing({}), 'vx')
    expect(all).toBeGreaterThan(0.7)
    expect(all).toBeLessThan(1.001)
    expect(mean(await flowing({ maxX: 0.25 }), 'vx')).toBeCloseTo(0.25, 4)
    expect(mean(await flowing({ maxY: 0.25 }), 'vx')).toBeCloseTo(all, 4)
    expect(mean(await flowing({ place: [3, 0, 0] }), 'vx')).toBe(0)
    // In a box parented to the post the wake lies behind it, and stays in the shot.
    expect(mean(await flowing({ object: 'post', place: [-0.5, 0, 0] }), 'vx')).toBeCloseTo(all, 1)
    expect(
      compile(
        quiet((s) => void (s.forces = [element(act('carry', { made: 'wake' }))])),
        new Map(),
      ).problems,
    ).toEqual([{ element: 'force', message: 'Velocity volume has no object yet whose wake flows in it: choose one' }])
  })
  it('systems feel their share of it, and those it does not reach nothing', async () => {
    const two = (more: Partial<ForceDoc>) =>
      quiet((s) => {
        const other = structuredClone(s.systems[0])
        s.systems.push({
          ...other,
          id: 'others',
          name: 'Others',
          birth: [{ ...other.birth[0], id: 'b2' }],
          whole: { ...other.whole, look: [] },
          phases: [{ ...other.phases[0], id: 'p2' }],
        })
        s.forces = [element(act('gravity', { strength: 10 }), more)]
      })
    const f = await after(two({ shares: [{ system: 'others', share: 25 }] }), 24)
    expect(mean(f, 'vy', 0)).toBeCloseTo(-10, 1)
    expect(mean(f, 'vy', 1)).toBeCloseTo(-2.5, 1)
    expect(mean(await after(two({ reaches: ['others'] }), 24), 'vy', 0)).toBe(0)
    expect(checkShot(two({ shares: [{ system: 'nobody', share: 25 }] }))).toMatchObject({
      ok: false,
      problems: [{ path: 'forces[0].shares[0].system', message: 'no system has the id nobody' }],
    })
  })
  it('one without what it needs is named at its element, and the run goes on', async () => {
    const s = quiet((x) => {
      x.forces = [element(act('path')), element(act('gravity', { id: 'g', limits: [act('limitObject')] }), { id: 'other', name: 'Other' })]
    })
    const { problems } = compile(s, new Map())
    expect(problems).toEqual([
      { element: 'force', message: 'Follow a path has no path to follow yet: choose one' },
      { element: 'other', message: 'Around an object is limited to an object, and none is chosen' },
    ])
    const f = await after(s, 10)
    expect(f.stats.sparks.alive).toBe(50)
    // Limited to nothing, it does nothing.
    expect(mean(f, 'vy')).toBe(0)
  })
  it('huge and broken numbers take particles out, never the run: the frame has no NaN', async () => {
    for (const a of [
      act('attract', { strength: 1e300, reach: null, falloff: 'even', law: 'square', core: 0 }),
      act('vortex', { around: -1e38, reach: null, falloff: 'even', place: [1e-30, 0, 0] }),
      act('gravity', { strength: 1e308 }),
      act('drag', { halving: 1e-4, square: 1e300 }),
    ]) {
      const f = await after(
        quiet((s) => void (s.systems[0].whole.movement = [a])),
        5,
      )
      for (const k of ['px', 'py', 'pz', 'vx', 'vy', 'vz'] as const) expect([...column(f, k)].every(Number.isFinite), a.kind).toBe(true)
    }
  })
  it('a change of a limit, a share, the mass or the time puts frames out of date from the first birth on; of its name none', () => {
    const base = quiet((s) => {
      s.systems[0].birth[0].at = 1
      s.forces = [element(act('wind', { limits: [act('limitAge')] }))]
    })
    const from = (change: (s: Shot) => void) => {
      const next = structuredClone(base)
      change(next)
      return touchedFrom(base, next)
    }
    const first = from((s) => void (s.forces[0].act.speed = 9))
    expect(first).toBe(25)
    expect(from((s) => void ((s.forces[0].act.limits as ActDoc[])[0].to = 3))).toBe(first)
    expect(from((s) => void (s.forces[0].shares = [{ system: 'sparks', share: 10 }]))).toBe(first)
    expect(from((s) => void (s.systems[0].mass = 2))).toBe(first)
    expect(from((s) => void (s.systems[0].timeScale = 50))).toBe(first)
    expect(from((s) => void (s.forces[0].name = 'Breeze'))).toBeNull()
  })
  it('a wake drags along what the object has passed, less and less; beside it, before it and of one that stands nothing is felt', async () => {
    const goes: AnimatedVec3 = [
      {
        keys: [
          { t: 0, v: -2, ease: 'linear' },
          { t: 2, v: 2, ease: 'linear' },
        ],
      },
      0,
      0,
    ]
    const at = (object: ObjectDoc, place: [number, number, number], frames: number, values: object = {}) =>
      after(
        quiet((s) => {
          s.objects = [object, anchor('here', place)]
          s.systems[0].birth = [act('burst', { count: 1, at: 0, source: 'here', from: 'point', speed: 0, every: null, spread: 0 })]
          s.systems[0].whole.movement = [
            act('wake', {
              object: 'ship',
              strength: 50,
              eddies: 0,
              thickness: 0.5,
              decay: 0.5,
              response: 0.02,
              falloff: 'even',
              ...values,
            }),
          ]
        }),
        frames,
      )
    // The ship passes x = 0 after a second at 2 m/s.
    const passed = await at(anchor('ship', goes), [0, 0.1, 0], 26)
    expect(column(passed, 'vx')[0]).toBeGreaterThan(0.5)
    expect(column(passed, 'vx')[0]).toBeLessThan(1.05)
    expect(column(await at(anchor('ship', goes), [0, 0.1, 0], 12), 'vx')[0]).toBe(0)
    expect(column(await at(anchor('ship', goes), [0, 0.9, 0], 40), 'vx')[0]).toBe(0)
    expect(column(await at(anchor('ship', [0, 0, 0]), [0, 0.1, 0], 40), 'vx')[0]).toBe(0)
    // Eddies lead aside, and only there.
    const swirled = await at(anchor('ship', goes), [0.13, 0.1, 0.07], 34, { strength: 0, eddies: 100 })
    expect(Math.hypot(column(swirled, 'vx')[0], column(swirled, 'vy')[0], column(swirled, 'vz')[0])).toBeGreaterThan(0.05)
    expect(column(await at(anchor('ship', goes), [0, 0.9, 0], 40, { strength: 0, eddies: 100 }), 'vy')[0]).toBe(0)
  })
})

describe('values of each particle', () => {
  it('Mass counts for forces of the shot, and for cards before its own', async () => {
    const wind = element(act('wind', { direction: [1, 0, 0], speed: 3, response: 0.4, gusts: 0, stray: 0 }))
    const gone = (change: (s: Shot) => void) =>
      after(
        quiet((s) => {
          s.forces = [wind]
          change(s)
        }),
        12,
      ).then((f) => mean(f, 'px'))
    const drag = act('drag', { halving: 0.5 })
    const twice = await gone((s) => {
      s.systems[0].mass = 2
      s.systems[0].whole.movement = [drag]
    })
    expect(await gone((s) => (s.systems[0].whole.movement = [drag, act('mass', { factor: 2 })]))).toBe(twice)
    expect(twice).toBeLessThan(0.8 * (await gone((s) => (s.systems[0].whole.movement = [drag]))))
  })
  it('Ageing ends lives earlier by its times, and by half of it at half a share', async () => {
    const left = async (values: Record<string, unknown>, frames: number) =>
      points(
        await after(
          quiet((s) => {
            s.systems[0].life = { value: 1, vary: 0 }
            s.systems[0].whole.movement = [act('ageing', values)]
          }),
          frames,
        ),
      ).count
    // A second of life: a third of it at three times, half of it at twice.
    expect([await left({ factor: 3 }, 7), await left({ factor: 3 }, 10)]).toEqual([50, 0])
    expect([await left({ factor: 3, share: 50 }, 11), await left({ factor: 3, share: 50 }, 14)]).toEqual([50, 0])
  })
  it('Radius says how far apart those lie who meet, inside a box and outside; without the card for meeting it says that it changes nothing', async () => {
    const heap = (more: Partial<Shot['systems'][0]['whole']>) =>
      quiet((s) => {
        s.systems[0].whole = { ...s.systems[0].whole, ...more }
      })
    const wider = act('radius', { factor: 2 })
    const reach = async (movement: ActDoc[]) => {
      const f = await after(heap({ movement, contact: [act('meet', { radius: 0.02 })] }), 12)
      const [x, y, z] = (['px', 'py', 'pz'] as const).map((c) => column(f, c))
      return Math.min(
        ...[...x].flatMap((_, i) =>
          [...x].slice(i + 1).map((_, k) => Math.hypot(x[i] - x[i + 1 + k], y[i] - y[i + 1 + k], z[i] - z[i + 1 + k])),
        ),
      )
    }
    expect(await reach([])).toBeGreaterThan(0.038)
    expect(await reach([])).toBeLessThan(0.06)
    expect(await reach([wider])).toBeGreaterThan(0.076)
    const far = { ...wider, limits: [act('limitPlace', { place: [50, 0, 0], size: [1, 1, 1] })] }
    expect(await reach([far])).toBeCloseTo(await reach([]), 2)
    const said = (shot: Shot) => compile(shot, new Map()).problems.map((p) => p.message)
    expect(said(heap({ movement: [wider] }))).toContainEqual(expect.stringMatching(/Radius changes nothing: .* “Meet each other”/))
    expect(said(heap({ movement: [wider], contact: [act('meet', {})] }))).not.toContainEqual(expect.stringMatching(/Radius/))
  })
})
