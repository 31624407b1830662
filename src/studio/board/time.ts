import { timeOf } from '../../shot'
import { useStudio } from '../store'

/** Seconds at the playhead; a change of anything else in the shot does not call again. */
export const useT = (): number => useStudio((s) => timeOf(s.line.now, s.playhead))
export const rec = (x: unknown) => x as Record<string, unknown>
