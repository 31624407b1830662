import { OFF, SKIN } from './nextContact'
import { row } from './collider'
import { farFrom, mayMeet } from './distance'
import {
  COLLIDER_BOX,
  COLLIDER_BYTES,
  COLLIDER_FLAGS,
  COLLIDER_GRID,
  COLLIDER_IN0,
  COLLIDER_IN1,
  COLLIDER_SCALE,
  COLLIDER_THICKNESS,
  CONTACT_COLLIDERS,
  CONTACT_COUNT,
  CONTACT_MOST,
  CONTACT_RADIUS,
  CONTACT_VARY,
  GIRTH,
  OP_SEED,
  PX,
  PY,
  PZ,
  SCRATCH_BEFORE,
  SCRATCH_ROW,
  SCRATCH_DT,
  SCRATCH_HIT,
  SCRATCH_MAY,
  SCRATCH_POSE,
  SCRATCH_STACK,
  SEED,
  STUCK,
  VX,
  VY,
  VZ,
} from './layout'
import { hash3, signed } from './math'
import { meet } from './meet'
import { rides } from './touch'
import { row4 } from './vector'

/** Half of what a velocity was and is: what moves a particle in its substep. */
// @ts-ignore: decorator
@inline function mean4(before: usize, now: usize): v128 {
  return f32x4.mul(f32x4.splat(0.5), f32x4.add(v128.load(before), v128.load(now)))
}
// @ts-ignore: decorator
@inline function mean(before: usize, now: usize): f32 {
  return <f32>0.5 * (load<f32>(before) + load<f32>(now))
}

/**
 * Moves particles from their old place by the mean of their velocities before and after the forces, and lets them meet the colliders on the
 * way: every move is a segment cast in the collider's own space, so nothing tunnels however fast it or the collider is.
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
    widest = (radius + vary) * load<f32>(op + CONTACT_MOST),
    seed = load<u32>(op + OP_SEED)
  const before = scratch + SCRATCH_BEFORE
  const stuck = <usize>load<u32>(columns + (STUCK << 2)) ? <usize>load<u32>(columns + (STUCK << 2)) + base : 0
  const girth = <usize>load<u32>(columns + (GIRTH << 2)) ? <usize>load<u32>(columns + (GIRTH << 2)) + base : 0
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
    const wide = (load<f32>(r + COLLIDER_THICKNESS) + widest + OFF) * load<f32>(r + COLLIDER_SCALE)
    for (let o: usize = 0; o < end; o += 16) {
      const x4 = v128.load(px + o),
        y4 = v128.load(py + o),
        z4 = v128.load(pz + o),
        dt4 = v128.load(dts + o)
      const ex4 = f32x4.add(x4, f32x4.mul(mean4(before + o, vx + o), dt4)),
        ey4 = f32x4.add(y4, f32x4.mul(mean4(before + SCRATCH_ROW + o, vy + o), dt4)),
        ez4 = f32x4.add(z4, f32x4.mul(mean4(before + 2 * SCRATCH_ROW + o, vz + o), dt4))
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
        const ex = x + mean(before + i, vx + i) * dt,
          ey = y + mean(before + SCRATCH_ROW + i, vy + i) * dt,
          ez = z + mean(before + 2 * SCRATCH_ROW + i, vz + i) * dt
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
    const ex4 = f32x4.add(x4, f32x4.mul(mean4(before + o, vx + o), dt4)),
      ey4 = f32x4.add(y4, f32x4.mul(mean4(before + SCRATCH_ROW + o, vy + o), dt4)),
      ez4 = f32x4.add(z4, f32x4.mul(mean4(before + 2 * SCRATCH_ROW + o, vz + o), dt4))
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
        const wide = (load<f32>(r + COLLIDER_THICKNESS) + widest + OFF) * load<f32>(r + COLLIDER_SCALE)
        past = v128.or(past, v128.or(f32x4.lt(a4, f32x4.splat(-SKIN)), f32x4.ge(b4, f32x4.splat(wide))))
        if (load<f32>(r + COLLIDER_THICKNESS) + widest == 0) past = v128.or(past, f32x4.ge(f32x4.sub(b4, a4), zero))
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
        before + i,
        (vary == 0 ? radius : radius + vary * signed(hash3(seed, pseed, 32))) * (girth ? load<f32>(girth + i) : 1),
        colliders,
        count,
        hit,
        stack,
        scratch + SCRATCH_POSE,
        dtFull,
      )
    }
  }
  return contacts
}
