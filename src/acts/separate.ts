import type { Group, Shot } from '../shot'
import { keptFrames } from './looping'
import { referencesOf } from './references'
import { elements } from './walk'

/**
 * How an element that names another has to do with it: it only looks at it; it may change it too, by offspring, turns and contacts; or it is a force
 * that moves it.
 */
type How = 'reads' | 'changes' | 'moves'
interface Link {
  group: Group
  from: string
  to: string
  how: How
}
/** Of shots that nobody changes any more. */
const known = new WeakMap<Shot, Link[]>()
function linksOf(shot: Shot): Link[] {
  const before = known.get(shot)
  if (before) return before
  const links = findLinks(shot)
  if (Object.isFrozen(shot)) known.set(shot, links)
  return links
}
const simulated = (shot: Shot) => [...shot.systems, ...shot.gases]
/** Sorts of acts that do something to the systems that they name. */
const CHANGING: ReadonlySet<string | undefined> = new Set(['offspring', 'turn', 'contact'])
function findLinks(shot: Shot): Link[] {
  const all = [...elements(shot)]
  const ids = new Set(all.map(({ element }) => element.id))
  const moved = new Set(simulated(shot).map((e) => e.id))
  return all.flatMap(({ group, element, i }) => {
    const from = element.id
    const named = referencesOf(group, element, i)
      .filter((r) => ids.has(r.id) && r.id !== from)
      .map(({ id, record }): Link => {
        // Beside the parameters of its act a force names what it moves.
        const how = group === 'forces' && !record ? 'moves' : moved.has(id) && CHANGING.has(record?.sort) ? 'changes' : 'reads'
        return { group, from, to: id, how }
      })
    if (group !== 'forces' || shot.forces[i].reaches !== 'all') return named
    const reached = [...simulated(shot), ...shot.objects.filter((o) => o.body)]
    return [...named, ...reached.map((e): Link => ({ group, from, to: e.id, how: 'moves' }))]
  })
}
/** A set with all that `next` leads to from what is in it. */
function closed(ids: readonly string[], links: readonly Link[], next: (l: Link, has: (id: string) => boolean) => string[]): Set<string> {
  const found = new Set(ids)
  for (let before = -1; before !== found.size; ) {
    before = found.size
    for (const l of links) for (const id of next(l, (x) => found.has(x))) found.add(id)
  }
  return found
}
/**
 * The systems and gases that have to be baked with those of a list: whoever depends on one of them would have to be computed with it, and what one
 * hands particles to is nothing without it. Null where an object depends on one, which the rest of the shot may meet: only all can be baked then.
 */
export function bakedTogether(shot: Shot, ids: readonly string[]): string[] | null {
  const together = closed(ids, linksOf(shot), ({ from, to, how }, has) => [
    ...(how !== 'moves' && has(to) ? [from] : []),
    // A force that depends on one moves others by it.
    ...(how !== 'reads' && has(from) ? [to] : []),
  ])
  if (shot.objects.some((o) => together.has(o.id))) return null
  return simulated(shot).flatMap((e) => (together.has(e.id) ? [e.id] : []))
}
/** Groups whose elements have a part in what is simulated. */
const TAKING_PART: ReadonlySet<Group> = new Set(['objects', 'systems', 'gases', 'forces', 'controls', 'cameras', 'lights'])
/** The shot with those alone that a list depends on: what changes elsewhere does not touch what was baked of it. Objects stay: all may be met. */
export function neededBy(shot: Shot, ids: readonly string[]): Shot {
  const needed = closed([...ids, ...shot.objects.map((o) => o.id)], linksOf(shot), ({ group, from, to, how }, has) => [
    ...(how !== 'moves' && TAKING_PART.has(group) && has(from) ? [to] : []),
    ...(how !== 'reads' && has(to) ? [from] : []),
  ])
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
