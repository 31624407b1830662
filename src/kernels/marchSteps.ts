// The steps of a picture of a gas: what a job does to planes, tiles or rows of it, in the order of engine/march.
import {
  JOB_CHUNK,
  JOB_COUNT,
  JOB_NEXT,
  JOB_RECORD,
  JOB_STOP,
  MARCH_STEP,
  MARCH_STEP_BLANK,
  MARCH_STEP_CLEAR,
  MARCH_STEP_COUNT,
  MARCH_STEP_EDGE,
  MARCH_STEP_FILL,
  MARCH_STEP_FRONT,
  MARCH_STEP_HALVE,
  MARCH_STEP_LIGHT,
  MARCH_STEP_MARCH,
  MARCH_STEP_PACK,
  MARCH_STEP_PLACE,
  MARCH_STEP_QUARTER,
  MARCH_STEP_SKY,
  MARCH_STEP_SPLAT,
  MARCH_STEP_TILES,
  MARCH_STEP_UNPACK,
} from './layout'
import { marchRows } from './march'
import { blankPiece, clearPlane, halvePlane, markTile, packPiece, unpackTile } from './marchCells'
import { frontRow } from './marchFront'
import { edgeTile, fillTile } from './marchLight'
import { lightTile } from './marchLit'
import { skyWay } from './marchSky'
import { countBalls, placeBalls, splatLayer } from './marchSplat'

function one(m: usize, step: u32, n: i32): void {
  switch (step) {
    case MARCH_STEP_CLEAR:
      clearPlane(m, n)
      break
    case MARCH_STEP_BLANK:
      blankPiece(m, n)
      break
    case MARCH_STEP_UNPACK:
      unpackTile(m, n)
      break
    case MARCH_STEP_COUNT:
      countBalls(m)
      break
    case MARCH_STEP_PLACE:
      placeBalls(m)
      break
    case MARCH_STEP_SPLAT:
      splatLayer(m, n)
      break
    case MARCH_STEP_TILES:
      markTile(m, n)
      break
    case MARCH_STEP_HALVE:
      halvePlane(m, 1, n)
      break
    case MARCH_STEP_QUARTER:
      halvePlane(m, 2, n)
      break
    case MARCH_STEP_SKY:
      skyWay(m, n)
      break
    case MARCH_STEP_FILL:
      fillTile(m, n)
      break
    case MARCH_STEP_LIGHT:
      lightTile(m, n)
      break
    case MARCH_STEP_EDGE:
      edgeTile(m, n)
      break
    case MARCH_STEP_FRONT:
      frontRow(m, n)
      break
    case MARCH_STEP_PACK:
      packPiece(m, n)
      break
    case MARCH_STEP_MARCH:
      marchRows(m, n)
      break
  }
}
/** A share of a step, chunk by chunk from a shared counter. */
export function march(job: usize): void {
  const m = <usize>load<u32>(job + JOB_RECORD),
    step = load<u32>(m + MARCH_STEP)
  const count = load<i32>(job + JOB_COUNT),
    chunk = load<i32>(job + JOB_CHUNK)
  const stop = <usize>load<u32>(job + JOB_STOP)
  while (atomic.load<u32>(stop) == 0) {
    const begin = atomic.add<i32>(job + JOB_NEXT, chunk)
    if (begin >= count) return
    for (let n = begin, end = min(begin + chunk, count); n < end; n++) one(m, step, n)
  }
}
