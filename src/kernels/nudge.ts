import { castBall } from './ball'
import { castMesh } from './cast'
import { passes, row } from './collider'
import { wordAt } from './columns'
import { castGrid } from './distance'
import {
  COLLIDER_BYTES,
  COLLIDER_ENDS,
  COLLIDER_FLAGS,
  COLLIDER_FRICTION,
  COLLIDER_GRID,
  COLLIDER_IN1,
  COLLIDER_LEAVES,
  COLLIDER_MODE,
  COLLIDER_NODES,
  COLLIDER_OUT0,
  COLLIDER_OUT1,
  COLLIDER_SCALE,
  COLLIDER_THICKNESS,
  CONTACT_MODE_NOTICE,
  CONTACT_MODE_PASS,
  OX,
  OY,
  OZ,
  PX,
  PY,
  PZ,
  SEED,
} from './layout'

/** Metres that are left to a surface. */
const OFF: f32 = 1e-4
/** So many colliders can turn one correction. */
const TURNS: i32 = 4
/** The middle of what is squeezed stays this far from what it is pressed into. */
const KEEP: f32 = 5e-4

/**
 * How much of a way the middle of a ball can go, as the substep ends, before it is through another surface: what is put beside one collider
 * must not go through a second one, as between two that close.
 */
export function room(
  colliders: usize,
  count: i32,
  x: f32,
  y: f32,
  z: f32,
  dx: f32,
  dy: f32,
  dz: f32,
  pseed: u32,
  hit: usize,
  stack: usize,
): f32 {
  let minimum: f32 = 1
  for (let c = 0; c < count; c++) {
    const k = colliders + <usize>c * COLLIDER_BYTES
    const mode = load<u32>(k + COLLIDER_MODE)
    if (mode == CONTACT_MODE_PASS || mode == CONTACT_MODE_NOTICE || passes(k, pseed)) continue
    const m = k + COLLIDER_IN1
    const ay = row(m, 1, x, y, z),
      by = row(m, 1, x + dx, y + dy, z + dz)
    if (load<u32>(k) == 1) {
      if (ay >= 0 && by < 0) minimum = min(minimum, ay / (ay - by))
      continue
    }
    const ax = row(m, 0, x, y, z),
      az = row(m, 2, x, y, z)
    const flags = load<u32>(k + COLLIDER_FLAGS)
    store<f32>(hit, minimum)
    if (
      castMesh(
        <usize>load<u32>(k + COLLIDER_NODES),
        <usize>load<u32>(k + (flags & 4 ? COLLIDER_ENDS : COLLIDER_LEAVES)),
        (flags & 1) != 0,
        ax,
        ay,
        az,
        row(m, 0, x + dx, y + dy, z + dz) - ax,
        by - ay,
        row(m, 2, x + dx, y + dy, z + dz) - az,
        stack,
        hit,
      )
    )
      minimum = load<f32>(hit)
  }
  return minimum < 1 ? max(<f32>0, minimum - <f32>KEEP / Mathf.sqrt(dx * dx + dy * dy + dz * dz + 1e-20)) : 1
}

/**
 * A correction of the place of one particle, a ball of radius `radius`, as the substep ends: it stops at colliders and slides along them,
 * with their friction on what it moved since the substep began. What overlaps a collider is put beside it first; that much of the way lies
 * at `hit` + 256 xyz afterwards, for it is no movement.
 */
export function nudge(
  columns: usize,
  at: usize,
  dx: f32,
  dy: f32,
  dz: f32,
  radius: f32,
  colliders: usize,
  count: i32,
  hit: usize,
  stack: usize,
): void {
  const px = wordAt(columns, PX, at),
    py = wordAt(columns, PY, at),
    pz = wordAt(columns, PZ, at)
  const pseed = load<u32>(wordAt(columns, SEED, at))
  let x = load<f32>(px),
    y = load<f32>(py),
    z = load<f32>(pz)
  let ax0: f32 = 0,
    ay0: f32 = 0,
    az0: f32 = 0
  for (let turn = 0; turn < TURNS; turn++) {
    let best: f32 = 1,
      which: usize = 0,
      nx: f32 = 0,
      ny: f32 = 0,
      nz: f32 = 0,
      lx: f32 = 0,
      ly: f32 = 0,
      lz: f32 = 0
    for (let c = 0; c < count; c++) {
      const k = colliders + <usize>c * COLLIDER_BYTES
      const mode = load<u32>(k + COLLIDER_MODE)
      if (mode == CONTACT_MODE_PASS || mode == CONTACT_MODE_NOTICE || passes(k, pseed)) continue
      const m = k + COLLIDER_IN1,
        r = (radius + load<f32>(k + COLLIDER_THICKNESS)) * load<f32>(k + COLLIDER_SCALE)
      const ay = row(m, 1, x, y, z),
        by = row(m, 1, x + dx, y + dy, z + dz)
      let hx: f32 = 0,
        hy: f32 = 1,
        hz: f32 = 0
      if (load<u32>(k) == 1) {
        if (ay < 0 || (ay >= r && (by >= r || by >= ay))) continue
        const t: f32 = ay < r ? ay * ay - r * r : (ay - r) / (ay - by)
        if (t >= best) continue
        best = t
        lx = row(m, 0, x, y, z)
        ly = r
        lz = row(m, 2, x, y, z)
      } else {
        const ax = row(m, 0, x, y, z),
          az = row(m, 2, x, y, z)
        const bx = row(m, 0, x + dx, y + dy, z + dz),
          bz = row(m, 2, x + dx, y + dy, z + dz)
        const flags = load<u32>(k + COLLIDER_FLAGS),
          grid = <usize>load<u32>(k + COLLIDER_GRID)
        store<f32>(hit, best)
        if (grid) {
          if (!castGrid(grid, ax, ay, az, bx - ax, by - ay, bz - az, r, hit)) continue
          hx = load<f32>(hit, 4)
          hy = load<f32>(hit, 8)
          hz = load<f32>(hit, 12)
          best = load<f32>(hit)
          lx = load<f32>(hit, 16)
          ly = load<f32>(hit, 20)
          lz = load<f32>(hit, 24)
        } else if (
          !castBall(
            <usize>load<u32>(k + COLLIDER_NODES),
            <usize>load<u32>(k + (flags & 4 ? COLLIDER_ENDS : COLLIDER_LEAVES)),
            (flags & 1) != 0,
            ax,
            ay,
            az,
            bx - ax,
            by - ay,
            bz - az,
            max(r, <f32>OFF),
            stack,
            hit,
          )
        )
          continue
        else {
          hx = load<f32>(hit, 4)
          hy = load<f32>(hit, 8)
          hz = load<f32>(hit, 12)
          best = load<f32>(hit)
          lx = load<f32>(hit, 16) + hx * r
          ly = load<f32>(hit, 20) + hy * r
          lz = load<f32>(hit, 24) + hz * r
        }
      }
      which = k
      nx = load<f32>(m) * hx + load<f32>(m + 16) * hy + load<f32>(m + 32) * hz
      ny = load<f32>(m + 4) * hx + load<f32>(m + 20) * hy + load<f32>(m + 36) * hz
      nz = load<f32>(m + 8) * hx + load<f32>(m + 24) * hy + load<f32>(m + 40) * hz
    }
    if (which == 0) {
      x += dx
      y += dy
      z += dz
      break
    }
    const ni = <f32>1 / Mathf.sqrt(nx * nx + ny * ny + nz * nz + 1e-30)
    nx *= ni
    ny *= ni
    nz *= ni
    if (best < 0) {
      const o = which + COLLIDER_OUT1
      const wx = row(o, 0, lx, ly, lz) + nx * OFF - x,
        wy = row(o, 1, lx, ly, lz) + ny * OFF - y,
        wz = row(o, 2, lx, ly, lz) + nz * OFF - z
      const f = room(colliders, count, x, y, z, wx, wy, wz, pseed, hit, stack)
      x += wx * f
      y += wy * f
      z += wz * f
      ax0 += wx * f
      ay0 += wy * f
      az0 += wz * f
      best = 0
    } else {
      x += dx * best
      y += dy * best
      z += dz * best
    }
    const left: f32 = <f32>1 - best
    dx *= left
    dy *= left
    dz *= left
    const into = -(dx * nx + dy * ny + dz * nz)
    if (into <= 0) continue
    dx += nx * into
    dy += ny * into
    dz += nz * into
    // How the surface went here in this substep: friction is against it.
    const i = which + COLLIDER_IN1
    lx = row(i, 0, x, y, z)
    ly = row(i, 1, x, y, z)
    lz = row(i, 2, x, y, z)
    const sx = row(which + COLLIDER_OUT1, 0, lx, ly, lz) - row(which + COLLIDER_OUT0, 0, lx, ly, lz),
      sy = row(which + COLLIDER_OUT1, 1, lx, ly, lz) - row(which + COLLIDER_OUT0, 1, lx, ly, lz),
      sz = row(which + COLLIDER_OUT1, 2, lx, ly, lz) - row(which + COLLIDER_OUT0, 2, lx, ly, lz)
    let tx = x + dx - ax0 - load<f32>(wordAt(columns, OX, at)) - sx,
      ty = y + dy - ay0 - load<f32>(wordAt(columns, OY, at)) - sy,
      tz = z + dz - az0 - load<f32>(wordAt(columns, OZ, at)) - sz
    const tn = tx * nx + ty * ny + tz * nz
    tx -= tn * nx
    ty -= tn * ny
    tz -= tn * nz
    const slid = Mathf.sqrt(tx * tx + ty * ty + tz * tz)
    if (slid > 1e-12) {
      const h = min(<f32>1, (load<f32>(which + COLLIDER_FRICTION) * into) / slid)
      dx -= tx * h
      dy -= ty * h
      dz -= tz * h
    }
    if (dx == 0 && dy == 0 && dz == 0) break
  }
  store<f32>(px, x)
  store<f32>(py, y)
  store<f32>(pz, z)
  store<f32>(hit, ax0, 256)
  store<f32>(hit, ay0, 260)
  store<f32>(hit, az0, 264)
}
