import {
  type ActDoc,
  type Animated,
  framesPerSecond,
  isVaried,
  loopFrames,
  loopSeconds,
  type Shot,
  type SystemDoc,
  sampleNumber,
  timeOf,
  valueOf,
  varyOf,
} from '../shot'
import { readerOf } from './reader'
import { namedBy } from './references'
import { actOf, actOfSort } from './registry'

/** Full beginnings that a loop runs before its first frame, at the most: what lives longer than that does not come around. */
const MOST_SECONDS = 600
/** Generations of a system that sheds into itself that are waited for. */
const MOST_GENERATIONS = 4

/** The longest life of a system, seconds; one without end lasts until the loop begins again. */
function longest(shot: Shot, s: SystemDoc, seconds: number): number {
  if (s.endless) return seconds
  const frames = loopFrames(shot) ?? 1
  const most = (a: Animated<number>, sign: 1 | -1) => {
    let out = sign * sampleNumber(a, 0)
    for (let f = 1; f < frames; f++) out = Math.max(out, sign * sampleNumber(a, timeOf(shot, shot.range.first + f)))
    return out
  }
  const life = most(valueOf(s.life), 1) + (isVaried(s.life) ? varyOf(s.life) : 0)
  // A life that runs slower lasts longer.
  const slowest = -most(s.timeScale, -1) / 100
  return slowest > 0 ? life / Math.min(1, slowest) : seconds
}
/** Systems whose particles those of a system go by: they start from them, are shed or handed on by them, or an act of theirs reads them. */
function goesBy(systems: readonly SystemDoc[]): Map<string, Set<string>> {
  const by = new Map(systems.map((s) => [s.id, new Set<string>()]))
  for (const s of systems) {
    const sections = [s.whole, ...s.phases]
    const reads = [...s.birth, ...sections.flatMap((x) => [...x.movement, ...x.contact])]
    const gives = [...sections.flatMap((x) => x.offspring), ...s.phases.flatMap((p) => p.turns)]
    const within = (a: ActDoc): ActDoc[] => (a.muted ? [] : [a, ...[...(a.limits ?? []), ...(a.when ?? [])].flatMap(within)])
    for (const a of reads.flatMap(within)) for (const id of namedBy(a)) if (by.has(id)) by.get(s.id)?.add(id)
    for (const a of gives.filter((x) => !x.muted)) {
      for (const id of namedBy(a)) by.get(id)?.add(s.id)
      for (const w of (a.when ?? []).flatMap(within)) for (const id of namedBy(w)) if (by.has(id)) by.get(s.id)?.add(id)
      // Into its own, generation after generation.
      const act = actOf(a.kind)
      if (act.sort === 'offspring' && act.shed && !namedBy(a).some((id) => by.has(id))) by.get(s.id)?.add(s.id)
    }
  }
  return by
}
/**
 * Seconds that a loop must have run so that all who live at its first frame are there as they will be: the longest life, with the lives of those
 * that they go by before it; a gas has been there once before.
 */
function livesSeconds(shot: Shot, seconds: number): number {
  const systems = shot.systems.filter((s) => !s.muted)
  const by = goesBy(systems)
  const life = new Map(systems.map((s) => [s.id, longest(shot, s, seconds)]))
  let all = new Map(life)
  // Those that go by each other in a circle do so for as many rounds as there are systems and generations.
  const rounds = systems.length - 1 + (systems.some((s) => by.get(s.id)?.has(s.id)) ? MOST_GENERATIONS : 0)
  for (let k = 0; k < rounds; k++)
    all = new Map([...life].map(([id, own]) => [id, own + Math.max(0, ...[...(by.get(id) ?? [])].map((d) => all.get(d) ?? 0))]))
  return Math.max(0, ...all.values(), shot.gases.some((g) => !g.muted) ? seconds : 0)
}
/** Frames over which a loop goes over into its beginning; 0: it comes around by itself. */
export const crossFrames = (shot: Shot): number =>
  shot.loop ? Math.min((loopFrames(shot) as number) - 1, Math.round(shot.loop.cross * framesPerSecond(shot))) : 0
/** What a frame near the end of a loop goes over into: the frame as long before the first, and how much of it is seen. */
export function crossAt(shot: Shot, frame: number): { frame: number; part: number } | null {
  const [all, cross] = [loopFrames(shot), crossFrames(shot)]
  const into = frame - (shot.range.last + 1 - cross)
  if (!all || into < 0 || into >= cross) return null
  const x = (into + 1) / (cross + 1)
  return { frame: frame - all, part: x * x * (3 - 2 * x) }
}
/** Frames before the first that a loop has run: whole times around, so that each is like the one before. */
export function loopWarmFrames(shot: Shot): number {
  const [frames, seconds] = [loopFrames(shot), loopSeconds(shot)]
  if (!frames || !seconds) return 0
  const wanted = Math.min(MOST_SECONDS, Math.max(shot.warm, livesSeconds(shot, seconds) + (shot.loop?.cross ?? 0)))
  return Math.max(1, Math.ceil(wanted / seconds - 1e-9)) * frames
}
/** Frames before the first that may be asked for: those that the end of a loop goes over into, and those that linger in its first. */
export function keptFrames(shot: Shot): number {
  if (!shot.loop) return 0
  const step = 1 / framesPerSecond(shot)
  const lingers = shot.layers
    .flatMap((l) => (l.muted ? [] : l.finish))
    .filter((a) => !a.muted)
    .map((a) => Math.max(0, ...(actOfSort(a.kind, 'finish').earlier?.(readerOf(a), { t: 0, step }) ?? [])))
  return Math.min(loopWarmFrames(shot), crossFrames(shot) + lingers.reduce((a, b) => a + b, 0))
}
