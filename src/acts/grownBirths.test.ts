import { describe, expect, it } from 'vitest'
import { type Frame, partOf, partsOf, pointColumn, stripColumn, stripOffsets, stripPoints } from '../engine'
import { framesOn, withWorld } from '../engine/testing/plans'
import type { Shot } from '../shot'
import { checkShot, compile, touchedFrom } from '.'
import { act, quiet } from './testing/quiet'
import { thing } from './testing/things'

/** Particles that stand where they start, on what grows over a wall. */
const shotOf = (birth: { kind: string; [k: string]: unknown }, growth: Record<string, unknown> = {}, scale = 1): Shot =>
  quiet((s) => {
    const wall = thing('wall', { shape: { kind: 'box', width: 4, height: 4, depth: 4 } })
    wall.scale = [scale, scale, scale]
    const values = {
      lines: 1,
      reach: 1.2,
      speed: 1,
      wander: 0,
      curl: 0,
      generations: 1,
      meets: 0,
      goes: 'direction',
      direction: [0, 1, 0],
      fan: 0,
    }
    wall.offspring = [act('growth', { ...values, ...growth })]
    s.objects = [wall]
    const { kind, ...rest } = birth
    s.systems[0].birth = [act(kind, { source: wall.id, speed: 0, start: 0, end: null, from: 'tips', ...rest })]
  })
const run = (s: Shot, frames: number): Promise<Frame> => {
  const checked = checkShot(s)
  if (!checked.ok) throw new Error(JSON.stringify(checked.problems))
  return withWorld(compile(checked.shot, new Map()).plan, (w) => framesOn(w, frames))
}
const placesOf = (f: Frame) => {
  const part = partOf(f.parts, 'points', 'sparks')
  if (!part) throw new Error('no sparks')
  const [x, y, z] = (['px', 'py', 'pz'] as const).map((n) => pointColumn(part, n))
  return Array.from({ length: part.count }, (_, i) => [x[i], y[i], z[i]])
}
const far = (a: number[], b: number[]) => Math.hypot(...a.map((v, k) => v - b[k]))

describe('births on what grows, by acts', () => {
  it('by distance lie evenly along a line, however large the object is', async () => {
    for (const scale of [1, 0.5]) {
      const at = placesOf(await run(shotOf({ kind: 'travel', each: 0.05 }, {}, scale), 24))
      expect(at.length).toBe(20)
      for (let i = 1; i < at.length; i++) expect(far(at[i], at[i - 1])).toBeCloseTo(0.05, 3)
    }
  })
  it('by distance are as many on each line as it is long, forks too', async () => {
    const f = await run(
      shotOf({ kind: 'travel', each: 0.004 }, { lines: 3, generations: 3, spacing: 0.2, reach: { value: 1, vary: 0.4 } }),
      60,
    )
    const strip = partsOf(f.parts, 'strips')[0]
    const offsets = stripOffsets(strip)
    const [x, y, z, metres] = (['px', 'py', 'pz', 'metres'] as const).map((n) => stripPoints(strip, n))
    const lengths = Array.from({ length: strip.strips }, (_, k) => metres[offsets[k + 1] - 1])
    const all = lengths.reduce((a, b) => a + b, 0)
    const at = placesOf(f)
    expect(Math.abs(at.length - all / 0.004)).toBeLessThan(3)
    const generations = stripColumn(strip, 'phase')
    const counts = [0, 0, 0]
    for (const p of at) {
      let [best, on] = [9, 0]
      for (let k = 0; k < strip.strips; k++)
        for (let i = offsets[k]; i < offsets[k + 1]; i++) {
          const d = far(p, [x[i], y[i], z[i]])
          if (d < best) [best, on] = [d, k]
        }
      counts[generations[on]]++
    }
    counts.forEach((n, g) => {
      const share = lengths.reduce((sum, m, k) => sum + (generations[k] === g ? m : 0), 0) / all
      expect(Math.abs(n / at.length - share)).toBeLessThan(0.05)
    })
  })
  it('wait while an amount holds or goes back', async () => {
    const grown = { keys: [0, 0.5, 1, 1.5].map((t, k) => ({ t, v: [0, 50, 50, 20][k], ease: 'linear' })) }
    const s = shotOf({ kind: 'steady', rate: 480 }, { by: 'amount', grown })
    expect(placesOf(await run(s, 12)).length).toBe(240)
    expect(placesOf(await run(s, 36)).length).toBe(240)
  })
  it('are simulated again when the growth changes, not when its look does; where nothing grows it is said', () => {
    const s = shotOf({ kind: 'steady', rate: 100 })
    const change = (values: Record<string, unknown>) => {
      const x = structuredClone(s)
      Object.assign(x.objects[0].offspring[0], values)
      return x
    }
    expect(touchedFrom(s, change({ speed: 2 }))).not.toBeNull()
    expect(touchedFrom(s, change({ width: 0.5 }))).toBeNull()
    const bare = structuredClone(s)
    bare.objects[0].offspring = []
    expect(compile(bare, new Map()).problems.map((p) => p.message)).toEqual([expect.stringContaining('give it a growth')])
    expect(compile(s, new Map()).problems).toEqual([])
  })
})

describe('growth on a region of its object', () => {
  const above = () => ({ ...act('growth', { lines: 60, reach: 1, generations: 1, region: 'upper', edge: 50 }), id: 'ivy' })
  const made = (change: (s: Shot) => void = () => {}) =>
    quiet((s) => {
      const wall = thing('wall', { shape: { kind: 'sphere', radius: 1, detail: 48, build: 'rings' } as never, offspring: [above()] })
      wall.regions = [{ id: 'upper', name: 'Upper', acts: [act('height', { axis: 'y', from: 0, to: 100 })] }] as never
      s.objects = [wall]
      change(s)
    })
  const checked = (s: Shot) => {
    const r = checkShot(s)
    if (!r.ok) throw new Error(JSON.stringify(r.problems))
    return r.shot
  }
  it('keeps to it, and grows again when the region changes', async () => {
    const s = checked(made())
    const f = await run(s, 60)
    const strip = partsOf(f.parts, 'strips')[0]
    expect(strip.strips).toBeGreaterThan(20)
    const all = await run(checked(made((x) => void (x.objects[0].offspring[0].region = ''))), 60)
    const low = (frame: Frame) => Math.min(...stripPoints(partsOf(frame.parts, 'strips')[0], 'py'))
    expect(low(all)).toBeLessThan(-0.5)
    expect(low(f)).toBeGreaterThan(low(all) + 0.3)
    const moved = structuredClone(s)
    moved.objects[0].regions[0].acts[0].how = 'not'
    expect(touchedFrom(s, moved)).not.toBeNull()
    const unused = checked(made((x) => void (x.objects[0].offspring[0].region = '')))
    const other = structuredClone(unused)
    other.objects[0].regions[0].acts[0].how = 'not'
    expect(touchedFrom(unused, other)).toBeNull()
  })
})
