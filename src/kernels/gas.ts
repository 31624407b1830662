// A gas in its window: what a job does to rows, planes or tiles of it, in the order of engine/gas.
import { advectRow } from './gasAdvect'
import { middlesRow, stirRow } from './gasDetail'
import { carryTile } from './gasDetailCarry'
import { gainTile, matchTile } from './gasDetailMatch'
import { detailPack, detailTiles } from './gasDetailTiles'
import { burnRow, fadeRow } from './gasFade'
import { coverRow, feedRow, portionRow, solidifyRow } from './gasFeed'
import { beginPlane, border, confineRow, curlRow, evenRow, fastestPlane, leaving, opsRow, pushRow, sumPlane } from './gasFlow'
import { divergencePlane, projectPlane, prolongPlane, restrictPlane, worstPlane } from './gasPressure'
import { relaxSlab, seamSlab } from './gasRelax'
import { splatParticles } from './gasSplat'
import { facesPlane, weighPlane } from './gasWalls'
import { holdsTiles, packTile } from './gasTiles'
import {
  GAS_STEP,
  GAS_STEP_BEGIN,
  GAS_STEP_BORDER,
  GAS_STEP_BURN,
  GAS_STEP_CARRY,
  GAS_STEP_CONFINE,
  GAS_STEP_CORRECT,
  GAS_STEP_COVER,
  GAS_STEP_CURL,
  GAS_STEP_DETAIL_PACK,
  GAS_STEP_DETAIL_TILES,
  GAS_STEP_DIVERGENCE,
  GAS_STEP_EVEN,
  GAS_STEP_FACES,
  GAS_STEP_FADE,
  GAS_STEP_FASTEST,
  GAS_STEP_FEED,
  GAS_STEP_PORTION,
  GAS_STEP_FORWARD,
  GAS_STEP_GAIN,
  GAS_STEP_LEAVING,
  GAS_STEP_MATCH,
  GAS_STEP_MIDDLES,
  GAS_STEP_OPS,
  GAS_STEP_PACK,
  GAS_STEP_PROJECT,
  GAS_STEP_PROLONG,
  GAS_STEP_PUSH,
  GAS_STEP_RELAX,
  GAS_STEP_RESTRICT,
  GAS_STEP_SEAM,
  GAS_STEP_SOLIDIFY,
  GAS_STEP_SPLAT,
  GAS_STEP_STIR,
  GAS_STEP_SUM,
  GAS_STEP_TILES,
  GAS_STEP_WEIGH,
  GAS_STEP_WORST,
  JOB_CHUNK,
  JOB_COUNT,
  JOB_NEXT,
  JOB_RECORD,
  JOB_SCRATCH,
  JOB_STOP,
  SCRATCH_BYTES,
  SCRATCH_ROWS,
} from './layout'

function one(g: usize, step: u32, n: i32, scratch: usize, thread: i32): void {
  switch (step) {
    case GAS_STEP_FORWARD:
    case GAS_STEP_CORRECT:
      advectRow(g, n, scratch + SCRATCH_ROWS)
      break
    case GAS_STEP_BORDER:
      border(g, n)
      break
    case GAS_STEP_BEGIN:
      beginPlane(g, n)
      break
    case GAS_STEP_CURL:
      curlRow(g, n)
      break
    case GAS_STEP_CONFINE:
      confineRow(g, n)
      break
    case GAS_STEP_PUSH:
      pushRow(g, n)
      break
    case GAS_STEP_BURN:
      burnRow(g, n)
      break
    case GAS_STEP_FADE:
      fadeRow(g, n)
      break
    case GAS_STEP_DIVERGENCE:
      divergencePlane(g, n)
      break
    case GAS_STEP_RELAX:
      relaxSlab(g, n)
      break
    case GAS_STEP_SEAM:
      seamSlab(g, n)
      break
    case GAS_STEP_RESTRICT:
      restrictPlane(g, n)
      break
    case GAS_STEP_PROLONG:
      prolongPlane(g, n)
      break
    case GAS_STEP_WORST:
      worstPlane(g, n)
      break
    case GAS_STEP_PROJECT:
      projectPlane(g, n)
      break
    case GAS_STEP_FACES:
      facesPlane(g, n)
      break
    case GAS_STEP_WEIGH:
      weighPlane(g, n)
      break
    case GAS_STEP_COVER:
      coverRow(g, n, scratch)
      break
    case GAS_STEP_PORTION:
      portionRow(g, n)
      break
    case GAS_STEP_FEED:
      feedRow(g, n)
      break
    case GAS_STEP_SOLIDIFY:
      solidifyRow(g, n)
      break
    case GAS_STEP_SPLAT:
      splatParticles(g)
      break
    case GAS_STEP_OPS:
      opsRow(g, n, scratch, scratch + SCRATCH_ROWS)
      break
    case GAS_STEP_FASTEST:
      fastestPlane(g, n)
      break
    case GAS_STEP_SUM:
      sumPlane(g, n)
      break
    case GAS_STEP_LEAVING:
      leaving(g, n)
      break
    case GAS_STEP_EVEN:
      evenRow(g, n)
      break
    case GAS_STEP_TILES:
      holdsTiles(g, n, scratch + SCRATCH_ROWS)
      break
    case GAS_STEP_PACK:
      packTile(g, n)
      break
    case GAS_STEP_MIDDLES:
      middlesRow(g, n)
      break
    case GAS_STEP_STIR:
      stirRow(g, n)
      break
    case GAS_STEP_CARRY:
      carryTile(g, n, thread)
      break
    case GAS_STEP_GAIN:
      gainTile(g, n, thread)
      break
    case GAS_STEP_MATCH:
      matchTile(g, n, thread)
      break
    case GAS_STEP_DETAIL_TILES:
      detailTiles(g, n)
      break
    case GAS_STEP_DETAIL_PACK:
      detailPack(g, n)
      break
  }
}
/** A share of a step, chunk by chunk from a shared counter. */
export function gas(job: usize, thread: i32): void {
  const g = <usize>load<u32>(job + JOB_RECORD),
    step = load<u32>(g + GAS_STEP)
  const count = load<i32>(job + JOB_COUNT),
    chunk = load<i32>(job + JOB_CHUNK)
  const stop = <usize>load<u32>(job + JOB_STOP),
    scratch = <usize>load<u32>(job + JOB_SCRATCH) + <usize>thread * SCRATCH_BYTES
  while (atomic.load<u32>(stop) == 0) {
    const begin = atomic.add<i32>(job + JOB_NEXT, chunk)
    if (begin >= count) return
    for (let n = begin, end = min(begin + chunk, count); n < end; n++) one(g, step, n, scratch, thread)
  }
}
