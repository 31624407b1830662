import { moves, timeOf } from '../../shot'
import { useStudio } from '../store'

/** Seconds at the playhead, for what shows these parts of the shot: where none of them moves it is asked again by a change of them alone. */
export const useT = (...parts: unknown[]): number =>
  useStudio((s) => timeOf(s.line.now, parts.some(moves) ? s.playhead : s.line.now.range.first))
export const rec = (x: unknown) => x as Record<string, unknown>
