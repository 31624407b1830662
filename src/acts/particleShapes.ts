import { hasColumn, hash3, type Matrix, type Mesh, movedMesh, type PointsPart, pointColumn, unit } from '../engine'
import type { NumberParam, ObjectDoc, Shot, ValueRef, Vec3 } from '../shot'
import { askedOf } from './asks'
import { baseMesh, type Meshes } from './baseMesh'
import type { SolidDrawing } from './drawing'
import { type MappedParticle, type Mapping, mappedValue } from './mapped'
import { othersIn } from './placed'
import { actOf } from './registry'
import type { Places } from './reliefs'
import { shapedOf } from './reshaped'
import { primitiveOf } from './shapes'

/** A value of a shape by something of each particle. */
export interface ShapeMapping {
  by: Mapping
  value: ValueRef
  step: number
}
/** A value of an object's shape that particles may have of their own. */
export interface ShapeValue {
  path: string
  label: string
  param: Pick<NumberParam, 'min' | 'max' | 'integer'>
}
const AXES = ['X', 'Y', 'Z']
/** All values of the shape of an object and of its steps: numbers, components of vectors, and seeds. */
export function shapeValues(o: ObjectDoc): ShapeValue[] {
  const of = (prefix: string, title: string, params: Readonly<Record<string, unknown>>): ShapeValue[] =>
    Object.entries(params as Record<string, { type: string; label: string } & NumberParam>).flatMap(([name, p]) => {
      const label = title ? `${title}, ${p.label.toLowerCase()}` : p.label.toLowerCase()
      if (p.type === 'number') return [{ path: prefix + name, label, param: p }]
      if (p.type === 'vector') return AXES.map((a, k) => ({ path: `${prefix}${name}.${k}`, label: `${label} ${a}`, param: {} }))
      return []
    })
  return [
    ...of('shape.', '', primitiveOf(o.shape.kind)?.params ?? {}),
    ...o.reshape.flatMap((a) => [
      ...of(`acts.${a.id}.`, actOf(a.kind).title, actOf(a.kind).params),
      { path: `acts.${a.id}.seed`, label: `${actOf(a.kind).title}, seed`, param: { integer: true, min: 0 } },
    ]),
  ]
}
/** A record with one value of its own: a number, or a component of a vector. */
function withOwn<R extends object>(record: R, name: string, v: number): R {
  const [field, axis] = name.split('.')
  const old = (record as Record<string, unknown>)[field]
  return { ...record, [field]: axis === undefined || !Array.isArray(old) ? v : old.map((x, k) => (k === Number(axis) ? v : x)) }
}
/** The object with values of a particle's own; those that it does not have say nothing. */
export function withShape(o: ObjectDoc, own: readonly { path: string; v: number }[]): ObjectDoc {
  const known = shapeValues(o)
  let out = o
  for (const { path, v } of own) {
    const p = known.find((k) => k.path === path)?.param
    if (!p) continue
    const value = Math.min(p.max ?? Infinity, Math.max(p.min ?? -Infinity, p.integer ? Math.round(v) : v))
    const act = /^acts\.([^.]+)\.(.+)$/.exec(path)
    out = act
      ? { ...out, reshape: out.reshape.map((a) => (a.id === act[1] ? withOwn(a, act[2], value) : a)) }
      : { ...out, shape: withOwn(out.shape, path.slice('shape.'.length), value) }
  }
  return out
}
/** What of its body a particle has of its own: values in the order of the mappings, and the moment of the object. */
export interface OwnShape {
  values: (number | null)[]
  t: number
}
/** Of each particle of a part its own shape, by its number. `places`: where they are drawn; `t`: of the frame, s; `frame`: how long one is, s. */
export function ownShapes(
  part: PointsPart,
  places: Places,
  shapes: readonly ShapeMapping[],
  solid: SolidDrawing,
  matrix: Matrix,
  t: number,
  frame: number,
): (i: number) => OwnShape {
  const [age, life, seed] = (['age', 'life', 'seed'] as const).map((n) => pointColumn(part, n))
  const { x, y, z } = places
  const [vx, vy, vz] = (['vx', 'vy', 'vz'] as const).map((n) => pointColumn(part, n))
  const start = hasColumn(part, 'phaseStart') ? pointColumn(part, 'phaseStart') : null
  // By whole frames: what is born between two is seen as the object was at one of them.
  const whole = (s: number) => Math.round(s / frame) * frame
  const moment = (i: number): number => {
    switch (solid.moment) {
      case 'now':
        return t
      case 'birth':
        return whole(t - age[i])
      case 'fixed':
        return solid.later
      case 'later':
        return whole(t + solid.later + solid.laterVary * (unit(hash3(solid.seed, seed[i], LATER)) * 2 - 1))
    }
  }
  return (i) => {
    const p: MappedParticle = {
      ...{ age: age[i], life: life[i], seed: seed[i], phaseStart: start?.[i], asked: (name) => askedOf(part, name)?.[i] },
      place: [x[i], y[i], z[i]] as Vec3,
      velocity: [vx[i], vy[i], vz[i]] as Vec3,
    }
    const values = shapes.map(({ by, step }) => {
      const v = mappedValue(by, p, matrix)
      return v === null || !(step > 0) ? v : by.low + Math.round((v - by.low) / step) * step
    })
    return { values, t: moment(i) }
  }
}
/** The channel of the hash that says how much earlier or later each is. */
const LATER = 30

const moving = new WeakMap<readonly ObjectDoc[], Map<string, boolean>>()
/** Whether an object has another shape at another time. */
function movesOf(shot: Shot, meshes: Meshes, o: ObjectDoc): boolean {
  let all = moving.get(shot.objects)
  if (!all) moving.set(shot.objects, (all = new Map()))
  let moves = all.get(o.id)
  if (moves === undefined) {
    const base = baseMesh(o, meshes)
    all.set(o.id, (moves = !!base && shapedOf(o, base, o.regions.length > 0, othersIn(shot, meshes)).at !== null))
  }
  return moves
}
/** A shape that was built: one mesh for the same values, with normals if it is smooth. */
const kept = new WeakMap<readonly ObjectDoc[], Map<string, Mesh>>()
const keptBytes = new WeakMap<Map<string, Mesh>, number>()
/** Bytes of shapes that are kept: of more than that those before are made again. */
const MOST_BYTES = 192 * 1024 * 1024
const bytesOf = (m: Mesh): number => m.positions.byteLength + (m.normals?.byteLength ?? 0)
/**
 * The shape of an object with values of a particle's own; the same mesh for the same ones while no object is edited. Null when it has no faces.
 */
export function particleShape(shot: Shot, meshes: Meshes, o: ObjectDoc, shapes: readonly ShapeMapping[], own: OwnShape): Mesh | null {
  let all = kept.get(shot.objects)
  if (!all) kept.set(shot.objects, (all = new Map()))
  const values = shapes.flatMap((s, k) => {
    const v = own.values[k]
    return s.value.element === o.id && v !== null ? [{ path: s.value.value, v }] : []
  })
  const key = `${o.id} ${movesOf(shot, meshes, o) ? own.t : ''} ${values.map((x) => `${x.path}=${x.v}`).join(' ')}`
  const known = all.get(key)
  if (known) return known
  const shaped = withShape(o, values)
  const base = baseMesh(shaped, meshes)
  if (!base?.mesh.indices.length) return null
  const { mesh, at } = shapedOf(shaped, base, o.regions.length > 0, othersIn(shot, meshes))
  const positions = at?.(own.t) ?? mesh.positions
  const made = positions === mesh.positions ? mesh : movedMesh(mesh, positions)
  const bytes = (keptBytes.get(all) ?? 0) + bytesOf(made)
  if (bytes > MOST_BYTES) all.clear()
  keptBytes.set(all, bytes > MOST_BYTES ? bytesOf(made) : bytes)
  all.set(key, made)
  return made
}
