import { describe, expect, it } from 'vitest'
import { type Frame, frameMark, partOf, pointColumn } from '../engine'
import { framesOn, withWorld } from '../engine/testing/plans'
import { type ActDoc, newId, type Shot } from '../shot'
import { checkShot, compile, touchedFrom } from '.'
import { act, after, quiet } from './testing/quiet'
import { thing } from './testing/things'

const other = (s: Shot, id: string, change: (x: Shot['systems'][number]) => void = () => {}) => {
  const [first] = s.systems
  const x = structuredClone(first)
  x.id = id
  x.name = id
  x.seed = 5
  x.birth = []
  x.whole = { movement: [], contact: [], offspring: [], look: [] }
  x.phases = [{ ...x.phases[0], id: `${id}-phase`, movement: [], contact: [], offspring: [], look: [], turns: [] }]
  x.life = 100
  change(x)
  s.systems.push(x)
}
/** So many that fly along x at 3 m/s, and a system for what they shed. */
const shotOf = (shed: Record<string, unknown>, change: (s: Shot) => void = () => {}, count = 1): Shot =>
  quiet((s) => {
    s.systems[0].birth = [
      act('burst', { count, at: 0, source: null, speed: 3, every: null, spread: 0, along: 'direction', direction: [1, 0, 0] }),
    ]
    s.systems[0].whole.offspring = [act('shed', { to: 'children', speed: 0, inherit: 0, until: null, ...shed })]
    other(s, 'children')
    change(s)
  })
const partOfSystem = (f: Frame, id = 'children') => {
  const part = partOf(f.parts, 'points', id)
  if (!part) throw new Error(`no ${id}`)
  return part
}
const col = (f: Frame, name: 'px' | 'py' | 'pz' | 'vx' | 'vy' | 'vz' | 'age' | 'seed', id?: string) => [
  ...pointColumn(partOfSystem(f, id), name),
]
const spacing = (xs: number[]) =>
  [...xs]
    .sort((a, b) => a - b)
    .map((x, i, all) => (i ? x - all[i - 1] : 0))
    .slice(1)

describe('shed along the way', () => {
  it('lies evenly, by the metre', async () => {
    const f = await after(shotOf({ each: 'metre', rate: 40 }), 24)
    const xs = col(f, 'px')
    expect(xs.length).toBeGreaterThanOrEqual(119)
    expect(xs.length).toBeLessThanOrEqual(121)
    for (const d of spacing(xs)) expect(d).toBeCloseTo(1 / 40, 4)
    expect(Math.max(...xs)).toBeLessThanOrEqual(3)
  })
  it('on a circle of three metres a substep, too', async () => {
    const radius = 20
    const f = await after(
      shotOf({ each: 'metre', rate: 2 }, (s) => {
        s.substeps = 1
        s.systems[0].birth = [
          act('burst', {
            count: 1,
            at: 0,
            source: 'start',
            from: 'point',
            speed: 72,
            every: null,
            spread: 0,
            along: 'direction',
            direction: [0, 0, -1],
          }),
        ]
        s.objects = [thing('start', { shape: { kind: 'anchor' }, place: [radius, 0, 0], roles: { source: true, collider: false } })]
        s.systems[0].whole.movement = [
          act('vortex', { mode: 'carry', object: null, around: 72, pull: 0, lift: 0, reach: null, falloff: 'even', response: 0 }),
        ]
      }),
      30,
    )
    const [x, z] = [col(f, 'px'), col(f, 'pz')]
    // Whatever way the vortex leads: their distance from each other along it.
    const steps = x.slice(1).map((v, i) => Math.hypot(v - x[i], z[i + 1] - z[i]))
    const mean = steps.reduce((a, b) => a + b, 0) / steps.length
    expect(mean).toBeCloseTo(0.5, 1)
    for (const d of steps) expect(Math.abs(d / mean - 1)).toBeLessThan(0.06)
  })
  it('by the second, of so many particles, whatever their speed', async () => {
    const f = await after(
      shotOf({ each: 'second', rate: 30 }, () => {}, 50),
      24,
    )
    expect(Math.abs(partOfSystem(f).count - 30 * 50)).toBeLessThanOrEqual(50)
    // Each at its own moment: not in step with frames.
    const ages = col(f, 'age').map((a) => (a * 24) % 1)
    expect(new Set(ages.map((a) => a.toFixed(3))).size).toBeGreaterThan(200)
  })
  it('only in a window of its life, from a share of them', async () => {
    const f = await after(shotOf({ each: 'second', rate: 100, from: 0.25, until: 0.5 }), 24)
    expect(Math.abs(partOfSystem(f).count - 25)).toBeLessThanOrEqual(1)
    expect(Math.min(...col(f, 'px'))).toBeGreaterThan(0.74)
    expect(Math.max(...col(f, 'px'))).toBeLessThan(1.51)
    const some = await after(
      shotOf({ each: 'second', rate: 24, share: 30 }, () => {}, 1000),
      24,
    )
    expect(Math.abs(partOfSystem(some).count / 24 - 300)).toBeLessThan(4 * Math.sqrt(1000 * 0.3 * 0.7) + 30)
  })
  it('takes over a share of the velocity and goes on from the path', async () => {
    const f = await after(shotOf({ each: 'second', rate: 50, inherit: 50, speed: 2, along: 'motion', spread: 0 }), 24)
    for (const v of col(f, 'vx')) expect(v).toBeCloseTo(0.5 * 3 + 2, 4)
    // x = 3 t at birth, then 3.5 m/s with its own age; it is born a substep late (docs/engine/offspring.md).
    const [xs, ages] = [col(f, 'px'), col(f, 'age')]
    const lag = 1 / 24 / 2
    xs.forEach((x, i) => {
      const born = 1 - Math.max(0, ages[i]) - lag
      if (ages[i] > 0) expect(x).toBeCloseTo(3 * born + 3.5 * ages[i], 3)
    })
  })
})
describe('how what is shed lies', () => {
  const lying = async (lies: string, change: (s: Shot) => void = () => {}) => {
    const f = await after(
      shotOf({ each: 'metre', rate: 20, lies }, (s) => {
        const spin = () => ({ ...act('spin', { speed: 0 }), id: newId('spin') })
        s.systems[0].whole.movement = [spin()]
        s.systems[1].whole.movement = [spin()]
        change(s)
      }),
      12,
    )
    const of = (id: string) => {
      const part = partOfSystem(f, id)
      const q = (['qx', 'qy', 'qz', 'qw'] as const).map((n) => pointColumn(part, n))
      return Array.from({ length: part.count }, (_, i) => q.map((c) => c[i]))
    }
    return { parent: of('sparks')[0], children: of('children') }
  }
  /** The same orientation: a quaternion and its negative are one. */
  const alike = (a: number[], b: number[]) => Math.abs(a.reduce((sum, x, k) => sum + x * b[k], 0))
  it('is as chance has it, or as its parent lies', async () => {
    const own = await lying('own')
    expect(own.children.length).toBeGreaterThan(20)
    expect(own.children.filter((q) => alike(q, own.parent) > 0.99).length).toBeLessThan(3)
    const { parent, children } = await lying('parent')
    expect(children.length).toBe(own.children.length)
    for (const q of children) expect(alike(q, parent)).toBeCloseTo(1, 5)
  })
  it('also in a system that is in the space of a turned object', async () => {
    const turned = await lying('parent', (s) => {
      s.objects = [thing('frame', { rotate: [0, 90, 0], scale: [2, 2, 2] })]
      s.systems[1].space = 'frame'
    })
    // From the shot into the frame: a quarter back about Y.
    const h = Math.SQRT1_2
    const [x, y, z, w] = turned.parent
    const seen = [h * x - h * z, h * y - h * w, h * z + h * x, h * w + h * y]
    for (const q of turned.children) expect(alike(q, seen)).toBeCloseTo(1, 4)
  })
})
describe('shed at a moment', () => {
  const floor = (s: Shot) => {
    s.objects = [
      thing('floor', { shape: { kind: 'plane', size: 10, endless: true }, place: [0, -0.5, 0], roles: { source: false, collider: true } }),
    ]
    s.systems[0].whole.contact = [act('bounce', { with: null, restitution: 100, friction: 0, passes: 0 })]
    s.systems[0].birth[0].direction = [0.6, -0.8, 0]
    s.systems[0].birth[0].speed = 5
  }
  it('where it hits, as many as asked, each time', async () => {
    const f = await after(shotOf({ each: 'contact', count: 6, hard: 1 }, floor), 24)
    expect(partOfSystem(f).count).toBe(6)
    for (const x of col(f, 'px')) expect(x).toBeCloseTo(0.375, 3)
    for (const y of col(f, 'py')) expect(y).toBeCloseTo(-0.5, 3)
    expect(partOfSystem(await after(shotOf({ each: 'contact', count: 6, hard: 4.5 }, floor), 24)).count).toBe(0)
    expect(partOfSystem(await after(shotOf({ each: 'contact', count: 6, object: 'floor' }, floor), 24)).count).toBe(6)
  })
  it('off what it hit', async () => {
    const f = await after(shotOf({ each: 'contact', count: 6, along: 'normal', spread: 0, speed: 2 }, floor), 24)
    for (const v of col(f, 'vy')) expect(v).toBeCloseTo(2, 3)
    for (const v of col(f, 'vx')) expect(v).toBeCloseTo(0, 3)
  })
  it('at its end, where and when that was', async () => {
    const dying = (s: Shot) => {
      s.systems[0].life = { value: 0.49, vary: 0 }
    }
    const f = await after(shotOf({ each: 'end', count: { value: 40, vary: 20 } }, dying, 30), 14)
    expect(partOfSystem(f).count).toBeGreaterThan(30 * 40 * 0.8)
    expect(partOfSystem(f).count).toBeLessThan(30 * 40 * 1.2)
    for (const x of col(f, 'px')) expect(x).toBeCloseTo(0.49 * 3, 4)
    const age = 14 / 24 - 0.49 - 1 / 48
    for (const a of col(f, 'age')) expect(a).toBeCloseTo(age, 4)
  })
  it('at its end on a collider', async () => {
    const f = await after(
      shotOf({ each: 'end', count: 5 }, (s) => {
        floor(s)
        s.systems[0].whole.contact = [act('die', { with: null, passes: 0 })]
      }),
      24,
    )
    expect(partOfSystem(f).count).toBe(5)
    for (const y of col(f, 'py')) expect(y).toBeCloseTo(-0.5, 3)
  })
  it('at a turn to another phase, into one of its own phases', async () => {
    const shot = quiet((s) => {
      const [system] = s.systems
      system.birth = [act('burst', { count: 20, at: 0, source: null, speed: 0, every: null })]
      system.phases = [
        { ...system.phases[0], turns: [act('turnTo', { to: 'second', life: null, when: [act('whenInPhase', { after: 0.25 })] })] },
        { ...system.phases[0], id: 'second', name: 'Second', turns: [] },
        { ...system.phases[0], id: 'third', name: 'Third', turns: [] },
      ]
      system.whole.offspring = [act('shed', { each: 'turn', count: 3, into: 'phase', phase: 'third', speed: 1 })]
    })
    const f = await after(shot, 12)
    expect(f.stats[shot.systems[0].id].phases).toEqual([0, 20, 60])
  })
})
describe('what is shed sheds in turn', () => {
  /** Two systems whose ends shed into each other. */
  const pair = (generations: number) =>
    shotOf({ each: 'end', count: 2, speed: 1, generations }, (s) => {
      s.systems[0].life = { value: 0.1, vary: 0 }
      s.systems[1].life = { value: 0.1, vary: 0 }
      s.systems[1].whole.offspring = [
        { ...act('shed', { each: 'end', count: 2, to: s.systems[0].id, speed: 1, until: null, generations }), id: newId('shed') },
      ]
    })
  it('up to a number of generations', async () => {
    const born = async (generations: number) => {
      const { plan } = compile(checked(pair(generations)), new Map())
      return withWorld(plan, (w) => {
        let sum = 0
        for (let k = 0; k < 48; k++) {
          const f = framesOn(w, 1)
          sum += Object.values(f.stats).reduce((n, x) => n + x.born, 0)
        }
        return sum
      })
    }
    expect(await born(1)).toBe(1 + 2)
    expect(await born(4)).toBe(1 + 2 + 4 + 8 + 16)
  })
  it('a count without sense is named, not made', async () => {
    const f = await after(shotOf({ each: 'second', rate: 1e9 }), 2)
    expect(f.notices.map((n) => n.message).join('\n')).toMatch(
      /Shed of Sparks: [\d,]{8,} births in one substep, of which it makes 200,000; a tenth of the rate/,
    )
  })
})
const checked = (s: Shot): Shot => {
  const c = checkShot(s)
  if (!c.ok) throw new Error(JSON.stringify(c.problems))
  return c.shot
}
describe('one result', () => {
  const busy = () =>
    shotOf(
      { each: 'metre', rate: 60, speed: { value: 1, vary: 0.5 }, inherit: 30 },
      (s) => {
        s.systems[0].life = { value: 0.4, vary: 0.3 }
        s.systems[0].whole.movement = [act('gravity')]
        s.systems[0].whole.offspring.push({
          ...act('shed', { each: 'end', count: 9, to: 'children', speed: 2, until: null }),
          id: newId('shed'),
        })
        s.systems[1].life = { value: 0.3, vary: 0.2 }
        s.systems[1].whole.movement = [{ ...act('drag'), id: newId('drag') }]
        s.systems[1].whole.offspring = [{ ...act('trail', { seconds: 0.2 }), id: newId('trail') }]
      },
      200,
    )
  it('at 1 and 3 threads, from any saved state, and beside another system', async () => {
    const shot = checked(busy())
    const { plan } = compile(shot, new Map())
    const marks = (threads: number, p = plan) =>
      withWorld(p, (w) => Array.from({ length: 12 }, () => frameMark(ownOf(framesOn(w, 1)))), threads)
    const ownOf = (f: Frame): Frame => ({ ...f, parts: f.parts.filter((x) => x.element !== 'stranger') })
    const one = await marks(1)
    expect(new Set(one).size).toBe(12)
    expect(await marks(3)).toEqual(one)
    await withWorld(plan, (w) => {
      const saved = Array.from({ length: 12 }, () => {
        const s = w.save()
        w.step()
        return s
      })
      for (const k of [11, 2, 7]) {
        w.restore(saved[k])
        expect(frameMark(framesOn(w, 1))).toBe(one[k])
      }
    })
    const more = structuredClone(shot)
    other(more, 'stranger', (x) => {
      x.birth = [{ ...act('steady', { source: null, rate: 500 }), id: newId('steady') } as ActDoc]
    })
    expect(await marks(1, compile(checked(more), new Map()).plan)).toEqual(one)
  })
  it('no two of what one sheds are alike', async () => {
    const seeds = col(await after(busy(), 8), 'seed')
    expect(new Set(seeds).size).toBe(seeds.length)
  })
})
describe('what it leads to', () => {
  it('may be gone, muted or nowhere yet', async () => {
    expect(compile(shotOf({ to: null }), new Map()).plan.systems[0].sheds).toEqual([])
    expect(
      compile(
        shotOf({}, (s) => void (s.systems[1].muted = true)),
        new Map(),
      ).plan.systems[0].sheds,
    ).toEqual([])
    const lost = checkShot(shotOf({ into: 'phase', phase: 'nobody' }))
    expect(lost.ok ? '' : lost.problems[0].message).toMatch(/no phase of this system has the id nobody/)
    const gone = checkShot(shotOf({ to: 'nobody' }))
    expect(gone.ok ? '' : gone.problems[0].message).toMatch(/no system has the id nobody/)
  })
  it('is simulated again when what is shed, or what becomes of it, changes', () => {
    const a = shotOf({})
    const changed = (change: (s: Shot) => void) => {
      const s = structuredClone(a)
      change(s)
      return touchedFrom(a, s)
    }
    expect(changed((s) => void (s.systems[0].whole.offspring[0].rate = 7))).toBe(1)
    expect(changed((s) => void s.systems[1].whole.movement.push(act('gravity')))).not.toBeNull()
    expect(changed((s) => void (s.systems[1].life = 3))).not.toBeNull()
    // Another target is another column of both from their own first births on, however late the one that sheds begins.
    const late = shotOf({}, (s) => {
      s.systems[0].birth[0].at = 1
      other(s, 'elsewhere', (x) => void (x.birth = [{ ...act('steady', { source: null, start: 0 }), id: 'early' }]))
    })
    const elsewhere = structuredClone(late)
    elsewhere.systems[0].whole.offspring[0].to = 'elsewhere'
    expect(touchedFrom(late, elsewhere)).toBe(1)
  })
})
