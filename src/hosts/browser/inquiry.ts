import { actOf, drawsOf, findAsked, partLooks, systemMatrices } from '../../acts'
import {
  apply,
  type Frame,
  fieldOf,
  forcesOn,
  Gas,
  hashOf,
  indexOfSorted,
  type Mesh,
  type PointsPart,
  partOf,
  partsOf,
  pointColumn,
  probe,
  type Run,
  StoredGas,
  timesOf,
  velocityOf,
  volumeAt,
  volumeCounts,
  volumeVoxels,
} from '../../engine'
import type {
  Air,
  Answer,
  AnswerTo,
  Died,
  Field,
  Fits,
  GasFacts,
  Histogram,
  Particle,
  Picked,
  Question,
  Series,
  Spread,
  Times,
} from '../../protocol'
import { type ActDoc, actsIn, type Shot, type SystemDoc, sampleNumber, timeOf, type Vec3, valueOf } from '../../shot'
import { childrenOf, diedOf, parentOf, stripsOf } from './descent'

const BINS = 40
const dot = (a: Vec3, b: Vec3) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2]

const readers: {
  [K in Question['what']]: (q: Extract<Question, { what: K }>, run: Run, shot: Shot, meshes: ReadonlyMap<string, Mesh>) => Answer | null
} = {
  series: (_, run, shot) => series(run, shot),
  spread,
  times: (q, run, shot) => times(q.frame, run, shot),
  pick,
  particle,
  died,
  fits,
  field,
  gas,
  air,
}

/**
 * Answers what the page asks about a run, without changing it. Throws, with words for a person, when there is no answer. `baked`: systems and gases
 * that the run leaves out, whose frames say no forces and no motion of the air.
 */
export function answerTo<Q extends Question>(
  q: Q,
  run: Run,
  shot: Shot,
  meshes: ReadonlyMap<string, Mesh>,
  baked: readonly string[] = [],
): AnswerTo<Q> {
  const of = 'system' in q ? q.system : 'gas' in q ? q.gas : ''
  if (baked.includes(of) && (q.what === 'fits' || q.what === 'field' || (q.what === 'air' && !q.grid))) {
    const name = [...shot.systems, ...shot.gases].find((e) => e.id === of)?.name
    throw new Error(`${name} comes from a bake, which does not keep what moves it: delete the bake in Bakes to see that`)
  }
  const read = readers[q.what] as (q: Question, run: Run, shot: Shot, meshes: ReadonlyMap<string, Mesh>) => Answer | null
  const answer = read(q, run, shot, meshes) as AnswerTo<Q>
  return q.what === 'particle' && baked.includes(of) ? { ...answer, forces: null } : answer
}
const notComputed = (frame: number): never => {
  throw new Error(`frame ${frame} is not computed yet`)
}
const stopped = (): never => {
  throw new Error('the run was changed meanwhile')
}
function series(run: Run, shot: Shot): Series {
  const frames: Series['frames'] = []
  for (let f = shot.range.first; f <= shot.range.last; f++) {
    const e = run.history.get(f)
    if (e) frames.push({ frame: f, ready: e.ready, ms: e.frame.ms, stats: e.frame.stats })
  }
  return { frames, historyBytes: run.history.bytes, worldBytes: run.world.usedBytes, substeps: shot.substeps }
}
function histogram(values: Float32Array): Histogram {
  let from = Number.POSITIVE_INFINITY,
    to = Number.NEGATIVE_INFINITY
  for (const v of values) {
    from = Math.min(from, v)
    to = Math.max(to, v)
  }
  if (!values.length) return { from: 0, to: 0, counts: [] }
  const counts = new Array<number>(to > from ? BINS : 1).fill(0)
  for (const v of values) counts[to > from ? Math.min(BINS - 1, Math.floor(((v - from) / (to - from)) * BINS)) : 0]++
  return { from, to, counts }
}
const pointsOf = (frame: Frame | undefined, system: string) => partOf(frame?.parts, 'points', system)

/** What the particles of a frame look like, with what their looks ask of them. */
function looksOf(part: PointsPart, system: SystemDoc, frame: number, run: Run, shot: Shot, meshes: ReadonlyMap<string, Mesh>) {
  const parts = run.history.get(frame)?.frame.parts ?? []
  const t = timeOf(shot, frame)
  const [matrix] = systemMatrices(shot, system, t, meshes, parts)
  if (matrix) findAsked(run.world.asker, { shot, system, part, matrix, meshes, t, parts })
  return partLooks(
    part,
    drawsOf(shot, system, t, parts),
    system.phases.map((p) => p.blend),
    matrix,
  )
}

function spread(q: { system: string; frame: number }, run: Run, shot: Shot, meshes: ReadonlyMap<string, Mesh>): Spread {
  const parts = run.history.get(q.frame)?.frame.parts
  const part = partOf(parts, 'points', q.system)
  const system = shot.systems.find((s) => s.id === q.system)
  if (!part || !system) return notComputed(q.frame)
  const [vx, vy, vz] = (['vx', 'vy', 'vz'] as const).map((c) => pointColumn(part, c))
  const age = pointColumn(part, 'age') as Float32Array
  const looks = looksOf(part, system, q.frame, run, shot, meshes)
  return {
    frame: q.frame,
    alive: part.count,
    speed: histogram(Float32Array.from(vx, (v, i) => Math.sqrt(v * v + vy[i] * vy[i] + vz[i] * vz[i]))),
    age: histogram(age),
    size: histogram(Float32Array.from(age, (_, i) => looks(i).size)),
  }
}
/** Steps of the counts of a gas. */
const GAS_BINS = 128
function gas(q: Extract<Question, { what: 'gas' }>, run: Run): GasFacts {
  const entry = run.history.get(q.frame)
  const part = partOf(entry?.frame.parts, 'volume', q.gas)
  if (!entry || !part) return notComputed(q.frame)
  const grids = volumeCounts(part, q.tops, GAS_BINS)
  return { frame: q.frame, voxels: volumeVoxels(part), bytes: part.data.byteLength, ms: entry.frame.ms, grids }
}
function air(q: Extract<Question, { what: 'air' }>, run: Run): Air {
  if (q.grid) {
    const part = partOf(run.history.get(q.frame)?.frame.parts, 'volume', q.gas)
    return part ? { velocity: null, lines: null, values: volumeAt(part, q.grid, q.places) } : notComputed(q.frame)
  }
  if (!run.history.isReady(q.frame)) return notComputed(q.frame)
  const found = run.explore(q.frame, (world) => {
    const gas = world.solver(q.gas)
    const at =
      gas instanceof Gas
        ? velocityOf(fieldOf(gas))
        : gas instanceof StoredGas && gas.field
          ? velocityOf(gas.field)
          : (places: Float32Array) => new Float32Array(places.length)
    const velocity = at(q.places)
    return { velocity, lines: q.trails ? trailsFrom(q.places, velocity, at, q.trails) : null, values: null }
  })
  return found ?? stopped()
}
function times(frame: number, run: Run, shot: Shot): Times {
  if (!run.history.isReady(frame)) return notComputed(frame)
  const systems = run.explore(frame, (world) =>
    shot.systems.map((s) => ({
      system: s.id,
      acts: (world.examine(s.id, (r, at) => timesOf(r, at, () => performance.now())) ?? []).map((a) => ({
        id: a.id,
        ms: a.ms * shot.substeps,
      })),
    })),
  )
  return systems ? { frame, systems } : stopped()
}
function pick(q: Extract<Question, { what: 'pick' }>, run: Run, shot: Shot, meshes: ReadonlyMap<string, Mesh>): Picked | null {
  const frame = run.history.get(q.frame)?.frame
  if (!frame) return notComputed(q.frame)
  const t = timeOf(shot, q.frame)
  const { place, right, up, forward } = q.eye
  const k = q.eye.lens / 18
  let best = q.within,
    found: Picked | null = null
  for (const part of partsOf(frame.parts, 'points')) {
    const system = shot.systems.find((s) => s.id === part.element)
    if (!system || !q.systems.includes(system.id)) continue
    const [px, py, pz, ids] = (['px', 'py', 'pz', 'id'] as const).map((c) => pointColumn(part, c))
    for (const m of systemMatrices(shot, system, t, meshes, frame.parts)) {
      for (let i = 0; i < part.count; i++) {
        const w = apply(m, px[i], py[i], pz[i])
        const d: Vec3 = [w[0] - place[0], w[1] - place[1], w[2] - place[2]]
        const depth = dot(d, forward)
        if (depth < 1e-4) continue
        const far = Math.hypot((dot(d, right) / depth) * k - q.x, ((dot(d, up) / depth) * k * q.aspect - q.y) / q.aspect)
        if (far < best) {
          best = far
          found = { system: system.id, id: ids[i] }
        }
      }
    }
  }
  return found
}
function particle(q: { system: string; id: number; frame: number }, run: Run, shot: Shot, meshes: ReadonlyMap<string, Mesh>): Particle {
  const system = shot.systems.find((s) => s.id === q.system)
  if (!system) throw new Error('its system is gone')
  const path: Particle['path'] = []
  const phases: Particle['phases'] = []
  let now: Particle['now'] = null
  let last: { frame: number; age: number; life: number } | null = null
  let gone: number | null = null
  for (let f = shot.range.first; f <= shot.range.last; f++) {
    const part = pointsOf(run.history.get(f)?.frame, q.system)
    if (!part) continue
    const i = indexOfSorted(pointColumn(part, 'id'), q.id)
    if (i < 0) {
      if (last && gone === null) gone = f
      continue
    }
    const at = (c: Parameters<typeof pointColumn>[1]) => pointColumn(part, c)[i]
    const t = timeOf(shot, f)
    const m = systemMatrices(shot, system, t, meshes, run.history.get(f)?.frame.parts)[0]
    const velocity: Vec3 = [at('vx'), at('vy'), at('vz')]
    path.push({
      frame: f,
      place: m ? (apply(m, at('px'), at('py'), at('pz')) as Vec3) : [at('px'), at('py'), at('pz')],
      speed: Math.hypot(...velocity),
    })
    if (phases.at(-1)?.phase !== at('phase')) phases.push({ from: f, phase: at('phase') })
    last = { frame: f, age: at('age'), life: at('life') }
    if (f === q.frame)
      now = {
        place: path[path.length - 1].place,
        velocity,
        age: at('age'),
        life: at('life'),
        size: looksOf(part, system, f, run, shot, meshes)(i).size,
        hits: 0,
        mass: sampleNumber(valueOf(system.mass), t),
      }
  }
  if (!last) throw new Error('no frame that is computed has it')
  const found = run.explore(q.frame, (world) => ({
    // Before it is examined: that makes everything ready for the coming substep.
    parent: parentOf(world, shot, q),
    children: childrenOf(world, shot, q),
    seen:
      now &&
      world.examine(q.system, (r) => {
        const i = r.indexOf(q.id)
        if (i < 0) return null
        const touched = r.value('touched', i)
        return {
          hits: r.value('hits', i),
          forces: forcesOn(r, i).map((x) => ({ act: x.id, a: x.a })),
          touched: touched
            ? {
                hash: touched,
                age: r.value('touchedAge', i),
                speed: r.value('touchSpeed', i),
                place: [r.value('tx', i), r.value('ty', i), r.value('tz', i)] as Vec3,
              }
            : null,
        }
      }),
  }))
  // One that does not live now is asked about where it does: in its last frame, or before its birth in its first.
  const then = now ? null : q.frame > last.frame ? last.frame : path[0].frame
  const family =
    then === null ? found : run.explore(then, (world) => ({ parent: parentOf(world, shot, q), children: childrenOf(world, shot, q) }))
  const seen = found?.seen
  const frame = run.history.get(q.frame)?.frame
  if (now && seen) now.hits = seen.hits
  const object = seen?.touched ? shot.objects.find((o) => hashOf(o.id) === seen.touched?.hash) : undefined
  return {
    system: q.system,
    id: q.id,
    frame: q.frame,
    now,
    path,
    phases,
    parent: family?.parent ?? null,
    children: found?.children ?? [],
    lived: then !== null && then < q.frame ? { frame: then, children: family?.children ?? [] } : null,
    strips: frame ? stripsOf(frame, shot, q, meshes) : [],
    forces: seen?.forces ?? [],
    touched:
      seen?.touched && object ? { object: object.id, age: seen.touched.age, speed: seen.touched.speed, place: seen.touched.place } : null,
    ends: gone === null ? null : { frame: gone, why: why(system, last, gone, shot) },
  }
}
function died(q: { system: string; id: number; frame: number }, run: Run, shot: Shot): Died {
  let [from, to] = [-1, -1]
  for (let f = shot.range.first; f <= q.frame; f++) {
    const part = pointsOf(run.history.get(f)?.frame, q.system)
    if (!part || indexOfSorted(pointColumn(part, 'id'), q.id) < 0) continue
    if (from < 0) from = f
    to = f
  }
  if (from < 0) throw new Error(`no frame up to ${q.frame} has it`)
  // On the way to its end it sheds after its last frame; from then on nobody comes any more.
  to = Math.min(q.frame, to + 1)
  const children = diedOf(run, shot, q, from, to, q.frame)
  return children ? { from, to, children } : stopped()
}
/** So many are marked in the View. */
const MARKED = 4000
function fits(q: Extract<Question, { what: 'fits' }>, run: Run, shot: Shot, meshes: ReadonlyMap<string, Mesh>): Fits {
  const frame = run.history.get(q.frame)?.frame
  const part = pointsOf(frame, q.system)
  const system = shot.systems.find((s) => s.id === q.system)
  if (!frame || !part || !system) return notComputed(q.frame)
  const took = run.explore(q.frame, (world) => world.tryTurn(q.system, q.turn), true) ?? stopped()
  const [px, py, pz, ids] = (['px', 'py', 'pz', 'id'] as const).map((c) => pointColumn(part, c))
  const [m] = systemMatrices(shot, system, timeOf(shot, q.frame), meshes, frame.parts)
  const places: number[] = []
  let count = 0
  for (let i = 0; i < part.count; i++)
    if (took.has(ids[i]) && ++count <= MARKED) places.push(...(m ? apply(m, px[i], py[i], pz[i]) : [px[i], py[i], pz[i]]))
  return { frame: q.frame, alive: part.count, count, places: Float32Array.from(places) }
}
/** Why a particle is not there any more at a frame: its life was over, or it met or left something then. */
function why(system: SystemDoc, last: { frame: number; age: number; life: number }, gone: number, shot: Shot): string {
  const dt = (gone - last.frame) * (shot.rate.den / shot.rate.num)
  if (!system.endless && last.life - last.age <= dt * 1.001 * Math.max(1, sampleNumber(system.timeScale, timeOf(shot, last.frame)) / 100))
    return 'its life was over'
  const acts = actsIn(system, 'contact').filter((a) => !a.muted)
  const name = (a: ActDoc) => actOf(a.kind).title.toLowerCase()
  const deadly = acts.filter((a) => actOf(a.kind).sort === 'contact' && actOf(a.kind).endsLives)
  const endings = acts.filter((a) => actOf(a.kind).sort === 'ending')
  if (deadly.length && !endings.length) return 'it met a collider that it dies on'
  if (deadly.length) return `it met a collider that it dies on, or ended by ${endings.map(name).join(' or ')}`
  if (endings.length) return `ended by ${endings.map(name).join(' or ')}`
  return 'its numbers became non-finite'
}
function field(q: Extract<Question, { what: 'field' }>, run: Run): Field {
  const found = run.explore(q.frame, (world) =>
    world.examine(q.system, (r) => {
      const only = q.act === undefined ? undefined : r.marks.findIndex((m) => m.id === q.act)
      // A force that does not reach the system does nothing to it.
      const feel = (places: Float32Array) => (only === -1 ? new Float32Array(places.length) : probe(r, places, only))
      const a = feel(q.places)
      return { a, lines: q.trails ? trailsFrom(q.places, a, feel, q.trails) : null }
    }),
  )
  return found ?? stopped()
}
/** Along a field from places: each step as long as the field is strong there, the strongest of the first ones `metres`. */
function trailsFrom(
  places: Float32Array,
  first: Float32Array,
  feel: (places: Float32Array) => Float32Array,
  { steps, metres }: { steps: number; metres: number },
): Float32Array {
  const n = places.length / 3
  const size = (a: Float32Array, i: number) => Math.hypot(a[i * 3], a[i * 3 + 1], a[i * 3 + 2])
  let maximum = 1e-12
  for (let i = 0; i < n; i++) maximum = Math.max(maximum, size(first, i))
  const out = new Float32Array(n * (steps + 1) * 3)
  let at = places,
    a = first
  for (let k = 0; ; k++) {
    for (let i = 0; i < n; i++) out.set(at.subarray(i * 3, i * 3 + 3), (i * (steps + 1) + k) * 3)
    if (k === steps) return out
    at = at.map((v, i) => v + (a[i] / maximum) * metres)
    a = feel(at)
  }
}
