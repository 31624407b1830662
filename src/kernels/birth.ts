import { AHEAD, barren, chooseAhead, lx, ly, lz, nx, ny, nz, ox, oy, oz, placeBirth, sx, sy, sz } from './birthPlace'
import { column } from './columns'
import {
  AGE,
  BIRTH_ANYWAY,
  BIRTH_ANYWAY_VARY,
  BIRTH_AWAY,
  BIRTH_COLUMNS,
  BIRTH_COS_SPREAD,
  BIRTH_COUNT,
  BIRTH_DT,
  BIRTH_FIRST,
  BIRTH_HIT,
  BIRTH_ID,
  BIRTH_INHERIT,
  BIRTH_KIND,
  BIRTH_KIND_EDGES,
  BIRTH_KIND_FACES,
  BIRTH_KIND_PARTICLES,
  BIRTH_KIND_POINT,
  BIRTH_LIFE,
  BIRTH_LIFE_VARY,
  BIRTH_M0,
  BIRTH_M1,
  BIRTH_MISSED,
  BIRTH_NUMBER,
  BIRTH_OFF,
  BIRTH_OUTWARD,
  BIRTH_OUTWARD_VARY,
  BIRTH_PATH,
  BIRTH_SEED,
  BIRTH_SLIDE,
  BIRTH_SLIDE_VARY,
  BIRTH_SPACING,
  BIRTH_SPEED,
  BIRTH_SPEED_VARY,
  BIRTH_TIME0,
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
  const pose = <usize>load<u32>(b + BIRTH_HIT) + 2048
  const outward = load<f32>(b + BIRTH_OUTWARD),
    outwardVary = load<f32>(b + BIRTH_OUTWARD_VARY),
    slide = load<f32>(b + BIRTH_SLIDE),
    slideVary = load<f32>(b + BIRTH_SLIDE_VARY)
  const anyway = load<f32>(b + BIRTH_ANYWAY),
    anywayVary = load<f32>(b + BIRTH_ANYWAY_VARY)
  const extra = outward != 0 || outwardVary != 0 || slide != 0 || slideVary != 0 || anyway != 0 || anywayVary != 0
  store<u32>(b + BIRTH_MISSED, 0)
  const ahead = kind == BIRTH_KIND_FACES || kind == BIRTH_KIND_EDGES
  for (let k: u32 = 0; k < count; k++) {
    if (ahead && k % AHEAD == 0) chooseAhead(b, number + k, min(AHEAD, count - k))
    const pseed = hash3(seed, number + k, 0)
    const at = min(max(time0 + spacing * <f32>k, <f32>0), dt)
    const s = at * perSecond
    placeBirth(b, k, pseed, at, s)
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
}
