import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { compile, systemMatrices } from '../../acts'
import { smoking } from '../../acts/testing/gas'
import { demoShot } from '../../acts/testing/shots'
import { apply, type Frame, frameMark, type KernelHost, pointColumn, Run } from '../../engine'
import { points } from '../../engine/testing/plans'
import { WORLD_BYTES } from '../../machines/instantiate'
import type { Picked, Question } from '../../protocol'
import { actsOf, type Shot, timeOf } from '../../shot'
import { axesOf, project, shotPose } from '../../stage/camera'
import { nodeKernels } from '../node/kernels'
import { answerTo } from './inquiry'

const MESHES = new Map()
let host: KernelHost
let shot: Shot
let run: Run
const frameAt = (f: number) => run.history.get(f)?.frame as Frame
const ask = <const Q extends Question>(q: Q) => answerTo(q, run, shot, MESHES)
beforeAll(async () => {
  host = await nodeKernels({ threads: 2 })
  shot = demoShot()
  shot.range = { first: 0, last: 40 }
  shot.substeps = 1
  const { plan } = compile(shot, MESHES)
  run = new Run(host, plan, { historyBytes: 1 << 28, worldBytes: WORLD_BYTES, now: () => performance.now() })
  for (let f = run.missing(); f !== null; f = run.missing()) run.towards(f)
})
afterAll(() => {
  run.dispose()
  host.team.dispose()
})

describe('what the page may ask', () => {
  it('the series of all frames, and how values are spread: every living particle is in one bar', () => {
    const s = ask({ what: 'series' })
    expect(s.frames.map((f) => f.frame)).toEqual(Array.from({ length: 41 }, (_, i) => i))
    expect(s.frames[30].stats.sparks.alive).toBe(points(frameAt(30)).count)
    expect(s.historyBytes).toBeGreaterThan(1000)
    const d = ask({ what: 'spread', system: 'sparks', frame: 30 })
    expect(d.alive).toBeGreaterThan(100)
    for (const h of [d.speed, d.age, d.size]) expect(h.counts.reduce((a, b) => a + b, 0)).toBe(d.alive)
    expect(d.age.to).toBe(Math.max(...(pointColumn(points(frameAt(30)), 'age') as Float32Array)))
    expect(() => ask({ what: 'spread', system: 'sparks', frame: 99 })).toThrow('frame 99 is not computed yet')
  })
  it('the particle under a place of the picture, its way through all frames, and when and why it ends', () => {
    const part = points(frameAt(20))
    const i = Math.floor(part.count / 2)
    const pose = shotPose(shot, timeOf(shot, 20))
    const aspect = shot.size.width / shot.size.height
    const m = systemMatrices(shot, shot.systems[0], timeOf(shot, 20))[0]
    const at = apply(m, pointColumn(part, 'px')[i], pointColumn(part, 'py')[i], pointColumn(part, 'pz')[i])
    const p = project(pose, aspect, at as never)
    if (!p) throw new Error('it is behind the camera')
    const found = ask({
      what: 'pick',
      frame: 20,
      eye: { place: pose.place, lens: pose.lens, ...axesOf(pose) },
      aspect,
      x: p.x,
      y: p.y,
      within: 0.01,
      systems: ['sparks'],
    }) as Picked
    expect(found.system).toBe('sparks')
    const known = ask({ what: 'particle', ...found, frame: 20 })
    expect(known.now).not.toBeNull()
    expect(known.path.find((x) => x.frame === 20)?.place).toEqual(known.now?.place)
    for (let k = 1; k < known.path.length; k++) expect(known.path[k].frame).toBe(known.path[k - 1].frame + 1)
    const life = known.now?.life as number,
      age = known.now?.age as number
    const end = 20 + Math.ceil((life - age) * 24)
    if (end <= 40) expect(known.ends).toEqual({ frame: expect.closeTo(end, 0) as never, why: 'its life was over' })
    else expect(known.ends).toBeNull()
    expect(
      answerTo(
        {
          what: 'pick',
          frame: 20,
          eye: { place: pose.place, lens: pose.lens, ...axesOf(pose) },
          aspect,
          x: 5,
          y: 5,
          within: 0.01,
          systems: ['sparks'],
        },
        run,
        shot,
        MESHES,
      ),
    ).toBeNull()
  })
  it('what each act does to a particle adds up to what its velocity does', () => {
    // Somebody who flies free from frame 20 to 21.
    const one = points(frameAt(20))
    const acts = actsOf(shot.systems[0]).map((a) => a.id)
    const ids = pointColumn(one, 'id')
    let free = 0
    for (const i of [3, 50, 200, 300, 400]) {
      const known = ask({ what: 'particle', system: 'sparks', id: ids[i], frame: 20 })
      const { forces } = known
      if (!forces) throw new Error('no forces')
      expect(forces.length).toBeGreaterThan(1)
      for (const f of forces) expect(acts).toContain(f.act)
      const gravity = actsOf(shot.systems[0]).find((a) => a.kind === 'gravity')?.id
      expect(forces.find((f) => f.act === gravity)?.a[1]).toBeCloseTo(-9.81, 3)
      const next = ask({ what: 'particle', system: 'sparks', id: ids[i], frame: 21 })
      if (!next.now || next.now.hits !== known.now?.hits) continue
      for (let a = 0; a < 3; a++)
        expect((next.now.velocity[a] - (known.now?.velocity[a] ?? 0)) * 24).toBeCloseTo(
          forces.reduce((s, f) => s + f.a[a], 0),
          2,
        )
      free++
    }
    expect(free).toBeGreaterThan(0)
  })
  it('the field is what a resting particle would feel, and what each act takes is measured for every one of them', () => {
    const field = ask({ what: 'field', system: 'sparks', frame: 20, places: Float32Array.from([0, 1, 0, 1, 2, 3]) })
    expect(field.a).toHaveLength(6)
    for (const k of [1, 4]) expect(Math.abs(field.a[k] + 9.81)).toBeLessThan(12)
    const times = ask({ what: 'times', frame: 20 })
    expect(times.systems[0].acts.map((a) => a.id).slice(-1)).toEqual([''])
    for (const a of times.systems[0].acts) expect(a.ms).toBeGreaterThanOrEqual(0)
  })
  it('a field may be of one act alone, and be followed in short trails', () => {
    const places = Float32Array.from([0, 1, 0, 1, 2, 3])
    const gravity = actsOf(shot.systems[0]).find((a) => a.kind === 'gravity')?.id as string
    const field = ask({ what: 'field', system: 'sparks', frame: 20, places, act: gravity, trails: { steps: 4, metres: 0.25 } })
    for (const i of [0, 1]) {
      expect([...field.a.subarray(i * 3, i * 3 + 3)]).toEqual([0, expect.closeTo(-9.81, 3), 0])
      // As strong everywhere: each step goes the whole way down.
      for (let k = 0; k <= 4; k++)
        expect([...(field.lines as Float32Array).subarray((i * 5 + k) * 3, (i * 5 + k) * 3 + 3)]).toEqual([
          places[i * 3],
          expect.closeTo(places[i * 3 + 1] - 0.25 * k, 4),
          places[i * 3 + 2],
        ])
    }
    expect(ask({ what: 'field', system: 'sparks', frame: 20, places, act: 'nobody' }).a.every((v) => v === 0)).toBe(true)
  })
  it('of a gas: what it holds at places, its velocity there, and trails along it', async () => {
    const smoky = smoking()
    smoky.range = { first: 0, last: 12 }
    smoky.substeps = 1
    const { plan } = compile(smoky, MESHES)
    const own = new Run(host, plan, { historyBytes: 1 << 28, worldBytes: WORLD_BYTES, now: () => performance.now() })
    try {
      for (let f = own.missing(); f !== null; f = own.missing()) own.towards(f)
      const places = Float32Array.from([0, 0.3, 0, 0.7, 1.2, 0])
      const of = (more: object) => answerTo({ what: 'air', gas: 'gas', frame: 12, places, ...more }, own, smoky, MESHES)
      const held = of({ grid: 'density' })
      expect(held.velocity).toBeNull()
      expect(held.values?.[0]).toBeGreaterThan(0.3)
      expect(held.values?.[1]).toBe(0)
      const flow = of({ trails: { steps: 3, metres: 0.05 } })
      expect(flow.values).toBeNull()
      const v = flow.velocity as Float32Array
      expect(v).toHaveLength(6)
      // It rises.
      expect(v[1]).toBeGreaterThan(0.1)
      // The fastest of the places goes the whole way in its first step.
      const lines = flow.lines as Float32Array
      const first = [0, 1].map((i) => Math.hypot(...[0, 1, 2].map((a) => lines[(i * 4 + 1) * 3 + a] - lines[i * 12 + a])))
      expect(Math.max(...first)).toBeCloseTo(0.05, 5)
    } finally {
      own.dispose()
    }
  })
  it('questions leave the run as it was: the frames after them are the same', () => {
    const mark = frameMark(frameAt(40))
    run.change(compile(shot, MESHES).plan, 25)
    while (run.towards(30));
    ask({ what: 'times', frame: 12 })
    ask({ what: 'particle', system: 'sparks', id: 5, frame: 22 })
    ask({ what: 'field', system: 'sparks', frame: 30, places: Float32Array.from([0, 1, 0]) })
    while (run.towards(40));
    expect(frameMark(frameAt(40))).toBe(mark)
  })
})
