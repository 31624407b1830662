// The nearest contact on the way of a particle through a piece of a substep.
import { castBall } from './ball'
import { castMesh } from './cast'
import { castMoving } from './castMoving'
import { passes, row } from './collider'
import { castGrid } from './distance'
import {
  COLLIDER_BOX,
  COLLIDER_BYTES,
  COLLIDER_ENDS,
  COLLIDER_FLAGS,
  COLLIDER_GRID,
  COLLIDER_LEAVES,
  COLLIDER_MODE,
  COLLIDER_NODES,
  COLLIDER_OUT0,
  COLLIDER_OUT1,
  COLLIDER_PATH,
  COLLIDER_PHASES,
  COLLIDER_SCALE,
  COLLIDER_THICKNESS,
  CONTACT_MODE_PASS,
} from './layout'
import { MATRIX, POSE, poseAt } from './pose'

/** Lengths in metres: a cast starts this much early and ends this much late; a particle meets a surface this far off it, and stays there. */
export const SKIN: f32 = 2e-4
export const OFF: f32 = 1e-4
/**
 * What `findContact` found, of this thread: the share of the way, the collider (0: none), its normal and the particle's place in own space, how far
 * that is off the surface already, and how far the surface's own change takes that place in the substep.
 */
export let best: f32 = 2
export let which: usize = 0
export let hnx: f32 = 0
export let hny: f32 = 0
export let hnz: f32 = 0
export let lx: f32 = 0
export let ly: f32 = 0
export let lz: f32 = 0
export let push: f32 = 0
export let sx: f32 = 0
export let sy: f32 = 0
export let sz: f32 = 0

/** Whether a hit is only rounding: the middle is where contact leaves it, and does not come nearer. */
// @ts-ignore: decorator
@inline function rests(hit: usize, gx: f32, gy: f32, gz: f32, wide: f32, stir: f32): bool {
  return load<f32>(hit) > -8 * wide * stir && gx * load<f32>(hit, 4) + gy * load<f32>(hit, 8) + gz * load<f32>(hit, 12) > -stir
}
/**
 * The nearest contact of a way from x, y, z to ex, ey, ez, from the share s of the substep to e. `noticed`: colliders that count
 * as gone, a bit each. `stir`: what comes nearer by less rests.
 */
export function findContact(
  colliders: usize,
  count: i32,
  pseed: u32,
  phase: u32,
  noticed: u64,
  radius: f32,
  x: f32,
  y: f32,
  z: f32,
  ex: f32,
  ey: f32,
  ez: f32,
  s: f32,
  e: f32,
  stir: f32,
  hit: usize,
  stack: usize,
  pose: usize,
): void {
  best = 2
  which = 0
  // The box of the way in three lanes; the fourth never says no.
  const from = f32x4.replace_lane(f32x4.replace_lane(f32x4.splat(x), 1, y), 2, z),
    to = f32x4.replace_lane(f32x4.replace_lane(f32x4.splat(ex), 1, ey), 2, ez)
  const low = f32x4.replace_lane(f32x4.sub(f32x4.min(from, to), f32x4.splat(SKIN)), 3, -Infinity),
    high = f32x4.replace_lane(f32x4.add(f32x4.max(from, to), f32x4.splat(SKIN)), 3, Infinity)
  for (let c = 0; c < count; c++) {
    const r = colliders + <usize>c * COLLIDER_BYTES
    if (v128.any_true(v128.or(f32x4.lt(high, v128.load(r + COLLIDER_BOX)), f32x4.gt(low, v128.load(r + COLLIDER_BOX + 12))))) continue
    if (noticed && (noticed >> (c & 63)) & 1) continue
    if (load<u32>(r + COLLIDER_MODE) == CONTACT_MODE_PASS || passes(r, pseed) || !((load<u32>(r + COLLIDER_PHASES) >> phase) & 1)) continue
    const flags = load<u32>(r + COLLIDER_FLAGS),
      scale = load<f32>(r + COLLIDER_SCALE),
      thick = (load<f32>(r + COLLIDER_THICKNESS) + radius) * scale,
      wide = thick + OFF * scale
    const endless = load<u32>(r) == 1
    // Own space: the start by the pose at this moment of the substep, the end by the one at the end of the piece. The height first:
    // most particles are far above an endless floor, and then nothing else is asked.
    const path = r + COLLIDER_PATH,
      m = poseAt(r + COLLIDER_OUT0, r + COLLIDER_OUT1, path, s, pose) + MATRIX,
      k = poseAt(r + COLLIDER_OUT0, r + COLLIDER_OUT1, path, e, pose + POSE) + MATRIX
    const oy = row(m, 1, x, y, z),
      gy = row(k, 1, ex, ey, ez) - oy
    // Half space: crosses y = 0 downwards. One that starts below stays below; births under a floor fall on.
    if (endless && (oy < -SKIN || oy + gy >= wide || (gy > -stir * scale && (thick == 0 || oy > thick)))) continue
    const ox = row(m, 0, x, y, z),
      oz = row(m, 2, x, y, z)
    const gx = row(k, 0, ex, ey, ez) - ox,
      gz = row(k, 2, ex, ey, ez) - oz
    if (endless) {
      // One that overlaps by more than rounding is put above it; whoever is as near as contact is stays where it is.
      const t: f32 = oy > wide ? (oy - wide) / -gy : oy >= thick - stir * scale ? <f32>0 : oy * oy - wide * wide
      if (t < best) {
        best = t
        which = r
        hnx = 0
        hny = 1
        hnz = 0
        lx = ox + gx * max(t, <f32>0)
        ly = t == 0 ? (wide - oy > stir * scale ? wide : oy) : wide
        lz = oz + gz * max(t, <f32>0)
        push = 0
        sx = 0
        sy = 0
        sz = 0
      }
      continue
    }
    const both = (flags & 1) != 0
    const grid = <usize>load<u32>(r + COLLIDER_GRID)
    store<f32>(hit, best < 1 ? best : <f32>1)
    if (grid) {
      if (!castGrid(grid, ox, oy, oz, gx, gy, gz, wide, hit) || rests(hit, gx, gy, gz, wide, stir * scale)) continue
      best = load<f32>(hit)
      lx = load<f32>(hit, 16)
      ly = load<f32>(hit, 20)
      lz = load<f32>(hit, 24)
    } else if (thick > 0) {
      // A changing one as it is when the substep ends, by the way that its nearest place goes until then.
      const leaves = <usize>load<u32>(r + (flags & 4 ? COLLIDER_ENDS : COLLIDER_LEAVES))
      if (!castBall(<usize>load<u32>(r + COLLIDER_NODES), leaves, both, ox, oy, oz, gx, gy, gz, wide, stack, hit)) continue
      if (rests(hit, gx, gy, gz, wide, stir * scale)) continue
      best = load<f32>(hit)
      lx = load<f32>(hit, 16) + load<f32>(hit, 4) * wide
      ly = load<f32>(hit, 20) + load<f32>(hit, 8) * wide
      lz = load<f32>(hit, 24) + load<f32>(hit, 12) * wide
    }
    if (grid || thick > 0) {
      which = r
      hnx = load<f32>(hit, 4)
      hny = load<f32>(hit, 8)
      hnz = load<f32>(hit, 12)
      push = 0
      sx = 0
      sy = 0
      sz = 0
      continue
    }
    const nodes = <usize>load<u32>(r + COLLIDER_NODES),
      leaves = <usize>load<u32>(r + COLLIDER_LEAVES)
    if (flags & 4) {
      if (best >= 1) store<f32>(hit, <f32>1.000001)
      if (!castMoving(nodes, leaves, <usize>load<u32>(r + COLLIDER_ENDS), both, s, e, ox, oy, oz, gx, gy, gz, SKIN, stack, hit)) continue
      best = load<f32>(hit)
      which = r
      hnx = load<f32>(hit, 4)
      hny = load<f32>(hit, 8)
      hnz = load<f32>(hit, 12)
      sx = load<f32>(hit, 16)
      sy = load<f32>(hit, 20)
      sz = load<f32>(hit, 24)
      lx = ox + gx * best
      ly = oy + gy * best
      lz = oz + gz * best
      push = OFF
      continue
    }
    // A little longer at both ends, so that rounding cannot hide a surface at an end point. Two-sided sheets
    // must not look back: the side a particle came from is the side it is on.
    const length = Mathf.sqrt(gx * gx + gy * gy + gz * gz + 1e-20)
    const skin = SKIN / length,
      back = both ? <f32>0 : skin,
      stretch: f32 = 1 + skin + back
    store<f32>(hit, <f32>1)
    if (
      !castMesh(nodes, leaves, both, ox - gx * back, oy - gy * back, oz - gz * back, gx * stretch, gy * stretch, gz * stretch, stack, hit)
    )
      continue
    const nx = load<f32>(hit, 4),
      ny = load<f32>(hit, 8),
      nz = load<f32>(hit, 12),
      far = load<f32>(hit) * stretch - back
    // It meets the surface where it is OFF away from it: heights over the face, in metres, at the start and at the end of the way.
    const n0 = load<f32>(m) * nx + load<f32>(m + 16) * ny + load<f32>(m + 32) * nz,
      n1 = load<f32>(m + 4) * nx + load<f32>(m + 20) * ny + load<f32>(m + 36) * nz,
      n2 = load<f32>(m + 8) * nx + load<f32>(m + 24) * ny + load<f32>(m + 40) * nz
    const down = (gx * nx + gy * ny + gz * nz) / Mathf.sqrt(n0 * n0 + n1 * n1 + n2 * n2 + 1e-30),
      height = -far * down
    if (down > -stir || height + down > OFF - stir) continue
    const t: f32 = height > OFF ? (height - OFF) / -down : 0
    if (t >= best) continue
    best = t
    which = r
    hnx = nx
    hny = ny
    hnz = nz
    lx = ox + gx * t
    ly = oy + gy * t
    lz = oz + gz * t
    push = height < OFF - stir ? OFF - height : 0
    sx = 0
    sy = 0
    sz = 0
  }
}
