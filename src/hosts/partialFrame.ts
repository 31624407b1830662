import type { Frame } from '../engine'

/** What a frame holds of some elements. */
export function partOfFrame(frame: Frame, ids: readonly string[]): Frame {
  const own = (id: string) => ids.includes(id)
  return {
    ...frame,
    parts: frame.parts.filter((p) => own(p.element)),
    stats: Object.fromEntries(Object.entries(frame.stats).filter(([id]) => own(id))),
    notices: frame.notices.filter((n) => own(n.element)),
  }
}
/**
 * A frame in which some elements were muted, with what was computed of them before. Muted ones have parts without anything in them, and may lack
 * some: all of an element come where its first one stands, as a frame has them.
 */
export function wholeFrame(rest: Frame, known: Frame, ids: readonly string[]): Frame {
  const own = (id: string) => ids.includes(id)
  const left = new Set(known.parts)
  const parts = rest.parts.flatMap((p) => {
    if (!own(p.element)) return [p]
    const theirs = [...left].filter((x) => x.element === p.element)
    for (const x of theirs) left.delete(x)
    return theirs
  })
  const stats = Object.entries(rest.stats).map(([id, s]) => [id, (own(id) && known.stats[id]) || s])
  return {
    ...rest,
    parts: [...parts, ...left],
    stats: Object.fromEntries(stats),
    notices: [...rest.notices.filter((n) => !own(n.element)), ...known.notices],
  }
}
