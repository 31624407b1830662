import { describe, expect, it } from 'vitest'
import {
  encodeCarry,
  encodeGravity,
  encodeTurbulence,
  encodeWakeFlow,
  frameMark,
  identity,
  Neighbourhood,
  type OpWriter,
  type PlanSystem,
  OpWriter as Writer,
} from '..'
import { framesOn, plan, system, withWorld } from '../testing/plans'
import { allIn, chance, length, placeIn, runFrom, speedIn, type V } from '../testing/start'

const ANY = Number.POSITIVE_INFINITY
const NOISE = { carry: false, strength: 2, eddy: 0.5, octaves: 2, phase: 0.3, responseS: 0 } as const
const eddies = () => {
  const w = new Writer()
  encodeTurbulence(w, NOISE, 9)
  return w
}
const box = {
  half: [1, 1, 1],
  cell: 2 / 64,
  soft: 0,
  pushes: false,
  responseS: 0,
  max: [ANY, ANY, ANY],
  into: identity(),
  out: identity(),
} as const
const force = (encode: (w: OpWriter) => void) => [{ id: 'force', encode }]
/** A grid of steady air; `v` m/s. */
const steady = (v: V) => {
  const w = new Writer()
  encodeGravity(w, v)
  return w
}
const somewhere = (n: number, far = 0.9): { p: V }[] =>
  Array.from({ length: n }, (_, i) => ({ p: [chance(i, 1, -far, far), chance(i, 2, -far, far), chance(i, 3, -far, far)] as V }))

describe('a velocity volume', () => {
  it('gives the eddies that it was flow of, nearer with smaller cells', async () => {
    const start = somewhere(200)
    const truth = await runFrom(
      start,
      { forces: force((w) => encodeTurbulence(w, { ...NOISE, carry: true }, 9)) },
      (w) => {
        w.step()
        return allIn(w, ['vx', 'vy', 'vz'])
      },
      { substeps: 1 },
    )
    const errors: number[] = []
    for (const cells of [16, 32, 64]) {
      errors.push(
        await runFrom(
          start,
          { forces: force((w) => encodeCarry(w, { ...box, flow: eddies(), cell: 2 / cells })) },
          (w) => {
            w.step()
            return (
              allIn(w, ['vx', 'vy', 'vz']).reduce(
                (sum, v, i) => sum + length([v[0] - truth[i][0], v[1] - truth[i][1], v[2] - truth[i][2]]),
                0,
              ) / start.length
            )
          },
          { substeps: 1 },
        ),
      )
    }
    // Between nodes it goes straight: the error falls with the square of the cell.
    expect(errors[1]).toBeLessThan(errors[0] / 2.5)
    expect(errors[2]).toBeLessThan(errors[1] / 2.5)
    expect(errors[2]).toBeLessThan(0.02)
    expect(truth.reduce((m, v) => Math.max(m, length(v)), 0)).toBeGreaterThan(0.5)
  })
  it('carries by its response, pushes without braking, sets without one', async () => {
    const at = [{ p: [0, 0, 0] as V, v: [0, 2, 0] as V }]
    const run = (o: object) =>
      runFrom(
        at,
        { forces: force((w) => encodeCarry(w, { ...box, flow: steady([3, 0, 0]), ...o })) },
        (w) => {
          w.step()
          return speedIn(w)
        },
        { substeps: 1 },
      )
    const dt = 1 / 24
    expect(await run({})).toEqual([expect.closeTo(3, 5), expect.closeTo(0, 5), 0])
    const k = dt / (0.2 + dt)
    expect(await run({ responseS: 0.2 })).toEqual([expect.closeTo(3 * k, 5), expect.closeTo(2 * (1 - k), 5), 0])
    expect(await run({ responseS: 0.2, pushes: true })).toEqual([expect.closeTo((3 * dt) / 0.2, 5), expect.closeTo(2, 6), 0])
  })
  it('holds each axis to its max, in the directions of the box, and does nothing outside', async () => {
    // Turned a quarter about Y: its own X is −Z of the shot, its own Z is X.
    const out = Float64Array.from([0, 0, 1, 5, 0, 1, 0, 0, -1, 0, 0, 0]),
      into = Float64Array.from([0, 0, -1, 0, 0, 1, 0, 0, 1, 0, 0, -5])
    const start = [{ p: [5, 0, 0] as V }, { p: [5.2, 0.9, 0] as V }, { p: [5, 1.1, 0] as V }, { p: [0, 0, 0] as V }]
    await runFrom(
      start,
      { forces: force((w) => encodeCarry(w, { ...box, flow: steady([3, -4, 5]), max: [1, ANY, 0], into, out })) },
      (w) => {
        w.step()
        const v = allIn(w, ['vx', 'vy', 'vz'])
        for (const i of [0, 1]) expect(v[i]).toEqual([expect.closeTo(0, 6), expect.closeTo(-4, 5), expect.closeTo(-1, 5)])
        for (const i of [2, 3]) expect(v[i]).toEqual([0, 0, 0])
      },
      { substeps: 1 },
    )
  })
  it('fades over its soft edge from all to nothing', async () => {
    const start = [0, 0.5, 0.75, 0.9, 0.999].map((x) => ({ p: [x, 0, 0] as V }))
    await runFrom(
      start,
      { forces: force((w) => encodeCarry(w, { ...box, flow: steady([0, 1, 0]), soft: 0.5, responseS: 1, pushes: true })) },
      (w) => {
        w.step()
        const v = allIn(w, ['vx', 'vy', 'vz']).map((x) => x[1] * 24)
        expect(v[0]).toBeCloseTo(1, 4)
        expect(v[1]).toBeCloseTo(1, 4)
        expect(v[2]).toBeCloseTo(0.5, 4)
        expect(v[3]).toBeGreaterThan(0)
        expect(v[3]).toBeLessThan(v[2])
        expect(v[4]).toBeLessThan(1e-4)
      },
      { substeps: 1 },
    )
  })
  it('a wake in it is the wake itself, times what is left of it', async () => {
    const wake = { places: [{ place: [0, 0, 0] as V, velocity: [2, 0, 0] as V, left: 0.5 }], radius: 0.6, falloff: 'even' as const }
    const flow = new Writer()
    encodeWakeFlow(flow, wake)
    await runFrom(
      [{ p: [0.2, 0, 0] }, { p: [0.8, 0, 0] }],
      { forces: force((w) => encodeCarry(w, { ...box, flow })) },
      (w) => {
        w.step()
        expect(speedIn(w, 0)).toEqual([expect.closeTo(1, 3), 0, 0])
        expect(speedIn(w, 1)).toEqual([0, 0, 0])
      },
      { substeps: 1 },
    )
  })
  it('is filled once for all that ask for the same, again when it changes, and gives its memory back', async () => {
    const make = (id: string, phase: (t: number) => number): PlanSystem =>
      system({
        id,
        burst: 10,
        forces: [
          {
            id: 'force',
            encode: (w, at) => {
              const flow = new Writer()
              encodeTurbulence(flow, { ...NOISE, phase: phase(at.t0) }, 9)
              encodeCarry(w, { ...box, flow, cell: 0.1 })
            },
          },
        ],
      })
    const filled = (phase: (t: number) => number) =>
      withWorld(plan([make('a', phase), make('b', phase)], [], { substeps: 2 }), (w) => {
        const before = w.heap.usedBytes
        framesOn(w, 5)
        const held = w.heap.usedBytes
        const near = w.solver('neighbourhood of systems')
        expect(held - before).toBeGreaterThan(21 ** 3 * 16)
        const count = near instanceof Neighbourhood ? near.volumesFilled : 0
        w.load(plan([system({ burst: 10 })]))
        framesOn(w, 2)
        expect(w.heap.usedBytes).toBeLessThan(held - 21 ** 3 * 16 + 1000)
        return count
      })
    expect(await filled(() => 0.25)).toBe(1)
    expect(await filled((t) => t)).toBe(10)
  })
  it('is the same on one thread and on three', async () => {
    const s = system({
      burst: 5000,
      birth: { spreadTurns: 0.5, speed: 1, speedVary: 1 },
      forces: [
        {
          id: 'force',
          encode: (w, at) => {
            const flow = new Writer()
            encodeTurbulence(flow, { ...NOISE, phase: at.t0 }, 9)
            encodeCarry(w, { ...box, flow, responseS: 0.1 })
          },
        },
      ],
    })
    const mark = (threads: number) => withWorld(plan([s]), (w) => frameMark(framesOn(w, 12)), threads)
    expect(await mark(3)).toBe(await mark(1))
  })
  it('with less memory than it needs nothing flows, which is said, and the run goes on', async () => {
    await withWorld(
      plan([system({ burst: 10, forces: force((w) => encodeCarry(w, { ...box, flow: steady([0, 5, 0]), cell: 2 / 160 })) })]),
      (w) => {
        const f = framesOn(w, 3)
        expect(f.stats.system.alive).toBe(10)
        expect(f.notices).toEqual([
          expect.objectContaining({ kind: 'memory', element: 'system', message: expect.stringContaining('velocity volume') }),
        ])
        expect(placeIn(w)[1]).toBe(0)
      },
      1,
      8 << 20,
    )
  })
})
