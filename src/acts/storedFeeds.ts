import type { ActDoc, GasDoc } from '../shot'
import { unmuted } from './forcePlan'
import { readerOf } from './reader'
import { actOfSort } from './registry'

const ofFiles = (g: GasDoc): ActDoc[] => (g.muted ? [] : unmuted(g.feeds).filter((a) => actOfSort(a.kind, 'feed').stored))
const comes = (a: ActDoc) => actOfSort(a.kind, 'feed').stored?.(readerOf(a), 0).comes ?? null
/** The cards of a gas that say what it is from files. */
export const storedFeeds = (g: GasDoc): ActDoc[] => ofFiles(g).filter((a) => comes(a) === null)
/** Those by which what files hold comes into it, where it flows. */
export const flowingFeeds = (g: GasDoc): ActDoc[] => (storedFeeds(g).length ? [] : ofFiles(g))
/** Whether a gas is what files hold, and does not flow. */
export const isStored = (g: GasDoc): boolean => storedFeeds({ ...g, muted: false }).length > 0
