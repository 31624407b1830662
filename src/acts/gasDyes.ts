import { GAS_DYES, type GasDye } from '../engine'
import type { GasDoc } from '../shot'
import { unmuted } from './forcePlan'
import { readerOf } from './reader'
import { actOfSort } from './registry'

/** The dyes that something brings into a gas. */
export function dyesOf(g: GasDoc): GasDye[] {
  if (g.muted) return []
  const brought = new Set(unmuted(g.feeds).flatMap((a) => actOfSort(a.kind, 'feed').dyes?.(readerOf(a)) ?? []))
  return GAS_DYES.filter((d) => brought.has(d))
}
