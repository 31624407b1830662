import { describe, expect, it } from 'vitest'
import type { Frame } from '../engine'
import { column, points } from '../engine/testing/plans'
import type { ObjectDoc, Shot } from '../shot'
import { checkShot, compile } from '.'
import { actOf, actsOfSort } from './registry'
import { act, after, quiet } from './testing/quiet'
import { primitive, thing } from './testing/things'

const ball = (id: string, values: Partial<ObjectDoc> = {}): ObjectDoc =>
  thing(id, { shape: primitive('sphere', { radius: 0.5, detail: 8 }), roles: { source: false, collider: true }, ...values })
/** Sixty that fly apart from one place. */
const shotOf = (change: (s: Shot) => void): Shot =>
  quiet((s) => {
    s.systems[0].birth = [act('burst', { count: 60, at: 0, source: null, speed: 1, every: null, spread: 180 })]
    change(s)
  })
const run = async <T>(s: Shot, frames: number, inspect: (f: Frame) => T): Promise<T> => inspect(await after(s, frames))
const finite = (f: Frame) => (['px', 'py', 'pz', 'vx', 'vy', 'vz'] as const).every((c) => [...column(f, c)].every(Number.isFinite))

describe('values at their ends', () => {
  it.each(actsOfSort('force').map((a) => a.kind))(
    '%s with huge and with the least values stays finite, and what is thrown out is named',
    async (kind) => {
      const spec = actOf(kind).params
      for (const end of ['huge', 'least'] as const) {
        const values: Record<string, unknown> = {}
        for (const [name, p] of Object.entries(spec)) {
          if (p.type !== 'number' || name === 'share' || name === 'octaves') continue
          values[name] = end === 'huge' ? (p.max ?? 1e30) : (p.min ?? -1e30)
        }
        const f = await run(
          shotOf((s) => {
            s.objects = [ball('target')]
            s.systems[0].whole.movement = [
              act(kind, {
                ...values,
                ...('object' in spec ? { object: 'target' } : {}),
                ...('target' in spec ? { target: 'target' } : {}),
              }),
            ]
          }),
          4,
          (x) => x,
        )
        expect(finite(f)).toBe(true)
        const gone = 60 - points(f).count
        if (gone && !actOf(kind).endsLives) expect(f.notices.some((n) => n.kind === 'lost' && n.element === 'sparks')).toBe(true)
      }
    },
  )
  it('a force that makes particles non-finite is named', async () => {
    await run(
      shotOf((s) => {
        s.systems[0].whole.movement = [act('drag'), act('gravity', { strength: 1e25 })]
      }),
      3,
      (f) => {
        expect(f.notices.find((n) => n.kind === 'lost')?.message).toContain('Gravity of Sparks pushes far too hard and is switched off')
        expect(finite(f)).toBe(true)
      },
    )
  })
  it('targets that are gone are not gone after: every force that follows something does nothing, and says so', async () => {
    for (const kind of ['attractSurface', 'chase', 'stay', 'crawl', 'path']) {
      const s = shotOf((d) => {
        d.systems[0].whole.movement = [act(kind)]
      })
      const checked = checkShot(s)
      if (!checked.ok) throw new Error('not a shot')
      expect(
        compile(checked.shot, new Map())
          .problems.map((p) => p.message)
          .join(),
      ).toMatch(/choose/)
      await run(s, 3, (f) => {
        expect(finite(f)).toBe(true)
        expect(points(f).count).toBe(60)
      })
    }
  })
  it('colliders inside each other, and a source inside a collider, keep all particles finite', async () => {
    for (const thickness of [0, 0.1])
      for (const meets of [false, true]) {
        const f = await run(
          shotOf((s) => {
            s.objects = [
              ball('one', { thickness }),
              ball('two', { place: [0.3, 0, 0], thickness }),
              ball('three', { place: [0, 0, 0], scale: [2, 2, 2], sides: 'both' }),
            ]
            s.systems[0].whole.movement = [act('gravity')]
            s.systems[0].whole.contact = [act('bounce'), ...(meets ? [act('meet', { radius: 0.03 })] : [])]
          }),
          30,
          (x) => x,
        )
        expect(finite(f)).toBe(true)
        expect(points(f).count).toBe(60)
      }
  })
  it('where time stands still nothing moves and nothing is divided by it', async () => {
    const still = await run(
      shotOf((s) => {
        s.systems[0].timeScale = 0
        s.objects = [ball('target', { place: [2, 0, 0] })]
        s.systems[0].whole.movement = [act('stay', { object: 'target' }), act('flock'), act('wind')]
        s.systems[0].whole.contact = [act('meet'), act('stick')]
      }),
      5,
      (x) => x,
    )
    expect(finite(still)).toBe(true)
    expect(points(still).count).toBe(60)
  })
})
describe('frame rates and substeps', () => {
  // Where particles are after two seconds, by how the two seconds are cut. Tolerances in metres: stated in docs/measured.md.
  const cases: [string, number, (s: Shot) => void][] = [
    [
      'gravity and drag',
      0.12,
      (s) => {
        s.systems[0].whole.movement = [act('gravity', { strength: 2 }), act('drag', { halving: 0.8 })]
      },
    ],
    [
      'a vortex that carries',
      0.3,
      (s) => {
        s.systems[0].whole.movement = [act('vortex', { mode: 'carry', around: 1.5, pull: 0, lift: 0.3, reach: null, place: [1.5, 0, 0] })]
      },
    ],
    [
      'orbit',
      0.35,
      (s) => {
        s.systems[0].whole.movement = [act('orbit', { radius: 0.8, around: 1, place: [1.2, 0, 0] })]
      },
    ],
    [
      'chase',
      0.03,
      (s) => {
        s.objects = [ball('target', { place: [1, 0.4, 0], roles: { source: false, collider: false } })]
        s.systems[0].whole.movement = [act('chase', { target: 'target', pick: 'middle' })]
      },
    ],
    [
      'a spring to a surface',
      0.1,
      (s) => {
        s.objects = [ball('target', { roles: { source: false, collider: false } })]
        s.systems[0].whole.movement = [act('stay', { object: 'target', swing: 0.8, damping: 40 })]
      },
    ],
  ]
  it.each(cases)('%s: 24, 30 and 60 frames a second and 1 to 8 substeps agree', async (_name, tolerance, change) => {
    const at = (rate: number, substeps: number) =>
      run(
        shotOf((s) => {
          change(s)
          s.rate = { num: rate, den: 1 }
          s.substeps = substeps
          s.range = { first: 0, last: rate * 3 }
        }),
        rate * 2,
        (f) => [...column(f, 'px')].map((x, i) => [x, column(f, 'py')[i], column(f, 'pz')[i]]),
      )
    const exact = await at(60, 16)
    for (const [rate, substeps] of [
      [24, 1],
      [24, 8],
      [30, 2],
      [60, 1],
      [60, 8],
    ]) {
      const p = await at(rate, substeps)
      const worst = Math.max(...p.map((q, i) => Math.hypot(q[0] - exact[i][0], q[1] - exact[i][1], q[2] - exact[i][2])))
      // The error falls with the length of a substep; the tolerance is that of the longest.
      expect(worst).toBeLessThan(tolerance * Math.max(0.25, 24 / (rate * substeps)))
    }
  })
})
