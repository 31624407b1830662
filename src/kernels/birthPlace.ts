// Where on its source a birth is, in the source's own space.
import { insideMesh } from './inside'
import { column } from './columns'
import {
  BIRTH_AMOUNTS,
  BIRTH_AREAS,
  BIRTH_AWAY,
  BIRTH_DIRECTION,
  BIRTH_GUIDE,
  BIRTH_GUIDE_COUNT,
  BIRTH_GUIDE_SCALE,
  BIRTH_HIGH,
  BIRTH_HIT,
  BIRTH_INDICES,
  BIRTH_KIND,
  BIRTH_KIND_EDGES,
  BIRTH_KIND_FACES,
  BIRTH_KIND_INSIDE,
  BIRTH_KIND_PARTICLES,
  BIRTH_KIND_SITES,
  BIRTH_LEAVES,
  BIRTH_LOW,
  BIRTH_MISSED,
  BIRTH_NODES,
  BIRTH_NORMALS,
  BIRTH_NUMBER,
  BIRTH_ORDER,
  BIRTH_POSITIONS,
  BIRTH_POSITIONS_END,
  BIRTH_SEED,
  BIRTH_SHARE,
  BIRTH_STACK,
  BIRTH_TRI_COUNT,
  BIRTH_TRI_FIRST,
  PX,
  PY,
  PZ,
  SEED,
  VX,
  VY,
  VZ,
} from './layout'
import { hash3, unit } from './math'

/**
 * First triangle of a run whose running area exceeds `u`; `areas` holds running sums, u in [areas before first, areas at last). The guide
 * says for even steps of u which triangle to begin with, never one too late, so that only few are looked at, however many there are.
 */
// @ts-ignore: decorator
@inline function pick(areas: usize, first: u32, count: u32, u: f32, guide: usize, guides: u32, scale: f32): u32 {
  const last = first + count - 1
  // What is not a number, from infinite areas, begins at the first.
  const even = u * scale - 1
  const step = even > 0 ? <u32>min(even, <f32>(guides - 1)) : 0
  let at = max(first, load<u32>(guide + ((<usize>step) << 2)))
  while (at < last && load<f32>(areas + ((<usize>at) << 2)) <= u) at++
  return at
}
/** Births whose triangles are chosen together; as many words as the scratch for the stack of casts holds. */
export const AHEAD: u32 = 256
/** Tries to find a place inside before a birth falls back to the surface. */
const TRIES: u32 = 64
/**
 * Tries to find a particle that gives births; one of a hundred that do is found in all but seven of a hundred births, which end at once.
 */
const SHARE_TRIES: u32 = 256

/** What `placeBirth` found, of this thread: the place and which way it looks from there. */
export let lx: f32 = 0
export let ly: f32 = 0
export let lz: f32 = 0
export let nx: f32 = 0
export let ny: f32 = 0
export let nz: f32 = 0
/** The velocity of the particle that gives the birth; how far the surface's own change takes the place in the substep. */
export let ox: f32 = 0
export let oy: f32 = 0
export let oz: f32 = 0
export let sx: f32 = 0
export let sy: f32 = 0
export let sz: f32 = 0
/** Nobody was found to give it. */
export let barren: bool = false

// @ts-ignore: decorator
@inline function areaBefore(b: usize): f32 {
  const first = load<u32>(b + BIRTH_TRI_FIRST)
  return first > 0 ? load<f32>(<usize>load<u32>(b + BIRTH_AREAS) + ((<usize>(first - 1)) << 2)) : 0
}
// @ts-ignore: decorator
@inline function pickBy(b: usize, pseed: u32): u32 {
  const first = load<u32>(b + BIRTH_TRI_FIRST),
    count = load<u32>(b + BIRTH_TRI_COUNT),
    areas = <usize>load<u32>(b + BIRTH_AREAS)
  const low = areaBefore(b),
    all = load<f32>(areas + ((<usize>(first + count - 1)) << 2)) - low
  const guide = <usize>load<u32>(b + BIRTH_GUIDE)
  return pick(
    areas,
    first,
    count,
    low + all * unit(hash3(pseed, 1, 1)),
    guide,
    load<u32>(b + BIRTH_GUIDE_COUNT),
    load<f32>(b + BIRTH_GUIDE_SCALE),
  )
}
/** Chooses the triangles of `end` births from number `from` on. Those of a large mesh lie far apart in memory: touching many first lets the waits overlap. */
export function chooseAhead(b: usize, from: u32, end: u32): void {
  const seed = load<u32>(b + BIRTH_SEED)
  const positions = <usize>load<u32>(b + BIRTH_POSITIONS),
    indices = <usize>load<u32>(b + BIRTH_INDICES),
    stack = <usize>load<u32>(b + BIRTH_STACK),
    areas = <usize>load<u32>(b + BIRTH_AREAS),
    guide = <usize>load<u32>(b + BIRTH_GUIDE)
  const first = load<u32>(b + BIRTH_TRI_FIRST),
    count = load<u32>(b + BIRTH_TRI_COUNT),
    guides = load<u32>(b + BIRTH_GUIDE_COUNT)
  const low = areaBefore(b),
    all = load<f32>(areas + ((<usize>(first + count - 1)) << 2)) - low,
    scale = load<f32>(b + BIRTH_GUIDE_SCALE)
  for (let i: u32 = 0; i < end; i++) {
    const p = hash3(seed, from + i, 0)
    store<u32>(stack + ((<usize>i) << 2), pick(areas, first, count, low + all * unit(hash3(p, 1, 1)), guide, guides, scale))
  }
  let sum: u32 = 0
  for (let i: u32 = 0; i < end; i++) {
    const t = indices + <usize>load<u32>(stack + ((<usize>i) << 2)) * 12
    sum +=
      load<u32>(positions + <usize>load<u32>(t) * 12) +
      load<u32>(positions + <usize>load<u32>(t, 4) * 12) +
      load<u32>(positions + <usize>load<u32>(t, 8) * 12)
  }
  store<u32>(<usize>load<u32>(b + BIRTH_HIT), sum)
}
/** The place of birth k of a batch, at the share s of the substep, `at` seconds from its start. Of faces and edges it was chosen ahead. */
export function placeBirth(b: usize, k: u32, pseed: u32, at: f32, s: f32): void {
  const seed = load<u32>(b + BIRTH_SEED),
    number = load<u32>(b + BIRTH_NUMBER),
    kind = load<i32>(b + BIRTH_KIND),
    away = load<u32>(b + BIRTH_AWAY)
  const positions = <usize>load<u32>(b + BIRTH_POSITIONS),
    indices = <usize>load<u32>(b + BIRTH_INDICES),
    areas = <usize>load<u32>(b + BIRTH_AREAS),
    normals = <usize>load<u32>(b + BIRTH_NORMALS),
    nodes = <usize>load<u32>(b + BIRTH_NODES),
    leaves = <usize>load<u32>(b + BIRTH_LEAVES)
  const triFirst = load<u32>(b + BIRTH_TRI_FIRST),
    triCount = load<u32>(b + BIRTH_TRI_COUNT)
  // Of a surface that changes shape: the places at the end of the substep lie this far behind those at its start.
  const changes = load<u32>(b + BIRTH_POSITIONS_END) != 0,
    toEnd = <usize>load<u32>(b + BIRTH_POSITIONS_END) - positions
  const amounts = <usize>load<u32>(b + BIRTH_AMOUNTS),
    share = load<f32>(b + BIRTH_SHARE),
    order = load<u32>(b + BIRTH_ORDER)
  const stack = <usize>load<u32>(b + BIRTH_STACK),
    hit = <usize>load<u32>(b + BIRTH_HIT)
  const ahead = kind == BIRTH_KIND_FACES || kind == BIRTH_KIND_EDGES
  lx = ly = lz = ox = oy = oz = sx = sy = sz = 0
  nx = load<f32>(b + BIRTH_DIRECTION)
  ny = load<f32>(b + BIRTH_DIRECTION + 4)
  nz = load<f32>(b + BIRTH_DIRECTION + 8)
  barren = false
  let surface = kind == BIRTH_KIND_FACES || kind == BIRTH_KIND_EDGES
  if (kind == BIRTH_KIND_INSIDE) {
    const loX = load<f32>(b + BIRTH_LOW),
      loY = load<f32>(b + BIRTH_LOW + 4),
      loZ = load<f32>(b + BIRTH_LOW + 8)
    const wide = load<f32>(b + BIRTH_HIGH) - loX,
      high = load<f32>(b + BIRTH_HIGH + 4) - loY,
      deep = load<f32>(b + BIRTH_HIGH + 8) - loZ
    surface = true
    for (let k: u32 = 0; k < TRIES; k++) {
      lx = loX + wide * unit(hash3(pseed, 2, k * 3))
      ly = loY + high * unit(hash3(pseed, 2, k * 3 + 1))
      lz = loZ + deep * unit(hash3(pseed, 2, k * 3 + 2))
      if (insideMesh(nodes, leaves, lx, ly, lz, 2 * (wide + high + deep), stack, hit)) {
        surface = false
        if (away == 0) {
          nx = lx - loX - wide * 0.5
          ny = ly - loY - high * 0.5
          nz = lz - loZ - deep * 0.5
        }
        break
      }
    }
    if (surface) store<u32>(b + BIRTH_MISSED, load<u32>(b + BIRTH_MISSED) + 1)
  }
  if (kind == BIRTH_KIND_SITES) {
    const i = <usize>(order == 1 ? (number + k) % triCount : min(<u32>(unit(hash3(pseed, 1, 1)) * <f32>triCount), triCount - 1)) * 12
    lx = load<f32>(positions + i)
    ly = load<f32>(positions + i, 4)
    lz = load<f32>(positions + i, 8)
    if (changes) {
      const e = positions + i + toEnd
      sx = load<f32>(e) - lx
      sy = load<f32>(e, 4) - ly
      sz = load<f32>(e, 8) - lz
      lx += sx * s
      ly += sy * s
      lz += sz * s
    }
    if (away == 0) {
      nx = load<f32>(normals + i)
      ny = load<f32>(normals + i, 4)
      nz = load<f32>(normals + i, 8)
    }
  } else if (kind == BIRTH_KIND_PARTICLES) {
    let i = (<usize>min(<u32>(unit(hash3(pseed, 1, 1)) * <f32>triCount), triCount - 1)) << 2
    if (share < 1) {
      // Whether a particle gives births is decided once for each: others are tried until one does.
      let n: u32 = 0
      while (n < SHARE_TRIES && unit(hash3(seed, load<u32>(column(positions, SEED) + i), 14)) >= share)
        i = (<usize>min(<u32>(unit(hash3(pseed, 4, n++)) * <f32>triCount), triCount - 1)) << 2
      barren = n == SHARE_TRIES
    }
    ox = load<f32>(column(positions, VX) + i)
    oy = load<f32>(column(positions, VY) + i)
    oz = load<f32>(column(positions, VZ) + i)
    lx = load<f32>(column(positions, PX) + i) + ox * at
    ly = load<f32>(column(positions, PY) + i) + oy * at
    lz = load<f32>(column(positions, PZ) + i) + oz * at
    if (away == 0) {
      nx = ox
      ny = oy
      nz = oz
    }
  } else if (surface) {
    const tri = ahead ? load<u32>(stack + ((<usize>(k % AHEAD)) << 2)) : pickBy(b, pseed)
    const i = indices + <usize>tri * 12
    const vp = <usize>load<u32>(i) * 12,
      vq = <usize>load<u32>(i, 4) * 12
    const p = positions + vp,
      q = positions + vq,
      r = positions + <usize>load<u32>(i, 8) * 12
    const first = unit(hash3(pseed, 1, 2)),
      root = kind == BIRTH_KIND_EDGES ? first : Mathf.sqrt(first),
      second = unit(hash3(pseed, 1, 3))
    let wp: f32 = 1 - root,
      wq: f32 = root * (1 - second),
      wr: f32 = root * second
    if (amounts) {
      // Within the triangle the region's amount goes evenly from corner to corner: places are tried until one is taken by its amount.
      const ap = load<f32>(amounts + vp / 3),
        aq = load<f32>(amounts + vq / 3),
        ar = load<f32>(amounts + <usize>load<u32>(i, 8) * 4)
      const maximum = max(ap, max(aq, ar))
      for (let n: u32 = 0; n < TRIES; n++) {
        if (unit(hash3(pseed, 3, n * 3)) * maximum <= wp * ap + wq * aq + wr * ar) break
        const f = unit(hash3(pseed, 3, n * 3 + 1)),
          g = unit(hash3(pseed, 3, n * 3 + 2)),
          h: f32 = kind == BIRTH_KIND_EDGES ? f : Mathf.sqrt(f)
        wp = 1 - h
        wq = h * (1 - g)
        wr = h * g
      }
    }
    let ax = load<f32>(p),
      ay = load<f32>(p, 4),
      az = load<f32>(p, 8)
    let bx = load<f32>(q),
      by = load<f32>(q, 4),
      bz = load<f32>(q, 8),
      cx = load<f32>(r),
      cy = load<f32>(r, 4),
      cz = load<f32>(r, 8)
    if (changes) {
      const ux = load<f32>(p + toEnd) - ax,
        uy = load<f32>(p + toEnd, 4) - ay,
        uz = load<f32>(p + toEnd, 8) - az
      const vx = load<f32>(q + toEnd) - bx,
        vy = load<f32>(q + toEnd, 4) - by,
        vz = load<f32>(q + toEnd, 8) - bz
      const tx = load<f32>(r + toEnd) - cx,
        ty = load<f32>(r + toEnd, 4) - cy,
        tz = load<f32>(r + toEnd, 8) - cz
      ax += ux * s
      ay += uy * s
      az += uz * s
      bx += vx * s
      by += vy * s
      bz += vz * s
      cx += tx * s
      cy += ty * s
      cz += tz * s
      sx = wp * ux + wq * vx + wr * tx
      sy = wp * uy + wq * vy + wr * ty
      sz = wp * uz + wq * vz + wr * tz
    }
    const ex = bx - ax,
      ey = by - ay,
      ez = bz - az,
      fx = cx - ax,
      fy = cy - ay,
      fz = cz - az
    lx = wp * ax + wq * bx + wr * cx
    ly = wp * ay + wq * by + wr * cy
    lz = wp * az + wq * bz + wr * cz
    if (away == 0) {
      if (kind == BIRTH_KIND_EDGES) {
        nx = wp * load<f32>(normals + vp) + root * load<f32>(normals + vq)
        ny = wp * load<f32>(normals + vp, 4) + root * load<f32>(normals + vq, 4)
        nz = wp * load<f32>(normals + vp, 8) + root * load<f32>(normals + vq, 8)
      } else {
        nx = ey * fz - ez * fy
        ny = ez * fx - ex * fz
        nz = ex * fy - ey * fx
      }
    }
  }
}
