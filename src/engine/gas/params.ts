import { GAS, writeRecord } from '../memory'
import { AIR_KELVIN, type GasParams } from '../plan'

/** Writes how a gas flows, burns and fades in an own step of `dt` seconds into its record. */
export function writeParams(view: DataView, record: number, p: GasParams, dt: number): void {
  const left = (half: number | null) => (half === null ? 1 : half > 0 ? 2 ** (-dt / half) : 0)
  writeRecord(
    view,
    record,
    GAS,
    { dt, air: AIR_KELVIN, lift: p.lift, weight: p.weight, vorticity: p.vorticity, cooling: p.cooling },
    {
      halvings: p.densityHalf ? dt / p.densityHalf : 0,
      thin: (p.thin?.times ?? 1) - 1,
      thinBelow: Math.max(1e-6, p.thin?.below ?? 1),
    },
    {
      dyeLeft: p.dyeHalf.map(left),
    },
    { densityLeft: left(p.densityHalf), heatLeft: left(p.heatHalf), ignition: p.ignition, burnRate: p.burnRate },
    { heat: p.heat, soot: p.soot, expansion: p.expansion, flameLife: p.flameLife },
  )
}
