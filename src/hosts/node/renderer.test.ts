import { beforeAll, describe, expect, it } from 'vitest'
import { act, after } from '../../acts/testing/quiet'
import { thing } from '../../acts/testing/things'
import { hash3, type PointColumn, partsOf, pointColumn, unit } from '../../engine'
import type { Shot, Vec3 } from '../../shot'
import { brightest, Pictures, size } from './testing/pictures'

/** A curve that is nothing, and from its middle on all. */
const STEP = {
  points: [
    { at: 0, v: 0 },
    { at: 0.5, v: 0 },
    { at: 0.5, v: 1 },
    { at: 1, v: 1 },
  ],
}
let pictures: Pictures
let base: Shot
beforeAll(async () => {
  pictures = await Pictures.open()
  base = pictures.base
})
const draw: Pictures['draw'] = (...o) => pictures.draw(...o)

describe('final frames', () => {
  it('with transparency, laid over black, are the picture without it; light has an alpha of its own', async () => {
    const [opaque, clear] = await draw(() => {}, [46], [false, true])
    let worst = 0
    let glow = 0
    let empty = 0
    for (let i = 0; i < size.width * size.height; i++) {
      const a = clear[i * 4 + 3]
      if (a === 0) empty++
      let top = 0
      for (let c = 0; c < 3; c++) {
        const over = (clear[i * 4 + c] * a) / 255
        worst = Math.max(worst, Math.abs(over - opaque[i * 3 + c]))
        top = Math.max(top, over)
      }
      // Alpha is never below the brightest channel, or an editor could not show that light.
      expect(a).toBeGreaterThanOrEqual(Math.floor(top))
      if (a > 4 && a < 250) glow++
    }
    // One step for the rounding of straight alpha, half a step of dither on each side.
    expect(worst).toBeLessThanOrEqual(2)
    expect(glow).toBeGreaterThan(500)
    expect(empty).toBeGreaterThan(0)
  })
  it('are the same when drawn again, and in another order', async () => {
    const [a, b, c] = await draw(() => {}, [40, 12, 40], [false])
    expect(Buffer.from(a).equals(Buffer.from(c))).toBe(true)
    expect(Buffer.from(a).equals(Buffer.from(b))).toBe(false)
  })
  it('show what each blend says: light adds up, cover hides', async () => {
    const system = (inside: string, onto: string) => (s: Shot) => {
      s.objects = []
      s.lights = []
      s.layers[0].finish = []
      s.systems[0].birth = s.systems[0].birth.slice(0, 1).map((b) => ({ ...b, source: null, count: 400, spread: 180, speed: 0.6 }))
      s.systems[0].whole.contact = []
      s.systems[0].whole.look = [
        { id: 'l', kind: 'overLife', seed: 1, look: null, size: 0.3, brightness: 0.3, opacity: 60 },
        { id: 'd', kind: 'dot', seed: 2, softness: 20, meets: 0 },
        { id: 'b', kind: 'blend', seed: 3, inside, onto },
      ]
      s.cameras[0].aim = [0, 0, 0]
      s.cameras[0].place = [0, 0, 2]
    }
    const maximum = async (inside: string, onto: string) => {
      const [opaque, clear] = await draw(system(inside, onto), [8], [false, true])
      let alpha = 0
      for (let i = 3; i < clear.length; i += 4) alpha = Math.max(alpha, clear[i])
      return { light: brightest(opaque, 3), alpha }
    }
    const add = await maximum('add', 'add')
    const cover = await maximum('normal', 'normal')
    const mixed = await maximum('normal', 'add')
    expect(add.light).toBeGreaterThan(cover.light + 60)
    // A covering heap is as bright as one of its dots, and solid.
    expect(cover.alpha).toBeGreaterThan(230)
    expect(cover.light).toBeLessThan(180)
    expect(mixed.light).toBeLessThan(add.light)
    expect(mixed.alpha).toBeLessThanOrEqual(mixed.light + 1)
  })
  it('objects hide what is behind them, hidden ones do not; muted systems are gone', async () => {
    const lit = (change: (s: Shot) => void) =>
      draw(
        (s) => {
          s.layers[0].finish = []
          s.lights = []
          s.objects = s.objects.filter((o) => o.id !== 'slug')
          s.surroundings.light = [0, 0, 0]
          change(s)
        },
        [46],
        [false],
      ).then(([d]) => d.reduce((sum, v) => sum + (v > 40 ? 1 : 0), 0))
    const all = await lit(() => {})
    const wall = (s: Shot) =>
      void s.objects.push({
        ...s.objects[2],
        id: 'wall',
        name: 'Wall',
        shape: { kind: 'plane', size: 6, endless: false },
        place: [0.6, 1, 1.6],
        rotate: [90, 20, 0],
        roles: { source: false, collider: false },
      })
    const behind = await lit(wall)
    const unseen = await lit((s) => {
      wall(s)
      s.objects[s.objects.length - 1].seen = false
    })
    expect(behind).toBeLessThan(all / 2)
    expect(unseen).toBe(all)
    expect(await lit((s) => void (s.systems[0].muted = true))).toBe(0)
    // A wall that is thrown far away hides nothing any more.
    const thrown = await lit((s) => {
      wall(s)
      s.objects[s.objects.length - 1].body = {
        at: 0,
        velocity: [0, 90, 0],
        spin: [0, 0, 0],
        inherit: 100,
        radius: null,
        mass: 1,
        restitution: 0,
        friction: 0,
        rolling: 0,
      }
    })
    expect(thrown).toBe(all)
  })
  it('flakes cover what their length and roundness say, lie as they are turned, and their back is darker', async () => {
    const covered = async (values: object) => {
      const [d] = await draw(
        (s) => {
          s.layers[0].finish = []
          s.objects = []
          s.lights = []
          const system = s.systems[0]
          system.birth = [{ ...system.birth[0], source: null, part: '', count: 40, at: 0, spread: 180, speed: { value: 3, vary: 2 } }]
          system.phases[0].look = []
          system.whole.look = [
            ...system.whole.look.filter((a) => a.kind === 'overLife').map((a) => ({ ...a, size: 0.14, brightness: 0.3 })),
            act('flake', { shade: 0, glint: 0, back: 100, softness: 0, ...values }),
            act('blend', { inside: 'normal', onto: 'normal' }),
          ]
        },
        [8],
        [false],
      )
      return { area: d.reduce((sum, v, i) => sum + (i % 3 === 0 && v > 6 ? 1 : 0), 0), light: d.reduce((sum, v) => sum + v, 0) }
    }
    const square = await covered({ length: 1, round: 0 }),
      long = await covered({ length: 3, round: 0 }),
      disc = await covered({ length: 1, round: 100 })
    expect(long.area / square.area).toBeGreaterThan(2)
    expect(long.area / square.area).toBeLessThan(3.4)
    expect(disc.area / square.area).toBeGreaterThan(0.68)
    expect(disc.area / square.area).toBeLessThan(0.95)
    // Half of them show their back.
    const dark = await covered({ length: 1, round: 0, back: 0 })
    expect(dark.light / square.light).toBeGreaterThan(0.2)
    expect(dark.light / square.light).toBeLessThan(0.8)
  })
  it('a mapping shows the particles that plain code says it shows, whatever it goes by', async () => {
    const LENS = 30
    const cloud = (s: Shot) => {
      s.layers[0].finish = []
      s.lights = []
      s.forces = []
      s.objects = [
        thing('carrier', { seen: false, place: [0.4, 0.2, 0], scale: [1.2, 1.2, 1.2] }),
        thing('bell', { seen: false, place: [0.5, 0.3, 0] }),
      ]
      s.cameras[0] = { ...s.cameras[0], place: [0, 0, 6], aim: [0, 0, 0], lens: LENS }
      const system = s.systems[0]
      system.space = 'carrier'
      system.life = { value: 0.7, vary: 0.35 }
      system.birth = [act('steady', { rate: 90, spread: 180, source: null, speed: { value: 4, vary: 3 } })]
      system.whole.movement = []
      system.whole.contact = []
      system.phases[0] = { ...system.phases[0], movement: [], contact: [], look: [] }
    }
    const shown = (by: string, step: number) => (s: Shot) => {
      cloud(s)
      s.systems[0].whole.look = [
        act('overLife', { look: null, size: 0.06 }),
        act('dot', { softness: 0 }),
        act('blend', { inside: 'normal', onto: 'normal' }),
        act('mapValue', {
          of: 'opacity',
          by,
          object: 'xyz'.includes(by) ? null : 'bell',
          from: step,
          to: step,
          joins: 'replace',
          low: 0,
          high: 100,
        }),
        // From nothing to all in the middle, for what is a share.
        ...(['share', 'random'].includes(by)
          ? [act('mapValue', { id: 'hard', of: 'opacity', by, seed: 7, joins: 'replace', low: 0, high: 100, curve: STEP })]
          : []),
      ]
    }
    const document = structuredClone(base)
    cloud(document)
    const frame = await after(document, 12)
    const [part] = partsOf(frame.parts, 'points')
    const at = (n: PointColumn, i: number) => pointColumn(part, n)[i]
    const every = Array.from({ length: part.count }, (_, i) => i)
    // Of the shot.
    const placeOf = (i: number) => [at('px', i) * 1.2 + 0.4, at('py', i) * 1.2 + 0.2, at('pz', i) * 1.2]
    const toPlace = (i: number, p: readonly number[]) => Math.hypot(...placeOf(i).map((v, k) => v - p[k]))
    const plain: Record<string, (i: number) => number> = {
      share: (i) => at('age', i) / at('life', i) - 0.5,
      age: (i) => at('age', i),
      // Nothing turns here: since birth.
      phase: (i) => at('age', i),
      speed: (i) => Math.hypot(at('vx', i), at('vy', i), at('vz', i)),
      random: (i) => unit(hash3(7, at('seed', i), 22)) - 0.5,
      x: (i) => placeOf(i)[0],
      y: (i) => placeOf(i)[1],
      z: (i) => placeOf(i)[2],
      object: (i) => toPlace(i, [0.5, 0.3, 0]),
      camera: (i) => toPlace(i, [0, 0, 6]),
    }
    const pixelOf = (i: number) => {
      const [x, y, z] = placeOf(i)
      const k = LENS / 18 / (6 - z)
      return [((x * k + 1) / 2) * size.width, ((1 - (y * k * size.width) / size.height) / 2) * size.height]
    }
    const inside = every.filter((i) => {
      const [x, y] = pixelOf(i)
      return x > 3 && y > 3 && x < size.width - 3 && y < size.height - 3
    })
    expect(inside.length).toBeGreaterThan(20)
    for (const [by, value] of Object.entries(plain)) {
      const values = every.map(value)
      const step = ['share', 'random'].includes(by) ? 0 : [...values].sort((a, b) => a - b)[values.length >> 1] + 1e-5
      const [d] = await draw(shown(by, step), [12], [false])
      let [seen, hidden] = [0, 0]
      for (const i of inside) {
        const [x, y] = pixelOf(i)
        const lit = d[(Math.floor(y) * size.width + Math.floor(x)) * 3] > 30
        if (value(i) > step) {
          expect([by, i, lit]).toEqual([by, i, true])
          seen++
        } else if (every.every((k) => value(k) <= step || Math.hypot(pixelOf(k)[0] - x, pixelOf(k)[1] - y) > 6)) {
          expect([by, i, lit]).toEqual([by, i, false])
          hidden++
        }
      }
      expect([by, seen > 4, hidden > 4]).toEqual([by, true, true])
    }
  })
  it('mapped sizes, brightness and colours are those that would be given without mappings', async () => {
    const cloud = (look: ReturnType<typeof act>[]) => (s: Shot) => {
      s.layers[0].finish = []
      s.objects = []
      s.lights = []
      const system = s.systems[0]
      system.birth = [act('steady', { rate: 300, spread: 180, source: null, speed: { value: 3, vary: 2 } })]
      system.phases[0] = { ...system.phases[0], look: [] }
      system.whole.look = [...look, act('dot', { softness: 40 })]
    }
    const one = async (...look: ReturnType<typeof act>[]) => (await draw(cloud(look), [10], [false]))[0]
    const half = { by: 'speed', joins: 'multiply', less: 0.5, more: 0.5 }
    const plain = await one(act('overLife', { look: null, size: { value: 0.05, vary: 0.02 }, brightness: 0.4 }))
    expect(brightest(plain, 3)).toBeGreaterThan(100)
    const doubled = { look: null, size: { value: 0.1, vary: 0.04 }, brightness: 0.8 }
    expect(await one(act('overLife', doubled), act('mapValue', half), act('mapValue', { ...half, id: 'b', of: 'brightness' }))).toEqual(
      plain,
    )
    // A ramp over the share of life is that ramp over life.
    base.shared.looks.push({
      ...base.shared.looks[0],
      id: 'even',
      size: { points: [{ at: 0, v: 1 }] },
      opacity: { points: [{ at: 0, v: 1 }] },
    })
    const colours = await one(act('overLife', { look: 'even', size: 0.05 }))
    const mapped = await one(act('overLife', { look: null, size: 0.05 }), act('mapColour', { look: 'even', by: 'share' }))
    const off = colours.reduce((most, v, i) => Math.max(most, Math.abs(v - mapped[i])), 0)
    expect(off).toBeLessThanOrEqual(2)
    expect(colours.some((v, i) => v > 40 && v !== plain[i])).toBe(true)
  })
  it('strips that are bodies take light from where it comes, and throw shadows; lines do neither', async () => {
    const vines = (as: string, sunX: number) => (s: Shot) => {
      const material = { colour: [0.5, 0.5, 0.5] as Vec3, roughness: 1, metal: 0, glow: [0, 0, 0] as Vec3 }
      const growth = act('growth', {
        ...{ id: 'g', lines: 300, reach: 2, generations: 1, wander: 0, meets: 0, speed: 100, as, width: 0.2, look: null, own: 'none' },
      })
      s.objects = [
        thing('ground', { shape: { kind: 'plane', size: 12, endless: false }, shadow: false, material }),
        thing('sheet', { shape: { kind: 'plane', size: 2, endless: false }, place: [0, 1.4, 0], seen: false, offspring: [growth] }),
      ]
      s.systems = []
      s.lights = [{ ...s.lights[0], kind: 'sun', place: [sunX, 6, 0.1], aim: [0, 0, 0], colour: [1, 1, 1], strength: 0.5, shadow: true }]
      s.surroundings = { colour: [0, 0, 0], light: [0.02, 0.02, 0.02] }
      s.cameras[0] = { ...s.cameras[0], place: [0, 1.2, 5], aim: [0, 1, 0], lens: 30 }
      s.layers[0].finish = []
    }
    /** The mean of a part of the picture, by its height. */
    const mean = (d: Uint8Array, [y0, y1]: readonly number[]): number => {
      const rows = d.subarray(Math.floor(y0 * size.height) * size.width * 3, Math.floor(y1 * size.height) * size.width * 3)
      return rows.reduce((sum, v) => sum + v, 0) / rows.length
    }
    const [above, below] = [
      [0.1, 0.45],
      [0.6, 1],
    ]
    const one = async (as: string, x = 0) => (await draw(vines(as, x), [12], [false]))[0]
    const [lines, bodies, beside] = [await one('line'), await one('solid'), await one('solid', 60)]
    expect(mean(bodies, above)).toBeGreaterThan(2)
    // Their shadow is on the ground below; lines have none.
    expect(mean(bodies, below)).toBeLessThan(mean(lines, below) * 0.9)
    // From far to the side the sun reaches less of what lies flat.
    expect(mean(beside, above)).toBeLessThan(mean(bodies, above) * 0.8)
  })
  it('bloom brings light to where there was none, and only what is bright enough shines', async () => {
    const count = async (change: (s: Shot) => void) => {
      const [d] = await draw(
        (s) => {
          s.objects = s.objects.slice(0, 0)
          s.lights = []
          for (const b of s.systems[0].birth) b.source = null
          change(s)
        },
        [9],
        [false],
      )
      return d.reduce((sum, v) => sum + (v > 3 ? 1 : 0), 0)
    }
    const none = await count((s) => void (s.layers[0].finish = []))
    const bloom = await count(() => {})
    const high = await count((s) => void (s.layers[0].finish[0].from = 5000))
    expect(bloom).toBeGreaterThan(none * 1.3)
    expect(high).toBe(none)
  })
})
