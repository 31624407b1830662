import { describe, expect, it } from 'vitest'
import {
  encodeGravity,
  encodeLimitPhase,
  encodeTurn,
  encodeTurnsOf,
  encodeWhenChance,
  encodeWhenJoined,
  encodeWhenTime,
  NO_EFFECT,
  type Plan,
  type PlanSystem,
  pointColumn,
  type TurnPlan,
} from '..'
import { plan, points, system, withWorld } from '../testing/plans'

/** From phase to phase in a circle of `phases`: as soon as there, a chance of one in four. `narrows`: later conditions ask those alone who are left. */
const circle = (phases: number, narrows: boolean, not = false): TurnPlan[] =>
  Array.from({ length: phases }, (_, k) => ({
    id: `turn ${k}`,
    encode(w) {
      encodeTurnsOf(w, k)
      encodeWhenTime(w, { row: 0, not, narrows }, not ? 1e9 : 0.01, 0.01, 7 + k)
      encodeWhenChance(w, { row: 1, not: false, narrows }, 0.25, 17 + k)
      encodeWhenJoined(w, { row: 0, not: false, narrows }, 2, false)
      return encodeTurn(w, { row: 0, from: k, to: (k + 1) % phases }, { ...NO_EFFECT, scatter: 0.1 }, 27 + k)
    },
  }))
const COUNT = 5_003
const made = (o: Partial<PlanSystem>): Plan => plan([system({ burst: COUNT, ...o })])
/** What turns took in so many frames, frame by frame, and where particles are in the end. */
const run = (p: Plan, frames: number, threads = 1) =>
  withWorld(
    p,
    (w) => {
      const taken: Record<string, number>[] = []
      for (let k = 0; k < frames; k++) {
        w.step()
        taken.push({ ...w.capture().stats.system.turns })
      }
      const last = points(w.capture())
      return { taken, phases: [...pointColumn(last, 'phase')], x: [...pointColumn(last, 'px')] }
    },
    threads,
  )

describe('lists of turns', () => {
  it('narrowed as they are drawn leave the same particles as rows that are joined, also of conditions turned round', async () => {
    for (const not of [false, true]) {
      const narrowed = await run(made({ phases: 5, turns: circle(5, true, not) }), 8)
      expect(narrowed).toEqual(await run(made({ phases: 5, turns: circle(5, false, not) }), 8))
      expect(new Set(narrowed.phases)).toEqual(new Set([0, 1, 2, 3, 4]))
    }
  })
  it('count who takes which turn, of hundreds of turns, on any number of threads', async () => {
    // The last of all, and one in between, take a quarter each of those who are there; all others nobody.
    const turns: TurnPlan[] = Array.from({ length: 300 }, (_, k) => ({
      id: `turn ${k}`,
      encode(w) {
        encodeTurnsOf(w, k === 299 ? 1 : 0)
        encodeWhenChance(w, { row: 0, not: false, narrows: true }, k === 3 || k === 299 ? 0.25 : 0, 5 + k)
        return encodeTurn(w, { row: 0, from: k === 299 ? 1 : 0, to: k === 299 ? 2 : 1 }, NO_EFFECT, 40 + k)
      },
    }))
    const one = await run(made({ phases: 3, turns }), 6)
    expect(await run(made({ phases: 3, turns }), 6, 3)).toEqual(one)
    let [first, second, third] = [COUNT, 0, 0]
    for (const taken of one.taken) {
      expect(Object.keys(taken).every((id) => id === 'turn 3' || id === 'turn 299')).toBe(true)
      const [there, on] = [taken['turn 3'] ?? 0, taken['turn 299'] ?? 0]
      ;[first, second, third] = [first - there, second + there - on, third + on]
    }
    expect([0, 1, 2].map((k) => one.phases.filter((phase) => phase === k).length)).toEqual([first, second, third])
    // Two substeps a frame, six frames: within five deviations of 1 − 0.75 ** 12.
    expect(Math.abs(first / COUNT - 0.75 ** 12)).toBeLessThan(5 * Math.sqrt((0.75 ** 12 * (1 - 0.75 ** 12)) / COUNT))
    expect(third).toBeGreaterThan(COUNT / 2)
  })
  it('are limited to some phases out of many, blended in', async () => {
    const within = [1, 4, 31]
    const forces = [
      {
        id: 'pull',
        encode: (w: Parameters<TurnPlan['encode']>[0]) => {
          encodeLimitPhase(w, within.reduce((mask, k) => mask | (1 << k), 0) >>> 0, 0.5)
          encodeGravity(w, [24, 0, 0])
        },
      },
    ]
    // Everybody goes to the phase of its own number within the first substep, and stays.
    const turns: TurnPlan[] = Array.from({ length: 31 }, (_, k) => ({
      id: `turn ${k}`,
      encode(w) {
        encodeTurnsOf(w, 0)
        encodeWhenChance(w, { row: 0, not: false, narrows: true }, 0.1, 5 + k)
        return encodeTurn(w, { row: 0, from: 0, to: k + 1 }, NO_EFFECT, 40 + k)
      },
    }))
    const { phases, x } = await run(made({ phases: 32, turns, forces }), 4)
    for (let k = 1; k < 32; k++) {
      const moved = x.filter((_, i) => phases[i] === k)
      expect(moved.length).toBeGreaterThan(5)
      // The last substep's newcomers are still at rest: the force comes in from nothing.
      if (within.includes(k)) expect(moved.filter((v) => v > 0).length).toBeGreaterThan(0.8 * moved.length)
      expect(
        moved.every((v) => (within.includes(k) ? v >= 0 : v === 0)),
        `in phase ${k}`,
      ).toBe(true)
    }
  })
})
