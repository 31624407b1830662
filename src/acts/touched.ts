import { dequal as same } from 'dequal'
import {
  type ActDoc,
  actsIn,
  actsOf,
  findElement,
  firstDifference,
  frameAt,
  type GasDoc,
  type ObjectDoc,
  SECTIONS,
  type Shot,
  type SystemDoc,
  sectionsOf,
} from '../shot'
import { keptFor } from './asks'
import { changesSize, descends, takesColours } from './compileShed'
import type { Reading } from './define'
import { keptFrames, loopWarmFrames } from './looping'
import { readerOf } from './reader'
import { readingOf } from './reading'
import { referencesIn } from './references'
import { actOf, actOfSort } from './registry'
import { usedRegions } from './usedRegions'
import { readElements } from './values'
import { recordsOf } from './walk'

const NEVER = Number.POSITIVE_INFINITY
const ALWAYS = Number.NEGATIVE_INFINITY

/** Seconds from which on two acts of a kind can act differently on the simulation, before asking when particles exist. */
function actDifference(a: ActDoc, b: ActDoc): number {
  if (a === b) return NEVER
  const act = actOf(a.kind)
  let t = firstDifference(!!a.muted, !!b.muted)
  t = Math.min(t, firstDifference(a.seed, b.seed))
  for (const [name, p] of Object.entries(act.params)) {
    if ((p.changes ?? act.changes) !== 'simulation') continue
    const d = firstDifference(a[name], b[name])
    // A window's end says nothing before the earlier of the two ends.
    if (d !== NEVER && p.type === 'number' && p.moment && name === 'end')
      t = Math.min(t, Math.min((a[name] as number | null) ?? NEVER, (b[name] as number | null) ?? NEVER))
    else t = Math.min(t, d)
  }
  return Math.min(
    t,
    listDifference(a.limits ?? [], b.limits ?? [], actDifference),
    listDifference(a.when ?? [], b.when ?? [], actDifference),
  )
}
function listDifference(a: ActDoc[], b: ActDoc[], each: (p: ActDoc, q: ActDoc) => number): number {
  if (a === b) return NEVER
  if (
    !same(
      a.map((x) => [x.id, x.kind]),
      b.map((x) => [x.id, x.kind]),
    )
  )
    return ALWAYS
  return Math.min(NEVER, ...a.map((x, i) => each(x, b[i])))
}
/** Of all sections of a system: another phase is another life from the first birth on. */
function sectionsDifference(a: SystemDoc, b: SystemDoc): number {
  if (
    !same(
      a.phases.map((p) => [p.id, p.blend]),
      b.phases.map((p) => [p.id, p.blend]),
    )
  )
    return ALWAYS
  const [before, after] = [sectionsOf(a), sectionsOf(b)]
  const simulated = SECTIONS.filter((name) => name !== 'look')
  const sections = before.flatMap((s, i) => simulated.map((name) => listDifference(s[name], after[i][name], actDifference)))
  const turns = a.phases.map((p, i) => listDifference(p.turns, b.phases[i].turns, actDifference))
  return Math.min(NEVER, ...sections, ...turns)
}
const starts = (a: ActDoc) => actOfSort(a.kind, 'source').starts(readerOf(a))
/** Seconds before which the system cannot have particles. */
export const firstBirth = (s: SystemDoc): number => Math.min(NEVER, ...s.birth.map(starts))

const objectDifference = (before: Shot, after: Shot, id: string): number => {
  const a = before.objects.find((o) => o.id === id)
  const b = after.objects.find((o) => o.id === id)
  const used = usedRegions(before, id),
    now = usedRegions(after, id)
  // With the first region that births follow its edges are cut, which contacts notice.
  if (used.size > 0 !== now.size > 0) return ALWAYS
  if (a === b) return NEVER
  if (!a || !b) return ALWAYS
  if (
    !!a.muted !== !!b.muted ||
    !same(a.shape, b.shape) ||
    !same(a.roles, b.roles) ||
    a.sides !== b.sides ||
    a.metBy !== b.metBy ||
    a.cells !== b.cells
  )
    return ALWAYS
  if (a.parent !== b.parent) return ALWAYS
  const thrown = same(a.body, b.body) ? NEVER : Math.min(a.body?.at ?? NEVER, b.body?.at ?? NEVER)
  const regions = Math.min(
    NEVER,
    ...[...new Set([...used, ...now])].map((r) =>
      listDifference(a.regions.find((x) => x.id === r)?.acts ?? [], b.regions.find((x) => x.id === r)?.acts ?? [], actDifference),
    ),
  )
  return Math.min(
    thrown,
    regions,
    listDifference(a.reshape, b.reshape, actDifference),
    listDifference(a.copies, b.copies, actDifference),
    listDifference(a.offspring, b.offspring, actDifference),
    firstDifference(a.place, b.place),
    firstDifference(a.rotate, b.rotate),
    firstDifference(a.scale, b.scale),
    firstDifference(a.thickness, b.thickness),
  )
}

/** An object and all its parents, in either state of the shot. */
function withParents(before: Shot, after: Shot, id: string): Set<string> {
  const out = new Set<string>()
  for (const shot of [before, after])
    for (let at: string | null | undefined = id, n = 0; at && n < 100; at = shot.objects.find((o) => o.id === at)?.parent, n++) out.add(at)
  return out
}
/** An element without what has no effect on its values. */
const meaning = (shot: Shot, id: string): unknown => {
  const found = findElement(shot, id)
  if (!found) return null
  const { element } = found
  const used = usedRegions(shot, id)
  return {
    ...element,
    name: '',
    ...('regions' in element ? { regions: element.regions.filter((r) => used.has(r.id)) } : {}),
  }
}

/** Whether what happens to a system's particles depends on how they are drawn. */
const reads = (s: SystemDoc, what: Reading): boolean => actsOf(s).some((x) => !x.muted && readingOf(x).includes(what))
const columnsOf = (s: SystemDoc): string[] => [
  ...actsIn(s, 'look').flatMap((x) => (x.muted ? [] : (actOf(x.kind).columns ?? []))),
  ...keptFor(s),
]
/** What of the looks says how large particles are, or in which colours. */
const lookOf = (shot: Shot, s: SystemDoc, what: 'size' | 'colour'): unknown => {
  // What happens goes by sizes and colours before mappings.
  const acts = actsIn(s, 'look').filter((a) => actOfSort(a.kind, 'look').role !== 'mapping')
  return [acts, shot.shared.looks.filter((l) => acts.some((x) => x.look === l.id)).map((l) => l[what])]
}
/** Ids of the objects that systems start from or meet by their acts. */
const metBy = (shot: Shot): Set<string> =>
  new Set([
    ...shot.systems.flatMap((s, i) =>
      recordsOf('systems', s, i).flatMap((r) => (r.sort === 'source' || r.sort === 'contact' ? referencesIn(r).map((x) => x.id) : [])),
    ),
    ...shot.gases.flatMap((g) => (g.rides ? [g.rides] : [])),
    ...shot.gases.flatMap((g, i) => recordsOf('gases', g, i).flatMap((r) => (r.sort === 'feed' ? referencesIn(r).map((x) => x.id) : []))),
  ])
/** What a gas is made of beside its acts, and what may be keyed. */
const GAS_FIXED = [
  'seed',
  'voxel',
  'place',
  'size',
  'openLeft',
  'openRight',
  'openBelow',
  'openAbove',
  'openBack',
  'openFront',
  'steps',
  'stepping',
  'detail',
  'detailIn',
  'rides',
] as const
function gasDifference(a: GasDoc, b: GasDoc): number {
  if (a === b) return NEVER
  if (!!a.muted !== !!b.muted || GAS_FIXED.some((k) => !same(a[k], b[k]))) return ALWAYS
  const lists = (['feeds', 'motion', 'burning'] as const).map((k) => listDifference(a[k], b[k], actDifference))
  return Math.min(...lists, firstDifference(a.timeScale, b.timeScale), a.detail > 1 ? firstDifference(a.eddies, b.eddies) : NEVER)
}
/** Frames that the simulation has run before the first. */
export const warmFrames = (shot: Shot): number =>
  shot.loop ? loopWarmFrames(shot) : Math.ceil((shot.warm * shot.rate.num) / shot.rate.den - 1e-9)
/**
 * The earliest frame whose particles a change can touch: it and all later ones are out of date. Null when the simulation
 * stays as it was, as with looks, cameras, lights and names. Conservative: it may name a frame too early, never too late.
 */
export function touchedFrom(before: Shot, after: Shot): number | null {
  if (before === after) return null
  const all = after.range.first - warmFrames(after)
  if (
    !same(before.rate, after.rate) ||
    before.range.first !== after.range.first ||
    before.substeps !== after.substeps ||
    before.warm !== after.warm ||
    !same(before.loop, after.loop) ||
    (after.loop && before.range.last !== after.range.last) ||
    warmFrames(before) !== warmFrames(after) ||
    (after.loop && keptFrames(before) !== keptFrames(after)) ||
    before.seed !== after.seed
  )
    return all
  if (
    !same(
      before.systems.map((s) => s.id),
      after.systems.map((s) => s.id),
    )
  )
    return all

  let t = NEVER
  // Nothing is simulated before the first birth, or before the first object is let go.
  const born = Math.min(
    NEVER,
    ...[...before.systems, ...after.systems].map(firstBirth),
    ...[...before.objects, ...after.objects].map((o) => (o.offspring.length ? 0 : (o.body?.at ?? NEVER))),
    ...[...before.gases, ...after.gases].map(() => 0),
  )
  const met = new Set([...metBy(before), ...metBy(after)])
  const isUsed = (o: ObjectDoc) =>
    o.roles.collider ||
    o.roles.source ||
    !!o.body ||
    o.offspring.length > 0 ||
    met.has(o.id) ||
    [...before.systems, ...after.systems].some((s) => s.space === o.id)
  const ids = new Set([...before.objects, ...after.objects].map((o) => o.id))
  for (const id of ids) {
    const a = before.objects.find((o) => o.id === id)
    const b = after.objects.find((o) => o.id === id)
    if (!(a && isUsed(a)) && !(b && isUsed(b))) continue
    for (const k of withParents(before, after, id)) t = Math.min(t, Math.max(objectDifference(before, after, k), born))
  }
  // What simulated values read elsewhere in the shot: any change there counts from the first birth on.
  const read = new Set([...readElements(before), ...readElements(after)])
  for (const id of read)
    if (findElement(before, id)?.element !== findElement(after, id)?.element && !same(meaning(before, id), meaning(after, id)))
      t = Math.min(t, born)
  if (before.camera !== after.camera && (read.has(before.camera) || read.has(after.camera))) t = Math.min(t, born)
  const forces = listDifference(
    before.forces.map((f) => f.act),
    after.forces.map((f) => f.act),
    actDifference,
  )
  t = Math.min(t, Math.max(forces, born))
  before.forces.forEach((f, i) => {
    const g = after.forces[i]
    if (g && (!!f.muted !== !!g.muted || !same(f.reaches, g.reaches) || !same(f.shares, g.shares) || f.seed !== g.seed))
      t = Math.min(t, born)
  })
  before.systems.forEach((a, i) => {
    const b = after.systems[i]
    // Whoever comes from others keeps columns of that.
    if (descends(before, a) !== descends(after, b)) t = Math.min(t, Math.min(firstBirth(a), firstBirth(b)))
    if (takesColours(before, a) !== takesColours(after, b)) t = Math.min(t, Math.min(firstBirth(a), firstBirth(b)))
    if (changesSize(before, a) !== changesSize(after, b)) t = Math.min(t, Math.min(firstBirth(a), firstBirth(b)))
    if (a === b) return
    const first = Math.min(firstBirth(a), firstBirth(b))
    if (a.seed !== b.seed || a.space !== b.space || a.endless !== b.endless || !!a.muted !== !!b.muted || a.limit !== b.limit)
      t = Math.min(t, first)
    // How they are drawn matters only where it asks for columns.
    if (!same(columnsOf(a), columnsOf(b))) t = Math.min(t, first)
    for (const [what, of] of [
      ['look', 'size'],
      ['colour', 'colour'],
    ] as const)
      if (reads(a, what) || reads(b, what)) if (!same(lookOf(before, a, of), lookOf(after, b, of))) t = Math.min(t, first)
    for (const key of ['life', 'mass', 'timeScale'] as const) t = Math.min(t, Math.max(first, firstDifference(a[key], b[key])))
    t = Math.min(
      t,
      Math.max(
        first,
        listDifference(a.birth, b.birth, (p, q) => Math.max(actDifference(p, q), Math.min(starts(p), starts(q)))),
      ),
    )
    t = Math.min(t, Math.max(first, sectionsDifference(a, b)))
  })
  const gasIds = (s: Shot) => s.gases.map((g) => g.id)
  if (!same(gasIds(before), gasIds(after))) return all
  before.gases.forEach((a, i) => {
    t = Math.min(t, gasDifference(a, after.gases[i]))
  })
  if (t === NEVER) return null
  // Through a warm start things may have happened before the first frame; in a loop all of it has.
  if (after.loop || (after.warm > 0 && t <= 0)) return all
  return Math.max(after.range.first, Math.floor(frameAt(after, Math.max(0, t)) + 1e-9) + 1)
}
