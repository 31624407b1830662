import type { GasFacts } from '../protocol'
import type { GasDoc } from '../shot'

const KEY = 'ember.gasPace'
/** Milliseconds a voxel and frame before this browser has computed any: Kiln fire and Powder barge on two cores (docs/measured.md). */
const FIRST_PACE = 0.0028
/** Of a voxel while it is computed: grids of the state, of a step and of the pressure; with solids and forces. And of one that a frame keeps. */
const WORKING_BYTES = 120
const KEPT_BYTES = 6

/** What the newest computed frame of a gas took: the next estimate is made of it. */
export function rememberPace({ ms, voxels }: GasFacts): void {
  if (!(voxels > 20_000) || !(ms > 0)) return
  try {
    localStorage.setItem(KEY, String(ms / voxels))
  } catch {
    // Without storage the first pace stays.
  }
}
export function paceHere(): { ms: number; measured: boolean } {
  try {
    const ms = Number(localStorage.getItem(KEY))
    if (ms > 0 && Number.isFinite(ms)) return { ms, measured: true }
  } catch {
    // As if nothing was computed yet.
  }
  return { ms: FIRST_PACE, measured: false }
}
/** Of a gas that fills its bounds, as the View computes it. */
export interface GasCost {
  cells: number[]
  voxels: number
  /** While it is computed, and of a frame. */
  workingBytes: number
  frameBytes: number
  frameMs: number
}
export function costOf(gas: Pick<GasDoc, 'size' | 'voxel' | 'detail' | 'detailIn'>, pace: number): GasCost {
  const finer = gas.detailIn === 'view' ? gas.detail : 1
  const cells = gas.size.map((x) => Math.ceil(x / gas.voxel) * finer)
  const voxels = cells.reduce((a, b) => a * b, 1)
  const own = voxels / finer ** 3
  // Finer cells hold two grids twice, in place of a state, and take about a twelfth of a step of a voxel's time.
  const more = finer > 1 ? voxels : 0
  return {
    ...{ cells, voxels, frameBytes: voxels * KEPT_BYTES },
    workingBytes: own * WORKING_BYTES + more * 16,
    frameMs: own * pace + more * (pace / 12),
  }
}
