import { castBall } from './ball'
import { castMesh, castMoving } from './cast'
import { lerp, passes, row } from './collider'
import { column } from './columns'
import { castGrid, farFrom, mayMeet } from './distance'
import {
  COLLIDER_BOX,
  COLLIDER_BYTES,
  COLLIDER_CONTACTS,
  COLLIDER_ENDS,
  COLLIDER_FLAGS,
  COLLIDER_FRICTION,
  COLLIDER_FRICTION_VARY,
  COLLIDER_GRID,
  COLLIDER_IN0,
  COLLIDER_IN1,
  COLLIDER_LEAVES,
  COLLIDER_MODE,
  COLLIDER_NODES,
  COLLIDER_OUT0,
  COLLIDER_OUT1,
  COLLIDER_RESTITUTION,
  COLLIDER_RESTITUTION_VARY,
  COLLIDER_SCALE,
  COLLIDER_SEED,
  COLLIDER_THICKNESS,
  CONTACT_COLLIDERS,
  CONTACT_COUNT,
  CONTACT_MODE_DIE,
  CONTACT_MODE_PASS,
  CONTACT_MODE_STICK,
  CONTACT_RADIUS,
  CONTACT_VARY,
  HITS,
  LIFE,
  OP_SEED,
  OX,
  OY,
  OZ,
  PX,
  PY,
  PZ,
  SCRATCH_DT,
  SCRATCH_HIT,
  SCRATCH_MAY,
  SCRATCH_STACK,
  SEED,
  STUCK,
  VX,
  VY,
  VZ,
} from './layout'
import { hash3, signed } from './math'
import { room } from './nudge'
import { holds, rides, touched } from './touch'
import { row4 } from './vector'

/** Lengths in metres: a cast starts this much early and ends this much late; a hit leaves the particle this far off. */
const SKIN: f32 = 2e-4
const OFF: f32 = 1e-4
/** A particle can bounce this often within one substep; after the last it waits at the surface for the next. */
const BOUNCES: i32 = 4

/** A value with its ±, for this particle. */
// @ts-ignore: decorator
@inline function varied(value: f32, vary: f32, seed: u32, pseed: u32, channel: u32): f32 {
  return vary == 0 ? value : value + vary * signed(hash3(seed, pseed, channel))
}

/**
 * Moves particles from their old place along v·dt and lets them meet the colliders on the way: every move is a segment
 * cast in the collider's own space, so nothing tunnels however fast it or the collider is.
 * What happens at a contact stands in the collider's record.
 * Returns the number of contacts.
 */
export function contact(columns: usize, op: usize, begin: i32, n: i32, shares: usize, scratch: usize, dtFull: f32): u32 {
  const base = (<usize>begin) << 2
  const px = <usize>load<u32>(columns + (PX << 2)) + base,
    py = <usize>load<u32>(columns + (PY << 2)) + base,
    pz = <usize>load<u32>(columns + (PZ << 2)) + base
  const vx = <usize>load<u32>(columns + (VX << 2)) + base,
    vy = <usize>load<u32>(columns + (VY << 2)) + base,
    vz = <usize>load<u32>(columns + (VZ << 2)) + base
  const colliders = <usize>load<u32>(op + CONTACT_COLLIDERS),
    count = load<i32>(op + CONTACT_COUNT)
  const radius = load<f32>(op + CONTACT_RADIUS),
    vary = load<f32>(op + CONTACT_VARY),
    widest = radius + vary,
    seed = load<u32>(op + OP_SEED)
  const stuck = <usize>load<u32>(columns + (STUCK << 2)) ? <usize>load<u32>(columns + (STUCK << 2)) + base : 0
  const hit = scratch + SCRATCH_HIT,
    stack = scratch + SCRATCH_STACK,
    dts = scratch + SCRATCH_DT
  const perSecond: f32 = dtFull > 0 ? <f32>1.0 / dtFull : 0
  let contacts: u32 = 0
  const end = (<usize>n) << 2
  const skin = f32x4.splat(SKIN),
    zero = f32x4.splat(0)
  const may = scratch + SCRATCH_MAY
  let grids = false
  for (let c = 0; c < count; c++) {
    const r = colliders + <usize>c * COLLIDER_BYTES,
      grid = <usize>load<u32>(r + COLLIDER_GRID),
      m = r + COLLIDER_IN0
    if (grid == 0 || (load<u32>(r + COLLIDER_FLAGS) & 2) != 0) continue
    const wide = (load<f32>(r + COLLIDER_THICKNESS) + widest) * load<f32>(r + COLLIDER_SCALE)
    for (let o: usize = 0; o < end; o += 16) {
      const x4 = v128.load(px + o),
        y4 = v128.load(py + o),
        z4 = v128.load(pz + o),
        dt4 = v128.load(dts + o)
      const ex4 = f32x4.add(x4, f32x4.mul(v128.load(vx + o), dt4)),
        ey4 = f32x4.add(y4, f32x4.mul(v128.load(vy + o), dt4)),
        ez4 = f32x4.add(z4, f32x4.mul(v128.load(vz + o), dt4))
      const near = mayMeet(
        grid,
        row4(m, x4, y4, z4),
        row4(m + 16, x4, y4, z4),
        row4(m + 32, x4, y4, z4),
        row4(m, ex4, ey4, ez4),
        row4(m + 16, ex4, ey4, ez4),
        row4(m + 32, ex4, ey4, ez4),
        wide,
      )
      v128.store(may + o, grids ? v128.or(v128.load(may + o), near) : near)
    }
    // Of those the distances themselves are asked, one by one.
    if (!grids)
      for (let i: usize = 0; i < end; i += 4) {
        if (load<u32>(may + i) == 0) continue
        const x = load<f32>(px + i),
          y = load<f32>(py + i),
          z = load<f32>(pz + i),
          dt = load<f32>(dts + i)
        const ex = x + load<f32>(vx + i) * dt,
          ey = y + load<f32>(vy + i) * dt,
          ez = z + load<f32>(vz + i) * dt
        if (
          farFrom(
            grid,
            row(m, 0, x, y, z),
            row(m, 1, x, y, z),
            row(m, 2, x, y, z),
            row(m, 0, ex, ey, ez),
            row(m, 1, ex, ey, ez),
            row(m, 2, ex, ey, ez),
            wide,
          )
        )
          store<u32>(may + i, 0)
      }
    grids = true
  }
  for (let o: usize = 0; o < end; o += 16) {
    // Four at a time: most move on without meeting anything. The arithmetic is that of the single particle below, so the
    // same ones are found whoever shares the four lanes.
    const x4 = v128.load(px + o),
      y4 = v128.load(py + o),
      z4 = v128.load(pz + o),
      dt4 = v128.load(dts + o)
    const ex4 = f32x4.add(x4, f32x4.mul(v128.load(vx + o), dt4)),
      ey4 = f32x4.add(y4, f32x4.mul(v128.load(vy + o), dt4)),
      ez4 = f32x4.add(z4, f32x4.mul(v128.load(vz + o), dt4))
    const loX4 = f32x4.sub(f32x4.min(x4, ex4), skin),
      hiX4 = f32x4.add(f32x4.max(x4, ex4), skin)
    const loY4 = f32x4.sub(f32x4.min(y4, ey4), skin),
      hiY4 = f32x4.add(f32x4.max(y4, ey4), skin)
    const loZ4 = f32x4.sub(f32x4.min(z4, ez4), skin),
      hiZ4 = f32x4.add(f32x4.max(z4, ez4), skin)
    let meets: v128 = i32x4.splat(0)
    for (let c = 0; c < count; c++) {
      const r = colliders + <usize>c * COLLIDER_BYTES
      let past = v128.or(
        v128.or(f32x4.lt(hiX4, v128.load32_splat(r + COLLIDER_BOX)), f32x4.gt(loX4, v128.load32_splat(r + COLLIDER_BOX + 12))),
        v128.or(f32x4.lt(hiY4, v128.load32_splat(r + COLLIDER_BOX + 4)), f32x4.gt(loY4, v128.load32_splat(r + COLLIDER_BOX + 16))),
      )
      past = v128.or(
        past,
        v128.or(f32x4.lt(hiZ4, v128.load32_splat(r + COLLIDER_BOX + 8)), f32x4.gt(loZ4, v128.load32_splat(r + COLLIDER_BOX + 20))),
      )
      if (load<u32>(r) == 1 && (load<u32>(r + COLLIDER_FLAGS) & 2) == 0) {
        const a4 = row4(r + COLLIDER_IN0 + 16, x4, y4, z4),
          b4 = row4(r + COLLIDER_IN1 + 16, ex4, ey4, ez4)
        const wide = (load<f32>(r + COLLIDER_THICKNESS) + widest) * load<f32>(r + COLLIDER_SCALE)
        past = v128.or(past, v128.or(f32x4.lt(a4, f32x4.splat(-SKIN)), f32x4.ge(b4, f32x4.splat(wide))))
        if (wide == 0) past = v128.or(past, f32x4.ge(f32x4.sub(b4, a4), zero))
      }
      if (load<u32>(r + COLLIDER_GRID) && (load<u32>(r + COLLIDER_FLAGS) & 2) == 0) past = v128.or(past, v128.not(v128.load(may + o)))
      meets = v128.or(meets, v128.not(past))
    }
    meets = v128.and(meets, f32x4.gt(v128.load(shares + o), zero))
    if (stuck) meets = v128.or(meets, i32x4.ne(v128.load(stuck + o), i32x4.splat(0)))
    v128.store(px + o, v128.bitselect(x4, ex4, meets))
    v128.store(py + o, v128.bitselect(y4, ey4, meets))
    v128.store(pz + o, v128.bitselect(z4, ez4, meets))
    let mask = i32x4.bitmask(meets)
    const left = n - <i32>(o >> 2)
    if (left < 4) mask &= (1 << left) - 1
    while (mask) {
      const i = o + ((<usize>ctz(mask)) << 2)
      mask &= mask - 1
      if (stuck && load<u32>(stuck + i) && rides(columns, base + i, load<f32>(dts + i), colliders, count, hit, perSecond)) continue
      const pseed = load<u32>(<usize>load<u32>(columns + (SEED << 2)) + base + i)
      contacts += meet(
        columns,
        base + i,
        load<f32>(dts + i),
        vary == 0 ? radius : radius + vary * signed(hash3(seed, pseed, 32)),
        colliders,
        count,
        hit,
        stack,
        perSecond,
      )
    }
  }
  return contacts
}

// @ts-ignore: decorator
@inline function shift(columns: usize, c: i32, at: usize, by: f32): void {
  const column = <usize>load<u32>(columns + ((<usize>c) << 2))
  if (column) store<f32>(column + at, load<f32>(column + at) + by)
}
/** One particle at byte `at` of its columns through its substep of `dt` seconds; returns its contacts. */
function meet(
  columns: usize,
  at: usize,
  dt: f32,
  radius: f32,
  colliders: usize,
  count: i32,
  hit: usize,
  stack: usize,
  perSecond: f32,
): u32 {
  const px = <usize>load<u32>(columns + (PX << 2)) + at,
    py = <usize>load<u32>(columns + (PY << 2)) + at,
    pz = <usize>load<u32>(columns + (PZ << 2)) + at
  const vx = <usize>load<u32>(columns + (VX << 2)) + at,
    vy = <usize>load<u32>(columns + (VY << 2)) + at,
    vz = <usize>load<u32>(columns + (VZ << 2)) + at
  const pseed = load<u32>(<usize>load<u32>(columns + (SEED << 2)) + at)
  let x = load<f32>(px),
    y = load<f32>(py),
    z = load<f32>(pz)
  let u = load<f32>(vx),
    v = load<f32>(vy),
    w = load<f32>(vz)
  let contacts: u32 = 0
  let bounce = 0
  while (true) {
    const dx = u * dt,
      dy = v * dt,
      dz = w * dt
    const ex = x + dx,
      ey = y + dy,
      ez = z + dz
    // The box of the way in three lanes; the fourth never says no.
    const from = f32x4.replace_lane(f32x4.replace_lane(f32x4.splat(x), 1, y), 2, z),
      to = f32x4.replace_lane(f32x4.replace_lane(f32x4.splat(ex), 1, ey), 2, ez)
    const low = f32x4.replace_lane(f32x4.sub(f32x4.min(from, to), f32x4.splat(SKIN)), 3, -Infinity),
      high = f32x4.replace_lane(f32x4.add(f32x4.max(from, to), f32x4.splat(SKIN)), 3, Infinity)
    let best: f32 = 2,
      which: usize = 0,
      hnx: f32 = 0,
      hny: f32 = 0,
      hnz: f32 = 0,
      lx: f32 = 0,
      ly: f32 = 0,
      lz: f32 = 0,
      sx: f32 = 0,
      sy: f32 = 0,
      sz: f32 = 0
    for (let c = 0; c < count; c++) {
      const r = colliders + <usize>c * COLLIDER_BYTES
      if (v128.any_true(v128.or(f32x4.lt(high, v128.load(r + COLLIDER_BOX)), f32x4.gt(low, v128.load(r + COLLIDER_BOX + 12))))) continue
      const flags = load<u32>(r + COLLIDER_FLAGS)
      if (load<u32>(r + COLLIDER_MODE) == CONTACT_MODE_PASS || passes(r, pseed)) continue
      const wide = (load<f32>(r + COLLIDER_THICKNESS) + radius) * load<f32>(r + COLLIDER_SCALE)
      const half = load<u32>(r) == 1
      // Own space: the start by the matrix at this moment of the substep, the end by the one at its end. The height first:
      // most particles are far above an endless floor, and then nothing else is asked.
      const s: f32 = max(<f32>0, 1 - dt * perSecond),
        m = r + COLLIDER_IN0,
        k = r + COLLIDER_IN1
      const moves = (flags & 2) != 0
      const ay: f32 = moves ? lerp(m, k, 4, s) * x + lerp(m, k, 5, s) * y + lerp(m, k, 6, s) * z + lerp(m, k, 7, s) : row(m, 1, x, y, z)
      const by = row(k, 1, ex, ey, ez)
      const gy = by - ay
      // Half space: crosses y = 0 downwards. One that starts below stays below; births under a floor fall on.
      if (half && (ay < -SKIN || by >= wide || (wide == 0 && gy >= 0))) continue
      let ax: f32, az: f32
      if (moves) {
        ax = lerp(m, k, 0, s) * x + lerp(m, k, 1, s) * y + lerp(m, k, 2, s) * z + lerp(m, k, 3, s)
        az = lerp(m, k, 8, s) * x + lerp(m, k, 9, s) * y + lerp(m, k, 10, s) * z + lerp(m, k, 11, s)
      } else {
        ax = row(m, 0, x, y, z)
        az = row(m, 2, x, y, z)
      }
      const bx = row(k, 0, ex, ey, ez),
        bz = row(k, 2, ex, ey, ez)
      const gx = bx - ax,
        gz = bz - az
      const length = Mathf.sqrt(gx * gx + gy * gy + gz * gz + 1e-20)
      if (half) {
        const t: f32 = ay <= wide ? ay * ay - wide * wide : (ay - wide) / -gy
        if (t < best) {
          best = t
          which = r
          hnx = 0
          hny = 1
          hnz = 0
          lx = ax + gx * t
          ly = wide
          lz = az + gz * t
        }
        continue
      }
      // A little longer at both ends, so that rounding cannot hide a surface at an end point. Two-sided sheets
      // must not look back: the side a particle came from is the side it is on.
      const both = (flags & 1) != 0
      const grid = <usize>load<u32>(r + COLLIDER_GRID)
      if (grid) {
        store<f32>(hit, best < 1 ? best : <f32>1)
        if (!castGrid(grid, ax, ay, az, gx, gy, gz, wide, hit)) continue
        best = load<f32>(hit)
        which = r
        hnx = load<f32>(hit, 4)
        hny = load<f32>(hit, 8)
        hnz = load<f32>(hit, 12)
        lx = load<f32>(hit, 16)
        ly = load<f32>(hit, 20)
        lz = load<f32>(hit, 24)
        sx = 0
        sy = 0
        sz = 0
        continue
      }
      if (wide > 0) {
        // A changing one as it is when the substep ends, by the way that its nearest place goes until then.
        store<f32>(hit, best < 1 ? best : <f32>1)
        if (
          !castBall(
            <usize>load<u32>(r + COLLIDER_NODES),
            <usize>load<u32>(r + (flags & 4 ? COLLIDER_ENDS : COLLIDER_LEAVES)),
            both,
            ax,
            ay,
            az,
            gx,
            gy,
            gz,
            wide,
            stack,
            hit,
          )
        )
          continue
        best = load<f32>(hit)
        which = r
        hnx = load<f32>(hit, 4)
        hny = load<f32>(hit, 8)
        hnz = load<f32>(hit, 12)
        lx = load<f32>(hit, 16) + hnx * wide
        ly = load<f32>(hit, 20) + hny * wide
        lz = load<f32>(hit, 24) + hnz * wide
        sx = 0
        sy = 0
        sz = 0
        continue
      }
      if (flags & 4) {
        store<f32>(hit, best < 1 ? best : <f32>1.000001)
        if (
          !castMoving(
            <usize>load<u32>(r + COLLIDER_NODES),
            <usize>load<u32>(r + COLLIDER_LEAVES),
            <usize>load<u32>(r + COLLIDER_ENDS),
            both,
            s,
            ax,
            ay,
            az,
            gx,
            gy,
            gz,
            SKIN,
            stack,
            hit,
          )
        )
          continue
        best = load<f32>(hit)
        which = r
        hnx = load<f32>(hit, 4)
        hny = load<f32>(hit, 8)
        hnz = load<f32>(hit, 12)
        sx = load<f32>(hit, 16)
        sy = load<f32>(hit, 20)
        sz = load<f32>(hit, 24)
        lx = ax + gx * best
        ly = ay + gy * best
        lz = az + gz * best
        continue
      }
      const skin = SKIN / length
      const back = both ? <f32>0 : skin
      const stretch: f32 = 1 + skin + back
      store<f32>(hit, <f32>1)
      if (
        !castMesh(
          <usize>load<u32>(r + COLLIDER_NODES),
          <usize>load<u32>(r + COLLIDER_LEAVES),
          both,
          ax - gx * back,
          ay - gy * back,
          az - gz * back,
          gx * stretch,
          gy * stretch,
          gz * stretch,
          stack,
          hit,
        )
      )
        continue
      const t = load<f32>(hit) * stretch - back
      if (t < best) {
        best = t
        which = r
        hnx = load<f32>(hit, 4)
        hny = load<f32>(hit, 8)
        hnz = load<f32>(hit, 12)
        lx = ax + gx * t
        ly = ay + gy * t
        lz = az + gz * t
      }
    }
    if (which == 0) {
      x = ex
      y = ey
      z = ez
      break
    }

    const fromX = x,
      fromY = y,
      fromZ = z
    contacts++
    const hits = <usize>load<u32>(columns + (HITS << 2)) + at
    store<u32>(hits, load<u32>(hits) + 1)
    const f = min(max(best, <f32>0), <f32>1)
    const remain = dt * (1 - f)
    const s1: f32 = max(<f32>0, 1 - remain * perSecond)
    const m0 = which + COLLIDER_OUT0,
      m1 = which + COLLIDER_OUT1,
      i0 = which + COLLIDER_IN0,
      i1 = which + COLLIDER_IN1
    // Normals go by the transpose of the inverse.
    let nx = lerp(i0, i1, 0, s1) * hnx + lerp(i0, i1, 4, s1) * hny + lerp(i0, i1, 8, s1) * hnz
    let ny = lerp(i0, i1, 1, s1) * hnx + lerp(i0, i1, 5, s1) * hny + lerp(i0, i1, 9, s1) * hnz
    let nz = lerp(i0, i1, 2, s1) * hnx + lerp(i0, i1, 6, s1) * hny + lerp(i0, i1, 10, s1) * hnz
    const ni = <f32>1.0 / Mathf.sqrt(nx * nx + ny * ny + nz * nz + 1e-30)
    nx *= ni
    ny *= ni
    nz *= ni
    // The surface's own velocity at the hit, and its place at that moment.
    let su: f32 = 0,
      sv: f32 = 0,
      sw: f32 = 0
    if (load<u32>(which + COLLIDER_FLAGS) & 2) {
      const wx0 = row(m0, 0, lx, ly, lz),
        wy0 = row(m0, 1, lx, ly, lz),
        wz0 = row(m0, 2, lx, ly, lz)
      const mx = row(m1, 0, lx, ly, lz) - wx0,
        my = row(m1, 1, lx, ly, lz) - wy0,
        mz = row(m1, 2, lx, ly, lz) - wz0
      su = mx * perSecond
      sv = my * perSecond
      sw = mz * perSecond
      x = wx0 + mx * s1
      y = wy0 + my * s1
      z = wz0 + mz * s1
    } else {
      x = row(m1, 0, lx, ly, lz)
      y = row(m1, 1, lx, ly, lz)
      z = row(m1, 2, lx, ly, lz)
    }
    if (load<u32>(which + COLLIDER_FLAGS) & 4) {
      su += (lerp(m0, m1, 0, s1) * sx + lerp(m0, m1, 1, s1) * sy + lerp(m0, m1, 2, s1) * sz) * perSecond
      sv += (lerp(m0, m1, 4, s1) * sx + lerp(m0, m1, 5, s1) * sy + lerp(m0, m1, 6, s1) * sz) * perSecond
      sw += (lerp(m0, m1, 8, s1) * sx + lerp(m0, m1, 9, s1) * sy + lerp(m0, m1, 10, s1) * sz) * perSecond
    }
    x += nx * OFF
    y += ny * OFF
    z += nz * OFF
    if (best < 0) {
      const wx = x - fromX,
        wy = y - fromY,
        wz = z - fromZ
      const free = room(colliders, count, fromX, fromY, fromZ, wx, wy, wz, pseed, hit, stack)
      x = fromX + wx * free
      y = fromY + wy * free
      z = fromZ + wz * free
      // What is put beside a collider that it overlapped has not moved: nobody that it meets there gets faster by it.
      shift(columns, OX, at, x - fromX)
      shift(columns, OY, at, y - fromY)
      shift(columns, OZ, at, z - fromZ)
    }
    atomic.add<u32>(which + COLLIDER_CONTACTS, 1)
    const response = load<u32>(which + COLLIDER_MODE)
    touched(
      columns,
      at,
      which,
      x - nx * radius,
      y - ny * radius,
      z - nz * radius,
      remain - (perSecond > 0 ? <f32>1 / perSecond : <f32>0),
      (u - su) * nx + (v - sv) * ny + (w - sw) * nz,
    )
    if (response == CONTACT_MODE_DIE) {
      store<f32>(<usize>load<u32>(columns + (LIFE << 2)) + at, <f32>0)
      break
    }
    if (
      response == CONTACT_MODE_STICK &&
      holds(columns, at, which, lx + sx * (1 - s1), ly + sy * (1 - s1), lz + sz * (1 - s1), stack, hit)
    ) {
      u = su
      v = sv
      w = sw
      x += su * remain
      y += sv * remain
      z += sw * remain
      break
    }
    const seed = load<u32>(which + COLLIDER_SEED)
    const e = min(
      max(varied(load<f32>(which + COLLIDER_RESTITUTION), load<f32>(which + COLLIDER_RESTITUTION_VARY), seed, pseed, 11), <f32>0),
      <f32>1,
    )
    const mu = max(varied(load<f32>(which + COLLIDER_FRICTION), load<f32>(which + COLLIDER_FRICTION_VARY), seed, pseed, 12), <f32>0)
    const ru = u - su,
      rv = v - sv,
      rw = w - sw
    const vn = ru * nx + rv * ny + rw * nz
    if (vn < 0) {
      // Coulomb: the tangential change is at most friction × the normal change.
      const tu = ru - nx * vn,
        tv = rv - ny * vn,
        tw = rw - nz * vn
      const slide = Mathf.sqrt(tu * tu + tv * tv + tw * tw + 1e-20)
      const rest = max(<f32>0, 1 - (mu * (1 + e) * -vn) / slide)
      const out = -e * vn
      u = su + tu * rest + nx * out
      v = sv + tv * rest + ny * out
      w = sw + tw * rest + nz * out
    }
    dt = remain
    if (++bounce == BOUNCES) {
      // Carry it with the surface to the end of the substep.
      x += su * remain
      y += sv * remain
      z += sw * remain
      break
    }
  }
  store<f32>(px, x)
  store<f32>(py, y)
  store<f32>(pz, z)
  store<f32>(vx, u)
  store<f32>(vy, v)
  store<f32>(vz, w)
  return contacts
}
