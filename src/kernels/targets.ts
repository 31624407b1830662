// Forces towards other things: what neighbours did, surfaces that attract, places that are chased, kept or crawled over.
import { col } from './columns'
import {
  ADD_COLUMNS_COLUMNS,
  ADD_COLUMNS_STRIDE,
  AU,
  AV,
  CHASE_MAX_ACCELERATION,
  CHASE_MODE,
  CHASE_PER_SECOND,
  CHASE_REACH,
  CHASE_RESPONSE,
  CHASE_SLOW,
  CHASE_SPEED,
  CHASE_STRIDE,
  CHASE_TARGET,
  COLLIDER_AREAS,
  COLLIDER_COUNT,
  COLLIDER_HASH,
  COLLIDER_SITES,
  COLLIDER_SITES_END,
  COLLIDER_SITE_COUNT,
  CRAWL_HEIGHT,
  CRAWL_PER_SECOND,
  CRAWL_REACH,
  CRAWL_RECORD,
  CRAWL_RESPONSE,
  CRAWL_SPEED,
  HELD,
  ID,
  NEAREST_SLOT,
  NEAREST_U,
  NEAREST_V,
  OP_SEED,
  PX,
  PY,
  PZ,
  SCRATCH_HIT,
  SCRATCH_STACK,
  SEED,
  STAY_FRICTION,
  STAY_PER_SECOND,
  STAY_RECORD,
  STAY_SPRING,
  TARGET_FAR,
  TRIANGLE,
  VX,
  VY,
  VZ,
} from './layout'
import { hash3, unit } from './math'
import { T_N, T_V, between, nearestOn, onSurface } from './surface'

/** Adds the accelerations that a pass over neighbours left. */
export function addColumns(columns: usize, op: usize, begin: i32, n: i32, shares: usize, dts: usize, scratch: usize): void {
  const vx = col(columns, VX, begin),
    vy = col(columns, VY, begin),
    vz = col(columns, VZ, begin)
  const a = <usize>load<u32>(op + ADD_COLUMNS_COLUMNS) + ((<usize>begin) << 2),
    stride = <usize>load<u32>(op + ADD_COLUMNS_STRIDE)
  for (let o: usize = 0, end = (<usize>n) << 2; o < end; o += 16) {
    const w = f32x4.mul(v128.load(dts + o), v128.load(shares + o))
    v128.store(vx + o, f32x4.add(v128.load(vx + o), f32x4.mul(w, v128.load(a + o))))
    v128.store(vy + o, f32x4.add(v128.load(vy + o), f32x4.mul(w, v128.load(a + stride + o))))
    v128.store(vz + o, f32x4.add(v128.load(vz + o), f32x4.mul(w, v128.load(a + stride + stride + o))))
  }
}
/** Takes hold of a place on a surface, once: the nearest, or one picked by the seed evenly by area. False when there is nothing to hold. */
function hold(
  columns: usize,
  at: usize,
  s: usize,
  x: f32,
  y: f32,
  z: f32,
  random: bool,
  seed: u32,
  per: f32,
  stack: usize,
  hit: usize,
): bool {
  const held = col(columns, HELD, 0) + at,
    triangle = col(columns, TRIANGLE, 0) + at,
    au = col(columns, AU, 0) + at,
    av = col(columns, AV, 0) + at
  const hash = load<u32>(s + COLLIDER_HASH)
  if (load<u32>(held) == hash) return true
  if (random && load<u32>(s) == 0) {
    const pseed = load<u32>(col(columns, SEED, 0) + at)
    const count = load<i32>(s + COLLIDER_COUNT),
      areas = <usize>load<u32>(s + COLLIDER_AREAS)
    if (count == 0) return false
    const wanted = unit(hash3(seed, pseed, 33)) * load<f32>(areas + ((<usize>(count - 1)) << 2))
    let low = 0,
      high = count - 1
    while (low < high) {
      const mid = (low + high) >> 1
      if (load<f32>(areas + ((<usize>mid) << 2)) > wanted) high = mid
      else low = mid + 1
    }
    // Evenly within the triangle (Turk 1990).
    const a = Mathf.sqrt(unit(hash3(seed, pseed, 35))),
      b = unit(hash3(seed, pseed, 36))
    store<u32>(triangle, <u32>low)
    store<f32>(au, a * (1 - b))
    store<f32>(av, a * b)
  } else {
    if (!nearestOn(s, x, y, z, 1e15, per, stack, hit, hit + 192)) return false
    store<u32>(triangle, load<u32>(hit, NEAREST_SLOT))
    store<f32>(au, load<f32>(hit, NEAREST_U))
    store<f32>(av, load<f32>(hit, NEAREST_V))
  }
  store<u32>(held, hash)
  return true
}
/** How chase finds its target. */
const NEAREST: i32 = 0,
  KEPT: i32 = 1,
  IN_TURN: i32 = 2,
  COLUMNS: i32 = 3,
  MIDDLE: i32 = 4
/**
 * After a target, arriving without overshoot (after Reynolds 1999): the velocity wanted is the target's own and, towards it, `speed`, but
 * no more than the distance allows: distance / slow, and what the largest acceleration can still stop, √(a·d).
 */
export function chase(columns: usize, op: usize, begin: i32, n: i32, shares: usize, dts: usize, scratch: usize): void {
  const stack = scratch + SCRATCH_STACK,
    hit = scratch + SCRATCH_HIT
  const mode = load<i32>(op + CHASE_MODE),
    s = <usize>load<u32>(op + CHASE_TARGET),
    stride = <usize>load<u32>(op + CHASE_STRIDE),
    seed = load<u32>(op + OP_SEED)
  const speed = load<f32>(op + CHASE_SPEED),
    slow = load<f32>(op + CHASE_SLOW),
    response = load<f32>(op + CHASE_RESPONSE),
    maximum = load<f32>(op + CHASE_MAX_ACCELERATION),
    reach = load<f32>(op + CHASE_REACH),
    per = load<f32>(op + CHASE_PER_SECOND)
  const px = col(columns, PX, begin),
    py = col(columns, PY, begin),
    pz = col(columns, PZ, begin),
    vx = col(columns, VX, begin),
    vy = col(columns, VY, begin),
    vz = col(columns, VZ, begin)
  const ids = col(columns, ID, begin)
  const far = load<u32>(columns + (TARGET_FAR << 2)) ? col(columns, TARGET_FAR, begin) : 0
  const out = hit + 192,
    spot = hit + 256
  for (let o: usize = 0, end = (<usize>n) << 2; o < end; o += 4) {
    const share = load<f32>(shares + o)
    if (share == 0) continue
    const x = load<f32>(px + o),
      y = load<f32>(py + o),
      z = load<f32>(pz + o)
    if (mode == NEAREST) {
      if (!nearestOn(s, x, y, z, reach, per, stack, hit, out)) continue
    } else if (mode == KEPT) {
      const at = ((<usize>begin) << 2) + o
      if (!hold(columns, at, s, x, y, z, true, seed, per, stack, hit)) continue
      onSurface(
        s,
        load<u32>(col(columns, TRIANGLE, begin) + o),
        load<f32>(col(columns, AU, begin) + o),
        load<f32>(col(columns, AV, begin) + o),
        per,
        spot,
        out,
      )
    } else if (mode == IN_TURN) {
      const count = load<u32>(s + COLLIDER_SITE_COUNT)
      if (count == 0) continue
      const i = <usize>(load<u32>(ids + o) % count) * 12
      const from = <usize>load<u32>(s + COLLIDER_SITES) + i,
        to = <usize>load<u32>(s + COLLIDER_SITES_END) + i
      for (let a: usize = 0; a < 12; a += 4) {
        store<f32>(spot + a, load<f32>(from + a))
        store<f32>(spot + a, load<f32>(to + a), 12)
      }
      between(s, spot, per, out)
    } else if (mode == MIDDLE) {
      memory.fill(spot, 0, 24)
      between(s, spot, per, out)
    } else {
      const c = s + ((<usize>begin) << 2) + o
      if (load<f32>(c + 6 * stride) == 0) continue
      for (let a: usize = 0; a < 6; a++) store<f32>(out + (a << 2), load<f32>(c + a * stride))
    }
    const dx = load<f32>(out) - x,
      dy = load<f32>(out, 4) - y,
      dz = load<f32>(out, 8) - z
    const d = Mathf.sqrt(dx * dx + dy * dy + dz * dz)
    if (d > reach) continue
    if (far) store<f32>(far + o, max(d, <f32>1e-9))
    const wanted = min(speed, min(d / slow, Mathf.sqrt(maximum * d))) / max(d, <f32>1e-9)
    const w = load<f32>(dts + o) * share
    const k = w / (response + max(w, <f32>1e-12))
    const u = load<f32>(vx + o),
      v = load<f32>(vy + o),
      q = load<f32>(vz + o)
    let ex = (load<f32>(out, T_V) + dx * wanted - u) * k,
      ey = (load<f32>(out, T_V + 4) + dy * wanted - v) * k,
      ez = (load<f32>(out, T_V + 8) + dz * wanted - q) * k
    const change = Mathf.sqrt(ex * ex + ey * ey + ez * ez),
      room = maximum * w
    if (change > room) {
      const f = room / change
      ex *= f
      ey *= f
      ez *= f
    }
    store<f32>(vx + o, u + ex)
    store<f32>(vy + o, v + ey)
    store<f32>(vz + o, q + ez)
  }
}
/**
 * A spring to a place of the particle's own on a surface, which it takes hold of where it is when it first feels it. Implicit Euler, so
 * that the stiffest spring stays calm: v' = (v + dt (k (x₁ − x) + c v₁)) / (1 + c dt + k dt²).
 */
export function stay(columns: usize, op: usize, begin: i32, n: i32, shares: usize, dts: usize, scratch: usize): void {
  const stack = scratch + SCRATCH_STACK,
    hit = scratch + SCRATCH_HIT
  const s = <usize>load<u32>(op + STAY_RECORD)
  const spring = load<f32>(op + STAY_SPRING),
    rub = load<f32>(op + STAY_FRICTION),
    per = load<f32>(op + STAY_PER_SECOND)
  const px = col(columns, PX, begin),
    py = col(columns, PY, begin),
    pz = col(columns, PZ, begin),
    vx = col(columns, VX, begin),
    vy = col(columns, VY, begin),
    vz = col(columns, VZ, begin)
  const triangles = col(columns, TRIANGLE, begin),
    us = col(columns, AU, begin),
    vs = col(columns, AV, begin)
  const out = hit + 192,
    spot = hit + 256
  for (let o: usize = 0, end = (<usize>n) << 2; o < end; o += 4) {
    const share = load<f32>(shares + o),
      dt = load<f32>(dts + o)
    if (share == 0 || dt == 0) continue
    const x = load<f32>(px + o),
      y = load<f32>(py + o),
      z = load<f32>(pz + o)
    if (!hold(columns, ((<usize>begin) << 2) + o, s, x, y, z, false, 0, per, stack, hit)) continue
    onSurface(s, load<u32>(triangles + o), load<f32>(us + o), load<f32>(vs + o), per, spot, out)
    const k = spring * share * dt,
      c = rub * share * dt
    const i = <f32>1 / (1 + c + k * dt)
    // Where the place is at the end of the substep: a newborn has less of it, and the place goes evenly.
    const later = <f32>1 / per
    const tu = load<f32>(out, T_V),
      tv = load<f32>(out, T_V + 4),
      tw = load<f32>(out, T_V + 8)
    store<f32>(vx + o, (load<f32>(vx + o) + k * (load<f32>(out) + tu * later - x) + c * tu) * i)
    store<f32>(vy + o, (load<f32>(vy + o) + k * (load<f32>(out, 4) + tv * later - y) + c * tv) * i)
    store<f32>(vz + o, (load<f32>(vz + o) + k * (load<f32>(out, 8) + tw * later - z) + c * tw) * i)
  }
}
/**
 * Along a surface at a height over it, on the side where the particle is: what leads away from that height is replaced by what leads
 * to it within the response; along the surface it keeps its way, at `speed` when that is not below zero.
 */
export function crawl(columns: usize, op: usize, begin: i32, n: i32, shares: usize, dts: usize, scratch: usize): void {
  const stack = scratch + SCRATCH_STACK,
    hit = scratch + SCRATCH_HIT
  const s = <usize>load<u32>(op + CRAWL_RECORD)
  const height = load<f32>(op + CRAWL_HEIGHT),
    response = load<f32>(op + CRAWL_RESPONSE),
    speed = load<f32>(op + CRAWL_SPEED),
    reach = load<f32>(op + CRAWL_REACH),
    per = load<f32>(op + CRAWL_PER_SECOND)
  const px = col(columns, PX, begin),
    py = col(columns, PY, begin),
    pz = col(columns, PZ, begin),
    vx = col(columns, VX, begin),
    vy = col(columns, VY, begin),
    vz = col(columns, VZ, begin)
  const out = hit + 192
  for (let o: usize = 0, end = (<usize>n) << 2; o < end; o += 4) {
    const share = load<f32>(shares + o),
      dt = load<f32>(dts + o)
    if (share == 0 || dt == 0) continue
    const x = load<f32>(px + o),
      y = load<f32>(py + o),
      z = load<f32>(pz + o)
    if (!nearestOn(s, x, y, z, reach, per, stack, hit, out)) continue
    const nx = load<f32>(out, T_N),
      ny = load<f32>(out, T_N + 4),
      nz = load<f32>(out, T_N + 8)
    const tu = load<f32>(out, T_V),
      tv = load<f32>(out, T_V + 4),
      tw = load<f32>(out, T_V + 8)
    const d = (x - load<f32>(out)) * nx + (y - load<f32>(out, 4)) * ny + (z - load<f32>(out, 8)) * nz
    let u = load<f32>(vx + o) - tu,
      v = load<f32>(vy + o) - tv,
      w = load<f32>(vz + o) - tw
    const vn = u * nx + v * ny + w * nz
    const wanted = (height - d) / (response + dt)
    // How fast it is along the surface, and what is missing to the speed.
    let ax = u - nx * vn,
      ay = v - ny * vn,
      az = w - nz * vn
    const along = Mathf.sqrt(ax * ax + ay * ay + az * az)
    const k = share * (dt / (response + dt))
    if (speed >= 0 && along > 1e-6) {
      const f = k * (speed / along - 1)
      u += ax * f
      v += ay * f
      w += az * f
    }
    const change = share * (wanted - vn)
    store<f32>(vx + o, u + tu + nx * change)
    store<f32>(vy + o, v + tv + ny * change)
    store<f32>(vz + o, w + tw + nz * change)
  }
}
