import {
  type ActDoc,
  type Animated,
  type ElementDoc,
  type Group,
  isVaried,
  type ModulatorDoc,
  modulatorsOf,
  type Param,
  type ParamOf,
  type Shot,
  type ValueRef,
} from '../shot'
import { actOf } from './registry'
import { elements, type ParamRecord, recordsOf } from './walk'

/** What a reference leads to. 'source' is an object, or a system whose particles are meant; 'reached' what a force may reach. */
export type ReferenceTo =
  | ParamOf<'ref'>['to']
  | 'reached'
  /** What a light may shine at. */
  | 'lit'
  /** Any element whose values are read, and one of its acts. */
  | 'element'
  | 'act'
  | 'region'
  | 'phase'
  | 'camera'
  | 'layer'
  | 'folder'
  | 'asset'
  | 'font'

/** One place of the document that names something else of the shot. */
export interface Reference {
  /** The element that it belongs to. */
  element: { id: string; name: string }
  /** Where it stands. */
  path: readonly PropertyKey[]
  to: ReferenceTo
  id: string
  /** The record of an act or an element that holds it, when a declared parameter does. */
  record?: ParamRecord
  /** The parameter's own wish for when its target is gone. */
  gone?: 'mute'
  /** Leads it elsewhere, or nowhere, in the document that was walked. */
  lead(id: string | null): void
}
type Where = Pick<Reference, 'element' | 'path' | 'record'>

const field = (where: Where, owner: object, key: string, to: ReferenceTo): Reference[] => {
  const holder = owner as Record<string, unknown>
  const id = holder[key]
  if (typeof id !== 'string' || id === '') return []
  const none = to === 'region' || to === 'phase' || to === 'font' ? '' : null
  return [{ ...where, path: [...where.path, key], to, id, lead: (next) => void (holder[key] = next ?? none) }]
}
/** Of a list, those that lead nowhere are taken out. */
const list = (where: Where, ids: string[], to: ReferenceTo): Reference[] =>
  ids.map((id, i) => ({
    ...where,
    path: [...where.path, i],
    to,
    id,
    lead(next) {
      const at = ids.indexOf(id)
      if (next === null) ids.splice(at, 1)
      else ids[at] = next
    },
  }))
/** A value of another element: the element, the other end of a distance, and an act whose parameter it is. */
function ofValue(where: Where, ref: ValueRef): Reference[] {
  const holder = ref as unknown as Record<string, unknown>
  const act = /^acts\.([^.]+)\./.exec(ref.value)?.[1]
  return [
    ...field(where, holder, 'element', 'element'),
    ...field(where, holder, 'to', 'element'),
    ...(act
      ? [
          {
            ...where,
            path: [...where.path, 'value'],
            to: 'act' as const,
            id: act,
            lead: (next: string | null) =>
              void (ref.value = next === null ? ref.value : ref.value.replace(`acts.${act}.`, `acts.${next}.`)),
          },
        ]
      : []),
  ]
}
function ofParam(where: Where, record: Record<string, unknown>, name: string, p: Param): Reference[] {
  const at = { ...where, path: [...where.path, name] }
  switch (p.type) {
    case 'ref':
      return field(where, record, name, p.to).map((r) => (p.gone ? { ...r, gone: p.gone } : r))
    case 'refs':
      return list(at, record[name] as string[], p.to)
    case 'region':
      return field(where, record, name, 'region')
    case 'phase':
      return field(where, record, name, 'phase')
    case 'font':
      return field(where, record, name, 'font')
    case 'value':
      return record[name] ? ofValue(at, record[name] as ValueRef) : []
    case 'names':
      return (record[name] as ValueRef[]).flatMap((v, i) => ofValue({ ...at, path: [...at.path, i] }, v))
    default:
      return modulatorsIn(record[name]).flatMap(({ modulator, path }) =>
        Object.entries(actOf(modulator.kind).params).flatMap(([n, q]) => ofParam({ ...at, path: [...at.path, ...path] }, modulator, n, q)),
      )
  }
}
/** The modulators of a stored value, with where they stand in it. */
function modulatorsIn(stored: unknown): { modulator: ModulatorDoc; path: PropertyKey[] }[] {
  if (Array.isArray(stored)) return stored.flatMap((c, i) => modulatorsIn(c).map((m) => ({ ...m, path: [i, ...m.path] })))
  if (!stored || typeof stored !== 'object') return []
  if (isVaried(stored)) return modulatorsIn(stored.value).map((m) => ({ ...m, path: ['value', ...m.path] }))
  return modulatorsOf(stored as Animated<unknown>).map((modulator, i) => ({ modulator, path: ['modulators', i] }))
}
/** Of one record of parameters, by their declarations alone. */
export const referencesIn = (record: ParamRecord): Reference[] =>
  Object.entries(record.params).flatMap(([name, p]) =>
    ofParam({ element: record.element, path: record.path, record }, record.record, name, p),
  )

/** Ids of the elements that an act names. */
export const namedBy = (a: ActDoc): string[] =>
  referencesIn({
    element: { id: '', name: '' },
    title: '',
    params: actOf(a.kind).params,
    record: a,
    path: [],
    prefix: '',
    changes: 'simulation',
  })
    .filter((r) => r.to !== 'look')
    .map((r) => r.id)

/** What elements name beside their parameters. */
const OWN: { [G in Group]?: (e: Shot[G][number], where: Where) => Reference[] } = {
  objects: (o, where) => {
    const shape = { ...where, path: [...where.path, 'shape'] }
    const holder = o.shape
    const poses = { ...shape, path: [...shape.path, 'poses'] }
    return [
      ...field(where, o, 'parent', 'object'),
      ...field(where, o, 'layer', 'layer'),
      ...field(shape, holder, 'asset', 'asset'),
      ...field(shape, holder, 'font', 'font'),
      ...(o.shape.kind === 'mesh' ? list(poses, o.shape.poses, 'asset') : []),
    ]
  },
  systems: (s, where) => [...field(where, s, 'space', 'object'), ...field(where, s, 'layer', 'layer')],
  gases: (g, where) => [...field(where, g, 'rides', 'object'), ...field(where, g, 'layer', 'layer')],
  glows: (g, where) => field(where, g, 'layer', 'layer'),
  lights: (l, where) => [
    ...field(where, l, 'asset', 'asset'),
    ...(l.shares ?? []).map(
      (x, i): Reference => ({
        ...where,
        path: [...where.path, 'shares', i, 'of'],
        to: 'lit',
        id: x.of,
        lead(next) {
          if (next === null) l.shares?.splice(l.shares.indexOf(x), 1)
          else x.of = next
        },
      }),
    ),
  ],
  forces: (f, where) => [
    ...(f.reaches === 'all' ? [] : list({ ...where, path: [...where.path, 'reaches'] }, f.reaches, 'reached')),
    ...f.shares.map(
      (x, i): Reference => ({
        ...where,
        path: [...where.path, 'shares', i, 'system'],
        to: 'system',
        id: x.system,
        lead(next) {
          if (next === null) f.shares.splice(f.shares.indexOf(x), 1)
          else x.system = next
        },
      }),
    ),
  ],
}
/** Everything that an element names: its own fields, and the parameters of all its acts. */
export function referencesOf(group: Group, element: ElementDoc, i: number): Reference[] {
  const where = { element, path: [group, i] }
  return [
    ...field(where, element, 'folder', 'folder'),
    ...((OWN[group] as ((e: ElementDoc, where: Where) => Reference[]) | undefined)?.(element, where) ?? []),
    ...recordsOf(group, element, i).flatMap(referencesIn),
  ]
}
/** Every reference of the shot, in the order of the list of elements. */
export function references(shot: Shot): Reference[] {
  const camera: Where = { element: { id: '', name: shot.name }, path: [] }
  const all = [...elements(shot)].flatMap(({ group, element, i }) => referencesOf(group, element, i))
  return [...field(camera, shot, 'camera', 'camera'), ...all]
}
