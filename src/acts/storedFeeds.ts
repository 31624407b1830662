import type { ActDoc, GasDoc } from '../shot'
import { unmuted } from './forcePlan'
import { actOfSort } from './registry'

/** The cards of a gas that say what it is from files. */
export const storedFeeds = (g: GasDoc): ActDoc[] => (g.muted ? [] : unmuted(g.feeds).filter((a) => actOfSort(a.kind, 'feed').stored))
/** Whether a gas is what files hold, and does not flow. */
export const isStored = (g: GasDoc): boolean => storedFeeds({ ...g, muted: false }).length > 0
