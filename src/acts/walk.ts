import { type ActDoc, type ElementDoc, GROUPS, type Group, type ObjectDoc, type Params, SECTIONS, type Section, type Shot } from '../shot'
import type { Sort } from './define'
import { BODY_PARAMS, CAMERA_PARAMS, CONTROL_PARAMS, OBJECT_PARAMS, SYSTEM_PARAMS } from './elementParams'
import { GAS_PARAMS } from './gasParams'
import { GLOW_PARAMS } from './glowParams'
import { LAYER_PARAMS } from './layerParams'
import { LIGHT_PARAMS } from './lightParams'
import { MASK_PARAMS } from './maskParams'
import { MATERIAL_PARAMS } from './materialParams'
import { actOf } from './registry'
import { primitiveOf } from './shapes'

/** A record of parameters in the shot: an element's own, its material, or one of its acts. */
export interface ParamRecord {
  element: { id: string; name: string }
  /** As in “Turbulence”; empty for the element's own. */
  title: string
  params: Params
  record: Record<string, unknown>
  /** Where it stands in the document. */
  path: readonly PropertyKey[]
  /** How values in it are named, before the parameter: '', 'material.' or 'acts.ID.'. */
  prefix: string
  /** Whether its parameters belong to the simulation where they do not say otherwise. */
  changes: 'simulation' | 'look' | 'picture'
  /** Of an act: its sort. */
  sort?: Sort
}
interface Owner {
  id: string
  name: string
}
const own = (element: Owner, path: readonly PropertyKey[], params: Params, record: object): ParamRecord => ({
  element,
  title: '',
  params,
  record: record as Record<string, unknown>,
  path,
  prefix: '',
  changes: 'picture',
})
/** An act, and behind it the limits of a force, the conditions of a turn. */
function ofAct(element: Owner, path: readonly PropertyKey[], a: ActDoc): ParamRecord[] {
  const { title, params, changes, sort } = actOf(a.kind)
  const record: ParamRecord = { element, title, params, record: a, path, prefix: `acts.${a.id}.`, changes, sort }
  return [record, ...ofActs(element, [...path, 'limits'], a.limits ?? []), ...ofActs(element, [...path, 'when'], a.when ?? [])]
}
const ofActs = (element: Owner, path: readonly PropertyKey[], acts: readonly ActDoc[]): ParamRecord[] =>
  acts.flatMap((a, i) => ofAct(element, [...path, i], a))
const ofSection = (element: Owner, path: readonly PropertyKey[], s: Section): ParamRecord[] =>
  SECTIONS.flatMap((name) => ofActs(element, [...path, name], s[name]))
/** The numbers of a shape that is made from numbers. */
function ofShape(o: ObjectDoc, path: readonly PropertyKey[]): ParamRecord[] {
  const p = primitiveOf(o.shape.kind)
  return p ? [{ ...own(o, [...path, 'shape'], p.params, o.shape), prefix: 'shape.', changes: 'simulation' }] : []
}
type RecordsOf<G extends Group> = (e: Shot[G][number], path: readonly PropertyKey[]) => ParamRecord[]
/** What each group of elements has. */
const OF: { [G in Group]: RecordsOf<G> } = {
  objects: (o, path) => [
    own(o, path, OBJECT_PARAMS, o),
    { ...own(o, [...path, 'material'], MATERIAL_PARAMS, o.material), prefix: 'material.' },
    ...ofShape(o, path),
    ...ofActs(o, [...path, 'reshape'], o.reshape),
    ...ofActs(o, [...path, 'copies'], o.copies),
    ...ofActs(o, [...path, 'offspring'], o.offspring),
    ...o.regions.flatMap((r, k) => ofActs(o, [...path, 'regions', k, 'acts'], r.acts)),
    ...(o.body ? [own(o, [...path, 'body'], BODY_PARAMS, o.body)] : []),
  ],
  systems: (s, path) => [
    own(s, path, SYSTEM_PARAMS, s),
    // Where the simulated whole is put, and how often, is seen alone.
    ...ofActs(s, [...path, 'copies'], s.copies).map((r): ParamRecord => ({ ...r, changes: 'picture' })),
    ...ofActs(s, [...path, 'birth'], s.birth),
    ...ofSection(s, [...path, 'whole'], s.whole),
    ...s.phases.flatMap((p, k) => [...ofSection(s, [...path, 'phases', k], p), ...ofActs(s, [...path, 'phases', k, 'turns'], p.turns)]),
  ],
  forces: (f, path) => ofAct(f, [...path, 'act'], f.act).map((r) => (r.record === f.act ? { ...r, title: '' } : r)),
  gases: (g, path) => [
    { ...own(g, path, GAS_PARAMS, g), changes: 'simulation' },
    ...ofActs(g, [...path, 'feeds'], g.feeds),
    ...ofActs(g, [...path, 'motion'], g.motion),
    ...ofActs(g, [...path, 'burning'], g.burning),
    ...ofActs(g, [...path, 'look'], g.look),
  ],
  lights: (l, path) => [own(l, path, LIGHT_PARAMS, l)],
  cameras: (c, path) => [own(c, path, CAMERA_PARAMS, c)],
  glows: (g, path) => [own(g, path, GLOW_PARAMS, g)],
  masks: (m, path) => [own(m, path, MASK_PARAMS, m)],
  layers: (l, path) => [own(l, path, LAYER_PARAMS, l), ...ofActs(l, [...path, 'finish'], l.finish)],
  controls: (c, path) => [own(c, path, CONTROL_PARAMS, c)],
}
const ORDER: readonly Group[] = ['objects', 'systems', 'gases', 'forces', 'lights', 'glows', 'cameras', 'masks', 'layers', 'controls']
/** The document shares what a change leaves alone: an element that is the same object in the same place has the same records. */
const known = new WeakMap<object, { i: number; list: ParamRecord[] }>()
export function recordsOf(group: Group, element: ElementDoc, i: number): ParamRecord[] {
  const old = known.get(element)
  if (old?.i === i) return old.list
  // A group and its elements belong together, which a union of both does not say.
  const list = (OF[group] as (e: ElementDoc, path: readonly PropertyKey[]) => ParamRecord[])(element, [group, i])
  // A draft is another thing every time it is read.
  if (Object.isFrozen(element)) known.set(element, { i, list })
  return list
}
/** Every element of the shot with its group and place, in the order of the list. */
export function* elements(shot: Shot): Generator<{ group: Group; element: ElementDoc; i: number }> {
  for (const group of ORDER) for (const [i, element] of (shot[group] as ElementDoc[]).entries()) yield { group, element, i }
}
/** Every record of parameters of the shot, in the order of the list of elements. */
export function* records(shot: Shot): Generator<ParamRecord> {
  for (const { group, element, i } of elements(shot)) yield* recordsOf(group, element, i)
}
/** What stands at a path of the document; undefined where there is nothing. */
export const atPath = (doc: unknown, path: readonly PropertyKey[]): unknown =>
  path.reduce<unknown>((x, key) => (x === null || typeof x !== 'object' ? undefined : (x as Record<PropertyKey, unknown>)[key]), doc)
/** The same record in another state of the shot, by the ids of its element and act. */
export function sameRecord(shot: Shot, r: ParamRecord): Record<string, unknown> | undefined {
  for (const group of GROUPS) {
    const i = (shot[group] as ElementDoc[]).findIndex((e) => e.id === r.element.id)
    if (i < 0) continue
    return recordsOf(group, shot[group][i], i).find((x) => x.prefix === r.prefix && x.params === r.params)?.record
  }
  return undefined
}
