import type { FogLook } from '../engine'
import type { GasDoc, Shot } from '../shot'
import { unmuted } from './forcePlan'
import { readerOf } from './reader'
import { actOfSort } from './registry'

const fogActs = (g: GasDoc) => (g.muted ? [] : unmuted(g.feeds).filter((a) => actOfSort(a.kind, 'feed').fog))
/** Whether a gas is a fog by formula: it has no voxels, and nothing of it flows. */
export const isFog = (g: GasDoc): boolean => fogActs({ ...g, muted: false }).length > 0
/** The fogs of a shot at t (s), and how far into the depth they are seen, m; null: there is none. */
export function fogsAt(shot: Shot, t: number): { fogs: FogLook[]; reach: number } | null {
  const all = shot.gases.flatMap((g) => fogActs(g).flatMap((a) => actOfSort(a.kind, 'feed').fog?.(readerOf(a), t, a.seed + g.seed) ?? []))
  const fogs = all.filter((f) => f.extinction > 0)
  return fogs.length ? { fogs, reach: Math.max(...fogs.map((f) => f.reach)) } : null
}
