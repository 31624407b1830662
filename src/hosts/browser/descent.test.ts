import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { checkShot, compile } from '../../acts'
import { act, quiet } from '../../acts/testing/quiet'
import { type KernelHost, particleStateOf, partOf, pointColumn, Run } from '../../engine'
import { given } from '../../engine/testing/plans'
import { WORLD_BYTES } from '../../machines/instantiate'
import type { Question } from '../../protocol'
import type { ActDoc, Shot } from '../../shot'
import { nodeKernels } from '../node/kernels'
import { answerTo } from './inquiry'

let host: KernelHost
const runs: Run[] = []
beforeAll(async () => {
  host = await nodeKernels({ threads: 1 })
})
afterAll(() => {
  for (const r of runs) r.dispose()
  host.team.dispose()
})
/** Runs a shot to its end and asks about it. */
function running(s: Shot, last: number) {
  s.range = { first: 0, last }
  const checked = checkShot(s)
  if (!checked.ok) throw new Error(JSON.stringify(checked.problems))
  const shot = checked.shot
  const run = new Run(host, compile(shot, new Map()).plan, { historyBytes: 1 << 28, worldBytes: WORLD_BYTES, now: () => performance.now() })
  runs.push(run)
  for (let f = run.missing(); f !== null; f = run.missing()) run.towards(f)
  return { run, ask: <const Q extends Question>(q: Q) => answerTo(q, run, shot, new Map()) }
}
const fly = (count: number): ActDoc[] => [
  act('burst', { count, at: 0, source: null, speed: 3, every: null, spread: 0, along: 'direction', direction: [1, 0, 0] }),
]
/** So many that fly and shed along their way; how long they and what they shed live, s. */
const shedding = (count: number, life: number, childLife: number): Shot =>
  quiet((s) => {
    s.systems[0].birth = fly(count)
    s.systems[0].life = life
    const x = structuredClone(s.systems[0])
    Object.assign(x, { id: 'children', name: 'children', birth: [], life: childLife })
    x.whole = { movement: [], contact: [], offspring: [], look: [] }
    s.systems[0].whole.offspring = [act('shed', { to: 'children', each: 'metre', rate: 20, speed: 0, until: null })]
    s.systems.push(x)
  })
const later = (id: string, kind: string, values: Record<string, unknown>): ActDoc => ({ ...act(kind, values), id })
const phases = (s: Shot, turns: ActDoc[]) => {
  const [first] = s.systems[0].phases
  s.systems[0].phases = [
    { ...first, id: 'rises', name: 'Rises', turns },
    { ...first, id: 'falls', name: 'Falls', movement: [], contact: [], offspring: [], turns: [] },
  ]
}

describe('where a particle comes from, and what it leaves', () => {
  it('those that are shed know their parent, also in their own system, and a parent its children', () => {
    const { run, ask } = running(
      quiet((s) => {
        s.systems[0].birth = fly(3)
        s.systems[0].limit = 5000
        const x = structuredClone(s.systems[0])
        Object.assign(x, { id: 'children', name: 'children', birth: [], life: 100 })
        x.whole = { movement: [], contact: [], offspring: [], look: [] }
        s.systems[0].whole.offspring = [
          act('shed', { to: 'children', each: 'metre', rate: 20, speed: 0, until: null }),
          later('own', 'shed', { into: 'phase', phase: s.systems[0].phases[0].id, each: 'metre', rate: 2, until: null, generations: 1 }),
          later('trail', 'trail', { seconds: 0.4 }),
        ]
        s.systems.push(x)
      }),
      20,
    )
    const frame = run.history.get(20)?.frame
    const all = partOf(frame?.parts, 'points', 'children')
    if (!all) throw new Error('no children')
    const about = (system: string, id: number) => ask({ what: 'particle', system, id, frame: 20 })
    const ids = [...pointColumn(all, 'id')]
    const parents = ids.map((id) => about('children', id).parent)
    expect(new Set(parents.map((p) => p?.system))).toEqual(new Set(['sparks']))
    const mine = ids.filter((_, i) => parents[i]?.id === 1)
    expect(mine.length).toBeGreaterThan(40)
    const first = about('sparks', 1)
    expect(first.parent).toBeNull()
    const [own, others] = ['sparks', 'children'].map((id) => first.children.find((c) => c.system === id))
    expect(others).toEqual({ system: 'children', count: mine.length, ids: mine.slice(0, 12) })
    expect(own?.count).toBeGreaterThan(2)
    expect(about('sparks', own?.ids[0] as number).parent).toEqual({ system: 'sparks', id: 1 })
    // Its trail ends where it is.
    expect(first.strips).toHaveLength(1)
    for (const k of [0, 1, 2]) expect(first.strips[0].at(-1)?.[k]).toBeCloseTo(first.now?.place[k] as number, 4)
  })
  it('one that is gone still knows whom it came from, and who came from it in its last frame', () => {
    const { run, ask } = running(shedding(1, 0.4, 0.3), 30)
    const about = (system: string, id: number, frame: number) => ask({ what: 'particle', system, id, frame })
    const parent = about('sparks', 0, 30)
    const at = parent.path.at(-1)?.frame as number
    const living = partOf(run.history.get(at)?.frame.parts, 'points', 'children')
    if (!living) throw new Error('no children')
    expect([at < 30, parent.now, parent.children]).toEqual([true, null, []])
    expect(parent.lived).toEqual({ frame: at, children: about('sparks', 0, at).children })
    expect(parent.lived?.children[0].count).toBe(living.count)
    expect(about('sparks', 0, at).lived).toBeNull()
    // A child too, after its end and before its birth.
    const child = pointColumn(living, 'id')[0]
    expect([0, at, 30].map((f) => about('children', child, f).parent)).toEqual(Array(3).fill({ system: 'sparks', id: 0 }))
    expect(about('children', child, 0).lived).toBeNull()
  })
  it('those that have died are found in the frames of its life, and the run stays where it was', () => {
    const { run, ask } = running(shedding(2, 0.8, 0.2), 30)
    const here = run.world.frame
    const before = run.world.save()
    const idsAt = (f: number) => {
      const part = partOf(run.history.get(f)?.frame.parts, 'points', 'children')
      return part ? [...pointColumn(part, 'id')] : []
    }
    for (const at of [6, 14, 30]) {
      const living = new Set(idsAt(at))
      const dead = new Set(Array.from({ length: at + 1 }, (_, f) => idsAt(f).filter((id) => !living.has(id))).flat())
      const found = [0, 1].map((id) => ask({ what: 'died', system: 'sparks', id, frame: at }))
      const count = found.reduce((sum, d) => sum + (d.children[0]?.count ?? 0), 0)
      // Every child is of one of both, and is named once.
      expect(count).toBe(dead.size)
      for (const d of found) for (const { ids } of d.children) for (const id of ids) expect(dead.has(id)).toBe(true)
      expect(found.every((d) => d.to <= at && d.from <= d.to)).toBe(true)
    }
    expect(run.world.frame).toBe(here)
    expect(particleStateOf(run.world.save(), 'children').words).toEqual(particleStateOf(before, 'children').words)
    const dead = ask({ what: 'died', system: 'sparks', id: 0, frame: 30 }).children[0]
    expect(dead.ids).toHaveLength(12)
    // One of them can be looked at: it lived, and knows its parent.
    const one = ask({ what: 'particle', system: 'children', id: dead.ids[3], frame: 30 })
    expect([one.now, one.path.length > 0, one.parent]).toEqual([null, true, { system: 'sparks', id: 0 }])
    expect(() => ask({ what: 'died', system: 'sparks', id: 99, frame: 30 })).toThrow('no frame up to 30 has it')
  })
  it('a copy knows its original', () => {
    const { run, ask } = running(
      quiet((s) => {
        s.systems[0].birth = fly(5)
        phases(s, [later('copies', 'turnCopy', { to: 'falls', life: null, when: [later('when', 'whenInPhase', { after: 0.2 })] })])
      }),
      8,
    )
    const part = partOf(run.history.get(8)?.frame.parts, 'points', 'sparks')
    if (!part) throw new Error('no sparks')
    expect(part.count).toBe(10)
    const ids = [...pointColumn(part, 'id')]
    const parents = ids.map((id) => ask({ what: 'particle', system: 'sparks', id, frame: 8 }).parent)
    expect(parents.filter((p) => p === null)).toHaveLength(5)
    expect(parents.flatMap((p) => p?.id ?? []).sort()).toEqual(ids.slice(0, 5).sort())
  })
  it('phases are told with the frames in which they began', () => {
    const { ask } = running(
      quiet((s) => {
        s.systems[0].birth = fly(1)
        phases(s, [later('goes', 'turnTo', { to: 'falls', life: null, when: [later('when', 'whenInPhase', { after: 0.26 })] })])
      }),
      12,
    )
    const { phases: seen } = ask({ what: 'particle', system: 'sparks', id: 0, frame: 3 })
    expect(seen).toEqual([
      { from: expect.any(Number), phase: 0 },
      { from: 7, phase: 1 },
    ])
  })
})

describe('a turn that is tried', () => {
  const saved = (run: Run) => [...given(run.explore(24, (w) => particleStateOf(w.save(), 'sparks').words))]
  const trying = (muted: boolean) =>
    running(
      quiet((s) => {
        s.systems[0].birth = fly(400)
        s.systems[0].seed = 3
        phases(s, [
          ...(muted
            ? [
                later('other', 'turnTo', {
                  to: 'falls',
                  life: null,
                  when: [later('soon', 'whenInPhase', { after: { value: 0.5, vary: 0.3 } })],
                }),
              ]
            : []),
          {
            ...later('tried', 'turnEnd', { when: [later('far', 'whenOfAge', { at: { value: 0.6, vary: 0.2 } })] }),
            ...(muted ? { muted } : {}),
          },
        ])
      }),
      24,
    )
  it('tells those who take it in the coming frame, and leaves the run as it was', () => {
    const { run, ask } = trying(true)
    const before = saved(run)
    const part = (f: number) => partOf(run.history.get(f)?.frame.parts, 'points', 'sparks')
    const q = { what: 'fits', system: 'sparks', turn: 'tried', frame: 14 } as const
    const fits = ask(q)
    expect(fits.alive).toBe(400)
    // Those older than their moment as the next frame begins: about half of them.
    expect(fits.count).toBeGreaterThan(60)
    expect(fits.count).toBeLessThan(340)
    expect(fits.places).toHaveLength(fits.count * 3)
    expect(ask(q)).toEqual(fits)
    expect(ask({ what: 'fits', system: 'sparks', turn: 'tried', frame: 2 }).count).toBe(0)
    expect(part(24)?.count).toBe(400)
    expect(saved(run)).toEqual(before)
  })
  it('is the same as what it does when it is on', () => {
    const { run, ask } = trying(false)
    const alive = (f: number) => run.history.get(f)?.frame.stats.sparks.alive as number
    for (let f = 8; f < 24; f++)
      expect(ask({ what: 'fits', system: 'sparks', turn: 'tried', frame: f }).count).toBe(alive(f) - alive(f + 1))
    expect(alive(24)).toBe(0)
  })
})

it('a saved state goes on under a plan that keeps other columns: what it did not have is nothing', async () => {
  const shot = quiet((s) => void (s.systems[0].birth = fly(50)))
  const { run } = running(shot, 6)
  const state = given(run.explore(6, (w) => w.save()))
  const more = structuredClone(shot)
  more.systems[0].whole.movement.push(act('spin', {}))
  phases(more, [later('copies', 'turnCopy', { to: 'falls', life: null, when: [later('when', 'whenInPhase', { after: 9 })] })])
  more.systems[0].phases[1].blend = 0.5
  const checked = checkShot(more)
  if (!checked.ok) throw new Error(JSON.stringify(checked.problems))
  const other = new Run(host, compile(checked.shot, new Map()).plan, { historyBytes: 1 << 26, worldBytes: WORLD_BYTES, now: () => 0 })
  runs.push(other)
  other.world.restore(state)
  const [a, b] = [run.explore(state.frame, (w) => w.capture()), other.world.capture()].map((f) => partOf(f?.parts, 'points', 'sparks'))
  if (!a || !b) throw new Error('no sparks')
  expect(b.count).toBe(50)
  for (const name of ['px', 'vx', 'age', 'life', 'seed', 'id'] as const)
    expect([...pointColumn(b, name)]).toEqual([...pointColumn(a, name)])
  expect(other.world.columnsOf('sparks')?.has('parentSystem')).toBe(true)
  other.world.step()
  expect(other.world.columnsOf('sparks')?.count).toBe(50)
})
