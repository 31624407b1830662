import {
  type AskedPlaces,
  type Asker,
  type ColumnName,
  hasColumn,
  KEPT_POINT_COLUMNS,
  type KeptColumn,
  type Matrix,
  type Part,
  type PointColumn,
  type PointsPart,
  partOf,
  pointColumn,
  TOUCH_COLUMNS,
  TURN_COLUMNS,
} from '../engine'
import { type ActDoc, type Shot, type SystemDoc, sectionsOf } from '../shot'
import { baseMesh, type Meshes } from './baseMesh'
import type { AskedBy, MappingDrawing } from './drawing'
import { othersIn } from './placed'
import { placedMatrix, posedIn } from './places'
import { readerOf } from './reader'
import { actOf, actOfSort } from './registry'
import { regionOf, shapedOf } from './reshaped'

/** What is asked, as words; the same question has the same name. */
export function askName(by: AskedBy, m: Pick<MappingDrawing, 'object' | 'region' | 'gas' | 'grid' | 'within'>): string {
  switch (by) {
    case 'surface':
      return `surface ${m.object}`
    case 'region':
      return `region ${m.object} ${m.region}`
    case 'gas':
      return `gas ${m.gas} ${m.grid}`
    case 'near':
      return `near ${m.within}`
    default:
      return by
  }
}
/** Columns that a frame keeps of a system because a look asks for them. */
const KEPT: Partial<Record<AskedBy, readonly KeptColumn[]>> = {
  source: ['sx', 'sy', 'sz'],
  contact: ['touchedAge', 'touchSpeed'],
  strike: ['touchSpeed'],
  generation: ['generation'],
}
const mappingsOf = (s: SystemDoc): MappingDrawing[] =>
  sectionsOf(s).flatMap((x) =>
    x.look.filter((a) => !a.muted).flatMap((a: ActDoc) => actOfSort(a.kind, 'look').mapping?.(readerOf(a), a.seed, 0) ?? []),
  )
/** By which bodies go on turning within the time of an open shutter. */
const SPIN: readonly KeptColumn[] = ['wx', 'wy', 'wz']
const tumbles = (s: SystemDoc): boolean =>
  sectionsOf(s).some((x) => x.movement.some((a) => !a.muted && (actOf(a.kind).columns ?? []).includes('wx')))
/** What of its particles frames must keep beside what they always do, in one order. */
export function keptFor(s: SystemDoc): KeptColumn[] {
  const asked = new Set([...mappingsOf(s).flatMap((m) => KEPT[m.by as AskedBy] ?? []), ...(tumbles(s) ? SPIN : [])])
  return KEPT_POINT_COLUMNS.filter((n) => asked.has(n))
}
/** The columns that these come from, beside those of a spin: only who spins has them. */
export const columnsKeptFor = (s: SystemDoc): ColumnName[] =>
  keptFor(s)
    .filter((n) => !TURN_COLUMNS.includes(n))
    .flatMap((n): ColumnName[] => (TOUCH_COLUMNS.includes(n) ? TOUCH_COLUMNS : [n]))
/** Whether kernels must find out something of its particles. */
export const asksKernels = (s: SystemDoc): boolean => mappingsOf(s).some((m) => ['surface', 'region', 'gas', 'near'].includes(m.by))

interface Found {
  stamp: readonly unknown[]
  values: Float32Array
}
const found = new WeakMap<PointsPart, Map<string, Found>>()

/** What is asked of all particles of a part, by its name; undefined while nobody has found it out. */
export function askedOf(part: PointsPart, name: string): Float32Array | undefined {
  const known = found.get(part)?.get(name)
  if (known) return known.values
  const values = stored(part, name)
  if (values) remember(part, name, { stamp: [], values })
  return values
}
function remember(part: PointsPart, name: string, f: Found): void {
  const all = found.get(part) ?? new Map<string, Found>()
  found.set(part, all.set(name, f))
}
/** What frames keep, as numbers. */
function stored(part: PointsPart, name: string): Float32Array | undefined {
  const of = (n: PointColumn) => pointColumn(part, n)
  switch (name) {
    case 'order':
      return Float32Array.from(of('id'))
    case 'generation':
      return hasColumn(part, 'generation') ? Float32Array.from(of('generation')) : undefined
    case 'strike':
      return hasColumn(part, 'touchSpeed') ? Float32Array.from(of('touchSpeed')) : undefined
    case 'contact': {
      if (!hasColumn(part, 'touchedAge')) return undefined
      const [age, at, speed] = [of('age'), of('touchedAge'), of('touchSpeed')]
      return Float32Array.from(age, (a, i) => (speed[i] > 0 ? a - at[i] : NEVER))
    }
    case 'source': {
      if (!hasColumn(part, 'sx')) return undefined
      const [x, y, z, sx, sy, sz] = (['px', 'py', 'pz', 'sx', 'sy', 'sz'] as const).map(of)
      return Float32Array.from(x, (v, i) => Math.hypot(v - sx[i], y[i] - sy[i], z[i] - sz[i]))
    }
    default:
      return undefined
  }
}
/** Longer ago than any range ends. */
const NEVER = 1e9

/**
 * Finds out with kernels what the looks of a system ask of the particles of a frame, unless it is known. Of several copies of a system the first
 * is asked. `matrix`: of the system into the shot. Throws MemoryRefused.
 */
export function findAsked(
  asker: Asker,
  o: { shot: Shot; system: SystemDoc; part: PointsPart; matrix: Matrix; meshes: Meshes; t: number; parts: readonly Part[] },
): void {
  const { shot, system, part, matrix } = o
  let places: AskedPlaces | null = null
  const asked = () => {
    const [x, y, z] = (['px', 'py', 'pz'] as const).map((n) => pointColumn(part, n) as Float32Array)
    places ??= { x, y, z }
    return places
  }
  const keep = (name: string, stamp: readonly unknown[], values: () => Float32Array | null) => {
    const known = found.get(part)?.get(name)
    if (known && known.stamp.length === stamp.length && known.stamp.every((v, i) => v === stamp[i])) return
    const now = values()
    if (now) remember(part, name, { stamp, values: now })
  }
  const where = matrix.join()
  for (const m of mappingsOf(system)) {
    const name = askName(m.by as AskedBy, m)
    if (m.by === 'near') keep(name, [], () => asker.near(asked(), m.within))
    else if (m.by === 'gas') {
      const gas = partOf(o.parts, 'volume', m.gas ?? '')
      if (gas) keep(name, [where, gas], () => asker.gas(asked(), matrix, gas, m.grid))
    } else if (m.by === 'surface' || m.by === 'region') {
      const object = shot.objects.find((x) => x.id === m.object)
      if (!object) continue
      const of = placedMatrix(object, o.t, posedIn(o.parts))
      // Objects are the same while none of them is edited.
      keep(name, [where, of.join(), shot.objects], () => {
        const base = baseMesh(object, o.meshes)
        if (!base?.mesh.indices.length) return null
        const others = othersIn(shot, o.meshes)
        const shaped = shapedOf(object, base, object.regions.length > 0, others)
        const positions = shaped.at?.(o.t) ?? shaped.mesh.positions
        const mesh = positions === shaped.mesh.positions ? shaped.mesh : { ...shaped.mesh, positions }
        if (m.by === 'surface') return asker.distance(asked(), matrix, mesh, of)
        const region = object.regions.find((r) => r.id === m.region)
        return region ? asker.amount(asked(), matrix, mesh, of, regionOf(object, region, shaped, others)(o.t)) : null
      })
    }
  }
}
