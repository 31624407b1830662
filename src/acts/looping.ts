import {
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
import { actOfSort } from './registry'

/** Full beginnings that a loop runs before its first frame, at the most: what lives longer than that does not come around. */
const MOST_SECONDS = 600

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
/** Whether one may begin where another ends, or on its way. */
const begets = (s: SystemDoc): boolean =>
  [s.whole, ...s.phases].some((x) => x.offspring.some((a) => !a.muted && actOfSort(a.kind, 'offspring').shed)) ||
  s.phases.some((p) => p.turns.some((a) => !a.muted && actOfSort(a.kind, 'turn').passes))
/**
 * Seconds that a loop must have run so that all who live at its first frame are there: the longest life, of one generation after the other where
 * particles come from particles; a gas has been there once before.
 */
function livesSeconds(shot: Shot, seconds: number): number {
  const lives = shot.systems.filter((s) => !s.muted).map((s) => longest(shot, s, seconds))
  const all = shot.systems.some((s) => !s.muted && begets(s)) ? lives.reduce((a, b) => a + b, 0) : Math.max(0, ...lives)
  return Math.max(all, shot.gases.some((g) => !g.muted) ? seconds : 0)
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
