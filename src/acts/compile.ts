import {
  boundsOf,
  type ColumnName,
  encodeBounds,
  encodeMinSize,
  type Matrix,
  type MeetParams,
  type Mesh,
  type Plan,
  type PlanObject,
  type PlanSystem,
  Poses,
  TOUCH_COLUMNS,
} from '../engine'
import {
  type ActDoc,
  frameAt,
  isKeyed,
  isVaried,
  type MeshShape,
  modulatorsOf,
  type ObjectDoc,
  type Shot,
  type SystemDoc,
  sampleNumber,
  valueOf,
  varyOf,
} from '../shot'
import { bodiesOf } from './bodies'
import type { OtherOf } from './copied'
import type { EndingSite } from './define'
import { forcePlan, live, seedOf, type Where } from './forcePlan'
import { forceSite } from './forceSite'
import { drawOf, sizeCurve } from './look'
import { parentsOf, placedMatrix, viewPlanes } from './places'
import { type Reader, readerOf } from './reader'
import { actOf, actOfSort } from './registry'
import { regionOf, shapedOf } from './reshaped'
import { type Base, baseOf, builtKey, meshAsTaken, primitiveOf, shapeBase, shapeMesh } from './shapes'
import { usedRegions, warmFrames } from './touched'
import { tieShot } from './values'

/** Meshes by asset hash; a missing one leaves its object empty and is named in `problems`. */
export type Meshes = ReadonlyMap<string, Mesh>
export interface Compiled {
  plan: Plan
  problems: { element: string; message: string }[]
}
export function meshOf(object: ObjectDoc, meshes: Meshes): Mesh | null {
  const key = builtKey(object.shape)
  if (key) return meshes.get(key) ?? null
  if (object.shape.kind !== 'mesh') return shapeMesh(object.shape)
  const mesh = meshes.get((object.shape as MeshShape).asset)
  return mesh ? meshAsTaken(mesh, object.shape as MeshShape) : null
}
/** Hashes of the files that an object's shape is read from. */
export const filesOf = (o: ObjectDoc): string[] =>
  o.shape.kind === 'mesh' ? [(o.shape as MeshShape).asset, ...(o.shape as MeshShape).poses] : []
/** An object's mesh with what it does by itself. Poses that do not fit are named by `tell` and left out. */
export function baseMesh(object: ObjectDoc, meshes: Meshes, tell: (message: string) => void = () => {}): Base | null {
  if (primitiveOf(object.shape.kind)) return shapeBase(object.shape)
  const mesh = meshOf(object, meshes)
  if (!mesh || object.shape.kind !== 'mesh') return mesh && { mesh, at: null }
  const shape = object.shape as MeshShape
  const first = meshes.get(shape.asset) as Mesh
  const poses: Mesh[] = []
  for (const [i, hash] of shape.poses.entries()) {
    const pose = meshes.get(hash)
    if (pose?.positions.length === first.positions.length) poses.push(pose)
    else {
      tell(
        pose
          ? `pose ${i + 2} of ${object.name} has ${pose.positions.length / 3} points and the first ${first.positions.length / 3}; it plays up to the one before: export them with the same points`
          : `pose ${i + 2} of ${object.name} is missing; it plays up to the one before: bring its file in again`,
      )
      break
    }
  }
  return baseOf(first, { ...shape, poses: shape.poses.slice(0, poses.length) }, poses)
}
/**
 * Metres that an object's place has gone from the first frame until t: the sum of straight pieces from substep to substep, the same
 * whoever asked before. Null stands still.
 */
function pathOf(object: ObjectDoc | null, step: number, where: Where): (t: number) => number {
  if (!object) return () => 0
  const sums = [0]
  let last: [number, number, number] | null = null
  const place = (t: number): [number, number, number] => {
    const m = where(object, t)
    return [m[3], m[7], m[11]]
  }
  const far = (a: readonly number[], b: readonly number[]) => Math.sqrt((a[0] - b[0]) ** 2 + (a[1] - b[1]) ** 2 + (a[2] - b[2]) ** 2)
  return (t) => {
    const n = Math.max(0, Math.floor(t / step + 1e-9))
    last ??= place(0)
    while (sums.length <= n) {
      const next = place(sums.length * step)
      sums.push(sums[sums.length - 1] + far(last, next))
      last = next
    }
    const rest = t - n * step
    return rest > 1e-9 ? sums[n] + far(place(n * step), place(t)) : sums[n]
  }
}

/**
 * When the births of a moving source all lie before it moves or behind it: what to say of it. Asked of keys alone, of the source and of all
 * that it goes along with; modulators move all the time.
 */
function missedMove(shot: Shot, object: ObjectDoc, starts: number, ends: number): string | null {
  let [from, to] = [Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY]
  for (const o of [object, ...parentsOf(object)]) {
    for (const v of [...o.place, ...o.rotate, ...o.scale]) {
      if (modulatorsOf(v).some((m) => !m.muted)) return null
      if (!isKeyed<number>(v)) continue
      if (v.loop && v.loop !== 'hold') return null
      const keys = [...v.keys].sort((a, b) => a.t - b.t)
      keys.forEach((k, i) => {
        const next = keys[i + 1]
        if (!next || next.v === k.v) return
        from = Math.min(from, k.t)
        to = Math.max(to, next.t)
      })
    }
  }
  const f = (t: number) => `${Math.round(frameAt(shot, t))} f`
  if (from > to) return null
  if (ends <= from) return `ends at ${f(ends)}, before ${object.name} starts to move at ${f(from)}: move one of the two in time`
  if (starts >= to) return `begins at ${f(starts)}, after ${object.name} has stopped at ${f(to)}: move one of the two in time`
  return null
}
/** Planes of the shot as they are in an object's own space. */
function planesIn(planes: number[][], space: ObjectDoc | undefined, t: number, where: Where): number[][] {
  if (!space) return planes
  const m = where(space, t)
  return planes.map(([x, y, z, d]) => [
    x * m[0] + y * m[4] + z * m[8],
    x * m[1] + y * m[5] + z * m[9],
    x * m[2] + y * m[6] + z * m[10],
    x * m[3] + y * m[7] + z * m[11] + d,
  ])
}
/** Turns a checked shot into what the engine runs: ids resolved, values as functions of time. */
export function compile(shot: Shot, meshes: Meshes): Compiled {
  const problems: Compiled['problems'] = tieShot(shot)
  const poses = new Poses()
  const where: Where = (o, t, out) => placedMatrix(o, t, (id, s) => poses.at(id, s), out)
  const otherOf: OtherOf = (id) => {
    const object = shot.objects.find((o) => o.id === id && !o.muted)
    return object ? { object, base: baseMesh(object, meshes) } : null
  }
  const objects: PlanObject[] = shot.objects.map((o) => {
    const base = o.muted ? null : baseMesh(o, meshes, (message) => problems.push({ element: o.id, message }))
    const mesh = base?.mesh ?? null
    if (!o.muted && o.shape.kind === 'mesh' && !mesh)
      problems.push({ element: o.id, message: `the mesh of ${o.name} is missing; bring its file in again` })
    const met = {
      ...(o.metBy === 'grid' ? { cells: o.cells } : {}),
      ...(o.sides === 'auto' ? {} : { sides: o.sides }),
      ...(o.thickness === 0 ? {} : { thickness: (t: number) => sampleNumber(o.thickness, t) }),
    }
    if (!base || !mesh)
      return {
        ...met,
        id: o.id,
        mesh,
        endless: !o.muted && o.shape.kind === 'plane' && o.shape.endless,
        matrix: (t, out) => where(o, t, out),
      }
    const used = usedRegions(shot, o.id)
    const shaped = shapedOf(o, base, used.size > 0, otherOf)
    const regions = new Map(o.regions.filter((r) => used.has(r.id)).map((r) => [r.id, regionOf(o, r, shaped, otherOf)]))
    return {
      ...met,
      id: o.id,
      mesh: shaped.mesh,
      endless: o.shape.kind === 'plane' && o.shape.endless,
      matrix: (t, out) => where(o, t, out),
      shape: shaped.at,
      ...(regions.size ? { regions } : {}),
    }
  })
  const indexOf = (id: string) => shot.objects.findIndex((o) => o.id === id)
  const colliders = shot.objects.flatMap((o, i) => (o.roles.collider && !o.muted ? [i] : []))

  const secondsPerFrame = shot.rate.den / shot.rate.num
  const secondsPerSubstep = secondsPerFrame / shot.substeps

  const site: EndingSite = {
    object(id, t) {
      const i = id ? indexOf(id) : -1
      const mesh = i >= 0 ? objects[i].mesh : null
      return mesh?.positions.length ? { matrix: where(shot.objects[i], t), box: boundsOf(mesh) } : null
    },
    view: (t, wider) => viewPlanes(shot, t, wider),
  }
  const spaceOf = (s: SystemDoc): ObjectDoc | undefined => shot.objects.find((o) => o.id === s.space)
  const system = (s: SystemDoc): PlanSystem => {
    const phase = s.phases[0]
    const birth = s.muted ? [] : live(s.birth)
    // What the shot's forces leave of themselves for this system, in per cent.
    const left = new Map<ActDoc, number>()
    const ofShot = shot.forces
      .filter((f) => !f.muted && (f.reaches === 'all' || f.reaches.includes(s.id)))
      .map((f) => {
        left.set(f.act, f.shares.find((x) => x.system === s.id)?.share ?? 100)
        return f.act
      })
    const forces = [...ofShot, ...s.whole.movement, ...phase.movement]
    const place = forceSite(shot, s, objects, where)
    for (const a of s.muted ? [] : live(forces)) {
      const element = shot.forces.find((f) => f.act === a)?.id ?? s.id
      for (const x of [a, ...live(a.limits ?? [])]) {
        const act = actOf(x.kind)
        const why = 'needs' in act ? act.needs?.(readerOf(x)) : null
        const message = `${act.title} ${why}`
        if (why && !problems.some((p) => p.element === element && p.message === message)) problems.push({ element, message })
      }
    }
    const meetings = live([...s.whole.contact, ...phase.contact])
    const answers = meetings.filter((a) => actOf(a.kind).sort === 'contact')
    const contacts = answers.filter((a) => actOfSort(a.kind, 'contact').contact)
    // Of several cards that make particles meet each other the last counts.
    const meeting = answers.filter((a) => actOfSort(a.kind, 'contact').meet).at(-1)
    const endings = meetings.filter((a) => actOf(a.kind).sort === 'ending')
    const columns = new Set<ColumnName>([
      ...[...birth, ...forces, ...answers, ...live([...s.whole.look, ...phase.look])].flatMap((a) => actOf(a.kind).columns ?? []),
      ...(contacts.length ? TOUCH_COLUMNS : []),
    ])
    return {
      id: s.id,
      name: s.name,
      seed: s.seed,
      limit: s.limit,
      life: (t) => [sampleNumber(valueOf(s.life), t), varyOf(s.life)],
      endless: s.endless,
      ...(spaceOf(s) ? { space: (t: number, out: Matrix) => where(spaceOf(s) as ObjectDoc, t, out) } : {}),
      births: birth.map((a) => {
        const act = actOfSort(a.kind, 'source')
        const warmed = shot.warm > 0 && act.runsWarm && (a.start as number) <= 0
        const p = readerOf(warmed ? { ...a, start: -warmFrames(shot) * secondsPerFrame } : a)
        const sourceId = p.text('source')
        const object = sourceId ? shot.objects[indexOf(sourceId)] : undefined
        const source = object && !object.muted ? indexOf(object.id) : -1
        const other = sourceId ? shot.systems.findIndex((x) => x.id === sourceId) : -1
        if (other >= 0 && shot.systems[other].id === s.id)
          problems.push({
            element: s.id,
            message: `${s.name} starts from its own particles; before the first of them there is nothing to start from: add another birth`,
          })
        const travelled = pathOf(object ?? null, secondsPerSubstep, where)
        const partName = p.text('part')
        const mesh = source >= 0 ? objects[source].mesh : null
        if (partName && mesh && !mesh.parts.some((x) => x.name === partName))
          problems.push({
            element: s.id,
            message: `${act.title} of ${s.name} starts on the part “${partName}”, which ${object?.name} does not have; it starts on all of it`,
          })
        const regionId = p.text('region')
        if (regionId && object && !object.regions.some((r) => r.id === regionId))
          problems.push({
            element: s.id,
            message: `${act.title} of ${s.name} starts on a region that ${object.name} does not have any more; it starts on all of it`,
          })
        // Who keeps to the object afterwards need not be born while it moves.
        const keeps = live(forces).some((f) => f.object === sourceId || f.target === sourceId)
        const missed = object && !object.muted && !keeps ? missedMove(shot, object, act.starts(p), act.ends(p)) : null
        if (missed) problems.push({ element: s.id, message: `${act.title} of ${s.name} ${missed}` })
        if (object?.muted) problems.push({ element: s.id, message: `the source ${object.name} of ${s.name} is muted; its births wait` })
        return {
          id: a.id,
          seed: seedOf(shot, s, a),
          due: (t0, t1) => (object?.muted ? [] : act.due(p, t0, t1, travelled)),
          params: (t) => ({ source, system: other, ...act.throws(p, t) }),
        }
      }),
      forces: live(forces).map((a) => forcePlan(shot, s, a, left.get(a) ?? 100, place)),
      ...(isVaried(s.mass) || s.mass !== 1
        ? { mass: (t: number): readonly [number, number] => [sampleNumber(valueOf(s.mass), t), varyOf(s.mass)] }
        : {}),
      ...(s.pace !== 100 ? { timeScale: (t: number) => sampleNumber(s.pace, t) / 100 } : {}),
      contacts: contacts.map((a) => {
        const act = actOfSort(a.kind, 'contact')
        const p = readerOf(a)
        const target = p.text('with')
        const only = target ? indexOf(target) : -1
        return {
          id: a.id,
          seed: seedOf(shot, s, a),
          colliders: target ? (only >= 0 && !shot.objects[only].muted ? [only] : []) : colliders,
          params: (t) => (act.contact as NonNullable<typeof act.contact>)(p, t),
        }
      }),
      ...(meeting
        ? {
            meet: {
              seed: seedOf(shot, s, meeting),
              params: (t: number) =>
                (actOfSort(meeting.kind, 'contact').meet as (p: Reader, t: number) => MeetParams)(readerOf(meeting), t),
            },
          }
        : {}),
      endings: endings.map((a) => {
        const p = readerOf(a)
        const act = actOfSort(a.kind, 'ending')
        return {
          id: a.id,
          encode(w, at) {
            const planes = act.planes?.(p, at.t1, site)
            if (planes) encodeBounds(w, planesIn(planes, spaceOf(s), at.t1, where))
            if (!act.below) return
            const draw = drawOf(shot, s, at.t1)
            encodeMinSize(w, act.below(p, at.t1), draw.size, draw.sizeVary, draw.sizeSeed, sizeCurve(draw.look))
          },
        }
      }),
      extraColumns: [...columns],
    }
  }
  return {
    plan: {
      rate: shot.rate,
      first: shot.range.first,
      last: shot.range.last,
      start: shot.range.first - warmFrames(shot),
      substeps: shot.substeps,
      objects,
      systems: shot.systems.map(system),
      ...bodiesOf(shot, objects, colliders, poses, where),
    },
    problems,
  }
}
