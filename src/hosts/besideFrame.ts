import { copyPart, type Frame, type Part, type PointsPart, partOf, pointColumn, type StripsPart, stripColumn } from '../engine'
import { findElement, type Shot } from '../shot'
import { wholeFrame } from './partialFrame'

/**
 * A frame of a bake, to be drawn with a shot that may have changed since. Elements that are gone, and those that keep less than their looks now
 * ask for, are not in it; particles in phases that are gone look as those of the last.
 *
 * @param now The frame of the shot: what was not baked is taken from it.
 * @param ids Of which systems and gases the bake is; none: of all.
 */
export function besideFrame(baked: Frame, now: Frame, shot: Shot, ids: readonly string[]): Frame {
  const known = { ...baked, parts: baked.parts.flatMap((p) => fitted(p, now, shot)) }
  return ids.length ? wholeFrame(now, known, ids) : known
}
function fitted(part: Part, now: Frame, shot: Shot): Part[] {
  if (!findElement(shot, part.element)) return []
  switch (part.kind) {
    case 'points': {
      const asked = partOf(now.parts, 'points', part.element)?.more ?? []
      return asked.every((c) => part.more?.includes(c)) ? [inPhases(part, pointColumn(part, 'phase'), shot)] : []
    }
    case 'strips':
      return [inPhases(part, stripColumn(part, 'phase'), shot)]
    default:
      return [part]
  }
}
function inPhases(part: PointsPart | StripsPart, phases: ArrayLike<number>, shot: Shot): Part {
  const last = (shot.systems.find((s) => s.id === part.element)?.phases.length ?? 1) - 1
  if (Array.prototype.every.call(phases, (p: number) => p <= last)) return part
  const copy = copyPart(part).part as typeof part
  const own = copy.kind === 'points' ? pointColumn(copy, 'phase') : stripColumn(copy, 'phase')
  for (let i = 0; i < own.length; i++) own[i] = Math.min(own[i], last)
  return copy
}
