import { insideMesh } from './inside'
import { column } from './columns'
import {
  AGE,
  BIRTH_AMOUNTS,
  BIRTH_ANYWAY,
  BIRTH_ANYWAY_VARY,
  BIRTH_AREAS,
  BIRTH_AWAY,
  BIRTH_COLUMNS,
  BIRTH_COS_SPREAD,
  BIRTH_COUNT,
  BIRTH_DIRECTION,
  BIRTH_DT,
  BIRTH_FIRST,
  BIRTH_GUIDE,
  BIRTH_GUIDE_COUNT,
  BIRTH_GUIDE_SCALE,
  BIRTH_HIGH,
  BIRTH_HIT,
  BIRTH_ID,
  BIRTH_INDICES,
  BIRTH_INHERIT,
  BIRTH_KIND,
  BIRTH_KIND_EDGES,
  BIRTH_KIND_FACES,
  BIRTH_KIND_INSIDE,
  BIRTH_KIND_PARTICLES,
  BIRTH_KIND_POINT,
  BIRTH_KIND_SITES,
  BIRTH_LEAVES,
  BIRTH_LIFE,
  BIRTH_LIFE_VARY,
  BIRTH_LOW,
  BIRTH_M0,
  BIRTH_M1,
  BIRTH_MISSED,
  BIRTH_NODES,
  BIRTH_NORMALS,
  BIRTH_NUMBER,
  BIRTH_OFF,
  BIRTH_ORDER,
  BIRTH_OUTWARD,
  BIRTH_OUTWARD_VARY,
  BIRTH_PATH,
  BIRTH_POSITIONS,
  BIRTH_POSITIONS_END,
  BIRTH_SEED,
  BIRTH_SHARE,
  BIRTH_SLIDE,
  BIRTH_SLIDE_VARY,
  BIRTH_SPACING,
  BIRTH_SPEED,
  BIRTH_SPEED_VARY,
  BIRTH_STACK,
  BIRTH_TIME0,
  BIRTH_TRI_COUNT,
  BIRTH_TRI_FIRST,
  DEAD,
  HITS,
  ID,
  LIFE,
  PHASE,
  PHASE_START,
  PX,
  PY,
  PZ,
  SEED,
  SX,
  SY,
  SZ,
  VX,
  VY,
  VZ,
} from './layout'
import { cosTurn, hash3, signed, sinTurn, unit } from './math'
import { outAt, POSE, velocityAt } from './pose'

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
const AHEAD: u32 = 256
/** Tries to find a place inside before a birth falls back to the surface. */
const TRIES: u32 = 64
/**
 * Tries to find a particle that gives births; one of a hundred that do is found in all but seven of a hundred births, which end at once.
 */
const SHARE_TRIES: u32 = 256

/**
 * Writes `count` newborns behind the living. Each lies at the source's place at its own moment of birth, and its age starts
 * at minus the time from the start of the substep, so the substep moves it by just the part of dt it has lived.
 * Kinds of place: 0 the source's point, 1 faces, evenly by area: a triangle by its share, then a square-root warp of two numbers (Turk
 * 1990), 2 points of a list with normals, at random or in turn, 3 inside, by trying points of the box, 4 edges, evenly by length, as
 * triangles (a, b, b), 5 the living particles of another system, whose table of columns is `positions`.
 */
export function birth(b: usize): void {
  const columns = <usize>load<u32>(b + BIRTH_COLUMNS)
  const first = load<u32>(b + BIRTH_FIRST),
    count = load<u32>(b + BIRTH_COUNT)
  const seed = load<u32>(b + BIRTH_SEED),
    number = load<u32>(b + BIRTH_NUMBER),
    id = load<u32>(b + BIRTH_ID)
  const kind = load<i32>(b + BIRTH_KIND),
    away = load<u32>(b + BIRTH_AWAY)
  const positions = <usize>load<u32>(b + BIRTH_POSITIONS),
    indices = <usize>load<u32>(b + BIRTH_INDICES),
    areas = <usize>load<u32>(b + BIRTH_AREAS)
  const triFirst = load<u32>(b + BIRTH_TRI_FIRST),
    triCount = load<u32>(b + BIRTH_TRI_COUNT)
  const cosSpread = load<f32>(b + BIRTH_COS_SPREAD),
    speed = load<f32>(b + BIRTH_SPEED),
    speedVary = load<f32>(b + BIRTH_SPEED_VARY)
  const life = load<f32>(b + BIRTH_LIFE),
    lifeVary = load<f32>(b + BIRTH_LIFE_VARY),
    inherit = load<f32>(b + BIRTH_INHERIT)
  const dt = load<f32>(b + BIRTH_DT),
    time0 = load<f32>(b + BIRTH_TIME0),
    spacing = load<f32>(b + BIRTH_SPACING),
    off = load<f32>(b + BIRTH_OFF)
  const m0 = b + BIRTH_M0,
    m1 = b + BIRTH_M1,
    path = b + BIRTH_PATH
  const perSecond: f32 = dt > 0 ? <f32>1.0 / dt : 0
  // Of a surface that changes shape: the places at the end of the substep lie this far behind those at its start.
  const changes = load<u32>(b + BIRTH_POSITIONS_END) != 0,
    toEnd = <usize>load<u32>(b + BIRTH_POSITIONS_END) - positions
  const amounts = <usize>load<u32>(b + BIRTH_AMOUNTS),
    share = load<f32>(b + BIRTH_SHARE)
  const normals = <usize>load<u32>(b + BIRTH_NORMALS),
    order = load<u32>(b + BIRTH_ORDER),
    nodes = <usize>load<u32>(b + BIRTH_NODES),
    leaves = <usize>load<u32>(b + BIRTH_LEAVES)
  const stack = <usize>load<u32>(b + BIRTH_STACK),
    hit = <usize>load<u32>(b + BIRTH_HIT),
    pose = hit + 2048
  const outward = load<f32>(b + BIRTH_OUTWARD),
    outwardVary = load<f32>(b + BIRTH_OUTWARD_VARY),
    slide = load<f32>(b + BIRTH_SLIDE),
    slideVary = load<f32>(b + BIRTH_SLIDE_VARY)
  const anyway = load<f32>(b + BIRTH_ANYWAY),
    anywayVary = load<f32>(b + BIRTH_ANYWAY_VARY)
  const extra = outward != 0 || outwardVary != 0 || slide != 0 || slideVary != 0 || anyway != 0 || anywayVary != 0
  const guide = <usize>load<u32>(b + BIRTH_GUIDE),
    guides = load<u32>(b + BIRTH_GUIDE_COUNT),
    guideScale = load<f32>(b + BIRTH_GUIDE_SCALE)
  let missed: u32 = 0
  const byArea = kind == BIRTH_KIND_FACES || kind == BIRTH_KIND_INSIDE || kind == BIRTH_KIND_EDGES
  const areaLow: f32 = byArea && triFirst > 0 ? load<f32>(areas + ((<usize>(triFirst - 1)) << 2)) : 0
  const areaAll: f32 = byArea ? load<f32>(areas + ((<usize>(triFirst + triCount - 1)) << 2)) - areaLow : 0
  const ahead = kind == BIRTH_KIND_FACES || kind == BIRTH_KIND_EDGES
  for (let k: u32 = 0; k < count; k++) {
    // Triangles of a large mesh lie far apart in memory. Choosing and touching them for many births first lets the waits overlap.
    if (ahead && k % AHEAD == 0) {
      const end = min(AHEAD, count - k)
      for (let i: u32 = 0; i < end; i++) {
        const p = hash3(seed, number + k + i, 0)
        store<u32>(
          stack + ((<usize>i) << 2),
          pick(areas, triFirst, triCount, areaLow + areaAll * unit(hash3(p, 1, 1)), guide, guides, guideScale),
        )
      }
      let sum: u32 = 0
      for (let i: u32 = 0; i < end; i++) {
        const t = indices + <usize>load<u32>(stack + ((<usize>i) << 2)) * 12
        sum +=
          load<u32>(positions + <usize>load<u32>(t) * 12) +
          load<u32>(positions + <usize>load<u32>(t, 4) * 12) +
          load<u32>(positions + <usize>load<u32>(t, 8) * 12)
      }
      store<u32>(hit, sum)
    }
    const pseed = hash3(seed, number + k, 0)
    const at = min(max(time0 + spacing * <f32>k, <f32>0), dt)
    const s = at * perSecond
    // In the source's own space.
    let lx: f32 = 0,
      ly: f32 = 0,
      lz: f32 = 0,
      nx = load<f32>(b + BIRTH_DIRECTION),
      ny = load<f32>(b + BIRTH_DIRECTION + 4),
      nz = load<f32>(b + BIRTH_DIRECTION + 8)
    let barren = false
    let ox: f32 = 0,
      oy: f32 = 0,
      oz: f32 = 0,
      sx: f32 = 0,
      sy: f32 = 0,
      sz: f32 = 0
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
      if (surface) missed++
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
      const tri = ahead
        ? load<u32>(stack + ((<usize>(k % AHEAD)) << 2))
        : pick(areas, triFirst, triCount, areaLow + areaAll * unit(hash3(pseed, 1, 1)), guide, guides, guideScale)
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
    // Into the world at the moment of birth.
    outAt(m0, m1, path, s, pose)
    const a0 = load<f32>(pose),
      a1 = load<f32>(pose, 4),
      a2 = load<f32>(pose, 8),
      a3 = load<f32>(pose, 12)
    const b0 = load<f32>(pose, 16),
      b1 = load<f32>(pose, 20),
      b2 = load<f32>(pose, 24),
      b3 = load<f32>(pose, 28)
    const c0 = load<f32>(pose, 32),
      c1 = load<f32>(pose, 36),
      c2 = load<f32>(pose, 40),
      c3 = load<f32>(pose, 44)
    let x = a0 * lx + a1 * ly + a2 * lz + a3,
      y = b0 * lx + b1 * ly + b2 * lz + b3,
      z = c0 * lx + c1 * ly + c2 * lz + c3
    let dx: f32, dy: f32, dz: f32
    if (kind != BIRTH_KIND_POINT && kind != BIRTH_KIND_PARTICLES && away == 0) {
      // Normals go by the cofactors, which stay right under uneven scale and need no division.
      dx = (b1 * c2 - b2 * c1) * nx + (b2 * c0 - b0 * c2) * ny + (b0 * c1 - b1 * c0) * nz
      dy = (a2 * c1 - a1 * c2) * nx + (a0 * c2 - a2 * c0) * ny + (a1 * c0 - a0 * c1) * nz
      dz = (a1 * b2 - a2 * b1) * nx + (a2 * b0 - a0 * b2) * ny + (a0 * b1 - a1 * b0) * nz
    } else {
      dx = a0 * nx + a1 * ny + a2 * nz
      dy = b0 * nx + b1 * ny + b2 * nz
      dz = c0 * nx + c1 * ny + c2 * nz
    }
    const length = Mathf.sqrt(dx * dx + dy * dy + dz * dz)
    if (length > 1e-30) {
      const i = <f32>1.0 / length
      dx *= i
      dy *= i
      dz *= i
    } else {
      dx = 0
      dy = 1
      dz = 0
    }
    const px = x,
      py = y,
      pz = z
    x += dx * off
    y += dy * off
    z += dz * off
    // Evenly over the cap of the sphere within the spread; a frame around d after Duff et al. 2017.
    const c: f32 = 1 - unit(hash3(pseed, 1, 4)) * (1 - cosSpread)
    const sn = Mathf.sqrt(max(<f32>0, 1 - c * c)),
      turn = unit(hash3(pseed, 1, 5))
    const cu = sn * cosTurn(turn),
      cv = sn * sinTurn(turn)
    const sign: f32 = dz >= 0 ? 1 : -1
    const fa: f32 = <f32>-1 / (sign + dz),
      fb = dx * dy * fa
    let wx: f32 = (<f32>1 + sign * dx * dx * fa) * cu + fb * cv + dx * c
    let wy: f32 = sign * fb * cu + (sign + dy * dy * fa) * cv + dy * c
    let wz: f32 = -sign * dx * cu - dy * cv + dz * c
    const v = speed + speedVary * signed(hash3(pseed, 1, 6))
    wx *= v
    wy *= v
    wz *= v
    if (extra) {
      if (outward != 0 || outwardVary != 0) {
        let rx = x - a3,
          ry = y - b3,
          rz = z - c3
        const far = Mathf.sqrt(rx * rx + ry * ry + rz * rz)
        const q = (outward + outwardVary * signed(hash3(pseed, 1, 8))) / max(far, <f32>1e-12)
        wx += rx * q
        wy += ry * q
        wz += rz * q
      }
      if (slide != 0 || slideVary != 0) {
        // Any direction across the normal, in the frame that is there already.
        const side = unit(hash3(pseed, 1, 9)),
          q = slide + slideVary * signed(hash3(pseed, 1, 10))
        const tu = cosTurn(side) * q,
          tv = sinTurn(side) * q
        wx += (<f32>1 + sign * dx * dx * fa) * tu + fb * tv
        wy += sign * fb * tu + (sign + dy * dy * fa) * tv
        wz += -sign * dx * tu - dy * tv
      }
      if (anyway != 0 || anywayVary != 0) {
        const up = signed(hash3(pseed, 1, 11)),
          flat = Mathf.sqrt(max(<f32>0, 1 - up * up)),
          side = unit(hash3(pseed, 1, 12)),
          q = anyway + anywayVary * signed(hash3(pseed, 1, 13))
        wx += flat * cosTurn(side) * q
        wy += up * q
        wz += flat * sinTurn(side) * q
      }
    }
    if (inherit != 0 && kind == BIRTH_KIND_PARTICLES) {
      wx += ox * inherit
      wy += oy * inherit
      wz += oz * inherit
    } else if (inherit != 0) {
      velocityAt(m0, m1, path, s, perSecond, px, py, pz, lx, ly, lz, pose + POSE)
      // What the surface itself moves by changing shape comes on top.
      const k = inherit * perSecond
      wx += load<f32>(pose + POSE) * inherit + (a0 * sx + a1 * sy + a2 * sz) * k
      wy += load<f32>(pose + POSE, 4) * inherit + (b0 * sx + b1 * sy + b2 * sz) * k
      wz += load<f32>(pose + POSE, 8) * inherit + (c0 * sx + c1 * sy + c2 * sz) * k
    }
    const o = (<usize>(first + k)) << 2
    store<f32>(column(columns, PX) + o, x)
    store<f32>(column(columns, PY) + o, y)
    store<f32>(column(columns, PZ) + o, z)
    store<f32>(column(columns, SX) + o, x)
    store<f32>(column(columns, SY) + o, y)
    store<f32>(column(columns, SZ) + o, z)
    store<f32>(column(columns, VX) + o, wx)
    store<f32>(column(columns, VY) + o, wy)
    store<f32>(column(columns, VZ) + o, wz)
    store<f32>(column(columns, AGE) + o, -at)
    store<f32>(column(columns, LIFE) + o, barren ? <f32>0 : max(<f32>1e-6, life + lifeVary * signed(hash3(pseed, 1, 7))))
    store<u32>(column(columns, SEED) + o, pseed)
    store<u32>(column(columns, ID) + o, id + k)
    store<u32>(column(columns, PHASE) + o, 0)
    store<f32>(column(columns, PHASE_START) + o, <f32>0)
    store<u32>(column(columns, HITS) + o, 0)
    store<u32>(column(columns, DEAD) + o, 0)
  }
  store<u32>(b + BIRTH_MISSED, missed)
}
