import { describe, expect, it } from 'vitest'
import { type Frame, type PointsPart, partsOf, pointColumn } from '../engine'
import { framesOn, withWorld } from '../engine/testing/plans'
import type { ActDoc, PhaseDoc, Shot, SystemDoc } from '../shot'
import { checkShot, compile, touchedFrom } from '.'
import { act, after, quiet } from './testing/quiet'
import { primitive, thing } from './testing/things'

let n = 0
const one = (kind: string, values: Record<string, unknown> = {}): ActDoc => ({ ...act(kind, values), id: `${kind}-${n++}` })
const turn = (to: string, when: ActDoc[]) => one('turnTo', { to, when, life: null })
const phase = (id: string, values: Partial<PhaseDoc> = {}): PhaseDoc => ({
  ...{ id, name: id, blend: 0, movement: [], contact: [], offspring: [], look: [], turns: [] },
  ...values,
})
/** Two thousand spread about the middle, that leave phase a by the conditions given. */
const waiting = (when: ActDoc[], change: (s: Shot) => void = () => {}): Shot =>
  quiet((s) => {
    s.systems[0].phases = [phase('a', { turns: [turn('b', when)] }), phase('b')]
    s.systems[0].birth = [one('burst', { count: 2000, at: 0, source: 'ball', speed: 0, every: null, spread: 0 })]
    s.systems[0].limit = 5000
    s.objects = [thing('ball', { shape: primitive('sphere', { radius: 1 }) })]
    change(s)
  })
const pointsOf = (f: Frame, id = 'sparks'): PointsPart => partsOf(f.parts, 'points').filter((p) => p.element === id)[0]
const column = (f: Frame, name: Parameters<typeof pointColumn>[1], id?: string) => Array.from(pointColumn(pointsOf(f, id), name))
const share = (f: Frame, k = 1) => column(f, 'phase').filter((p) => p === k).length / pointsOf(f).count
const not = (a: ActDoc): ActDoc => ({ ...a, holds: 'false' })

describe('in view', () => {
  const seen = (values: Record<string, unknown> = {}, change: (s: Shot) => void = () => {}) =>
    waiting([one('limitSeen', values)], (s) => {
      Object.assign(s.cameras[0], { place: [0, 0, 4], aim: [0, 0, 0], lens: 36 })
      s.size = { width: 1000, height: 1000 }
      change(s)
    })
  it('is the pyramid of the lens, to the particle', async () => {
    // 36 mm of film behind a 36 mm lens: half as wide as far, on either side.
    for (const [values, wider] of [
      [{ margin: -30 }, 0.4],
      [{ margin: -30, side: 'outside' }, 0.4],
    ] as const) {
      const f = await after(seen(values), 2)
      const [x, y, z, phases] = (['px', 'py', 'pz', 'phase'] as const).map((c) => column(f, c))
      let inside = 0
      phases.forEach((p, i) => {
        const far = (4 - z[i]) * 0.5 * wider
        const edge = far - Math.max(Math.abs(x[i]), Math.abs(y[i]))
        if (Math.abs(edge) < 1e-4) return
        const is = edge > 0
        inside += is ? 1 : 0
        expect(p).toBe(is === !('side' in values) ? 1 : 0)
      })
      expect(inside).toBeGreaterThan(200)
      expect(inside).toBeLessThan(1800)
    }
  })
  it('goes by the space of the system, and by another camera from the first birth on', async () => {
    const still = await after(seen({ margin: -30 }), 2)
    const rides = await after(
      seen({ margin: -30 }, (s) => {
        s.objects.push(thing('raft', { place: [50, 0, 0] }))
        s.systems[0].space = 'raft'
        Object.assign(s.cameras[0], { place: [50, 0, 4], aim: [50, 0, 0] })
      }),
      2,
    )
    // The ball stays where it is; in the raft's own space it is 50 m off.
    expect(share(rides)).toBe(0)
    expect(share(still)).toBeGreaterThan(0.1)
    const before = seen()
    const other = structuredClone(before)
    other.cameras.push({ ...structuredClone(before.cameras[0]), id: 'second', place: [0, 0, -4] })
    other.camera = 'second'
    expect(touchedFrom(before, other)).not.toBeNull()
  })
})
describe('near particles', () => {
  it('counts those of its own system and of another exactly, and nobody when that one is gone', async () => {
    const others = (values: Record<string, unknown>, both = true) =>
      waiting([one('limitOthers', { radius: 0.12, least: 4, ...values })], (s) => {
        const more = structuredClone(s.systems[0]) as SystemDoc
        Object.assign(more, { id: 'more', name: 'More', seed: 5, phases: [phase('only')], muted: !both })
        for (const a of more.whole.look) a.id += '-more'
        more.birth = [{ ...more.birth[0], id: 'more-birth', count: 900 }]
        s.systems.push(more)
      })
    for (const system of [null, 'more']) {
      const f = await after(others({ system }), 1)
      const [x, y, z] = (['px', 'py', 'pz'] as const).map((c) => column(f, c))
      const [u, v, w] = (['px', 'py', 'pz'] as const).map((c) => column(f, c, system ?? 'sparks'))
      column(f, 'phase').forEach((p, i) => {
        let count = system === null ? -1 : 0
        for (let k = 0; k < u.length; k++) if ((x[i] - u[k]) ** 2 + (y[i] - v[k]) ** 2 + (z[i] - w[k]) ** 2 <= 0.12 * 0.12) count++
        expect(p, `${i}: ${count}`).toBe(count >= 4 ? 1 : 0)
      })
      expect(share(f)).toBeGreaterThan(0.2)
      expect(share(f)).toBeLessThan(1)
    }
    expect(share(await after(others({ system: 'more' }, false), 2))).toBe(0)
    expect(share(await after(others({ system: 'more', side: 'outside' }, false), 2))).toBe(1)
  })
  it('limits forces as well', async () => {
    const s = waiting([], (d) => {
      const wind = one('gravity', { strength: 9 })
      wind.limits = [one('limitOthers', { radius: 0.12, least: 5 })]
      d.systems[0].whole.movement = [wind]
      d.systems[0].phases = [phase('a')]
    })
    const speeds = column(await after(s, 1), 'vy')
    const fell = speeds.filter((v) => v < 0).length / speeds.length
    expect(fell).toBeGreaterThan(0.1)
    expect(fell).toBeLessThan(0.9)
  })
})
describe('on a region', () => {
  const riding = (values: Record<string, unknown> = {}, change: (s: Shot) => void = () => {}) =>
    waiting([one('limitRegion', { object: 'ball', region: 'top', ...values })], (s) => {
      s.objects[0].regions = [{ id: 'top', name: 'Top', acts: [one('height', { from: 60, to: 70 })] }]
      s.objects.push(thing('other', { shape: primitive('sphere') }))
      s.systems[0].whole.movement = [one('stay', { object: 'ball' })]
      change(s)
    })
  it('goes by the amount where they ride, and by the place that they keep on a moving object', async () => {
    const turning = (s: Shot) => {
      s.objects[0].rotate = [0, 0, { keys: [0, 1].map((t) => ({ t, v: t * 90, ease: 'linear' as const })) }]
    }
    const f = await after(riding(), 2)
    column(f, 'phase').forEach((p, i) => {
      const y = column(f, 'py')[i]
      if (Math.abs(y - 0.3) > 0.08) expect(p, `${y}`).toBe(y > 0.3 ? 1 : 0)
    })
    expect(share(f)).toBeGreaterThan(0.3)
    // The region turns with the ball, and whoever rides turns with both.
    expect(share(await after(riding({}, turning), 20))).toBeCloseTo(share(f), 5)
    expect(share(await after(riding({ side: 'outside' }), 2))).toBeCloseTo(1 - share(f), 5)
  })
  it('holds for nobody who rides on something else, and for all without a region', async () => {
    expect(share(await after(riding({ object: 'other', region: '' }), 3))).toBe(0)
    expect(share(await after(riding({ region: '' }), 3))).toBe(1)
    const before = riding()
    const wider = structuredClone(before)
    wider.objects[0].regions[0].acts[0].from = 10
    expect(touchedFrom(before, wider)).not.toBeNull()
    const unused = structuredClone(before)
    unused.systems[0].phases[0].turns[0].when = []
    const other = structuredClone(unused)
    other.objects[0].regions[0].acts[0].from = 10
    expect(touchedFrom(unused, other)).toBeNull()
  })
})
describe('switches and numbers', () => {
  it('a keyed switch is on from a half up, for all at once', async () => {
    const level = { keys: [0, 1].map((k) => ({ t: k, v: k * 100, ease: 'linear' })) }
    const s = waiting([one('whenSwitched', { level })])
    expect(share(await after(s, 11))).toBe(0)
    expect(share(await after(s, 13))).toBe(1)
    expect(share(await after(waiting([not(one('whenSwitched', { level }))]), 2))).toBe(1)
  })
  it('a phase that holds enough takes no more', async () => {
    const s = waiting([one('whenInPhase', { after: { value: 1, vary: 1 } }), one('whenFew', { phase: 'b', most: 500 })], (d) => {
      d.substeps = 8
    })
    const f = await after(s, 50)
    const there = share(f) * 2000
    // Those of one substep more, at most: 2,000 over 2 s at 192 substeps a second.
    expect(there).toBeGreaterThanOrEqual(500)
    expect(there).toBeLessThan(530)
    const named = structuredClone(s)
    named.systems[0].phases[0].turns[0].when?.forEach((c) => {
      if (c.kind === 'whenFew') c.phase = 'nowhere'
    })
    const checked = checkShot(named)
    expect(checked.ok).toBe(false)
    expect(JSON.stringify(checked)).toContain('no phase of this system has the id nowhere')
  })
})
describe('what is chased', () => {
  it('is reached within the distance, and the next phase knows nothing of it', async () => {
    const s = waiting([one('whenReached', { within: 0.2 })], (d) => {
      d.objects.push(thing('lamp', { place: [3, 0, 0] }))
      d.systems[0].phases[0].movement = [one('chase', { target: 'lamp', pick: 'middle', speed: 3, arrive: 0.5 })]
      d.systems[0].phases[1].turns = [turn('a', [one('whenReached', { within: 100 })])]
    })
    const early = await after(s, 12)
    expect(share(early)).toBe(0)
    const f = await after(s, 60)
    expect(share(f)).toBe(1)
    const far = column(f, 'px').map((x, i) => Math.hypot(x - 3, column(f, 'py')[i], column(f, 'pz')[i]))
    // Nobody turned before it was there: a substep at 3 m/s beyond, at most.
    for (const d of far.slice(0, 200)) expect(d).toBeLessThan(3)
    expect(share(await after(waiting([one('whenReached', { within: 100 })]), 5))).toBe(0)
  })
})
describe('what is noticed', () => {
  /** Fast ones through a thin plate that moves and turns. */
  const shot = (contact: ActDoc[], when: ActDoc[], move = 1) =>
    waiting(when, (s) => {
      s.objects = [
        thing('mouth', { place: [-2, 0, 0] }),
        thing('plate', {
          shape: primitive('box', { width: 0.004, height: 6, depth: 6 }),
          place: [{ keys: [0, 1].map((t) => ({ t, v: t * move, ease: 'linear' })) }, 0, 0],
          rotate: [{ keys: [0, 1].map((t) => ({ t, v: t * 200 * move, ease: 'linear' })) }, 0, 0],
        }),
      ]
      s.systems[0].birth = [
        one('burst', {
          count: 1500,
          at: 0,
          source: 'mouth',
          speed: { value: 40, vary: 30 },
          along: 'direction',
          direction: [1, 0, 0],
          spread: 8,
          every: null,
        }),
      ]
      s.systems[0].whole.movement = [one('gravity', { strength: 9.81 })]
      s.systems[0].whole.contact = contact
    })
  it('changes no bit of the way, and nobody gets through without it', async () => {
    const plain = await after(shot([], []), 4)
    const f = await after(shot([one('notice', { with: 'plate' })], [one('whenTouched', { with: 'plate' })]), 4)
    for (const name of ['px', 'py', 'pz', 'vx', 'vy', 'vz', 'age', 'seed'] as const)
      expect(column(f, name), name).toEqual(column(plain, name))
    const x = column(f, 'px')
    const plate = 4 / 24
    let through = 0
    column(f, 'phase').forEach((p, i) => {
      if (Math.abs(x[i] - plate) < 0.02) return
      expect(p, `${x[i]}`).toBe(x[i] > plate ? 1 : 0)
      through += p
    })
    expect(through).toBeGreaterThan(1000)
  })
  it('does so at the moment itself, and how hard', async () => {
    const checked = checkShot(shot([one('notice', { with: 'plate' })], [one('whenTouched', { with: 'plate', speed: 30 })], 0))
    if (!checked.ok) throw new Error(JSON.stringify(checked.problems))
    await withWorld(compile(checked.shot, new Map()).plan, (w) => {
      const f = framesOn(w, 4)
      const columns = w.columnsOf('sparks')
      const [vx, phases] = [column(f, 'vx'), column(f, 'phase')]
      phases.forEach((p, i) => {
        if (Math.abs(vx[i] - 30) < 0.01) return
        const hit = column(f, 'px')[i] > 0.01
        expect(p).toBe(vx[i] > 30 && hit ? 1 : 0)
        if (p) expect(columns?.value('phaseStart', i)).toBeCloseTo(1.998 / vx[i], 3)
      })
    })
  })
})
