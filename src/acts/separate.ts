import type { Shot } from '../shot'
import { keptFrames } from './looping'
import { referencesOf } from './references'
import { elements } from './walk'

/** Whose particles or gas a frame may hold apart from the rest. */
const isSimulated = (group: string): boolean => group === 'systems' || group === 'gases'
interface Link {
  group: string
  from: string
  to: string
  /** What it names is a system or a gas that it may change, not only look at: offspring, turns, contacts. */
  both: boolean
}
/** Shots that nobody changes any more. */
const known = new WeakMap<Shot, Link[]>()
/** Who names whom. */
function linksOf(shot: Shot): Link[] {
  const before = known.get(shot)
  if (before) return before
  const links = findLinks(shot)
  if (Object.isFrozen(shot)) known.set(shot, links)
  return links
}
function findLinks(shot: Shot): Link[] {
  const all = [...elements(shot)]
  const ids = new Set(all.map(({ element }) => element.id))
  return all.flatMap(({ group, element, i }) => {
    const named = referencesOf(group, element, i)
      .filter((r) => ids.has(r.id) && r.id !== element.id)
      .map((r): Link => {
        const sort = r.record?.sort
        return {
          group,
          from: element.id,
          to: r.id,
          both: isAny(shot, r.id) && (sort === 'offspring' || sort === 'turn' || sort === 'contact'),
        }
      })
    // A force that asks for nobody by name moves all.
    if (group !== 'forces' || shot.forces[i].reaches !== 'all') return named
    const reached = [...shot.systems, ...shot.gases].map((e): Link => ({ group, from: element.id, to: e.id, both: false }))
    return [...named, ...reached]
  })
}
/**
 * The systems and gases that have to be baked with those of a list: whoever depends on one of them would have to be computed with it, and what one
 * hands particles to is nothing without it. Null where an object depends on one, which the rest of the shot may meet: only all can be baked then.
 */
export function bakedTogether(shot: Shot, ids: readonly string[]): string[] | null {
  const links = linksOf(shot)
  const in_ = new Set(ids)
  for (let grown = true; grown; ) {
    grown = false
    const add = (id: string) => {
      if (in_.has(id)) return
      in_.add(id)
      grown = true
    }
    for (const { group, from, to, both } of links) {
      if (in_.has(to) && !(group === 'forces' && isReach(shot, from, to))) add(from)
      // A force that depends on one moves others by it.
      if (in_.has(from) && (both || (group === 'forces' && isAny(shot, to)))) add(to)
    }
  }
  if (shot.objects.some((o) => in_.has(o.id))) return null
  return [...shot.systems, ...shot.gases].flatMap((e) => (in_.has(e.id) ? [e.id] : []))
}
const isAny = (shot: Shot, id: string): boolean => shot.systems.some((s) => s.id === id) || shot.gases.some((g) => g.id === id)
/** Whether a force names an element only as one that it moves. */
function isReach(shot: Shot, force: string, id: string): boolean {
  const i = shot.forces.findIndex((f) => f.id === force)
  const named = referencesOf('forces', shot.forces[i], i).filter((r) => r.id === id)
  return named.every((r) => !r.record)
}
/** The shot with those alone that a list depends on: what changes elsewhere does not touch what was baked of it. */
export function neededBy(shot: Shot, ids: readonly string[]): Shot {
  const links = linksOf(shot)
  const needed = new Set(ids)
  for (let grown = true; grown; ) {
    grown = false
    for (const { group, from, to, both } of links) {
      const reads = needed.has(from) && (isSimulated(group) || group === 'objects' || group === 'forces')
      const given = both && needed.has(to)
      const id = reads ? to : given ? from : null
      if (id === null || needed.has(id) || (group === 'forces' && isReach(shot, from, to))) continue
      needed.add(id)
      grown = true
    }
    // Forces that move one of them.
    for (const f of shot.forces) {
      if (needed.has(f.id) || !(f.reaches === 'all' || f.reaches.some((id) => needed.has(id)))) continue
      needed.add(f.id)
      grown = true
    }
  }
  const kept = (e: { id: string }) => needed.has(e.id)
  return {
    ...shot,
    systems: shot.systems.filter(kept),
    gases: shot.gases.filter(kept),
    forces: shot.forces.filter(kept).map((f) => ({
      ...f,
      reaches: f.reaches === 'all' ? f.reaches : f.reaches.filter((id) => needed.has(id)),
      shares: f.shares.filter((x) => needed.has(x.system)),
    })),
  }
}
/** The shot as it is computed where some of it was baked. */
export function withoutBaked(shot: Shot, ids: readonly string[]): Shot {
  const rest = <E extends { id: string }>(e: E): E => (ids.includes(e.id) ? { ...e, muted: true } : e)
  return { ...shot, systems: shot.systems.map(rest), gases: shot.gases.map(rest) }
}
/** Whether the rest of a shot can be computed without what was baked apart: frames before the first, and a loop that closes, want all of it. */
export const maySeparate = (shot: Shot): boolean => !shot.loop && keptFrames(shot) === 0
