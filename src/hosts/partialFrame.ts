import type { Frame, Part } from '../engine'

const keyOf = (p: Part): string => `${p.kind} ${p.element} ${'act' in p ? p.act : ''}`

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
 * A frame in which some elements were muted, with what was computed of them before. Muted ones have parts without anything in them: theirs come in
 * their places.
 */
export function wholeFrame(rest: Frame, known: Frame, ids: readonly string[]): Frame {
  const own = (id: string) => ids.includes(id)
  const left = new Map(known.parts.map((p) => [keyOf(p), p]))
  const parts = rest.parts.flatMap((p) => {
    if (!own(p.element)) return [p]
    const key = keyOf(p)
    const there = left.get(key)
    left.delete(key)
    return there ? [there] : []
  })
  const stats = Object.entries(rest.stats).map(([id, s]) => [id, (own(id) && known.stats[id]) || s])
  return {
    ...rest,
    parts: [...parts, ...left.values()],
    stats: Object.fromEntries(stats),
    notices: [...rest.notices.filter((n) => !own(n.element)), ...known.notices],
  }
}
