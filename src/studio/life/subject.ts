import { actOf, actOfSort, type Draw, drawOf, readerOf, stripDraw } from '../../acts'
import { type ActDoc, actsIn, type LookDoc, type Shot, type SystemDoc, sampleNumber, valueOf } from '../../shot'
import { showWithUnit } from '../units'

/** What the strip shows and edits: the look of particles over their life, or along what they leave behind while its card is open. */
export interface Subject {
  /** The act whose strips they are; null: the particles themselves. */
  act: ActDoc | null
  look: LookDoc | undefined
  draw: Pick<Draw, 'look' | 'opacity' | 'brightness'>
  /** From the left end of the strip to the right one. */
  scale: number
  unit: 's' | 'm'
  /** How wide it is, in words. */
  size: string
  /** What lies along the strip, where that is no life. */
  caption?: string
}
/** The act that says how a system's particles look over their life; the last one counts. */
const lookValues = (s: SystemDoc): ActDoc | undefined =>
  actsIn(s, 'look').findLast((a) => {
    const act = actOf(a.kind)
    return act.sort === 'look' && act.role === 'values'
  })
const wide = (m: number, vary: number, fps: number): string =>
  vary > 0 ? `${showWithUnit(m, { unit: 'm' }, fps)} ± ${showWithUnit(vary, { unit: 'm' }, fps)}` : showWithUnit(m, { unit: 'm' }, fps)

/** `open`: the id of the card that is open. */
export function subjectOf(shot: Shot, system: SystemDoc, open: string | null, t: number, fps: number): Subject {
  const act = actsIn(system, 'offspring').find((a) => a.id === open)
  const along = act && stripDraw(shot, system, act.id, t)
  const own = (id: string) => shot.shared.looks.find((l) => l.id === id)
  if (act && along) {
    const { trail, links } = actOfSort(act.kind, 'offspring')
    const p = readerOf(act)
    const shared = { act, look: own(along.look.id), draw: along, size: wide(along.width, 0, fps) }
    const distance = links?.(p).params(t).distance
    if (distance !== undefined) return { ...shared, scale: distance, unit: 'm', caption: 'Over the distance of both ends' }
    const reach = trail?.(p, t)
    const scale = reach?.seconds ?? reach?.metres ?? 1
    return { ...shared, scale, unit: reach?.seconds == null ? 'm' : 's', caption: 'Along it, from head to end' }
  }
  const draw = drawOf(shot, system, t)
  const scale = sampleNumber(valueOf(system.life), t)
  return { act: null, look: own(draw.look.id), draw, scale, unit: 's', size: wide(draw.size, draw.sizeVary, fps) }
}
/** Gives the subject a look, in a draft of the shot. */
export function giveLook(shot: Shot, system: string, act: string | null, look: string): void {
  const s = shot.systems.find((x) => x.id === system)
  const values = s && (act === null ? lookValues(s) : actsIn(s, 'offspring').find((a) => a.id === act))
  if (values) values.look = look
}
