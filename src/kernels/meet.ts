// One particle through its substep among colliders.
import { best, hnx, hny, hnz, findContact, lx, ly, lz, push, sx, sy, sz, which } from './nextContact'
import { row } from './collider'
import {
  BENT,
  COLLIDER_BOX,
  COLLIDER_BYTES,
  COLLIDER_CONTACTS,
  COLLIDER_FLAGS,
  COLLIDER_FRICTION,
  COLLIDER_FRICTION_VARY,
  COLLIDER_MODE,
  COLLIDER_OUT0,
  COLLIDER_OUT1,
  COLLIDER_PATH,
  COLLIDER_RESTITUTION,
  COLLIDER_RESTITUTION_VARY,
  COLLIDER_SEED,
  CONTACT_MODE_DIE,
  CONTACT_MODE_NOTICE,
  CONTACT_MODE_STICK,
  HITS,
  LIFE,
  OX,
  OY,
  OZ,
  PHASE,
  POSE_PATH_PIECES,
  PX,
  PY,
  PZ,
  SCRATCH_ROW,
  SEED,
  VX,
  VY,
  VZ,
} from './layout'
import { hash3, signed } from './math'
import { room } from './nudge'
import { MATRIX, POSE, poseAt, velocityAt } from './pose'
import { holds, touched } from './touch'

/** What comes nearer by less than this, for a metre of its distance from the origin, rests: rounding does as much. */
const STIR: f32 = 2e-7
/** A particle can bounce this often within one piece of a substep; after the last it goes along with the surface. */
const BOUNCES: i32 = 4

/** A value with its ±, for this particle. */
// @ts-ignore: decorator
@inline function varied(value: f32, vary: f32, seed: u32, pseed: u32, channel: u32): f32 {
  return vary == 0 ? value : value + vary * signed(hash3(seed, pseed, channel))
}
// @ts-ignore: decorator
@inline function shift(columns: usize, c: i32, at: usize, by: f32): void {
  const column = <usize>load<u32>(columns + ((<usize>c) << 2))
  if (column) store<f32>(column + at, load<f32>(column + at) + by)
}
function anyMoves(colliders: usize, count: i32): bool {
  for (let c = 0; c < count; c++) if (load<u32>(colliders + <usize>c * COLLIDER_BYTES + COLLIDER_FLAGS) & 6) return true
  return false
}
/** Into how many pieces of the substep the fastest turn of the colliders on a way cuts it: in own space each piece is a straight line. */
function piecesOf(colliders: usize, count: i32, low: v128, high: v128): f32 {
  let pieces: f32 = 1
  for (let c = 0; c < count; c++) {
    const r = colliders + <usize>c * COLLIDER_BYTES
    if ((load<u32>(r + COLLIDER_FLAGS) & 2) == 0) continue
    if (v128.any_true(v128.or(f32x4.lt(high, v128.load(r + COLLIDER_BOX)), f32x4.gt(low, v128.load(r + COLLIDER_BOX + 12))))) continue
    pieces = max(pieces, load<f32>(r + COLLIDER_PATH + POSE_PATH_PIECES))
  }
  return pieces
}
/**
 * One particle at byte `at` of its columns through its substep of `dt` seconds, of `dtFull` that the substep has; `before` has its velocity
 * as the forces found it. They act evenly over the substep: v(t) = v + a·t, and what it moves by is v·h + a·h²/2, which is exact for a
 * constant acceleration. Returns its contacts.
 */
export function meet(
  columns: usize,
  at: usize,
  dt: f32,
  before: usize,
  radius: f32,
  colliders: usize,
  count: i32,
  hit: usize,
  stack: usize,
  pose: usize,
  dtFull: f32,
): u32 {
  const px = <usize>load<u32>(columns + (PX << 2)) + at,
    py = <usize>load<u32>(columns + (PY << 2)) + at,
    pz = <usize>load<u32>(columns + (PZ << 2)) + at
  const vx = <usize>load<u32>(columns + (VX << 2)) + at,
    vy = <usize>load<u32>(columns + (VY << 2)) + at,
    vz = <usize>load<u32>(columns + (VZ << 2)) + at
  const pseed = load<u32>(<usize>load<u32>(columns + (SEED << 2)) + at),
    phase = load<u32>(<usize>load<u32>(columns + (PHASE << 2)) + at)
  const perSecond: f32 = dtFull > 0 ? <f32>1.0 / dtFull : 0
  let x = load<f32>(px),
    y = load<f32>(py),
    z = load<f32>(pz)
  let u = load<f32>(before),
    v = load<f32>(before + SCRATCH_ROW),
    w = load<f32>(before + 2 * SCRATCH_ROW)
  const perDt: f32 = dt > 0 ? <f32>1 / dt : 0
  let ax = (load<f32>(vx) - u) * perDt,
    ay = (load<f32>(vy) - v) * perDt,
    az = (load<f32>(vz) - w) * perDt
  let contacts: u32 = 0,
    noticed: u64 = 0
  let bounce = 0,
    left = dt,
    piece = dt
  const stir = STIR * max(<f32>1, Mathf.abs(x) + Mathf.abs(y) + Mathf.abs(z))
  {
    const half = <f32>0.5 * dt
    const from = f32x4.replace_lane(f32x4.replace_lane(f32x4.splat(x), 1, y), 2, z)
    const to = f32x4.replace_lane(
      f32x4.replace_lane(f32x4.splat(x + (u + ax * half) * dt), 1, y + (v + ay * half) * dt),
      2,
      z + (w + az * half) * dt,
    )
    const pieces = piecesOf(
      colliders,
      count,
      f32x4.replace_lane(f32x4.min(from, to), 3, -Infinity),
      f32x4.replace_lane(f32x4.max(from, to), 3, Infinity),
    )
    if (pieces > 1) piece = dtFull / pieces
  }
  while (true) {
    // What rounding leaves of the substep is no piece of its own.
    const h = left < piece * <f32>1.001 ? left : piece
    const half = <f32>0.5 * h
    const ex = x + (u + ax * half) * h,
      ey = y + (v + ay * half) * h,
      ez = z + (w + az * half) * h
    const s: f32 = max(<f32>0, 1 - left * perSecond),
      e: f32 = h == left ? 1 : max(<f32>0, 1 - (left - h) * perSecond)
    findContact(colliders, count, pseed, phase, noticed, radius, x, y, z, ex, ey, ez, s, e, stir, hit, stack, pose)
    if (which == 0) {
      x = ex
      y = ey
      z = ez
      u += ax * h
      v += ay * h
      w += az * h
      if (h == left) break
      left -= h
      bounce = 0
      continue
    }

    const fromX = x,
      fromY = y,
      fromZ = z
    contacts++
    const notices = load<u32>(which + COLLIDER_MODE) == CONTACT_MODE_NOTICE
    const bent = <usize>load<u32>(columns + (BENT << 2))
    if (bent && !notices) store<u32>(bent + at, 1)
    const hits = <usize>load<u32>(columns + (HITS << 2)) + at
    store<u32>(hits, load<u32>(hits) + 1)
    const f = min(max(best, <f32>0), <f32>1)
    const m0 = which + COLLIDER_OUT0,
      m1 = which + COLLIDER_OUT1,
      path = which + COLLIDER_PATH
    const s1: f32 = s + f * (e - s)
    const now = poseAt(m0, m1, path, s1, pose),
      back = now + MATRIX
    // Normals go by the transpose of the inverse.
    let nx = load<f32>(back) * hnx + load<f32>(back, 16) * hny + load<f32>(back, 32) * hnz
    let ny = load<f32>(back, 4) * hnx + load<f32>(back, 20) * hny + load<f32>(back, 36) * hnz
    let nz = load<f32>(back, 8) * hnx + load<f32>(back, 24) * hny + load<f32>(back, 40) * hnz
    const ni = <f32>1.0 / Mathf.sqrt(nx * nx + ny * ny + nz * nz + 1e-30)
    nx *= ni
    ny *= ni
    nz *= ni
    // Where it is at that moment, and the surface's own velocity there.
    x = row(now, 0, lx, ly, lz)
    y = row(now, 1, lx, ly, lz)
    z = row(now, 2, lx, ly, lz)
    let su: f32 = 0,
      sv: f32 = 0,
      sw: f32 = 0
    const moves = (load<u32>(which + COLLIDER_FLAGS) & 6) != 0
    if (load<u32>(which + COLLIDER_FLAGS) & 2) {
      velocityAt(m0, m1, path, s1, perSecond, x, y, z, lx, ly, lz, pose + POSE)
      su = load<f32>(pose + POSE)
      sv = load<f32>(pose + POSE, 4)
      sw = load<f32>(pose + POSE, 8)
    }
    if (load<u32>(which + COLLIDER_FLAGS) & 4) {
      su += (load<f32>(now) * sx + load<f32>(now, 4) * sy + load<f32>(now, 8) * sz) * perSecond
      sv += (load<f32>(now, 16) * sx + load<f32>(now, 20) * sy + load<f32>(now, 24) * sz) * perSecond
      sw += (load<f32>(now, 32) * sx + load<f32>(now, 36) * sy + load<f32>(now, 40) * sz) * perSecond
    }
    // When it got there: along the way evenly; against a surface that stands, exactly, by the speed that the height down to it gives.
    let tau: f32 = f * h
    if (!moves && best >= 0) {
      const vr = u * nx + v * ny + w * nz,
        an = ax * nx + ay * ny + az * nz,
        down = f * h * (vr + an * half)
      const speed = Mathf.sqrt(max(<f32>0, vr * vr + 2 * an * down))
      if (vr > 0 && an < 0) tau = (vr + speed) / -an
      else if (speed - vr > 1e-12) tau = (-2 * down) / (speed - vr)
      tau = min(max(tau, <f32>0), h)
    }
    if (notices) {
      // It goes through as if nothing were there: the same piece again, without this one.
      const vn = (u + ax * tau - su) * nx + (v + ay * tau - sv) * ny + (w + az * tau - sw) * nz
      atomic.add<u32>(which + COLLIDER_CONTACTS, 1)
      touched(columns, at, which, x, y, z, left - tau - dtFull, vn)
      noticed |= (<u64>1) << (((which - colliders) / COLLIDER_BYTES) & 63)
      x = fromX
      y = fromY
      z = fromZ
      continue
    }
    u += ax * tau
    v += ay * tau
    w += az * tau
    const remain = left - tau
    if (best < 0) {
      const wx = x - fromX,
        wy = y - fromY,
        wz = z - fromZ
      if (Mathf.abs(wx) + Mathf.abs(wy) + Mathf.abs(wz) <= 4 * stir) {
        x = fromX
        y = fromY
        z = fromZ
      } else {
        const free = room(colliders, count, fromX, fromY, fromZ, wx, wy, wz, pseed, hit, stack)
        x = fromX + wx * free
        y = fromY + wy * free
        z = fromZ + wz * free
        // What is put beside a collider that it overlapped has not moved: nobody that it meets there gets faster by it.
        shift(columns, OX, at, x - fromX)
        shift(columns, OY, at, y - fromY)
        shift(columns, OZ, at, z - fromZ)
      }
    } else if (best == 0 && !moves) {
      // It was there already, and rests where it is to the bit.
      x = fromX
      y = fromY
      z = fromZ
      if (load<u32>(which) == 1 && ly != row(back, 1, fromX, fromY, fromZ)) {
        x = row(now, 0, lx, ly, lz)
        y = row(now, 1, lx, ly, lz)
        z = row(now, 2, lx, ly, lz)
      }
    }
    x += nx * push
    y += ny * push
    z += nz * push
    atomic.add<u32>(which + COLLIDER_CONTACTS, 1)
    const response = load<u32>(which + COLLIDER_MODE)
    touched(
      columns,
      at,
      which,
      x - nx * radius,
      y - ny * radius,
      z - nz * radius,
      remain - dtFull,
      (u - su) * nx + (v - sv) * ny + (w - sw) * nz,
    )
    if (response == CONTACT_MODE_DIE) {
      store<f32>(<usize>load<u32>(columns + (LIFE << 2)) + at, <f32>0)
      break
    }
    // Its place in own space, now and at the end of the substep when it goes along with the surface.
    const qx = row(back, 0, x, y, z) + sx * (1 - s1),
      qy = row(back, 1, x, y, z) + sy * (1 - s1),
      qz = row(back, 2, x, y, z) + sz * (1 - s1)
    if (response == CONTACT_MODE_STICK && holds(columns, at, which, qx, qy, qz, stack, hit)) {
      u = su
      v = sv
      w = sw
      x = row(m1, 0, qx, qy, qz)
      y = row(m1, 1, qx, qy, qz)
      z = row(m1, 2, qx, qy, qz)
      break
    }
    const seed = load<u32>(which + COLLIDER_SEED)
    let restitution = min(
      max(varied(load<f32>(which + COLLIDER_RESTITUTION), load<f32>(which + COLLIDER_RESTITUTION_VARY), seed, pseed, 11), <f32>0),
      <f32>1,
    )
    const mu = max(varied(load<f32>(which + COLLIDER_FRICTION), load<f32>(which + COLLIDER_FRICTION_VARY), seed, pseed, 12), <f32>0)
    const vn = (u - su) * nx + (v - sv) * ny + (w - sw) * nz,
      an = ax * nx + ay * ny + az * nz,
      press = max(<f32>0, -an)
    // A hop that would end within half a substep is none.
    if (restitution * -vn <= <f32>0.25 * press * dtFull) restitution = 0
    let tu = u - su - nx * vn,
      tv = v - sv - ny * vn,
      tw = w - sw - nz * vn
    if (vn < 0) {
      // Coulomb: the tangential change is at most friction × the normal change.
      const slide = Mathf.sqrt(tu * tu + tv * tv + tw * tw + 1e-20)
      const rest = max(<f32>0, 1 - (mu * (1 + restitution) * -vn) / slide)
      const out = -restitution * vn
      tu *= rest
      tv *= rest
      tw *= rest
      u = su + tu + nx * out
      v = sv + tv + ny * out
      w = sw + tw + nz * out
    }
    if (press > 0 && (restitution == 0 || vn >= 0)) {
      // It lies on the surface for the rest of the substep: what presses is held, and friction acts by it. It stops what would otherwise
      // end slower than friction can make it; implicit, so that it never turns anything round.
      let bx = ax - nx * an,
        by = ay - ny * an,
        bz = az - nz * an
      const cu = tu + bx * remain,
        cv = tv + by * remain,
        cw = tw + bz * remain
      const slide = Mathf.sqrt(cu * cu + cv * cv + cw * cw),
        rub = mu * press
      if (slide <= rub * remain) {
        const per: f32 = remain > 0 ? <f32>-1 / remain : 0
        bx = tu * per
        by = tv * per
        bz = tw * per
      } else {
        const k = rub / slide
        bx -= cu * k
        by -= cv * k
        bz -= cw * k
      }
      ax = bx
      ay = by
      az = bz
    }
    left = remain
    // What rests, among colliders that stand, rests to the end.
    if (u == 0 && v == 0 && w == 0 && ax == 0 && ay == 0 && az == 0 && !anyMoves(colliders, count)) break
    if (++bounce == BOUNCES) {
      // Between surfaces that it cannot leave: it goes along with this one, to the end of the piece.
      const on = left < piece * <f32>1.001 ? left : piece,
        last: f32 = on == left ? 1 : 1 - (left - on) * perSecond
      const to = poseAt(m0, m1, path, last, pose + POSE)
      const rx = qx + sx * (last - 1),
        ry = qy + sy * (last - 1),
        rz = qz + sz * (last - 1)
      x = row(to, 0, rx, ry, rz)
      y = row(to, 1, rx, ry, rz)
      z = row(to, 2, rx, ry, rz)
      left -= on
      bounce = 0
    }
    if (left <= 0) break
  }
  store<f32>(px, x)
  store<f32>(py, y)
  store<f32>(pz, z)
  store<f32>(vx, u)
  store<f32>(vy, v)
  store<f32>(vz, w)
  return contacts
}
