import { dyesOf } from '../acts'
import { GAS_DYES } from '../engine'
import { GAS_TONES, type GasDoc, type GasTone } from '../shot'

/** Of the grids of a gas that are seen: how they are called, and what stands behind their values. */
export const GAS_GRID_WORDS: Record<GasTone, { name: string; unit: string }> = {
  density: { name: 'Density', unit: '' },
  temperature: { name: 'Heat', unit: ' K' },
  flame: { name: 'Flame', unit: '' },
  dyeA: { name: 'Dye A', unit: '' },
  dyeB: { name: 'Dye B', unit: '' },
}
/** Those that a gas may hold: dyes only when something brings them. */
export function gridsOf(gas: GasDoc): GasTone[] {
  const missing: ReadonlySet<GasTone> = new Set(GAS_DYES.filter((d) => !dyesOf(gas).includes(d)))
  return GAS_TONES.filter((t) => !missing.has(t))
}
