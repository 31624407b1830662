import {
  type ActDoc,
  type Animated,
  frameAt,
  isVaried,
  loopSeconds,
  type ModulatorDoc,
  modulatorsOf,
  type ObjectDoc,
  type Param,
  type Shot,
  sampleNumber,
  tie,
  type ValueRef,
  type Varied,
  valueOf,
} from '../shot'
import { parentsOf, tieParents, type ValueProblem, worldMatrix } from './places'
import { readerOf, tieLoop } from './reader'
import { readingOf } from './reading'
import { type Reference, referencesIn } from './references'
import { actOfSort } from './registry'
import { usedRegions } from './usedRegions'
import { elements, type ParamRecord, recordsOf } from './walk'

/** One number or colour of the shot that can be moved. */
export interface Value {
  record: ParamRecord
  name: string
  param: Param
  /** Its name within the element, as a reference says it. */
  path: string
  /** As in “Turbulence, strength” or “place X”. */
  label: string
  animated: Animated<unknown>
}
const AXES = ['X', 'Y', 'Z']
function valuesOf(records: readonly ParamRecord[]): Value[] {
  const out: Value[] = []
  for (const record of records) {
    for (const [name, param] of Object.entries(record.params)) {
      if (!('animated' in param) || !param.animated) continue
      const stored = record.record[name]
      const title = record.title ? `${record.title}, ${param.label.toLowerCase()}` : param.label.toLowerCase()
      const at = { record, name, param }
      if (param.type === 'vector')
        for (const [k, a] of (stored as Animated<number>[]).entries())
          out.push({ ...at, path: `${record.prefix}${name}.${k}`, label: `${title} ${AXES[k]}`, animated: a })
      else
        out.push({
          ...at,
          path: record.prefix + name,
          label: title,
          animated: isVaried(stored) ? stored.value : stored,
        })
    }
  }
  return out
}
/** By the list of records, which is the same for an element that nobody changed. */
const kept = new WeakMap<readonly ParamRecord[], Value[]>()
function valuesById(shot: Shot): Map<string, Value[]> {
  const out = new Map<string, Value[]>()
  for (const { group, element, i } of elements(shot)) {
    const records = recordsOf(group, element, i)
    let list = kept.get(records)
    if (!list) kept.set(records, (list = valuesOf(records)))
    out.set(element.id, list)
  }
  return out
}
/** Every value that keys and modulators can move, component by component. */
export const values = (shot: Shot): Value[] => [...valuesById(shot).values()].flat()
const world = /^world\.([012])$/
/** A place in the shot: objects with their parents, lights and cameras as they stand. */
function placeOf(shot: Shot, id: string): ((t: number) => readonly [number, number, number]) | null {
  const object = shot.objects.find((o) => o.id === id)
  if (object) {
    return (t) => {
      const m = worldMatrix(object, t)
      return [m[3], m[7], m[11]]
    }
  }
  const other = shot.lights.find((l) => l.id === id) ?? shot.cameras.find((c) => c.id === id)
  return other ? (t) => [sampleNumber(other.place[0], t), sampleNumber(other.place[1], t), sampleNumber(other.place[2], t)] : null
}
/** The other values that a modulator reads. */
const refsOf = (m: ModulatorDoc): ValueRef[] => actOfSort(m.kind, 'modulator').refs?.(readerOf(m)) ?? []
/** What a value depends on: modulated values, by the object that carries them. */
type Depends = Map<object, { value: Value; on: object[] }>

/** Acts are kept from state to state of a shot: once one has looped, every other says that it does not. */
let looped = false
function tieLoops(shot: Shot): void {
  const seconds = loopSeconds(shot)
  looped ||= seconds !== null
  if (!looped) return
  for (const { group, element, i } of elements(shot)) for (const r of recordsOf(group, element, i)) tieLoop(r.record, seconds)
}
/**
 * Ties every modulated value of a shot to its function (see shot/animated) and every object to its parent. Must be called before a
 * shot is sampled, with each new state of it. Values that cannot be made, and those that go round in a circle, keep to their keys
 * and are named.
 */
export function tieShot(shot: Shot): ValueProblem[] {
  const problems: ValueProblem[] = tieParents(shot)
  tieLoops(shot)
  const all = values(shot)
  const moved = all.filter((v) => modulatorsOf(v.animated).some((m) => !m.muted))
  for (const v of all) if (modulatorsOf(v.animated).length) tie(v.animated as object, null)
  if (!moved.length) return problems
  const at = valuesById(shot)
  const valueAt = (id: string, path: string): Value | undefined => at.get(id)?.find((v) => v.path === path)
  const placeValues = (id: string): Value[] => {
    const object = shot.objects.find((o) => o.id === id)
    const chain = object ? [object, ...parentsOf(object)] : [{ id }]
    return chain.flatMap((o) => ['place', 'rotate', 'scale'].flatMap((n) => [0, 1, 2].flatMap((i) => valueAt(o.id, `${n}.${i}`) ?? [])))
  }
  const reads = (r: ValueRef): Value[] =>
    world.test(r.value)
      ? placeValues(r.element)
      : r.value === 'distance'
        ? [...placeValues(r.element), ...placeValues(r.to ?? '')]
        : [valueAt(r.element, r.value)].filter((v) => v !== undefined)
  const refs = (m: ModulatorDoc) => (m.muted ? [] : refsOf(m))

  const depends: Depends = new Map()
  const isMoved = new Set(moved.map((v) => v.animated))
  for (const v of moved)
    depends.set(v.animated as object, {
      value: v,
      on: modulatorsOf(v.animated)
        .flatMap((m) => refs(m).flatMap(reads))
        .map((x) => x.animated)
        .filter((a): a is object => isMoved.has(a)),
    })
  const circle = findCircles(depends)
  for (const names of circle.chains)
    problems.push({
      element: names[0].record.element.id,
      message: `${names.map(fullName).join(' → ')} → ${fullName(names[0])}: these values go round in a circle, so they keep to their keys; take one of the links away`,
    })

  const site = {
    frame: (t: number) => frameAt(shot, t) - shot.range.first,
    loop: loopSeconds(shot),
    value(ref: ValueRef): (t: number) => number {
      const axis = world.exec(ref.value)?.[1]
      if (axis || ref.value === 'distance') {
        const a = placeOf(shot, ref.element)
        if (!a) throw new Error('the element whose place it reads is gone')
        if (axis) return (t) => a(t)[Number(axis)]
        const b = placeOf(shot, ref.to ?? '')
        if (!b) throw new Error('one end of the distance that it reads is gone')
        return (t) => {
          const p = a(t),
            q = b(t)
          const x = p[0] - q[0],
            y = p[1] - q[1],
            z = p[2] - q[2]
          return Math.sqrt(x * x + y * y + z * z)
        }
      }
      const v = valueAt(ref.element, ref.value)
      if (!v || (v.param.type !== 'number' && v.param.type !== 'vector')) throw new Error('the value that it reads is gone')
      return (t) => sampleNumber(valueOf(v.animated as Varied), t)
    },
  }
  for (const v of moved) {
    if (circle.members.has(v.animated as object)) continue
    const steps: { mode: ModulatorDoc['mode']; one: number; f: (t: number, keyed: number) => number }[] = []
    for (const m of modulatorsOf(v.animated)) {
      if (m.muted) continue
      const act = actOfSort(m.kind, 'modulator')
      try {
        steps.push({ mode: m.mode, one: act.swings ? 1 : 0, f: act.make(readerOf(m), site, m.seed) })
      } catch (error) {
        problems.push({
          element: v.record.element.id,
          message: `${act.title} of ${v.label} has no effect: ${error instanceof Error ? error.message : error}`,
        })
      }
    }
    const [low, high] = boundsOf(v.param)
    tie(v.animated as object, (t, keyed) => {
      let x = keyed
      for (const { mode, one, f } of steps) {
        const y = f(t, x)
        x = mode === 'add' ? x + y : mode === 'multiply' ? x * (one + y) : y
      }
      // A formula may divide by zero or worse; then the keys count.
      return Number.isFinite(x) ? Math.min(high, Math.max(low, x)) : keyed
    })
  }
  return problems
}
export const fullName = (v: Value): string => `${v.record.element.name}, ${v.label}`
const boundsOf = (p: Param): [number, number] =>
  p.type === 'number' || p.type === 'vector'
    ? [p.min ?? Number.NEGATIVE_INFINITY, ('max' in p ? p.max : undefined) ?? Number.POSITIVE_INFINITY]
    : p.type === 'colour'
      ? [0, Number.POSITIVE_INFINITY]
      : [Number.NEGATIVE_INFINITY, Number.POSITIVE_INFINITY]

/** Depth first; a value met again on the way closes a circle. Whatever leads into a circle is not part of it. */
function findCircles(depends: Depends): { members: Set<object>; chains: Value[][] } {
  const members = new Set<object>()
  const chains: Value[][] = []
  const done = new Set<object>()
  const way: object[] = []
  const visit = (a: object) => {
    const begun = way.indexOf(a)
    if (begun >= 0) {
      const ring = way.slice(begun)
      if (ring.some((x) => !members.has(x))) chains.push(ring.map((x) => (depends.get(x) as { value: Value }).value))
      for (const x of ring) members.add(x)
      return
    }
    if (done.has(a)) return
    way.push(a)
    for (const b of depends.get(a)?.on ?? []) visit(b)
    way.pop()
    done.add(a)
  }
  for (const a of depends.keys()) visit(a)
  return { members, chains }
}

/**
 * Ids of all elements that the simulation reads beside what it starts from and meets: where forces stand, whom they go after, what modulated
 * values follow, what copies are picked among. Directly or by way of others: a change of one can change the simulation.
 */
export function readElements(shot: Shot): Set<string> {
  const out = new Set<string>()
  const byElement = new Map<string, ParamRecord[]>()
  for (const { group, element, i } of elements(shot)) byElement.set(element.id, recordsOf(group, element, i))
  const take = (id: string): void => {
    if (out.has(id)) return
    out.add(id)
    const parent = shot.objects.find((o) => o.id === id)?.parent
    if (parent) take(parent)
    const aimed = shot.cameras.find((c) => c.id === id)?.aimsAt
    if (aimed) take(aimed)
    // What its own values follow counts too.
    for (const r of byElement.get(id) ?? []) for (const x of referencesIn(r)) if (x.to === 'element') take(x.id)
  }
  for (const { group, element, i } of elements(shot)) {
    const regions = group === 'objects' ? (element as ObjectDoc).regions : []
    const followed = regions.length ? usedRegions(shot, element.id) : null
    // Regions that nobody follows change nothing.
    const unused = new Set(regions.filter((r) => !followed?.has(r.id)).flatMap((r) => r.acts.map((a) => a.id)))
    for (const r of recordsOf(group, element, i)) {
      if (r.sort === 'region' && unused.has(r.record.id as string)) continue
      for (const x of simulationReferences(r)) take(x.id)
      if (r.sort && readingOf(r.record as unknown as ActDoc).includes('camera')) take(shot.camera)
    }
  }
  for (const s of shot.systems) if (s.space) take(s.space)
  return out
}
/** What the simulated parameters of a record lead to. Of what particles start from and meet, and of what feeds gases, touched.ts knows more. */
const simulationReferences = (r: ParamRecord): Reference[] =>
  referencesIn(r).filter(({ path, to }) => {
    const param = r.params[path[r.path.length] as string]
    const simulated = (param.changes ?? r.changes) === 'simulation'
    const exact = (r.sort === 'source' || r.sort === 'contact' || r.sort === 'feed') && to !== 'element'
    return simulated && !exact && (to === 'object' || to === 'system' || to === 'source' || to === 'element')
  })

/** The values of the shot that read an element, in whatever way: the other end of a link. */
export function readers(shot: Shot, element: string): Value[] {
  return values(shot).filter((v) => modulatorsOf(v.animated).some((m) => refsOf(m).some((r) => r.element === element || r.to === element)))
}
