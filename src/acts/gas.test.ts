import { describe, expect, it } from 'vitest'
import { partOf, partsOf, stripPoints, volumeCounts, volumeVoxels } from '../engine'
import type { GasDoc, Shot } from '../shot'
import { checkShot, compile, gasMiddle, marchLook, marchScene, touchedFrom, volumeDrawing } from '.'
import { feed, gasDoc, smoking } from './testing/gas'
import { act, after, quiet } from './testing/quiet'
import { bodyOf, primitive, thing } from './testing/things'

const planOf = (s: Shot) => compile(s, new Map())

describe('a gas of a shot', () => {
  it('is fed, rises, and is counted', async () => {
    const f = await after(smoking(), 10)
    const [part] = partsOf(f.parts, 'volume')
    const counts = volumeCounts(part, { density: 1, temperature: 400, flame: 1, dyeA: 1, dyeB: 1 }, 16)
    expect(volumeVoxels(part)).toBe(part.tiles * 512)
    expect(counts.density.most).toBeCloseTo(1, 1)
    expect(counts.temperature.most).toBeGreaterThan(150)
    expect(counts.density.counts.reduce((a, b) => a + b, 0)).toBeGreaterThan(500)
    // Half of 400 K is where most of what is as hot as its source stands.
    expect(counts.temperature.counts[7] + counts.temperature.counts[8]).toBeGreaterThan(50)
    expect(counts.flame.most).toBe(0)
  })
  it('says what is missing, and takes nothing from what is muted or gone', () => {
    const { plan, problems } = planOf(smoking({ feeds: [feed({ object: null })] }))
    expect(plan.gases?.[0].feeds).toEqual([])
    expect(problems.map((p) => p.message)).toEqual(['From an object feeds nothing: choose what it comes from'])
    expect(planOf(smoking({}, (s) => (s.objects[0].muted = true))).plan.gases?.[0].feeds).toEqual([])
    expect(planOf(smoking({ muted: true })).plan.gases?.[0].feeds).toEqual([])
  })
  it('refuses a curve that makes something of nothing, and forces that say nothing to a gas', () => {
    const s = smoking()
    const problems = (x: Shot) => {
      const r = checkShot(JSON.parse(JSON.stringify(x)))
      return r.ok ? [] : r.problems.map((p) => `${p.path}: ${p.message}`)
    }
    s.gases[0].tones.density.curve.points[0].v = 0.5
    expect(problems(s)).toEqual(['gases[0].tones.density.curve: its first point must be 0 at 0'])
    expect(problems(smoking({ motion: [act('gravity')] }))[0]).toMatch(/^gases\[0\]\.motion\[0\]\.kind: kind must be one of/)
    expect(problems(smoking({ burning: [act('rise')] }))[0]).toMatch(/^gases\[0\]\.burning\[0\]/)
  })
  it('feeds in its window, and through a warm start when that begins at the first frame', () => {
    const active = (o: Record<string, unknown>) => planOf(smoking({ feeds: [feed(o)] })).plan.gases?.[0].feeds[0].active
    expect(active({ start: 0 })?.(-1, -0.5)).toBe(1)
    expect(active({ start: 0.5, end: 1 })?.(0, 0.25)).toBe(0)
    expect(active({ start: 0.5, end: 1 })?.(0.75, 1.25)).toBe(0.5)
  })
  it('is reached by forces of the shot that move gas, as they say', () => {
    const forces = (reaches: 'all' | string[]) =>
      planOf(
        smoking({}, (s) => {
          s.forces = [
            { id: 'wind', name: 'Wind', seed: 1, act: act('wind', { id: 'w' }), reaches, shares: [] },
            { id: 'weight', name: 'Weight', seed: 1, act: act('gravity', { id: 'g' }), reaches: 'all', shares: [] },
          ]
        }),
      ).plan.gases?.[0].forces.map((f) => f.id)
    expect(forces('all')).toEqual(['w'])
    expect(forces(['gas'])).toEqual(['w'])
    expect(forces([])).toEqual([])
  })
  it('runs again from the first frame when its grid or its acts change, and not for its look', () => {
    const a = smoking()
    const changed = (change: (g: GasDoc) => void) => {
      const b = structuredClone(a)
      change(b.gases[0])
      return touchedFrom(a, b)
    }
    expect(changed((g) => (g.voxel = 0.06))).not.toBeNull()
    expect(changed((g) => (g.motion[0].heat = 2))).not.toBeNull()
    expect(changed((g) => (g.feeds[0].density = 2))).not.toBeNull()
    expect(changed((g) => (g.look[0].extinction = 3))).toBeNull()
    expect(changed((g) => (g.tones.density.top = 3))).toBeNull()
    expect(changed((g) => (g.name = 'Steam'))).toBeNull()
    const moved = structuredClone(a)
    moved.objects[0].place = [0, 1, 0]
    expect(touchedFrom(a, moved)).not.toBeNull()
  })
})
describe('dyes', () => {
  const dyed = (o: Record<string, unknown> = {}) => feed({ dyeBHow: 'set', dyeB: 2, ...o })
  it('are held when something brings them, and fed by how much it says', () => {
    const gas = (f: Record<string, unknown>) => planOf(smoking({ feeds: [dyed(f)] })).plan.gases?.[0]
    expect(gas({})?.dyes).toEqual(['dyeB'])
    expect(gas({})?.feeds[0].params(0).amounts).toMatchObject({ dyeB: { mode: 'set', amount: 2 }, dyeA: null })
    expect(gas({ muted: true })?.dyes).toBeUndefined()
    expect(gas({ dyeBHow: 'none' })?.dyes).toBeUndefined()
    expect(planOf(smoking()).plan.gases?.[0].dyes).toBeUndefined()
  })
  it('colour smoke by their ramp, and glow by the ramp of another grid', () => {
    const g = gasDoc({ look: [act('smoke', { tint: 'dyeB' }), act('glow', { colour: 'ramp', by: 'flame', rampOf: 'dyeA' })] })
    const { smoke, glow } = marchLook(g, 0)
    const last = g.tones.dyeB.colour.stops[1].colour
    expect(smoke?.tint?.by).toBe(4)
    last.forEach((x, c) => expect(smoke?.tint?.colours[1020 + c]).toBeCloseTo(x, 5))
    expect(glow).toMatchObject({ by: 2, coloursBy: 3 })
    expect(marchLook(gasDoc({ look: [act('smoke')] }), 0).smoke?.tint).toBeUndefined()
  })
  it('come with tones of their own to shots that had none', () => {
    const old = JSON.parse(JSON.stringify(smoking())) as { version: number; gases: { tones: Record<string, unknown> }[] }
    old.version = 9
    delete old.gases[0].tones.dyeA
    const r = checkShot(old)
    expect(r.ok && r.shot.gases[0].tones.dyeA).toEqual(gasDoc().tones.dyeA)
  })
  it('say where a force acts', async () => {
    const lifted = async (grid: string) => {
      const s = smoking({ feeds: [dyed({ temperatureHow: 'none' })], motion: [] }, (x) => {
        const limits = [act('limitGas', { id: 'where', gas: null, grid, from: 0.5, to: 1 })]
        x.forces = [{ id: 'wind', name: 'Wind', seed: 1, act: act('wind', { id: 'w', limits }), reaches: 'all', shares: [] }]
      })
      const { parts } = await after(s, 6)
      return partsOf(parts, 'volume')[0].data
    }
    const [dye, none] = [await lifted('dyeB'), await lifted('dyeA')]
    expect(new Uint8Array(dye)).not.toEqual(new Uint8Array(none))
  })
})
describe('what a gas carries', () => {
  const carry = {
    id: 'carry',
    name: 'Carry',
    seed: 1,
    act: act('gasCarry', { gas: 'gas', response: 0.02 }),
    reaches: 'all' as const,
    shares: [],
  }
  it('lifts an object that was thrown into it', async () => {
    const heavy = (with_: boolean) =>
      after(
        smoking({}, (s) => {
          s.objects.push(thing('ash', { shape: primitive('sphere', { radius: 0.02 }), place: [0, 0.6, 0], body: bodyOf({ at: 0 }) }))
          if (with_) s.forces = [carry]
        }),
        16,
      )
    const height = (f: Awaited<ReturnType<typeof after>>) => partOf(f.parts, 'place', 'ash')?.matrix[7] ?? 0
    expect(height(await heavy(false))).toBeCloseTo(0.6, 5)
    expect(height(await heavy(true))).toBeGreaterThan(0.65)
  })
  it('leads the points of trails that drift, as far as they feel the forces of their system', async () => {
    const left = async (carried: number) => {
      const f = await after(
        smoking({}, (s) => {
          s.systems = quiet().systems
          const [system] = s.systems
          system.birth = [
            act('burst', { count: 1, at: 0, source: null, speed: 1, direction: [1, 0, 0], along: 'direction', every: null, spread: 0 }),
          ]
          system.place = [0, 0, 0]
          system.space = null
          system.whole.offspring = [act('trail', { points: 'drift', carried })]
          s.objects.push(thing('start', { shape: { kind: 'anchor' }, place: [-0.2, 0.5, 0] }))
          system.birth[0].source = 'start'
          s.forces = [carry]
        }),
        20,
      )
      const part = partsOf(f.parts, 'strips')[0]
      return Math.max(...stripPoints(part, 'py'))
    }
    expect(await left(0)).toBeLessThan((await left(100)) - 0.02)
  })
})
describe('bounds that ride along', () => {
  const riding = (s: Shot) => {
    s.objects[0].place = [
      {
        keys: [
          { t: 0, v: 0, ease: 'linear' },
          { t: 1, v: 2, ease: 'linear' },
        ],
      },
      0.3,
      0,
    ]
    s.gases[0].rides = 'ball'
  }
  it('go as far as their object has gone since the shot began', () => {
    const shift = planOf(smoking({}, riding)).plan.gases?.[0].shift
    expect([0, 0.5, 1].map((t) => shift?.(t)[0])).toEqual([0, 1, 2])
    const s = smoking({}, riding)
    expect(gasMiddle(s, s.gases[0], 0.5)).toEqual([1, 0.5, 0])
    expect(planOf(smoking()).plan.gases?.[0].shift).toBeUndefined()
  })
  it('are out of date when their object moves otherwise, and ride on nothing when it is gone', () => {
    const before = smoking({ feeds: [] }, riding)
    const after_ = structuredClone(before)
    after_.objects[0].place = [0, 0.3, 0]
    expect(touchedFrom(before, after_)).not.toBeNull()
    const gone = smoking({ rides: 'nobody' })
    expect(checkShot(gone).ok).toBe(false)
  })
})
describe('how a gas is seen', () => {
  it('is the same thing while nothing of it changes', () => {
    const g = gasDoc({ look: [act('smoke', { extinction: 7 }), act('glow', { by: 'temperature' })] })
    expect(marchLook(g, 0)).toBe(marchLook(g, 1))
    expect(marchLook(g, 0).smoke).toMatchObject({ by: 0, extinction: 7 })
    expect(marchLook(g, 0).glow).toMatchObject({ by: 1, coloursBy: 1 })
  })
  it('shines more where it is hotter, and redder where it is colder', () => {
    const { glow } = marchLook(gasDoc({ look: [act('glow', { coldest: 1000, hottest: 2200 })] }), 0)
    const at = (i: number) => [0, 1, 2].map((c) => glow?.colours[i * 4 + c] ?? 0)
    const [cold, hot] = [at(0), at(255)]
    const light = (c: number[]) => 0.2126 * c[0] + 0.7152 * c[1] + 0.0722 * c[2]
    expect(light(cold) / light(hot)).toBeCloseTo((1000 / 2200) ** 4, 3)
    expect(cold[1] / cold[0]).toBeLessThan(0.5 * (hot[1] / hot[0]))
  })
  it('is lit by its share of each light', () => {
    const s = smoking({ look: [act('smoke', { surroundings: 50 })] })
    s.lights = s.lights
      .slice(0, 1)
      .map((l) => ({ ...l, kind: 'sun', colour: [1, 1, 1], strength: 4, onGas: 25, place: [0, 2, 0], aim: [0, 0, 0] }))
    s.surroundings.light = [0.2, 0.4, 0.6]
    const scene = marchScene(s, volumeDrawing(s.gases[0], 0).smoke?.surroundings ?? 0, 0)
    expect(scene.lights[0]).toMatchObject({ sun: true, colour: [1, 1, 1], place: [-0, 1, -0] })
    expect(scene.above).toEqual([0.1, 0.2, 0.3])
  })
})
