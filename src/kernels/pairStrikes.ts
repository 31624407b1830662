// Pairs that strike each other alone: exact in time.
import {
  PAIR_COLUMN_BENT,
  PAIR_COLUMN_BLOWS,
  PAIR_COLUMN_DX,
  PAIR_COLUMN_LISTED,
  PAIR_COLUMN_OX,
  PAIR_COLUMN_PARTNER,
  PAIR_COLUMN_RADIUS,
  PAIR_COLUMN_TIME,
  PAIR_COLUMN_UX,
  PAIR_FRICTION,
  PAIR_LISTED,
  PAIR_LISTS,
  PAIR_PER_SECOND,
  PAIR_QUIET,
  PAIR_RESTITUTION,
} from './layout'
import { at, stopped } from './pairColumns'

/** How it goes on one axis within the substep: the way, and its velocity at share t of it, when a constant acceleration took it there. */
// @ts-ignore: decorator
@inline function way(g: usize, a: usize, s: i32): f32 {
  return load<f32>(at(g, a, s)) - load<f32>(at(g, PAIR_COLUMN_OX + a, s))
}
// @ts-ignore: decorator
@inline function velocity(g: usize, a: usize, s: i32, t: f32, per: f32): f32 {
  const end = load<f32>(at(g, 3 + a, s))
  return end - 2 * (end - way(g, a, s) * per) * (1 - t)
}
/**
 * Whom it strikes first, and when: both go straight, were apart as the substep began, and their middles come as near as their radii. What
 * leans on another, or bends its way at a collider, is left to the rounds of corrections.
 */
export function find(q: usize, g: usize, s: i32): void {
  let partner = -1,
    first: f32 = 1
  if (load<u32>(at(g, PAIR_COLUMN_BENT, s)) == 0) {
    const per = load<f32>(q + PAIR_PER_SECOND),
      quiet = max(load<f32>(q + PAIR_QUIET), <f32>1e-6)
    const r = load<f32>(at(g, PAIR_COLUMN_RADIUS, s))
    const list = <usize>load<u32>(q + PAIR_LISTS) + <usize>s * (PAIR_LISTED << 2)
    for (let k: usize = 0, e = (<usize>load<u32>(at(g, PAIR_COLUMN_LISTED, s))) << 2; k < e; k += 4) {
      const j = load<i32>(list + k)
      if (load<u32>(at(g, PAIR_COLUMN_BENT, j))) continue
      const x = load<f32>(at(g, PAIR_COLUMN_OX, s)) - load<f32>(at(g, PAIR_COLUMN_OX, j)),
        y = load<f32>(at(g, PAIR_COLUMN_OX + 1, s)) - load<f32>(at(g, PAIR_COLUMN_OX + 1, j)),
        z = load<f32>(at(g, PAIR_COLUMN_OX + 2, s)) - load<f32>(at(g, PAIR_COLUMN_OX + 2, j))
      const dx = way(g, 0, s) - way(g, 0, j),
        dy = way(g, 1, s) - way(g, 1, j),
        dz = way(g, 2, s) - way(g, 2, j)
      const reach = r + load<f32>(at(g, PAIR_COLUMN_RADIUS, j))
      const a = dx * dx + dy * dy + dz * dz,
        b = x * dx + y * dy + z * dz,
        c = x * x + y * y + z * z - reach * reach
      if (b >= 0 || c < -1e-3 * reach * reach) continue
      const root = b * b - a * max(c, <f32>0)
      if (root < 0) continue
      const t = max(c, <f32>0) / (Mathf.sqrt(root) - b)
      if (t >= first || (t == first && partner >= 0)) continue
      // How fast they close, along the line through their middles.
      if ((b + a * t) * per > -quiet * reach) continue
      first = t
      partner = j
    }
  }
  store<i32>(at(g, PAIR_COLUMN_PARTNER, s), partner)
  store<f32>(at(g, PAIR_COLUMN_TIME, s), first)
}
/**
 * Two that are each other's first bounce at that moment, with the direction that their middles have then, and go on with their new
 * velocities for the rest of the substep: exact for a pair. Its corrections are left in their columns, the change of its velocity at once.
 */
export function strike(q: usize, g: usize, s: i32): u32 {
  store<f32>(at(g, PAIR_COLUMN_DX, s), 0)
  store<f32>(at(g, PAIR_COLUMN_DX + 1, s), 0)
  store<f32>(at(g, PAIR_COLUMN_DX + 2, s), 0)
  const j = load<i32>(at(g, PAIR_COLUMN_PARTNER, s))
  if (j < 0 || load<i32>(at(g, PAIR_COLUMN_PARTNER, j)) != s) return 0
  const per = load<f32>(q + PAIR_PER_SECOND),
    t = load<f32>(at(g, PAIR_COLUMN_TIME, s))
  let nx = load<f32>(at(g, PAIR_COLUMN_OX, s)) - load<f32>(at(g, PAIR_COLUMN_OX, j)) + t * (way(g, 0, s) - way(g, 0, j)),
    ny = load<f32>(at(g, PAIR_COLUMN_OX + 1, s)) - load<f32>(at(g, PAIR_COLUMN_OX + 1, j)) + t * (way(g, 1, s) - way(g, 1, j)),
    nz = load<f32>(at(g, PAIR_COLUMN_OX + 2, s)) - load<f32>(at(g, PAIR_COLUMN_OX + 2, j)) + t * (way(g, 2, s) - way(g, 2, j))
  const length = Mathf.sqrt(nx * nx + ny * ny + nz * nz)
  if (length < 1e-12) return 0
  nx /= length
  ny /= length
  nz /= length
  let u = velocity(g, 0, s, t, per) - velocity(g, 0, j, t, per),
    v = velocity(g, 1, s, t, per) - velocity(g, 1, j, t, per),
    w = velocity(g, 2, s, t, per) - velocity(g, 2, j, t, per)
  const vn = u * nx + v * ny + w * nz
  if (vn >= 0) return 0
  const r = load<f32>(at(g, PAIR_COLUMN_RADIUS, s)),
    rj = load<f32>(at(g, PAIR_COLUMN_RADIUS, j)),
    m = r * r * r,
    mj = rj * rj * rj,
    part = mj / (m + mj)
  const blow: f32 = -(<f32>1 + load<f32>(q + PAIR_RESTITUTION)) * vn
  u -= nx * vn
  v -= ny * vn
  w -= nz * vn
  const h = stopped(u, v, w, load<f32>(q + PAIR_FRICTION) * blow)
  const du = part * (nx * blow - u * h),
    dv = part * (ny * blow - v * h),
    dw = part * (nz * blow - w * h)
  const later = per > 0 ? (<f32>1 - t) / per : <f32>0
  store<f32>(at(g, PAIR_COLUMN_DX, s), du * later)
  store<f32>(at(g, PAIR_COLUMN_DX + 1, s), dv * later)
  store<f32>(at(g, PAIR_COLUMN_DX + 2, s), dw * later)
  store<f32>(at(g, PAIR_COLUMN_UX, s), load<f32>(at(g, PAIR_COLUMN_UX, s)) + du)
  store<f32>(at(g, PAIR_COLUMN_UX + 1, s), load<f32>(at(g, PAIR_COLUMN_UX + 1, s)) + dv)
  store<f32>(at(g, PAIR_COLUMN_UX + 2, s), load<f32>(at(g, PAIR_COLUMN_UX + 2, s)) + dw)
  store<f32>(at(g, PAIR_COLUMN_BLOWS, s), 1)
  return s < j ? 1 : 0
}
