import { describe, expect, it } from 'vitest'
import { compose, halfTable, type Mesh, partOf, pointColumn, type StoredVolume, volumeAt, volumeHalves } from '../engine'
import { framesOn, points, withWorld } from '../engine/testing/plans'
import { dense, stored } from '../engine/testing/stored'
import type { Shot, Vec3 } from '../shot'
import { checkShot, compile } from '.'
import { fogsAt, isFog } from './fogs'
import { isStored } from './storedFeeds'
import { gasDoc } from './testing/gas'
import { act, quiet } from './testing/quiet'
import { thing } from './testing/things'
import { touchedFrom } from './touched'

const [HASH, SECOND] = ['a', 'b'].map((l) => l.repeat(64))
const NO_MESH: Mesh = { positions: new Float32Array(0), normals: null, indices: new Uint32Array(0), parts: [] }
/** The same, twice as dense. */
const thicker: StoredVolume = {
  grids: stored.grids,
  read(name) {
    const g = stored.read(name)
    return g && name === 'density' ? { ...g, values: g.values.map((v) => v * 2) } : g
  },
}
const meshes = new Map<string, Mesh>([
  [HASH, { ...NO_MESH, volume: stored }],
  [SECOND, { ...NO_MESH, volume: thicker }],
])
const shape = (poses: string[] = [], o = {}) =>
  ({
    kind: 'mesh',
    asset: HASH,
    unit: 1,
    up: 'y',
    poses,
    rate: 24,
    start: 0,
    speed: 1,
    after: 'hold',
    ...o,
  }) as Shot['objects'][number]['shape']
const FILE = { object: 'puff', hold: null, from: null, to: null }
const puffs = (change: (s: Shot) => void, feed: Record<string, unknown> = {}): Shot =>
  quiet((s) => {
    s.objects = [thing('puff', { shape: shape() })]
    s.gases = [gasDoc({ id: 'smoke', voxel: 0.05, feeds: [act('fromFile', { ...FILE, ...feed })] })]
    s.assets = [HASH, SECOND].map((hash) => ({ hash, name: `${hash[0]}.vdb` }))
    change(s)
  })
const run = (s: Shot, frames: number) => {
  const checked = checkShot(s)
  if (!checked.ok) throw new Error(JSON.stringify(checked.problems))
  const made = compile(checked.shot, meshes)
  return withWorld(made.plan, (w) => ({ frame: framesOn(w, frames), problems: made.problems }))
}
/** Densities at places of the shot after some frames. */
async function densities(s: Shot, frames: number, places: readonly Vec3[]): Promise<number[]> {
  const part = partOf((await run(s, frames)).frame.parts, 'volume', 'smoke')
  if (!part) throw new Error('no gas')
  return [...volumeAt(part, 'density', Float32Array.from(places.flat()))]
}

describe('a gas from files', () => {
  it('stands where its object does, in its unit and with its axis upwards', async () => {
    const place: Vec3 = [1, 2, 3]
    const s = puffs((x) => {
      Object.assign(x.objects[0], { place, rotate: [0, 90, 0], scale: [2, 2, 2], shape: shape([], { unit: 0.5, up: 'z' }) })
    })
    // Half the unit, twice as large: as it is; its Z upwards, and then a quarter turn about Y.
    const at = [0.1, 0.2, -0.05] as const
    const turned = [at[0], at[2], -at[1]]
    const m = compose(place, [0, 90, 0], [1, 1, 1])
    const there = [0, 1, 2].map((r) => m[r * 4] * turned[0] + m[r * 4 + 1] * turned[1] + m[r * 4 + 2] * turned[2] + m[r * 4 + 3]) as Vec3
    const [middle, aside] = await densities(s, 1, [place, there])
    expect(middle).toBeCloseTo(1, 1)
    expect(Math.abs(aside - dense(...at))).toBeLessThan(0.04)
  })
  it('plays its files as the object says: so many a second, from a moment on, held or again, a part of them, or one', async () => {
    const files = (o: Record<string, unknown>, feed: Record<string, unknown> = {}) =>
      puffs((x) => {
        x.objects[0].shape = shape([SECOND, HASH, SECOND], o)
      }, feed)
    const after = async (s: Shot, frames: number) => Math.round((await densities(s, frames, [[0, 0, 0]]))[0])
    // Thin, thick, thin, thick.
    expect([await after(files({}), 0), await after(files({}), 1), await after(files({}), 2), await after(files({}), 9)]).toEqual([
      1, 2, 1, 2,
    ])
    expect(await after(files({ rate: 12 }), 2)).toBe(2)
    expect(await after(files({ start: 2 / 24 }), 2)).toBe(1)
    expect(await after(files({ after: 'repeat' }), 4)).toBe(1)
    expect(await after(files({}, { hold: 2 }), 6)).toBe(2)
    expect(await after(files({}, { from: 2, to: 3 }), 0)).toBe(2)
    expect(await after(files({}, { from: 2, to: 3 }), 8)).toBe(1)
  })
  it('has all copies of its object, as if each had been placed by hand', async () => {
    const ring = puffs((x) => {
      x.objects[0].copies = [act('copiesRing', { count: 3, radius: 1.5 })]
    })
    const byHand = puffs((x) => {
      x.objects = [0, 120, 240].map((deg) =>
        thing(`puff${deg}`, {
          shape: shape(),
          place: [1.5 * Math.sin((deg * Math.PI) / 180), 0, 1.5 * Math.cos((deg * Math.PI) / 180)],
          rotate: [0, deg, 0],
        }),
      )
      x.gases[0].feeds = x.objects.map((o) => ({ ...act('fromFile', { ...FILE, object: o.id }), id: `from-${o.id}` }))
    })
    const places = Array.from({ length: 60 }, (_, i): Vec3 => [Math.sin(i * 1.7) * 1.6, Math.sin(i * 2.3) * 0.3, Math.cos(i * 1.1) * 1.6])
    const [a, b] = [await densities(ring, 1, places), await densities(byHand, 1, places)]
    expect(Math.max(...a)).toBeGreaterThan(0.3)
    a.forEach((v, i) => {
      expect(v).toBeCloseTo(b[i], 3)
    })
  })
  it('picks copies among several objects', async () => {
    const s = puffs((x) => {
      x.objects.push(thing('thick', { shape: shape([], { asset: SECOND }), place: [50, 0, 0] }))
      x.objects[0].copies = [act('copiesLine', { count: 2, step: [3, 0, 0], pick: 'turn', among: ['thick'] })]
    })
    const row = [-3, -1.5, 0, 1.5, 3].map((x): Vec3 => [x, 0, 0])
    const seen = (await densities(s, 1, row)).map(Math.round)
    expect(seen.filter((v) => v === 1)).toHaveLength(1)
    expect(seen.filter((v) => v === 2)).toHaveLength(1)
  })
  it('carries particles by its velocities, which turn with it', async () => {
    // Where it is dense it rotates about its own Z and rises along it: turned over X, it goes along −Y.
    const s = puffs((x) => {
      x.objects[0].rotate = [90, 0, 0]
      x.forces = [
        {
          ...{ id: 'f', name: 'f', seed: 1, reaches: 'all', shares: [] },
          act: act('gasCarry', { gas: 'smoke', response: 0.01 }),
        },
      ]
    })
    const { frame } = await run(s, 3)
    const [vx, vy, vz] = (['vx', 'vy', 'vz'] as const).map((n) => pointColumn(points(frame), n))
    // They start in the middle, about which it rotates.
    expect(Math.abs(vx[0])).toBeLessThan(0.2)
    expect(Math.abs(vy[0] - -0.5)).toBeLessThan(0.1)
    expect(Math.abs(vz[0])).toBeLessThan(0.2)
  })
  it('comes into a gas that flows: so much a second, set, or at least; within its window, and flows on', async () => {
    const fed = (feed: Record<string, unknown>, change: (s: Shot) => void = () => {}) =>
      puffs(
        (x) => {
          Object.assign(x.gases[0], { place: [0, 0, 0], size: [3, 3, 3], motion: [], burning: [] })
          change(x)
        },
        { end: null, ...feed },
      )
    /** Density times its volume, m³. */
    const amount = async (s: Shot, frames: number) => {
      const part = partOf((await run(s, frames)).frame.parts, 'volume', 'smoke')
      if (!part) throw new Error('no gas')
      let sum = 0
      for (let n = 0; n < part.tiles; n++) for (const h of volumeHalves(part, n, 'density')) sum += halfTable()[h]
      return sum * part.voxel ** 3
    }
    const once = await amount(
      puffs(() => {}),
      1,
    )
    expect(once).toBeGreaterThan(0.1)
    // 12 frames are half a second.
    expect(Math.abs((await amount(fed({ comes: 'add' }), 12)) / (once * 0.5) - 1)).toBeLessThan(0.01)
    expect(Math.abs((await amount(fed({ comes: 'add', start: 3 / 24, end: 9 / 24 }), 12)) / (once * 0.25) - 1)).toBeLessThan(0.01)
    expect(Math.abs((await amount(fed({ comes: 'set' }), 6)) / once - 1)).toBeLessThan(0.01)
    expect(Math.abs((await amount(fed({ comes: 'most', densityTimes: 2 }), 6)) / (2 * once) - 1)).toBeLessThan(0.01)
    expect(isStored(fed({ comes: 'set' }).gases[0])).toBe(false)
    // What was there for a moment rises by its heat.
    const risen = fed({ comes: 'set', end: 1 / 24 }, (x) => void (x.gases[0].motion = [act('rise', { heat: 1 })]))
    const [above, before] = [await densities(risen, 20, [[0, 0.8, 0]]), await densities(risen, 1, [[0, 0.8, 0]])]
    expect(before[0]).toBe(0)
    expect(above[0]).toBeGreaterThan(0.02)
  })
  it('pushes the gas that it comes into by a share of its velocities', async () => {
    const risen = async (pushes: number) => {
      const s = puffs((x) => Object.assign(x.gases[0], { place: [0, 0, 0], size: [3, 3, 3], motion: [], burning: [] }), {
        ...{ comes: 'set', end: 1 / 24, pushes },
      })
      // It rotates about Z and goes along it, 0.5 m/s, where it is: half a second later the whole of it has moved.
      const part = partOf((await run(s, 12)).frame.parts, 'volume', 'smoke')
      if (!part) throw new Error('no gas')
      let [sum, along] = [0, 0]
      const grid = Array.from({ length: 21 }, (_, i) => i * 0.1 - 1)
      const places = grid.flatMap((x) => grid.flatMap((y) => grid.map((z) => [x, y, z])))
      const held = volumeAt(part, 'density', Float32Array.from(places.flat()))
      places.forEach((p, n) => {
        sum += held[n]
        along += held[n] * p[2]
      })
      return along / sum
    }
    const [none, half, all] = [await risen(0), await risen(50), await risen(100)]
    expect(Math.abs(none)).toBeLessThan(0.005)
    expect(half).toBeGreaterThan(0.02)
    expect(all / half).toBeGreaterThan(1.7)
    expect(all / half).toBeLessThan(2.3)
    // No further than a body would that kept all of its speed: the air around is pushed along.
    expect(all).toBeLessThan(0.5 * 0.5)
  })
  it('says what is not there', async () => {
    const { problems } = await run(
      puffs((x) => void x.objects.push(thing('box')), { density: 'smog' }),
      0,
    )
    expect(problems.map((p) => p.message).join()).toMatch(/no grid of numbers named “smog”; it has density, temperature, vel/)
    const other = await run(
      puffs((x) => void (x.objects = [thing('puff')])),
      0,
    )
    expect(other.problems.map((p) => p.message).join()).toMatch(/puff has no volume; choose an object that was brought in from a VDB file/)
  })
  it('is out of date when its object moves, and not when its look changes', () => {
    const s = puffs(() => {})
    expect(isStored(s.gases[0])).toBe(true)
    expect(
      touchedFrom(
        s,
        puffs((x) => void (x.objects[0].place = [1, 0, 0])),
      ),
    ).not.toBeNull()
    expect(
      touchedFrom(
        s,
        puffs((x) => void (x.gases[0].look = [act('smoke')])),
      ),
    ).toBeNull()
  })
})
describe('fog', () => {
  it('is a card of a gas that has no voxels; a muted one is none; changing it runs nothing again', async () => {
    const misty = (o: Record<string, unknown> = {}, gas = {}) =>
      quiet((s) => {
        s.gases = [gasDoc({ id: 'mist', feeds: [act('fog', o)], ...gas })]
      })
    const s = misty({ density: 0.2, patches: 40, drift: [1, 0, 0] })
    expect(isFog(s.gases[0])).toBe(true)
    const found = fogsAt(s, 2)
    expect(found?.reach).toBe(60)
    expect(found?.fogs[0]).toMatchObject({ extinction: 0.2, patches: { drift: [2, 0, 0], amount: 0.4 } })
    expect(fogsAt(misty({}, { muted: true }), 0)).toBeNull()
    expect(fogsAt(misty({ density: 0 }), 0)).toBeNull()
    expect(touchedFrom(s, misty({ density: 0.3 }))).toBeNull()
    const { frame } = await run(s, 1)
    expect(partOf(frame.parts, 'volume', 'mist')?.tiles).toBe(0)
  })
})
