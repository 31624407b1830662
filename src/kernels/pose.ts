// Where a moving object is within a substep. One path, the same whoever asks: a position taken into its own space and back comes out
// where it was, up to rounding, so that what was put beside a surface is still beside it when it is looked at again.
import { MOTION_ANY, MOTION_SHIFT, MOTION_STILL, MOTION_TURN, POSE_PATH_END, POSE_PATH_KIND, POSE_PATH_TURN } from './layout'

/** Bytes of a 3x4 matrix; the way back stands behind the way out. */
export const MATRIX: usize = 48
/** Bytes that a pose takes: both matrices. */
export const POSE: usize = 96
/** The chord's share of a rotation, normalised: the angle of R(s) about a steady axis, tan(φ / 2) = s·sin / (1 − s + s·cos). */
// @ts-ignore: decorator
@inline function rotation(turn: usize, s: f32, out: usize): void {
  const x = load<f32>(turn) * s,
    y = load<f32>(turn, 4) * s,
    z = load<f32>(turn, 8) * s,
    w: f32 = 1 + s * (load<f32>(turn, 12) - 1)
  const k: f32 = 2 / (x * x + y * y + z * z + w * w)
  store<f32>(out, 1 - k * (y * y + z * z))
  store<f32>(out, k * (x * y - z * w), 4)
  store<f32>(out, k * (x * z + y * w), 8)
  store<f32>(out, k * (x * y + z * w), 12)
  store<f32>(out, 1 - k * (x * x + z * z), 16)
  store<f32>(out, k * (y * z - x * w), 20)
  store<f32>(out, k * (x * z - y * w), 24)
  store<f32>(out, k * (y * z + x * w), 28)
  store<f32>(out, 1 - k * (x * x + y * y), 32)
}
/**
 * The world from own space at fraction s of the substep, at `out` (48 bytes), from the poses at both ends and the path between them; the
 * 36 bytes behind are used.
 */
export function outAt(m0: usize, m1: usize, path: usize, s: f32, out: usize): void {
  const kind = load<f32>(path + POSE_PATH_KIND)
  const r = out + MATRIX
  if (kind >= MOTION_TURN) rotation(path + POSE_PATH_TURN, s, r)
  for (let i: usize = 0; i < 3; i++) {
    const o = i << 4
    const t = load<f32>(m0 + o, 12)
    store<f32>(out + o, t + s * (load<f32>(m1 + o, 12) - t), 12)
  }
  for (let c: usize = 0; c < 12; c += 4) {
    let a = load<f32>(m0 + c),
      b = load<f32>(m0 + c, 16),
      d = load<f32>(m0 + c, 32)
    if (kind == MOTION_ANY) {
      a += s * (load<f32>(path + POSE_PATH_END + c) - a)
      b += s * (load<f32>(path + POSE_PATH_END + c, 12) - b)
      d += s * (load<f32>(path + POSE_PATH_END + c, 24) - d)
    }
    if (kind >= MOTION_TURN)
      for (let i: usize = 0; i < 3; i++) {
        const q = r + i * 12
        store<f32>(out + (i << 4) + c, load<f32>(q) * a + load<f32>(q, 4) * b + load<f32>(q, 8) * d)
      }
    else {
      store<f32>(out + c, a)
      store<f32>(out + c, b, 16)
      store<f32>(out + c, d, 32)
    }
  }
}
/** Own space from the world, behind its inverse at `pose`. In double precision: what is lost here would open a gap. */
function invertAt(pose: usize): void {
  const out = pose + MATRIX
  const a = <f64>load<f32>(pose),
    b = <f64>load<f32>(pose, 4),
    c = <f64>load<f32>(pose, 8),
    d = <f64>load<f32>(pose, 16),
    e = <f64>load<f32>(pose, 20),
    f = <f64>load<f32>(pose, 24),
    g = <f64>load<f32>(pose, 32),
    h = <f64>load<f32>(pose, 36),
    i = <f64>load<f32>(pose, 40)
  const A = e * i - f * h,
    B = f * g - d * i,
    C = d * h - e * g
  const det = a * A + b * B + c * C
  const k: f64 = 1 / (Math.abs(det) > 1e-30 ? det : 1e-30)
  store<f32>(out, <f32>(A * k))
  store<f32>(out, <f32>((c * h - b * i) * k), 4)
  store<f32>(out, <f32>((b * f - c * e) * k), 8)
  store<f32>(out, <f32>(B * k), 16)
  store<f32>(out, <f32>((a * i - c * g) * k), 20)
  store<f32>(out, <f32>((c * d - a * f) * k), 24)
  store<f32>(out, <f32>(C * k), 32)
  store<f32>(out, <f32>((b * g - a * h) * k), 36)
  store<f32>(out, <f32>((a * e - b * d) * k), 40)
  for (let r = out; r < out + MATRIX; r += 16)
    store<f32>(
      r,
      -(<f32>(
        (<f64>load<f32>(r) * <f64>load<f32>(pose, 12) +
          <f64>load<f32>(r, 4) * <f64>load<f32>(pose, 28) +
          <f64>load<f32>(r, 8) * <f64>load<f32>(pose, 44))
      )),
      12,
    )
}
/**
 * Out and in matrices, one behind the other, at fraction s of the substep: those of the record at its ends (`m0` and `m1`, each with its
 * inverse behind it), or made at `room` (96 bytes).
 */
export function poseAt(m0: usize, m1: usize, path: usize, s: f32, room: usize): usize {
  if (s <= 0 || load<f32>(path + POSE_PATH_KIND) == MOTION_STILL) return m0
  if (s >= 1) return m1
  outAt(m0, m1, path, s, room)
  if (load<f32>(path + POSE_PATH_KIND) != MOTION_SHIFT) {
    invertAt(room)
    return room
  }
  const out = room + MATRIX
  memory.copy(out, m0 + MATRIX, MATRIX)
  for (let r = out; r < out + MATRIX; r += 16)
    store<f32>(r, -(load<f32>(r) * load<f32>(room, 12) + load<f32>(r, 4) * load<f32>(room, 28) + load<f32>(r, 8) * load<f32>(room, 44)), 12)
  return room
}
/**
 * How fast the point of the object goes that is at (x, y, z) in the world, and (lx, ly, lz) in its own space, at fraction s: the exact
 * derivative of the path, at `out` xyz, times `per`.
 */
export function velocityAt(
  m0: usize,
  m1: usize,
  path: usize,
  s: f32,
  per: f32,
  x: f32,
  y: f32,
  z: f32,
  lx: f32,
  ly: f32,
  lz: f32,
  out: usize,
): void {
  const kind = load<f32>(path + POSE_PATH_KIND)
  const ox = load<f32>(m0, 12),
    oy = load<f32>(m0, 28),
    oz = load<f32>(m0, 44)
  const dx = load<f32>(m1, 12) - ox,
    dy = load<f32>(m1, 28) - oy,
    dz = load<f32>(m1, 44) - oz
  let u = dx,
    v = dy,
    w = dz
  if (kind >= MOTION_TURN) {
    const turn = path + POSE_PATH_TURN
    const a = load<f32>(turn),
      b = load<f32>(turn, 4),
      c = load<f32>(turn, 8)
    const q: f32 = 1 + s * (load<f32>(turn, 12) - 1),
      k: f32 = 2 / (s * s * (a * a + b * b + c * c) + q * q)
    // dφ/ds = 2 sin / |q(s)|² about the axis.
    const rx = x - (ox + s * dx),
      ry = y - (oy + s * dy),
      rz = z - (oz + s * dz)
    u += k * (b * rz - c * ry)
    v += k * (c * rx - a * rz)
    w += k * (a * ry - b * rx)
  }
  if (kind == MOTION_ANY) {
    const e = path + POSE_PATH_END
    const a = (load<f32>(e) - load<f32>(m0)) * lx + (load<f32>(e, 4) - load<f32>(m0, 4)) * ly + (load<f32>(e, 8) - load<f32>(m0, 8)) * lz,
      b =
        (load<f32>(e, 12) - load<f32>(m0, 16)) * lx +
        (load<f32>(e, 16) - load<f32>(m0, 20)) * ly +
        (load<f32>(e, 20) - load<f32>(m0, 24)) * lz,
      c =
        (load<f32>(e, 24) - load<f32>(m0, 32)) * lx +
        (load<f32>(e, 28) - load<f32>(m0, 36)) * ly +
        (load<f32>(e, 32) - load<f32>(m0, 40)) * lz
    rotation(path + POSE_PATH_TURN, s, out + 16)
    const r = out + 16
    u += load<f32>(r) * a + load<f32>(r, 4) * b + load<f32>(r, 8) * c
    v += load<f32>(r, 12) * a + load<f32>(r, 16) * b + load<f32>(r, 20) * c
    w += load<f32>(r, 24) * a + load<f32>(r, 28) * b + load<f32>(r, 32) * c
  }
  store<f32>(out, u * per)
  store<f32>(out, v * per, 4)
  store<f32>(out, w * per, 8)
}
