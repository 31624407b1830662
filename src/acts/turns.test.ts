import { describe, expect, it } from 'vitest'
import type { Frame } from '../engine'
import type { ActDoc, PhaseDoc, Shot } from '../shot'
import { col, one, partOf, phase, phased, RATE, share, states, turnTo } from './testing/phased'
import { after } from './testing/quiet'
import { thing } from './testing/things'

it('what a turn waits for may stand in any order: who is asked what does not change who goes', async () => {
  const chance = one('whenChance', { share: 60 })
  const time = one('whenInPhase', { after: { value: 0.3, vary: 0.25 } })
  const some = one('limitChance', { part: 70 })
  // Not (old and lucky): a group that is turned round asks all that is in it.
  const not = one('whenGroup', { join: 'all', holds: 'false', when: [one('whenOfAge', { at: 0.5 }), one('whenChance', { share: 50 })] })
  const either = one('whenGroup', {
    join: 'any',
    when: [one('whenOfAge', { at: { value: 0.4, vary: 0.3 } }), one('limitChance', { part: 30 })],
  })
  const both = one('whenGroup', { join: 'all', when: [one('whenOfAge', { at: 0.2 }), one('limitChance', { part: 90 })] })
  const all = [chance, time, some, not, either, both]
  const went = async (when: ActDoc[]) => {
    const f = await after(
      phased([
        phase('a', {
          turns: [
            { ...turnTo('b', when), id: 'turn', seed: 3 },
            { ...turnTo('c', [one('whenOfAge', { at: 0.7 })]), id: 'other', seed: 4 },
          ],
        }),
        phase('b'),
        phase('c'),
      ]),
      20,
    )
    return col(f, 'phase')
  }
  const first = await went(all)
  expect(first.filter((p) => p === 1).length).toBeGreaterThan(100)
  expect(first.filter((p) => p === 2).length).toBeGreaterThan(100)
  for (const order of [[...all].reverse(), [not, both, time, either, chance, some]]) expect(await went(order)).toEqual(first)
})
describe('times of turns', () => {
  it('are exact within a substep, whatever its length, and add up through the phases', async () => {
    for (const substeps of [1, 3]) {
      const s = phased(
        [
          phase('a', { turns: [turnTo('b', [one('whenInPhase', { after: 0.31 })])] }),
          phase('b', { turns: [turnTo('c', [one('whenInPhase', { after: 0.27 })])] }),
          phase('c'),
        ],
        (d) => void (d.substeps = substeps),
      )
      const f = await after(s, RATE)
      expect(share(f, 2)).toBe(1)
      expect(f.stats.sparks.phases).toEqual([0, 0, 2000])
      const [starts] = await states(s, RATE, ['phaseStart'])
      for (const t of starts) expect(t).toBeCloseTo(0.58, 5)
    }
  })
  it('vary evenly by their ±, each particle in its own time', async () => {
    const s = phased([phase('a', { turns: [turnTo('b', [one('whenInPhase', { after: { value: 0.5, vary: 0.4 } })])] }), phase('b')])
    const [starts] = await states(s, 22, ['phaseStart'])
    expect(starts).toHaveLength(2000)
    const sorted = [...starts].sort((x, y) => x - y)
    // Kolmogorov and Smirnov's distance from the even spread over 0.1 to 0.9 s.
    const distance = Math.max(...sorted.map((t, i) => Math.abs((t - 0.1) / 0.8 - (i + 0.5) / 2000)))
    expect(distance).toBeLessThan(1.63 / Math.sqrt(2000))
  })
  it('go by age, by the share of life and by the moment of the shot', async () => {
    const at = async (when: ActDoc) => {
      const s = phased([phase('a', { turns: [turnTo('b', [when])] }), phase('b')], (d) => {
        d.systems[0].life = { value: 4, vary: 0 }
      })
      return (await states(s, RATE, ['phaseStart']))[0][7]
    }
    expect(await at(one('whenOfAge', { at: 0.4 }))).toBeCloseTo(0.4, 5)
    expect(await at(one('whenOfAge', { of: 'life', at: 15 }))).toBeCloseTo(0.6, 5)
    expect(await at(one('whenFromMoment', { from: 0.7 }))).toBeCloseTo(0.7, 5)
  })
  it('in a circle go on for ever, one turn a substep', async () => {
    const s = phased([
      phase('a', { turns: [turnTo('b', [one('whenInPhase', { after: 0.1 })])] }),
      phase('b', { turns: [turnTo('a', [one('whenInPhase', { after: 0.1 })])] }),
    ])
    for (const frames of [10, 13, 59]) expect(share(await after(s, frames), Math.floor(frames / RATE / 0.1) % 2)).toBe(1)
    // Without any time in between it never hangs.
    const quick = phased([phase('a', { turns: [turnTo('b', [])] }), phase('b', { turns: [turnTo('a', [])] })])
    expect(partOf(await after(quick, 30)).count).toBe(2000)
  })
})
describe('conditions', () => {
  const b = (when: ActDoc[], values: Record<string, unknown> = {}, change?: (s: Shot) => void, rest: Partial<PhaseDoc> = {}) =>
    phased([phase('a', { turns: [turnTo('b', when, values)], ...rest }), phase('b')], change)
  it('join by all, any and not, in groups', async () => {
    const yes = () => one('whenOfAge', { at: 0 })
    const no = () => one('whenOfAge', { at: 50 })
    const not = (a: ActDoc): ActDoc => ({ ...a, holds: 'false' })
    const group = (join: string, when: ActDoc[]) => one('whenGroup', { join, when })
    const holds = async (when: ActDoc[], join: string) => share(await after(b(when, { join }), 3), 1) === 1
    expect(await holds([yes(), yes()], 'all')).toBe(true)
    expect(await holds([yes(), no()], 'all')).toBe(false)
    expect(await holds([yes(), no()], 'any')).toBe(true)
    expect(await holds([no(), no()], 'any')).toBe(false)
    expect(await holds([], 'all')).toBe(true)
    expect(await holds([], 'any')).toBe(false)
    expect(await holds([not(no()), yes()], 'all')).toBe(true)
    expect(await holds([group('any', [no(), yes()]), group('all', [yes(), not(no())])], 'all')).toBe(true)
    expect(await holds([yes(), not(group('any', [no(), group('all', [yes(), yes()])]))], 'all')).toBe(false)
    expect(await holds([{ ...no(), muted: true }, yes()], 'all')).toBe(true)
  })
  it('of all counts the last moment, of any the first', async () => {
    const two = () => [one('whenInPhase', { after: 0.2 }), one('whenInPhase', { after: 0.55 })]
    expect((await states(b(two(), { join: 'all' }), RATE, ['phaseStart']))[0][0]).toBeCloseTo(0.55, 5)
    expect((await states(b(two(), { join: 'any' }), RATE, ['phaseStart']))[0][0]).toBeCloseTo(0.2, 5)
  })
  it('by chance leave the same share after a second at any substep', async () => {
    for (const substeps of [1, 4]) {
      const s = b([one('whenChance', { share: 30 })], {}, (d) => void (d.substeps = substeps))
      const left = share(await after(s, RATE), 0)
      expect(Math.abs(left - 0.7)).toBeLessThan(4 * Math.sqrt((0.7 * 0.3) / 2000))
    }
  })
  it('take limits: a share of all, a place, a speed', async () => {
    const some = share(await after(b([one('limitChance', { part: 25 })]), 4), 1)
    expect(Math.abs(some - 0.25)).toBeLessThan(4 * Math.sqrt((0.25 * 0.75) / 2000))
    const fast = b([one('limitSpeed', { from: 3, to: 100, soft: 0 })], {}, (d) => {
      d.systems[0].birth[0].speed = { value: 3, vary: 2 }
      d.systems[0].birth[0].spread = 180
    })
    const f = await after(fast, 4)
    const speeds = col(f, 'vx').map((x, i) => Math.hypot(x, col(f, 'vy')[i], col(f, 'vz')[i]))
    col(f, 'phase').forEach((p, i) => {
      if (Math.abs(speeds[i] - 3) > 1e-3) expect(p).toBe(speeds[i] > 3 ? 1 : 0)
    })
    expect(share(f, 1)).toBeGreaterThan(0.4)
  })
  it('know a contact, with whom and how hard, at its very moment', async () => {
    const floor = thing('floor', { shape: { kind: 'plane', size: 10, endless: true }, roles: { source: false, collider: true } })
    const fall = (when: ActDoc) =>
      b([when], { keeps: 0 }, (d) => {
        d.objects = [floor, thing('other')]
        d.systems[0].whole.movement = [one('gravity', { strength: 9.81 })]
        d.systems[0].whole.contact = [one('bounce', { restitution: { value: 50, vary: 0 } })]
        d.systems[0].birth[0].source = 'other'
        d.objects[1].place = [0, 1.2, 0]
      })
    const hit = Math.sqrt((2 * 1.2) / 9.81)
    const [starts] = await states(fall(one('whenTouched', { with: 'floor', speed: 4 })), 20, ['phaseStart'])
    for (const t of starts.slice(0, 50)) expect(t).toBeCloseTo(hit, 2)
    expect(share(await after(fall(one('whenTouched', { with: 'floor', speed: 6 })), 20), 1)).toBe(0)
    expect(share(await after(fall(one('whenTouched', { with: 'other' })), 20), 1)).toBe(0)
    const twice = fall(one('whenContacts', { count: 2 }))
    expect(share(await after(twice, 22), 1)).toBe(0)
    expect(share(await after(twice, 30), 1)).toBe(1)
  })
})
describe('what a turn does', () => {
  const moving = (values: Record<string, unknown>) =>
    phased([phase('a', { turns: [turnTo('b', [one('whenInPhase', { after: 0.5 })], values)] }), phase('b')], (d) => {
      d.systems[0].birth[0].speed = 2
    })
  it('keeps, scales, pushes and scatters the velocity', async () => {
    const speed = async (values: Record<string, unknown>) => {
      const f = await after(moving(values), 16)
      return col(f, 'vx').map((x, i): [number, number, number] => [x, col(f, 'vy')[i], col(f, 'vz')[i]])
    }
    const before = (await speed({}))[0]
    expect((await speed({ keeps: -50 }))[0]).toEqual(before.map((x) => x * -0.5 + 0))
    const pushed = (await speed({ keeps: 0, push: [1, 2, 3] }))[0]
    expect(pushed).toEqual([1, 2, 3])
    const all = await speed({ keeps: 0, scatter: 4 })
    for (const v of all) expect(Math.hypot(...v)).toBeCloseTo(4, 3)
    for (const k of [0, 1, 2]) expect(Math.abs(all.reduce((sum, v) => sum + v[k], 0) / all.length)).toBeLessThan(0.25)
  })
  it.each(['turnTo', 'turnCopy'])('turns the velocity by an angle, evenly around it, and keeps its speed (%s)', async (kind) => {
    const turning = (values: Record<string, unknown>) => {
      const s = moving(values)
      s.systems[0].phases[0].turns[0].kind = kind
      return after(s, 16)
    }
    const velocities = (f: Frame) => {
      const [x, y, z, phase] = (['vx', 'vy', 'vz', 'phase'] as const).map((c) => col(f, c))
      return x.flatMap((vx, i) => (phase[i] ? [[vx, y[i], z[i]] as const] : []))
    }
    const [before] = velocities(await turning({}))
    const speed = Math.hypot(...before)
    const cosine = (v: readonly number[]) => v.reduce((sum, x, a) => sum + x * before[a], 0) / speed ** 2
    const turned = velocities(await turning({ deflect: 40 }))
    expect(turned).toHaveLength(2000)
    for (const v of turned) {
      expect(Math.hypot(...v)).toBeCloseTo(speed, 4)
      expect(cosine(v)).toBeCloseTo(Math.cos((40 * Math.PI) / 180), 4)
    }
    // On the whole they go on as before: what is across it evens out.
    const mean = [0, 1, 2].map((a) => turned.reduce((sum, v) => sum + v[a], 0) / turned.length)
    expect(Math.hypot(...mean.map((x, a) => x - before[a] * Math.cos((40 * Math.PI) / 180)))).toBeLessThan(0.06 * speed)
    const varied = velocities(await turning({ deflect: { value: 40, vary: 30 } })).map((v) => (Math.acos(cosine(v)) * 180) / Math.PI)
    expect(Math.min(...varied)).toBeGreaterThan(9.9)
    expect(Math.max(...varied)).toBeLessThan(70.1)
    expect(varied.filter((a) => a < 40).length / 2000).toBeCloseTo(0.5, 1)
  })
  it('draws again what chance says of each, only when asked', async () => {
    const seeds = async (values: Record<string, unknown>) => col(await after(moving(values), 16), 'seed')
    const plain = await seeds({})
    expect(await seeds({ redraw: false })).toEqual(plain)
    const again = await seeds({ redraw: true })
    expect(again.filter((s, i) => s === plain[i])).toEqual([])
    expect(new Set(again).size).toBe(2000)
  })
  it('sets the life that is left, or ends it', async () => {
    const f = await after(moving({ life: { value: 0.25, vary: 0 } }), 17)
    expect(partOf(f).count).toBe(2000)
    for (const life of col(f, 'life')) expect(life).toBeCloseTo(0.75, 5)
    expect(partOf(await after(moving({ life: { value: 0.25, vary: 0 } }), 19))?.count ?? 0).toBe(0)
    const ends = phased([phase('a', { turns: [one('turnEnd', { when: [one('limitChance', { part: 40 })] })] })])
    const left = partOf(await after(ends, 3)).count / 2000
    expect(Math.abs(left - 0.6)).toBeLessThan(4 * Math.sqrt(0.24 / 2000))
  })
  it('turns are tried in order, and those that nobody can take do nothing', async () => {
    const first = phased([
      phase('a', { turns: [turnTo('b', [one('limitChance', { part: 50 })]), turnTo('c', [])] }),
      phase('b'),
      phase('c'),
    ])
    const f = await after(first, 3)
    expect(share(f, 0)).toBe(0)
    expect(share(f, 1) + share(f, 2)).toBe(1)
    expect(Math.abs(share(f, 1) - 0.5)).toBeLessThan(0.05)
    expect(Object.values(f.stats.sparks.turns ?? {})).toEqual([])
    const nowhere = phased([phase('a', { turns: [turnTo('', [])] }), phase('b')])
    expect(share(await after(nowhere, 3), 0)).toBe(1)
  })
})
