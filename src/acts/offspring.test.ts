import { describe, expect, it } from 'vitest'
import { aliveIn, frameMark, partsOf, stripColumn, stripOffsets, stripPoints } from '../engine'
import { CSV_COLUMNS, STRIP_TABLE_COLUMNS, stripsTable, tableCsv } from '../formats'
import { type Shot, timeOf } from '../shot'
import { checkShot, compile, drawsOf, stripDraw, stripOwner, touchedFrom } from '.'
import { actOf } from './registry'
import { act, after, quiet } from './testing/quiet'
import { primitive, thing } from './testing/things'

const shotOf = (trail: Record<string, unknown> = {}, change: (s: Shot) => void = () => {}): Shot =>
  quiet((s) => {
    s.systems[0].birth = [act('burst', { count: 50, at: 0, source: null, speed: 3, every: null, spread: 180 })]
    s.systems[0].whole.offspring = [act('trail', trail)]
    change(s)
  })
const trailOf = (s: Shot) => s.systems[0].whole.offspring[0]

describe('a trail of a shot', () => {
  it('is checked, simulated and drawn; its particles are those without it', async () => {
    const shot = shotOf({ seconds: 0.5 })
    expect(checkShot(JSON.parse(JSON.stringify(shot))).ok).toBe(true)
    const f = await after(shot, 24)
    const [part] = partsOf(f.parts, 'strips')
    expect(part.strips).toBe(50)
    expect(part.act).toBe(trailOf(shot).id)
    expect(f.stats[shot.systems[0].id].trails).toEqual({ strips: 50, points: part.points })
    const without = await after(
      shotOf({}, (s) => void (s.systems[0].whole.offspring = [])),
      24,
    )
    const mark = (x: typeof f) => frameMark({ ...x, parts: partsOf(x.parts, 'points') })
    expect(mark(f)).toBe(mark(without))
  })
  it('in a phase begins with it and ends with it', async () => {
    const shot = shotOf({}, (s) => {
      const [system] = s.systems
      system.whole.offspring = []
      system.phases = [
        { ...system.phases[0], turns: [act('turnTo', { to: 'second', life: null, when: [act('whenInPhase', { after: 0.25 })] })] },
        { ...system.phases[0], id: 'second', name: 'Second', turns: [], offspring: [act('trail', { seconds: 10, fade: 10 })] },
      ]
    })
    const count = async (frames: number) => partsOf((await after(shot, frames)).parts, 'strips')[0].strips
    expect(await count(5)).toBe(0)
    expect(await count(8)).toBe(50)
    const [part] = partsOf((await after(shot, 18)).parts, 'strips')
    const offsets = stripOffsets(part)
    // 0.75 s less the quarter second of the first phase, at 3 m/s.
    for (let k = 0; k < 50; k++) {
      const metres = stripPoints(part, 'metres')
      expect(metres[offsets[k + 1] - 1] - metres[offsets[k]]).toBeCloseTo(1.5, 1)
    }
  })
  it('its look runs nothing again, its length does', () => {
    const before = shotOf({ seconds: 0.5 })
    const with_ = (values: Record<string, unknown>) => {
      const s = structuredClone(before)
      Object.assign(trailOf(s), values)
      return touchedFrom(before, s)
    }
    const { params } = actOf('trail')
    for (const [name, p] of Object.entries(params)) {
      const value = p.type === 'choice' ? p.options.at(-1)?.value : p.type === 'number' ? 7 : p.type === 'vector' ? [1, 2, 3] : 'look'
      expect([name, with_({ [name]: value }) === null]).toEqual([name, p.changes === 'look'])
    }
  })
  it('takes the look of its particle, or not', async () => {
    const shot = shotOf({ seconds: 0.5, width: 0.02, brightness: 2 }, (s) => {
      s.shared.looks = [
        {
          ...s.shared.looks[0],
          id: 'red',
          name: 'red',
          colour: { stops: [{ at: 0, colour: [1, 0, 0] }] },
          size: { points: [{ at: 0, v: 0.5 }] },
          opacity: { points: [{ at: 0, v: 1 }] },
        },
      ]
      s.systems[0].whole.look = [act('overLife', { look: 'red', size: 0.1, brightness: 3 })]
    })
    const f = await after(shot, 12)
    const [part] = partsOf(f.parts, 'strips')
    const at = (own: string) => {
      const s = structuredClone(shot)
      trailOf(s).own = own
      const t = timeOf(s, f.frame)
      const draw = stripDraw(s, s.systems[0], part.act, t)
      if (!draw) throw new Error('no strips')
      const table = stripsTable(part, draw, drawsOf(s, s.systems[0], t))
      const column = (name: string) => table.columns[STRIP_TABLE_COLUMNS.indexOf(name as 'r')].data
      const head = stripOffsets(part)[1] - 1
      return (['along', 'width', 'r', 'g'] as const).map((n) => column(n)[head])
    }
    // Times 3 of the particle, times 2 of its own.
    expect(at('all').map((v) => Number(v.toFixed(4)))).toEqual([0, 0.01, 6, 0])
    expect(at('none').map((v) => Number(v.toFixed(4)))).toEqual([0, 0.02, 2, 2])
  })
  it('as a table has a row a point, with the ids of the particles', async () => {
    const shot = shotOf({ seconds: 0.5 })
    const f = await after(shot, 12)
    const [part] = partsOf(f.parts, 'strips')
    const draw = stripDraw(shot, shot.systems[0], part.act, 0)
    if (!draw) throw new Error('no strips')
    const lines = tableCsv(stripsTable(part, draw, drawsOf(shot, shot.systems[0], 0)))
      .trimEnd()
      .split('\n')
    expect(lines[0]).toBe(STRIP_TABLE_COLUMNS.join(','))
    expect(lines.length).toBe(part.points + 1)
    const ids = new Set(lines.slice(1).map((l) => Number(l.split(',')[1])))
    expect([...ids].sort((a, b) => a - b)).toEqual([...(stripColumn(part, 'id') as Uint32Array)].sort((a, b) => a - b))
    expect(CSV_COLUMNS).not.toContain('strip')
  })
  it('muted, of no share or of a system that is muted there is none', async () => {
    expect(partsOf((await after(shotOf({ muted: true }), 6)).parts, 'strips')).toEqual([])
    expect(partsOf((await after(shotOf({ share: 0 }), 6)).parts, 'strips')[0].strips).toBe(0)
    expect(
      compile(
        shotOf({}, (s) => void (s.systems[0].muted = true)),
        new Map(),
      ).plan.systems[0].trails,
    ).toEqual([])
  })
  it('with huge and with the least values stays finite, and its particles go on', async () => {
    const { params } = actOf('trail')
    for (const points of ['stay', 'drift'])
      for (const by of ['time', 'way'])
        for (const end of ['huge', 'least'] as const) {
          const values = Object.fromEntries(
            Object.entries(params).flatMap(([name, p]) =>
              p.type === 'number' && name !== 'share' ? [[name, end === 'huge' ? (p.max ?? 1e30) : (p.min ?? -1e30)]] : [],
            ),
          )
          const f = await after(shotOf({ ...values, points, by }), 4)
          expect(aliveIn(f)).toBe(50)
          for (const part of partsOf(f.parts, 'strips'))
            for (const name of ['px', 'py', 'pz', 'along'] as const) expect(stripPoints(part, name).every(Number.isFinite)).toBe(true)
        }
  })
})
describe('a trail of an object', () => {
  /** An anchor that goes round a circle of one metre once a second. */
  const round = (trail: Record<string, unknown> = {}, change: (s: Shot) => void = () => {}) =>
    quiet((s) => {
      s.systems[0].birth = []
      const keys = (phase: number) => ({
        value: 0,
        modulators: [{ ...act('wave', { period: 1, height: 1, shape: 'sine', offset: phase }), id: `m${phase}`, mode: 'add' }],
      })
      s.objects = [
        thing('lamp', {
          shape: { kind: 'anchor' },
          place: [keys(0), 0, keys(0.25)] as never,
          offspring: [act('trail', { seconds: 0.5, detail: 0.001, ...trail })],
        }),
      ]
      change(s)
    })
  it('follows it, smooth also within a substep', async () => {
    const shot = round({}, (s) => void (s.substeps = 1))
    const f = await after(shot, 36)
    const [part] = partsOf(f.parts, 'strips')
    expect([part.element, part.strips]).toEqual(['lamp', 1])
    expect(partsOf(f.parts, 'points').map((p) => p.element)).toEqual([shot.systems[0].id])
    const [x, z] = (['px', 'pz'] as const).map((n) => stripPoints(part, n))
    for (let i = 0; i < part.points; i++) expect(Math.hypot(x[i], z[i])).toBeCloseTo(1, 2)
    // Half of a circle in half a second; the chords lie within the tolerance.
    const metres = stripPoints(part, 'metres')
    expect(metres[part.points - 1] - metres[0]).toBeCloseTo(Math.PI, 1)
    for (let i = 1; i < part.points; i++) expect(Math.hypot((x[i] + x[i - 1]) / 2, (z[i] + z[i - 1]) / 2)).toBeGreaterThan(0.995)
  })
  it('is drawn without a particle, goes with a change of its way, and is a table', async () => {
    const shot = round()
    const f = await after(shot, 12)
    const [part] = partsOf(f.parts, 'strips')
    const found = stripOwner(shot, 'lamp', 0)
    const draw = found && stripDraw(shot, found.owner, part.act, 0)
    expect(draw && stripsTable(part, draw, found.looks, found.matrices).rows).toBe(part.points)
    const moved = structuredClone(shot)
    moved.objects[0].place = [1, 2, 3]
    expect(touchedFrom(shot, moved)).toBe(1)
    const wider = structuredClone(shot)
    wider.objects[0].offspring[0].width = 3
    expect(touchedFrom(shot, wider)).toBeNull()
    const longer = structuredClone(shot)
    longer.objects[0].offspring[0].seconds = 3
    expect(touchedFrom(shot, longer)).toBe(1)
  })
  it('sheds no particles: that is refused where it stands', () => {
    const c = checkShot(round({}, (s) => void (s.objects[0].offspring = [act('shed')])))
    expect(c.ok ? '' : c.problems[0].message).toMatch(/kind must be one of trail/)
  })
  it('of one that is thrown starts from where the run has it', async () => {
    const shot = quiet((s) => {
      s.systems[0].birth = []
      const body = {
        at: 0.25,
        velocity: [3, 4, 0],
        spin: [0, 0, 0],
        inherit: 0,
        radius: 0.1,
        mass: 1,
        restitution: 40,
        friction: 0.3,
        rolling: 0.02,
      }
      s.objects = [thing('slug', { body: body as never, offspring: [act('trail', { seconds: 10 })] })]
    })
    const [part] = partsOf((await after(shot, 24)).parts, 'strips')
    const last = part.points - 1
    expect(stripPoints(part, 'px')[last]).toBeCloseTo(3 * 0.75, 3)
    expect(stripPoints(part, 'py')[last]).toBeCloseTo(4 * 0.75, 3)
  })
})
describe('growth of an object', () => {
  const ivy = (values: Record<string, unknown> = {}, o: Record<string, unknown> = {}) =>
    quiet((s) => {
      s.systems[0].birth = []
      s.objects = [
        thing('root', { shape: { kind: 'anchor' }, place: [1, 0, 0] }),
        thing('ball', {
          shape: primitive('sphere', { radius: 1, detail: 24 }),
          offspring: [act('growth', { lines: 3, lift: 0.01, ...values })],
          ...o,
        }),
      ]
    })
  const stripsAfter = async (s: Shot, frames: number) => partsOf((await after(s, frames)).parts, 'strips')[0]
  it('lies on it, no farther off than it should, in metres of the shot', async () => {
    // Half as large: a metre is a metre still.
    const part = await stripsAfter(
      ivy({ generations: 1, reach: 0.4, speed: 1, wander: 0 }, { scale: [0.5, 0.5, 0.5], place: [0, 2, 0] }),
      24,
    )
    const [x, y, z] = (['px', 'py', 'pz'] as const).map((n) => stripPoints(part, n))
    for (let i = 0; i < part.points; i++) {
      const r = Math.hypot(x[i], y[i] - 2, z[i])
      expect(r).toBeGreaterThan(0.5)
      expect(r).toBeLessThan(0.5 + 0.0101)
    }
    const [offsets, metres] = [stripOffsets(part), stripPoints(part, 'metres')]
    const length = (k: number) => {
      let sum = 0
      for (let i = offsets[k] + 1; i < offsets[k + 1]; i++) sum += Math.hypot(x[i] - x[i - 1], y[i] - y[i - 1], z[i] - z[i - 1])
      return sum
    }
    for (let k = 0; k < 3; k++) expect(length(k)).toBeCloseTo(0.4, 1)
    expect(Math.max(...metres)).toBeCloseTo(0.8, 2)
  })
  it('begins near an object, all in one direction', async () => {
    const part = await stripsAfter(
      ivy({ begins: 'near', near: 'root', around: 0.2, goes: 'direction', direction: [0, 1, 0], fan: 0, generations: 1 }),
      24,
    )
    const [x, y] = (['px', 'py'] as const).map((n) => stripPoints(part, n))
    const offsets = stripOffsets(part)
    for (let k = 0; k < part.strips; k++) {
      expect(x[offsets[k]]).toBeGreaterThan(0.9)
      expect(y[offsets[k + 1] - 1]).toBeGreaterThan(y[offsets[k]])
    }
  })
  it('a wider one runs nothing again, another way of growing does; systems have none', () => {
    const a = ivy()
    const changed = (values: Record<string, unknown>) => {
      const s = structuredClone(a)
      Object.assign(s.objects[1].offspring[0], values)
      return touchedFrom(a, s)
    }
    expect(changed({ width: 1, brightness: 3 })).toBeNull()
    expect(changed({ angle: 20 })).toBe(1)
    const c = checkShot(shotOf({}, (s) => void (s.systems[0].whole.offspring = [act('growth')])))
    expect(c.ok ? '' : c.problems[0].message).toMatch(/kind must be one of trail, shed, links/)
  })
})
