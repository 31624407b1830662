import { type ActDoc, actsOf, type ElementDoc, type Group, type ObjectDoc, type Params, type Shot } from '../shot'
import { CAMERA_PARAMS, CONTROL_PARAMS, LIGHT_PARAMS, MATERIAL_PARAMS, OBJECT_PARAMS, SYSTEM_PARAMS } from './elementParams'
import { actOf } from './registry'
import { primitiveOf } from './shapes'

/** A record of parameters in the shot: an element's own, its material, or one of its acts. */
export interface ParamRecord {
  element: { id: string; name: string }
  /** As in “Turbulence”; empty for the element's own. */
  title: string
  params: Params
  record: Record<string, unknown>
  /** How values in it are named, before the parameter: '', 'material.' or 'acts.ID.'. */
  prefix: string
  /** Whether its parameters belong to the simulation where they do not say otherwise. */
  changes: 'simulation' | 'look' | 'picture'
  /** The same record in another state of the shot. */
  find(shot: Shot): Record<string, unknown> | undefined
}
const rec = (x: unknown) => x as Record<string, unknown> | undefined

const own = (element: { id: string; name: string }, params: Params, find: ParamRecord['find']): ParamRecord => ({
  element,
  title: '',
  params,
  record: element as never,
  prefix: '',
  changes: 'picture',
  find,
})
function ofAct(element: { id: string; name: string }, a: ActDoc, find: (s: Shot) => ActDoc[] | undefined): ParamRecord {
  const act = actOf(a.kind)
  return {
    element,
    title: act.title,
    params: act.params,
    record: a,
    prefix: `acts.${a.id}.`,
    changes: act.changes,
    find: (s) => find(s)?.find((x) => x.id === a.id),
  }
}
/** The limits of a force. */
const ofLimits = (element: { id: string; name: string }, a: ActDoc, find: (s: Shot) => ActDoc | undefined): ParamRecord[] =>
  (a.limits ?? []).map((l) => ofAct(element, l, (s) => find(s)?.limits))
/** The numbers of a shape that is made from numbers. */
function shapeRecord(o: ObjectDoc, i: number): ParamRecord[] {
  const p = primitiveOf(o.shape.kind)
  return p
    ? [{ ...own(o, p.params, (s) => rec(s.objects[i]?.shape)), record: o.shape as never, prefix: 'shape.', changes: 'simulation' }]
    : []
}
/** What each group of elements has, by the element's place in its list. */
const OF: { [G in Group]: (e: Shot[G][number], i: number) => ParamRecord[] } = {
  objects: (o, i) => [
    own(o, OBJECT_PARAMS, (s) => rec(s.objects[i])),
    { ...own(o, MATERIAL_PARAMS, (s) => rec(s.objects[i]?.material)), record: o.material as never, prefix: 'material.' },
    ...shapeRecord(o, i),
    ...o.reshape.map((a) => ofAct(o, a, (s) => s.objects[i]?.reshape)),
    ...o.copies.map((a) => ofAct(o, a, (s) => s.objects[i]?.copies)),
    ...o.regions.flatMap((r) => r.acts.map((a) => ofAct(o, a, (s) => s.objects[i]?.regions.find((x) => x.id === r.id)?.acts))),
  ],
  systems: (x, i) => [
    own(x, SYSTEM_PARAMS, (s) => rec(s.systems[i])),
    ...x.copies.map((a): ParamRecord => ({ ...ofAct(x, a, (s) => s.systems[i]?.copies), changes: 'picture' })),
    ...actsOf(x).map((a) => ofAct(x, a, (s) => s.systems[i] && actsOf(s.systems[i]))),
    ...actsOf(x).flatMap((a) => ofLimits(x, a, (s) => s.systems[i] && actsOf(s.systems[i]).find((y) => y.id === a.id))),
  ],
  forces: (f, i) => [
    { ...ofAct(f, f.act, (s) => (s.forces[i] ? [s.forces[i].act] : undefined)), title: '' },
    ...ofLimits(f, f.act, (s) => s.forces[i]?.act),
  ],
  lights: (l, i) => [own(l, LIGHT_PARAMS, (s) => rec(s.lights[i]))],
  cameras: (c, i) => [own(c, CAMERA_PARAMS, (s) => rec(s.cameras[i]))],
  layers: (l, i) => l.finish.map((a) => ofAct(l, a, (s) => s.layers[i]?.finish)),
  controls: (c, i) => [own(c, CONTROL_PARAMS, (s) => rec(s.controls[i]))],
}
const ORDER: readonly Group[] = ['objects', 'systems', 'forces', 'lights', 'cameras', 'layers', 'controls']
/** The document shares what a change leaves alone: an element that is the same object in the same place has the same records. */
const known = new WeakMap<object, { i: number; list: ParamRecord[] }>()
export function recordsOf<G extends Group>(group: G, element: Shot[G][number], i: number): ParamRecord[] {
  const old = known.get(element)
  if (old?.i === i) return old.list
  const list = (OF[group] as (e: Shot[G][number], i: number) => ParamRecord[])(element, i)
  // A draft is another thing at every look.
  if (Object.isFrozen(element)) known.set(element, { i, list })
  return list
}
/** Every element of the shot with its group and place, in the order of the list. */
export function* elements(shot: Shot): Generator<{ group: Group; element: ElementDoc; i: number }> {
  for (const group of ORDER) for (const [i, element] of (shot[group] as ElementDoc[]).entries()) yield { group, element, i }
}
/** Every record of parameters of the shot, in the order of the list of elements. */
export function* records(shot: Shot): Generator<ParamRecord> {
  for (const { group, element, i } of elements(shot)) yield* recordsOf(group, element as never, i)
}
