import { timeOf } from '../../shot'
import { useShot, useStudio } from '../store'

/** Seconds at the playhead. */
export const useT = (): number => {
  const playhead = useStudio((s) => s.playhead)
  return timeOf(useShot((s) => s), playhead)
}
export const rec = (x: unknown) => x as Record<string, unknown>
