// The kernels: one WebAssembly module, one instance per thread over one shared memory. No static data and no
// allocation, so that instances cannot disturb each other.
import { asked } from './asked'
import { contact } from './contact'
import { applyForce, applyLimit, asksWhere, goesByMass, isLimit, placesByVelocity, takesUniform } from './dispatch'
import { measure } from './distance'
import { bringRows, halfWay, keepRows, wholeWay } from './drift'
import { fog } from './fog'
import { gas } from './gas'
import { march } from './marchSteps'
import { countCells, sortCells } from './grid'
import {
  AGE,
  BENT,
  DEAD,
  GIRTH,
  JOB_CHUNK,
  JOB_COLUMNS,
  JOB_CONTACTS,
  JOB_COUNT,
  JOB_DIED,
  JOB_DT,
  JOB_ENDLESS,
  JOB_KIND,
  JOB_KIND_ASK,
  JOB_KIND_BUILD_TRAILS,
  JOB_KIND_COUNT_CELLS,
  JOB_KIND_FOG,
  JOB_KIND_GAS,
  JOB_KIND_MARCH,
  JOB_KIND_GATHER,
  JOB_KIND_LINK_BUILD,
  JOB_KIND_LINK_MERGE,
  JOB_KIND_LINK_MUTUAL,
  JOB_KIND_MEASURE,
  JOB_KIND_NEIGHBOURS,
  JOB_KIND_PAIRS,
  JOB_KIND_RECORD_TRAILS,
  JOB_KIND_SCREEN,
  JOB_KIND_SORT_CELLS,
  JOB_KIND_STEP,
  JOB_KIND_TUFTS,
  JOB_KIND_VOLUME,
  JOB_LOST,
  JOB_NEXT,
  JOB_OPS,
  JOB_OP_COUNT,
  JOB_SCRATCH,
  JOB_STOP,
  LIFE,
  LIMIT_PHASE_PER_BLEND,
  LIMIT_PHASE_PHASES,
  MASS_KG,
  MASS_VARY,
  OP_BOUNDS,
  OP_CODE,
  OP_CONTACT,
  OP_END_LIMITS,
  OP_LIMIT_PHASE,
  OP_MASS,
  OP_MASS_BY,
  OP_MIN_SIZE,
  OP_SEED,
  OP_SHARE,
  OP_SHARE_VARY,
  OP_SIZE,
  OP_TURNS,
  OX,
  OY,
  OZ,
  PHASE,
  PX,
  PY,
  PZ,
  QX,
  SCRATCH_BEFORE,
  SCRATCH_BYTES,
  SCRATCH_DT,
  SCRATCH_FROM,
  SCRATCH_LIMITS,
  SCRATCH_MASSES,
  SCRATCH_ROW,
  SEED,
  VX,
  VY,
  VZ,
} from './layout'
import { linkBuild, linkMerge, linkMutual } from './links'
import { hash3, signed } from './math'
import { bounds, minSize } from './endings'
import { neighbours } from './neighbours'
import { pairs } from './pairs'
import { gather } from './gather'
import { screen } from './screen'
import { buildTrails } from './strips'
import { recordTrails } from './trails'
import { rotate } from './turn'
import { tufts } from './tufts'
import { turns } from './turns'
import { addTaken, beginTaken } from './turnTaken'
import { fillVolume } from './volume'

export { sumAreas } from './areas'
export { birth } from './birth'
export { insideMesh } from './inside'
export { castBall } from './ball'
export { castMesh } from './cast'
export { castMoving } from './castMoving'
export { refit } from './refit'
export { closestPoint } from './closest'
export { isBehind } from './side'
export { distanceAt, sumBlocks } from './distance'
export { spanOf, sumCells } from './grid'
export { survivors } from './gather'
export { linkBegins } from './links'
export { buildTree } from './tree'
export { cosTurn, hash3, sinTurn } from './math'
export { sumDigits } from './sort'
export { partTrails, settleTrails } from './trails'

/** Particles worked through all ops at once: their columns and scratch stay in the first-level cache. */
const BLOCK: i32 = 256

// @ts-ignore: decorator
@inline function fillShares(op: usize, columns: usize, begin: i32, n: i32, out: usize): void {
  const share = load<f32>(op + OP_SHARE),
    vary = load<f32>(op + OP_SHARE_VARY)
  const bytes = (<usize>n) << 2
  if (vary == 0) {
    const s = f32x4.splat(share)
    for (let o: usize = 0; o < bytes; o += 16) v128.store(out + o, s)
    return
  }
  const seed = load<u32>(op + OP_SEED)
  const seeds = <usize>load<u32>(columns + (SEED << 2)) + ((<usize>begin) << 2)
  for (let o: usize = 0; o < bytes; o += 4)
    store<f32>(out + o, min(max(share + vary * signed(hash3(seed, load<u32>(seeds + o), 10)), <f32>0), <f32>1))
}

function phasesOf(phases: usize, bytes: usize): u32 {
  let bits: u32 = 0
  for (let o: usize = 0; o < bytes; o += 4) bits |= 1 << load<u32>(phases + o)
  return bits
}
/** Amounts times others. */
function scale(amounts: usize, by: usize, bytes: usize): void {
  for (let o: usize = 0; o < bytes; o += 16) v128.store(amounts + o, f32x4.mul(v128.load(amounts + o), v128.load(by + o)))
}
/** One over the mass of each particle. */
function masses(columns: usize, op: usize, begin: i32, n: i32, out: usize): void {
  const mass = load<f32>(op + MASS_KG),
    vary = load<f32>(op + MASS_VARY),
    seed = load<u32>(op + OP_SEED)
  const seeds = <usize>load<u32>(columns + (SEED << 2)) + ((<usize>begin) << 2)
  for (let o: usize = 0, end = (<usize>n) << 2; o < end; o += 4)
    store<f32>(out + o, <f32>1 / max(<f32>1e-6, vary == 0 ? mass : mass + vary * signed(hash3(seed, load<u32>(seeds + o), 31))))
}

// @ts-ignore: decorator
@inline function move(px: usize, py: usize, pz: usize, vx: usize, vy: usize, vz: usize, before: usize, dts: usize, bytes: usize): void {
  wholeWay(px, vx, before, dts, bytes)
  wholeWay(py, vy, before + SCRATCH_ROW, dts, bytes)
  wholeWay(pz, vz, before + 2 * SCRATCH_ROW, dts, bytes)
}
function block(job: usize, columns: usize, begin: i32, n: i32, scratch: usize): void {
  const dt = load<f32>(job + JOB_DT)
  const base = (<usize>begin) << 2,
    bytes = (<usize>n) << 2
  const age = <usize>load<u32>(columns + (AGE << 2)) + base,
    life = <usize>load<u32>(columns + (LIFE << 2)) + base,
    dead = <usize>load<u32>(columns + (DEAD << 2)) + base
  const px = <usize>load<u32>(columns + (PX << 2)) + base,
    py = <usize>load<u32>(columns + (PY << 2)) + base,
    pz = <usize>load<u32>(columns + (PZ << 2)) + base
  const vx = <usize>load<u32>(columns + (VX << 2)) + base,
    vy = <usize>load<u32>(columns + (VY << 2)) + base,
    vz = <usize>load<u32>(columns + (VZ << 2)) + base
  const dts = scratch + SCRATCH_DT
  // A newborn's age is minus the time it waits within this substep; everybody else lives all of dt.
  const full = f32x4.splat(dt)
  let waits: v128 = i32x4.splat(0)
  for (let o: usize = 0; o < bytes; o += 16) {
    const a = v128.load(age + o)
    waits = v128.or(waits, f32x4.lt(a, f32x4.splat(0)))
    v128.store(dts + o, f32x4.pmin(full, f32x4.add(full, a)))
  }
  const ox = <usize>load<u32>(columns + (OX << 2))
  if (ox) {
    memory.copy(ox + base, px, bytes)
    memory.copy(<usize>load<u32>(columns + (OY << 2)) + base, py, bytes)
    memory.copy(<usize>load<u32>(columns + (OZ << 2)) + base, pz, bytes)
    const bent = <usize>load<u32>(columns + (BENT << 2)) + base
    for (let o: usize = 0; o < bytes; o += 16) v128.store(bent + o, f32x4.lt(v128.load(age + o), f32x4.splat(0)))
  }
  const girth = <usize>load<u32>(columns + (GIRTH << 2))
  if (girth) for (let o: usize = 0; o < bytes; o += 16) v128.store(girth + base + o, f32x4.splat(1))
  // Lanes behind the last particle hold what was there before; they may only turn the quick way off.
  const even = !v128.any_true(waits)

  const first = <usize>load<u32>(job + JOB_OPS)
  const ops = load<i32>(job + JOB_OP_COUNT)
  // Turns come behind all that moves.
  let motion = ops,
    turning: usize = 0
  // Half of the way, forces, the other half: forces are asked for in the middle of the substep. Ops that lead to a place by its velocity are
  // asked for at its start, and their velocity counts for all of it. What does not ask where particles are needs no half.
  const from = scratch + SCRATCH_FROM,
    before = scratch + SCRATCH_BEFORE
  // A bit for each phase that somebody of the block is in, where anything asks for it.
  let bits: u32 = 0
  let places = false,
    asks = false
  for (let k = 0, op = first; k < ops; k++, op += <usize>load<u32>(op + OP_SIZE)) {
    const code = load<i32>(op + OP_CODE)
    if (code == OP_TURNS) {
      motion = k
      turning = op + <usize>load<u32>(op + OP_SIZE)
      break
    }
    if (code == OP_LIMIT_PHASE && bits == 0) bits = phasesOf(<usize>load<u32>(columns + (PHASE << 2)) + base, bytes)
    places = places || placesByVelocity(code)
    asks = asks || asksWhere(code)
  }
  keepRows(vx, vy, vz, before, bytes)
  asks = asks && !places
  if (asks) {
    keepRows(px, py, pz, from, bytes)
    halfWay(px, vx, dts, bytes)
    halfWay(py, vy, dts, bytes)
    halfWay(pz, vz, dts, bytes)
  }
  let op = first
  let moved = false,
    limited = false,
    skipping = false,
    heavy = false
  for (let k = 0; k < motion; k++) {
    const code = load<i32>(op + OP_CODE)
    if (skipping) {
      // Up to the end of the limits nothing is for anybody here.
      if (code == OP_END_LIMITS) skipping = limited = false
      op += <usize>load<u32>(op + OP_SIZE)
      continue
    }
    if (code == OP_LIMIT_PHASE) {
      const mask = load<u32>(op + LIMIT_PHASE_PHASES)
      skipping = (mask & bits) == 0
      // All are in it, from its beginning on: no limit at all.
      if (skipping || ((bits & ~mask) == 0 && load<f32>(op + LIMIT_PHASE_PER_BLEND) == 0)) {
        op += <usize>load<u32>(op + OP_SIZE)
        continue
      }
    }
    if (isLimit(code)) {
      if (!limited) for (let o: usize = 0; o < bytes; o += 16) v128.store(scratch + SCRATCH_LIMITS + o, f32x4.splat(1))
      limited = true
      applyLimit(code, columns, op, begin, n, scratch + SCRATCH_LIMITS, scratch)
    } else if (code == OP_END_LIMITS) limited = false
    else if (code == OP_MASS) {
      heavy = true
      masses(columns, op, begin, n, scratch + SCRATCH_MASSES)
    } else if (code == OP_CONTACT) {
      if (asks) bringRows(px, py, pz, from, bytes)
      if (places) keepRows(vx, vy, vz, before, bytes)
      fillShares(op, columns, begin, n, scratch)
      atomic.add<u32>(job + JOB_CONTACTS, contact(columns, op, begin, n, scratch, scratch, dt))
      moved = true
    } else if (code == OP_MIN_SIZE) minSize(columns, op, begin, n)
    else if (code == OP_BOUNDS) {
      // Where it is after this substep counts.
      if (!moved) {
        if (asks) bringRows(px, py, pz, from, bytes)
        if (places) keepRows(vx, vy, vz, before, bytes)
        move(px, py, pz, vx, vy, vz, before, dts, bytes)
      }
      moved = true
      bounds(columns, op, begin, n)
    } else {
      const light = !heavy || !goesByMass(code)
      const uniform = even && !limited && light && load<f32>(op + OP_SHARE_VARY) == 0 && takesUniform(code)
      if (uniform) store<f32>(scratch, load<f32>(op + OP_SHARE))
      else fillShares(op, columns, begin, n, scratch)
      if (limited) scale(scratch, scratch + SCRATCH_LIMITS, bytes)
      if (code == OP_MASS_BY && !heavy) {
        for (let o: usize = 0; o < bytes; o += 16) v128.store(scratch + SCRATCH_MASSES + o, f32x4.splat(1))
        heavy = true
      }
      if (!light) scale(scratch, scratch + SCRATCH_MASSES, bytes)
      applyForce(code, columns, op, begin, n, scratch, dts, scratch, uniform)
    }
    op += <usize>load<u32>(op + OP_SIZE)
  }
  if (!moved) {
    if (asks) bringRows(px, py, pz, from, bytes)
    if (places) keepRows(vx, vy, vz, before, bytes)
    move(px, py, pz, vx, vy, vz, before, dts, bytes)
  }
  if (load<u32>(columns + (QX << 2))) rotate(columns, begin, n, dts)
  // Ages, deaths, and whatever is no longer a finite number: |place| + |velocity| below 1e15 fails for NaN too.
  const bound = f32x4.splat(1e15)
  // Without an end of its own a life ends only where something ended it, which leaves it no length.
  const endless = load<u32>(job + JOB_ENDLESS) != 0,
    none = f32x4.splat(0)
  let died: i32 = 0,
    lost: i32 = 0
  for (let o: usize = 0; o < bytes; o += 16) {
    const a = f32x4.add(v128.load(age + o), full)
    v128.store(age + o, a)
    const reach = f32x4.add(
      f32x4.add(f32x4.add(f32x4.abs(v128.load(px + o)), f32x4.abs(v128.load(py + o))), f32x4.abs(v128.load(pz + o))),
      f32x4.add(f32x4.add(f32x4.abs(v128.load(vx + o)), f32x4.abs(v128.load(vy + o))), f32x4.abs(v128.load(vz + o))),
    )
    const bad = v128.not(f32x4.lt(reach, bound))
    const end = v128.or(bad, endless ? f32x4.le(v128.load(life + o), none) : f32x4.ge(a, v128.load(life + o)))
    v128.store(dead + o, end)
    let mask = i32x4.bitmask(end)
    if (mask) {
      const left = n - <i32>(o >> 2)
      const valid = left >= 4 ? 15 : (1 << left) - 1
      mask &= valid
      died += popcnt(mask)
      lost += popcnt(i32x4.bitmask(bad) & valid)
    }
  }
  if (turning) died += turns(columns, turning, ops - motion - 1, begin, n, scratch)
  if (died) atomic.add<u32>(job + JOB_DIED, died)
  if (lost) atomic.add<u32>(job + JOB_LOST, lost)
}

/** One substep for a range of a system, chunk by chunk from a shared counter. Looks at the stop flag before each chunk. */
function step(job: usize, thread: i32): void {
  const count = load<i32>(job + JOB_COUNT),
    chunk = load<i32>(job + JOB_CHUNK)
  const stop = <usize>load<u32>(job + JOB_STOP),
    columns = <usize>load<u32>(job + JOB_COLUMNS)
  const scratch = <usize>load<u32>(job + JOB_SCRATCH) + <usize>thread * SCRATCH_BYTES
  beginTaken(scratch)
  while (atomic.load<u32>(stop) == 0) {
    const begin = atomic.add<i32>(job + JOB_NEXT, chunk)
    if (begin >= count) break
    const end = min(begin + chunk, count)
    for (let b = begin; b < end; b += BLOCK) block(job, columns, b, min(BLOCK, end - b), scratch)
  }
  addTaken(<usize>load<u32>(job + JOB_OPS), load<i32>(job + JOB_OP_COUNT), scratch)
}

/** What every thread of a team runs: a share of the job, until nothing of it is left. */
export function work(job: usize, thread: i32): void {
  const kind = load<u32>(job + JOB_KIND)
  if (kind == JOB_KIND_STEP) step(job, thread)
  else if (kind == JOB_KIND_GATHER) gather(job)
  else if (kind == JOB_KIND_COUNT_CELLS) countCells(job)
  else if (kind == JOB_KIND_SORT_CELLS) sortCells(job)
  else if (kind == JOB_KIND_NEIGHBOURS) neighbours(job, thread)
  else if (kind == JOB_KIND_PAIRS) pairs(job, thread)
  else if (kind == JOB_KIND_MEASURE) measure(job, thread)
  else if (kind == JOB_KIND_VOLUME) fillVolume(job, thread)
  else if (kind == JOB_KIND_RECORD_TRAILS) recordTrails(job, <usize>load<u32>(job + JOB_SCRATCH) + <usize>thread * SCRATCH_BYTES)
  else if (kind == JOB_KIND_BUILD_TRAILS) buildTrails(job, <usize>load<u32>(job + JOB_SCRATCH) + <usize>thread * SCRATCH_BYTES)
  else if (kind == JOB_KIND_GAS) gas(job, thread)
  else if (kind == JOB_KIND_MARCH) march(job)
  else if (kind == JOB_KIND_ASK) asked(job, thread)
  else if (kind == JOB_KIND_FOG) fog(job, thread)
  else if (kind == JOB_KIND_TUFTS) tufts(job, thread)
  else if (kind == JOB_KIND_SCREEN) screen(job)
  else if (kind == JOB_KIND_LINK_MUTUAL) linkMutual(job)
  else if (kind == JOB_KIND_LINK_MERGE) linkMerge(job)
  else if (kind == JOB_KIND_LINK_BUILD) linkBuild(job)
}
