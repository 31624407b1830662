import type { GasFacts } from '../protocol'
import type { GasDoc } from '../shot'

const KEY = 'ember.gasPace'
/** Milliseconds a voxel and frame before this browser has computed any: Kiln fire and Powder barge on two cores (docs/measured.md). */
const FIRST_PACE = 0.0028
/** Of a voxel while it is computed, at most: Powder barge took 477 MB for 2.03 million, Kiln fire 211 MB for 0.8 million. */
const WORKING_BYTES = 240
/** Of a finer cell: two grids of it twice. */
const FINE_BYTES = 16
/** A finer cell takes so much of the time of a voxel: Powder barge, detail of 2, frame 36, 0.85 against 3.4 µs. */
const FINE_PACE = 0.25
/** Of a voxel that a frame keeps: three half floats. */
const KEPT_BYTES = 6
/** Of each dye: where it is, what it was, what it will be; and a half float of what is kept. */
const DYE_WORKING_BYTES = 12
const DYE_KEPT_BYTES = 2

const finerOf = (gas: Pick<GasDoc, 'detail' | 'detailIn'>): number => (gas.detailIn === 'view' ? gas.detail : 1)
/** Voxels' worth of time: of so many kept ones, finer ones among them. */
const timed = (kept: number, finer: number): number => (finer > 1 ? kept / finer ** 3 + kept * FINE_PACE : kept)

/** What the newest computed frame of a gas took: the next estimate is made of it. */
export function rememberPace(gas: Pick<GasDoc, 'detail' | 'detailIn'>, { ms, voxels }: Pick<GasFacts, 'ms' | 'voxels'>): void {
  if (!(voxels > 20_000) || !(ms > 0)) return
  try {
    localStorage.setItem(KEY, String(ms / timed(voxels, finerOf(gas))))
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
export function costOf(gas: Pick<GasDoc, 'size' | 'voxel' | 'detail' | 'detailIn'>, pace: number, dyes = 0): GasCost {
  const finer = finerOf(gas)
  const cells = gas.size.map((x) => Math.ceil(x / gas.voxel) * finer)
  const voxels = cells.reduce((a, b) => a * b, 1)
  const own = voxels / finer ** 3
  return {
    ...{ cells, voxels, frameBytes: voxels * (KEPT_BYTES + dyes * DYE_KEPT_BYTES) },
    workingBytes: own * (WORKING_BYTES + dyes * DYE_WORKING_BYTES) + (finer > 1 ? voxels * FINE_BYTES : 0),
    frameMs: timed(voxels, finer) * pace,
  }
}
