import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { compile, touchedFrom } from '../../acts/index'
import { demoShot } from '../../acts/testing/shots'
import { nodeKernels } from '../../hosts/node/kernels'
import { loadShot } from '../../hosts/node/shot'
import type { Shot } from '../../shot/index'
import {
  encodeGravity,
  encodeTurbulence,
  type ForcePlan,
  type Frame,
  frameMark,
  History,
  type OpWriter,
  type Plan,
  particleStateOf,
  Run,
  requestStop,
  Stopped,
  World,
} from '..'
import { given, gravity, plan, points, system } from '../testing/plans'

const MB = 1024 * 1024
const opened: Run[] = []
async function open(p: Plan, historyBytes = 64 * MB, threads = 1): Promise<Run> {
  const run = new Run(await nodeKernels({ threads }), p, { historyBytes, worldBytes: 1 << 29, now: () => performance.now() })
  opened.push(run)
  return run
}
const close = () => {
  for (const r of opened.splice(0)) {
    r.dispose()
    r.host.team.dispose()
  }
}
const catchUp = (run: Run, target: number) => {
  while (run.towards(target));
}
const fresh = async (p: Plan, frame: number): Promise<string> => {
  const host = await nodeKernels()
  const w = new World(host, p, 1 << 29)
  while (w.frame < frame) w.step()
  const mark = frameMark(w.capture())
  w.dispose()
  return mark
}

describe('a run with its history', () => {
  it('says which frame comes next, keeps what is completed alone, and goes on anew from no state (property)', async () => {
    const p = plan([system({ burst: 20, life: () => [1e6, 0], forces: [gravity()] })])
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.integer({ min: 0, max: 40 }), { minLength: 1, maxLength: 6 }),
        fc.integer({ min: 0, max: 40 }),
        async (targets, lacks) => {
          const run = new Run(await nodeKernels(), p, {
            ...{ historyBytes: 64 * MB, worldBytes: 1 << 29, now: () => performance.now() },
            // What belongs to one of them is not to be had.
            complete: (f) => (f.frame === lacks ? null : { ...f, ms: 7 }),
          })
          opened.push(run)
          for (const target of targets) {
            if (target === lacks) continue
            for (let next = run.next(target); next !== null; next = run.next(target)) expect(run.towards(target)?.frame).toBe(next)
            expect(run.history.get(target)?.frame.ms).toBe(7)
            if (target > lacks) expect(run.history.isReady(lacks)).toBe(false)
          }
          // Others are computed from now on: frames stay, states do not.
          const [kept] = targets
          run.change(p, p.last + 1, true)
          expect(run.history.isReady(kept)).toBe(kept !== lacks)
          expect([run.world.frame, run.history.stateBefore(p.last)?.frame ?? 0]).toEqual([0, 0])
          close()
        },
      ),
      { numRuns: 12 },
    )
  })
  it('goes to any frame, back and forth, and finds the same frames', async () => {
    const p = plan(
      [
        system({
          births: [
            {
              id: 'b',
              seed: 5,
              due: () => [{ count: 40, at: 0.001, spacing: 0 }],
              params: () => ({
                source: -1,
                part: '',
                on: 'point',
                along: 'direction',
                direction: [0, 1, 0],
                spreadTurns: 0.2,
                speed: 4,
                speedVary: 2,
                inherit: 0,
              }),
            },
          ],
          life: () => [0.7, 0.2],
          forces: [gravity()],
        }),
      ],
      [],
      { last: 60 },
    )
    // So little room that frames are thrown away all the time.
    const run = await open(p, 60_000)
    for (const f of [30, 3, 60, 29, 31, 0, 59, 0, 1]) {
      run.near = f
      catchUp(run, f)
      expect(frameMark(given(run.history.get(f)).frame)).toBe(await fresh(p, f))
      expect(run.history.bytes).toBeLessThan(200_000)
    }
    close()
  })
  it('names what is missing, and null when all is there', async () => {
    const run = await open(plan([system()], [], { last: 5 }))
    expect(run.missing()).toBe(1)
    for (let m = run.missing(); m !== null; m = run.missing()) catchUp(run, m)
    expect(run.history.beads(0, 5)).toBe('rrrrrr')
    expect(run.towards(3)).toBeNull()
    close()
  })
  it('asks for no frame that it could not keep, so that a long heavy shot comes to rest', async () => {
    const run = await open(plan([system({ burst: 500, forces: [gravity()] })], [], { last: 100 }), 400_000)
    for (const near of [0, 50, 100, 20]) {
      run.near = near
      catchUp(run, near)
      let steps = 0
      for (let m = run.missing(); m !== null; m = run.missing()) {
        run.towards(m)
        if (++steps > 2000) throw new Error('never at rest')
      }
      const beads = run.history.beads(0, 100)
      expect(beads[near]).toBe('r')
      expect([...beads].filter((b) => b === 'r').length).toBeGreaterThan(6)
      expect(beads).toContain('-')
    }
    close()
  })
  it('keeps frames before a change ready, marks those after it out of date, and keeps them', async () => {
    const p = plan([system({ burst: 10, forces: [gravity()] })], [], { last: 20 })
    const run = await open(p)
    catchUp(run, 20)
    run.change(plan([system({ burst: 10, forces: [gravity(-2)] })], [], { last: 20 }), 12)
    expect(run.history.beads(0, 20)).toBe(`${'r'.repeat(12)}${'o'.repeat(9)}`)
    expect(run.history.get(15)?.frame).toBeDefined()
    catchUp(run, 20)
    expect(run.history.beads(0, 20)).toBe('r'.repeat(21))
    close()
  })
  it('takes plans with births, systems and objects added and taken away', async () => {
    const b = (id: string, n: number) => ({
      id,
      seed: 3,
      due: (t0: number) => (t0 >= 0.25 ? [{ count: n, at: 0, spacing: 0 }] : []),
      params: () => ({
        source: -1,
        part: '',
        on: 'point' as const,
        along: 'direction' as const,
        direction: [0, 1, 0] as const,
        spreadTurns: 0,
        speed: 1,
        speedVary: 0,
        inherit: 0,
      }),
    })
    const one = plan([system({ births: [b('a', 1)] })], [], { last: 20 })
    const two = plan([system({ births: [b('new', 2), b('a', 1)] }), system({ id: 'more', births: [b('m', 3)] })], [], { last: 20 })
    const run = await open(one)
    catchUp(run, 20)
    for (const [p, from] of [
      [two, 0],
      [one, 0],
      [plan([system({ births: [b('new', 2), b('a', 1)] })], [], { last: 20 }), 7],
      [plan([system({ births: [] })], [], { last: 20 }), 7],
    ] as const) {
      run.change(p, from)
      catchUp(run, 20)
      expect(frameMark(given(run.history.get(20)).frame)).toBe(await fresh(p, 20))
    }
    close()
  })
})

describe('stopping', () => {
  const heavy = () =>
    plan(
      [
        system({
          burst: 1_500_000,
          birth: { speed: 1, spreadTurns: 0.5 },
          forces: [
            {
              id: 'n',
              encode: (w: OpWriter) => encodeTurbulence(w, { carry: false, strength: 1, eddy: 1, octaves: 6, phase: 0, responseS: 0 }, 1),
            },
          ],
        }),
      ],
      [],
      { substeps: 8, last: 10 },
    )
  it('a step that is asked to stop throws Stopped, and the run finds its way back to the exact frame', async () => {
    const run = await open(plan([system({ burst: 30000, forces: [gravity()] })], [], { last: 8 }))
    catchUp(run, 4)
    requestStop(run.host.memory, true)
    expect(() => run.towards(5)).toThrow(Stopped)
    catchUp(run, 8)
    expect(frameMark(given(run.history.get(8)).frame)).toBe(
      await fresh(plan([system({ burst: 30000, forces: [gravity()] })], [], { last: 8 }), 8),
    )
    close()
  })
  it('comes through in the middle of a step, long before the step would have ended', async () => {
    const { Worker } = await import('node:worker_threads')
    // A ratio in one run, not a time: from the word to the end a small part of a whole step. Whoever takes the core away just then spoils one try.
    const ratios: number[] = []
    for (let tries = 0; tries < 5 && !ratios.some((r) => r < 0.25); tries++) {
      const run = await open(heavy(), 400 * MB)
      // Another thread asks after 60 ms, and says when; this one is busy in the step.
      const when = new Float64Array(new SharedArrayBuffer(8))
      const asker = new Worker(
        'const { workerData } = require("node:worker_threads"); setTimeout(() => { workerData.when[0] = performance.timeOrigin + performance.now(); Atomics.store(new Int32Array(workerData.memory.buffer, 0, 256), workerData.at >> 2, 1) }, 60)',
        { eval: true, workerData: { memory: run.host.memory, at: 80, when } },
      )
      expect(() => run.towards(1)).toThrow(Stopped)
      const took = performance.timeOrigin + performance.now() - when[0]
      await asker.terminate()
      const again = performance.now()
      run.towards(1)
      ratios.push(took / (performance.now() - again))
      close()
    }
    expect(Math.min(...ratios)).toBeLessThan(0.25)
  })
})

describe('a force that is far too strong', () => {
  const wild = (from: number): ForcePlan => ({
    id: 'wild',
    name: 'Wild wind',
    encode: (w, at) => void (at.t0 >= from / 24 - 1e-9 && encodeGravity(w, [1e30, 0, 0])),
  })
  const options = { historyBytes: 1 << 24, worldBytes: 1 << 28, now: () => 0 }
  const all = (run: Run, last: number) => {
    while (run.towards(last));
    return Array.from({ length: last + 1 }, (_, f) => frameMark(run.history.get(f)?.frame as Frame))
  }
  it('costs nobody: the run goes on without it from that frame on, as it would have without it, and names it', async () => {
    const host = await nodeKernels()
    const make = (forces: ForcePlan[]) => plan([system({ burst: 300, birth: { spreadTurns: 0.5, speed: 1 }, forces })], [], { last: 40 })
    const run = new Run(host, make([gravity(), wild(13)]), options)
    const marks = all(run, 30)
    const frame = run.history.get(30)?.frame as Frame
    expect(frame.stats.system.alive).toBe(300)
    expect(frame.notices).toEqual([
      {
        element: 'system',
        kind: 'lost',
        frame: 14,
        message: 'Wild wind made System non-finite; it pushes far too hard, and is switched off from frame 14 on: make it weaker',
      },
    ])
    const calm = new Run(await nodeKernels(), make([gravity()]), options)
    expect(marks).toEqual(all(calm, 30))
    // Back and forth, and after a look into an earlier frame, it stays so.
    run.change(make([gravity(), wild(13)]), 10)
    expect(all(run, 30)).toEqual(marks)
    expect(run.explore(20, (w) => particleStateOf(w.save(), 'system').off)).toEqual(['wild'])
    expect(run.explore(9, (w) => particleStateOf(w.save(), 'system').off)).toEqual([])
    // Made weaker it acts again.
    run.change(make([gravity(), { id: 'wild', encode: (w) => encodeGravity(w, [2, 0, 0]) }]), 1)
    while (run.towards(30));
    expect(run.history.get(30)?.frame.notices).toEqual([])
    run.dispose()
    calm.dispose()
  })
})

describe('the history', () => {
  const frame = (f: number, bytes: number) => ({
    frame: f,
    parts: [{ kind: 'points' as const, element: 's', count: 0, data: new ArrayBuffer(bytes) }],
    poses: [],
    stats: {},
    notices: [],
    ms: 0,
  })
  it('stays within its budget and gives up the farthest frames first', () => {
    const h = new History(10_000)
    for (let f = 0; f < 30; f++) h.put(frame(f, 744), 20)
    expect(h.bytes).toBeLessThanOrEqual(10_000)
    expect(h.get(20)).toBeDefined()
    expect(h.get(0)).toBeUndefined()
    expect(h.get(17)).toBeDefined()
    expect(h.get(29)).toBeUndefined()
    expect(h.wouldKeep(19, 20)).toBe(true)
    expect(h.wouldKeep(29, 20)).toBe(false)
  })
  it('does not ask again for a frame that is too large for the room that is left', () => {
    const h = new History(10_000)
    for (let f = 0; f < 5; f++) h.put(frame(f, 744), 0)
    expect(h.wouldKeep(5, 0)).toBe(true)
    h.put(frame(5, 9000), 0)
    expect(h.get(5)).toBeUndefined()
    expect(h.wouldKeep(5, 0)).toBe(false)
    h.touch(4)
    expect(h.wouldKeep(5, 0)).toBe(true)
  })
  it('thins full states evenly when they take more than a third', () => {
    const h = new History(9000)
    for (let f = 0; f < 200; f++)
      if (h.wantsState(f, 0))
        h.putState(
          {
            frame: f,
            states: { s: { bytes: 400 } },
          },
          0,
        )
    expect(h.bytes).toBeLessThanOrEqual(3000)
    expect(h.stateBefore(199)?.frame).toBeGreaterThan(100)
    expect(h.stateBefore(0)?.frame).toBe(0)
    expect(h.stateBefore(-1)).toBeUndefined()
  })
})

describe('a warm start', () => {
  const shot = (warm: number, f: (s: Shot) => void = () => {}): Plan => {
    const s = demoShot()
    s.objects = s.objects.filter((o) => o.shape.kind === 'plane')
    s.systems[0].birth = s.systems[0].birth.filter((b) => b.kind === 'steady')
    Object.assign(s.systems[0].birth[0], { source: null, part: '', start: 0, end: null, rate: 500 })
    s.warm = warm
    f(s)
    return compile(s, new Map()).plan
  }
  it('has at the first frame what a run has after so many seconds', async () => {
    const warm = await open(shot(1))
    catchUp(warm, 0)
    const cold = await open(shot(0))
    catchUp(cold, 24)
    const [a, b] = [warm.history.get(0)?.frame, cold.history.get(24)?.frame]
    expect(points(a as Frame).count).toBeGreaterThan(400)
    expect(Math.abs(points(a as Frame).count - points(b as Frame).count)).toBeLessThanOrEqual(1)
    // None of its frames are kept; the shot's own are.
    expect(warm.missing()).toBe(1)
    expect(warm.history.get(-3)).toBeUndefined()
    close()
  })
  it('has what is all born at the first frame there from its beginning, and what takes longer from the first frame on', async () => {
    const all = (end: number) => (s: Shot) => {
      const { rate: _, ...launch } = s.systems[0].birth[0] as (typeof s.systems)[0]['birth'][0] & { rate?: unknown }
      s.systems[0].birth = [{ ...launch, kind: 'total', count: 300, start: 0, end }]
      s.systems[0].life = { value: 20, vary: 0 }
    }
    const counts = []
    for (const seconds of [1, 0]) {
      const run = await open(shot(seconds, all(0)))
      catchUp(run, 1)
      counts.push([0, 1].map((f) => points(run.history.get(f)?.frame as Frame).count))
    }
    expect(counts).toEqual([
      [300, 300],
      [0, 300],
    ])
    const longer = await open(shot(1, all(0.5)))
    catchUp(longer, 6)
    expect(points(longer.history.get(0)?.frame as Frame).count).toBe(0)
    expect(Math.abs(points(longer.history.get(6)?.frame as Frame).count - 150)).toBeLessThanOrEqual(1)
    close()
  })
  it('comes back to the same frames from its states', async () => {
    const run = await open(shot(2), 40_000)
    for (const f of [10, 0, 3, 40, 0]) {
      run.near = f
      catchUp(run, f)
      expect(frameMark(given(run.history.get(f)).frame)).toBe(await fresh(shot(2), f))
    }
    close()
  })
  it('begins only what begins at the first frame', async () => {
    const run = await open(shot(1, (s) => void (s.systems[0].birth[0].start = 0.5)))
    catchUp(run, 0)
    expect(points(run.history.get(0)?.frame as Frame).count).toBe(0)
    close()
  })
})

describe('a change and the frame that it touches first', () => {
  /** Edits that an artist makes; each returns a changed copy. */
  const EDITS: Record<string, (s: Shot, n: number) => void> = {
    'count of the burst': (s, n) => void (s.systems[0].birth[0].count = 200 + n * 300),
    'end of the steady rate': (s, n) => s.systems[0].birth.filter((b) => b.kind === 'steady').forEach((b) => (b.end = 0.5 + n * 0.3)),
    'gravity, keyed late': (s, n) =>
      void (s.systems[0].whole.movement[0].strength = {
        keys: [
          { t: 1, v: 9.81, ease: 'linear' },
          { t: 2, v: n, ease: 'smooth' },
        ],
      }),
    gravity: (s, n) => void (s.systems[0].whole.movement[0].strength = n * 3),
    life: (s, n) => void (s.systems[0].life = { value: 0.6 + n * 0.1, vary: 0.2 }),
    bounce: (s, n) => void (s.systems[0].whole.contact[0].restitution = n * 9),
    'mute of turbulence': (s, n) => void (s.systems[0].phases[0].movement[0].muted = n % 2 === 0),
    'place of the anvil, keyed late': (s, n) =>
      void (s.objects[0].place = [
        0,
        {
          keys: [
            { t: 1.5, v: 0.535, ease: 'smooth' },
            { t: 2.5, v: 0.535 + n * 0.05, ease: 'smooth' },
          ],
        },
        0,
      ]),
    'a second birth': (s, n) =>
      void s.systems[0].birth.push({
        ...demoShot().systems[0].birth[1],
        id: `more-${n}-${s.systems[0].birth.length}`,
        start: 1.2,
        rate: 300,
        seed: n,
      }),
    'a birth less': (s) => void s.systems[0].birth.splice(1, 1),
    'the look': (s, n) => void (s.shared.looks[0].colour.stops[0].colour = [n, 1, 1]),
    'the camera': (s, n) => void (s.cameras[0].lens = 20 + n),
    'a seed': (s, n) => void (s.systems[0].birth[0].seed = n),
    'a warm start': (s, n) => {
      s.warm = n * 0.15
      s.systems[0].birth.filter((b) => b.kind === 'steady').forEach((b) => (b.start = n % 3 === 0 ? 0.3 : 0))
    },
    'a twist': (s, n) => void (s.objects[0].reshape = n === 0 ? [] : [{ id: 't', kind: 'twist', seed: 1, axis: 'y', angle: n * 20 }]),
    'a bend, keyed late': (s, n) =>
      void (s.objects[0].reshape = [
        {
          id: 'b',
          kind: 'bend',
          seed: 1,
          axis: 'x',
          towards: 0,
          angle: {
            keys: [
              { t: 1, v: 0, ease: 'linear' },
              { t: 2, v: n * 10, ease: 'smooth' },
            ],
          },
        },
      ]),
    'a region': (s, n) =>
      void (s.objects[0].regions = [
        { id: 'r', name: 'Rim', acts: [{ id: 'h', kind: 'height', seed: 1, axis: 'y', from: n * 5, to: 100, how: 'only' }] },
      ]),
    'births that follow it': (s, n) => s.systems[0].birth.forEach((b) => (b.region = n % 2 && s.objects[0].regions.length ? 'r' : '')),
    'the range': (s, n) => void (s.range.last = 50 + n),
  }
  const small = (): Shot => {
    const s = demoShot()
    s.systems[0].birth[0].count = 300
    s.systems[0].birth[1].rate = 200
    s.range.last = 60
    return s
  }
  it('a run that follows any series of edits shows what a fresh run shows (property)', async () => {
    const { meshes } = await loadShot('demo/anvil-strike/shot.json')
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.tuple(fc.constantFrom(...Object.keys(EDITS)), fc.integer({ min: 0, max: 9 }), fc.integer({ min: 0, max: 50 })), {
          minLength: 1,
          maxLength: 6,
        }),
        async (script) => {
          let shot = small()
          const run = await open(compile(shot, meshes).plan)
          catchUp(run, 40)
          for (const [edit, n, wanted] of script) {
            const next = structuredClone(shot)
            EDITS[edit](next, n)
            const from = touchedFrom(shot, next)
            if (edit === 'the look' || edit === 'the camera') expect(from).toBeNull()
            if (from !== null || next.range.last !== shot.range.last) run.change(compile(next, meshes).plan, from ?? next.range.last + 1)
            shot = next
            const target = Math.min(wanted, shot.range.last)
            catchUp(run, target)
            expect(frameMark(given(run.history.get(target)).frame), `${edit} ${n}, frame ${target}`).toBe(
              await fresh(compile(shot, meshes).plan, target),
            )
          }
          close()
        },
      ),
      { numRuns: 10, seed: 7 },
    )
  })
})
