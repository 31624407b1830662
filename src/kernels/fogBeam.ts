// The light of one source in a fog, along four rays.
import {
  FOG_LIGHT_AIM,
  FOG_LIGHT_FROM,
  FOG_LIGHT_MAP,
  FOG_LIGHT_MAP_ROWS,
  FOG_LIGHT_MAP_SIZE,
  FOG_LIGHT_PLACE,
  FOG_LIGHT_SUN,
  FOG_LIGHT_TO,
  FOG_LOOK_BYTES,
  FOG_LOOK_EXTINCTION,
  FOG_LOOK_HALVES,
  FOG_LOOK_LEVEL,
} from './layout'
import { exp2x4, LOG2E } from './math'
import { all } from './vector'

/** What is known of a light along four rays: the view depths between which it may shine on them, and of a sun the cosine to it. */
export const BEAM_BYTES: usize = 48
/** Looks at a light within a piece of the way that lies close to it. */
const LOOKS: i32 = 4
/** Nearer to a light than this it is no brighter, m. */
const LIGHT_RADIUS: f32 = 0.05
/** A map of what a light sees is wrong by so much of the distance. */
const BIAS: f32 = 0.01
const EVENLY: f32 = 0.0795774715
const FAR: f32 = 1e30

/** What there is of it at heights, as a share of its densest. */
// @ts-ignore: decorator
@inline function above(y: v128, level: v128, per: v128): v128 {
  return exp2x4(f32x4.mul(f32x4.max(f32x4.sub(y, level), all(0)), per))
}
/**
 * Extinction of a fog on the mean between two heights. Above its level it halves every so often, of which the integral is known; between heights
 * that are nearly the same, whose integrals would cancel, what there is in the middle.
 */
// @ts-ignore: decorator
@inline export function thickness(f: usize, y0: v128, y1: v128): v128 {
  const most = load<f32>(f + FOG_LOOK_EXTINCTION),
    halves = load<f32>(f + FOG_LOOK_HALVES)
  if (halves == 0) return all(most)
  const level = all(load<f32>(f + FOG_LOOK_LEVEL)),
    per = all(<f32>-1 / halves),
    scale = halves * (<f32>1 / <f32>0.69314718)
  const low = f32x4.min(y0, y1),
    high = f32x4.max(y0, y1),
    rise = f32x4.sub(high, low)
  const integral = f32x4.add(
    f32x4.max(f32x4.sub(f32x4.min(high, level), low), all(0)),
    f32x4.mul(all(scale), f32x4.sub(above(low, level, per), above(high, level, per))),
  )
  const mean = f32x4.div(integral, rise),
    middle = above(f32x4.mul(all(0.5), f32x4.add(low, high)), level, per)
  return f32x4.mul(all(most), v128.bitselect(mean, middle, f32x4.gt(rise, all(<f32>0.02 * scale))))
}
/** Between which view depths one ray lies in the cone of a spot, from an eye at o from it; the second is not larger where it does nowhere. */
let enters: f32 = 0
let leaves: f32 = 0
function cone(l: usize, ox: f64, oy: f64, oz: f64, rx: f64, ry: f64, rz: f64): void {
  const ax = <f64>load<f32>(l + FOG_LIGHT_AIM),
    ay = <f64>load<f32>(l + FOG_LIGHT_AIM + 4),
    az = <f64>load<f32>(l + FOG_LIGHT_AIM + 8),
    from = <f64>load<f32>(l + FOG_LIGHT_FROM)
  const ra = rx * ax + ry * ay + rz * az,
    oa = ox * ax + oy * ay + oz * az,
    c = from * from
  const A = ra * ra - c * (rx * rx + ry * ry + rz * rz),
    B = ra * oa - c * (ox * rx + oy * ry + oz * rz),
    C = oa * oa - c * (ox * ox + oy * oy + oz * oz)
  const root = B * B - A * C
  enters = 0
  leaves = FAR
  if (!(root > 0) || Math.abs(A) < 1e-12) {
    if (!inside(ra, oa, A, B, C, 0) && !inside(ra, oa, A, B, C, 1e6)) leaves = 0
    return
  }
  const p = (-B - Math.sqrt(root)) / A,
    q = (-B + Math.sqrt(root)) / A,
    d1 = min(p, q),
    d2 = max(p, q)
  // Of the three pieces that it is cut into, those in the cone: before the eye there is one at most.
  if (d1 > 0 && inside(ra, oa, A, B, C, d1 - 1)) leaves = <f32>d1
  else if (d2 > 0 && inside(ra, oa, A, B, C, (d1 + d2) / 2)) {
    enters = <f32>max(<f64>0, d1)
    leaves = <f32>d2
  } else if (inside(ra, oa, A, B, C, d2 + 1)) enters = <f32>max(<f64>0, d2)
  else leaves = 0
}
// @ts-ignore: decorator
@inline function inside(ra: f64, oa: f64, A: f64, B: f64, C: f64, d: f64): bool {
  return oa + ra * d >= 0 && A * d * d + 2 * B * d + C >= 0
}
/** Makes a beam ready for four rays; `long`: metres of each for one of depth. */
// @ts-ignore: decorator
@inline export function beginBeam(eye: usize, l: usize, beam: usize, rx: v128, ry: v128, rz: v128, long: v128): void {
  v128.store(beam, all(0))
  v128.store(beam, all(FAR), 16)
  const px = load<f32>(l + FOG_LIGHT_PLACE),
    py = load<f32>(l + FOG_LIGHT_PLACE + 4),
    pz = load<f32>(l + FOG_LIGHT_PLACE + 8)
  if (load<u32>(l + FOG_LIGHT_SUN)) {
    const dot = f32x4.add(f32x4.mul(all(px), rx), f32x4.add(f32x4.mul(all(py), ry), f32x4.mul(all(pz), rz)))
    v128.store(beam, f32x4.div(dot, long), 32)
    return
  }
  // Wider than half of all around, or nearly so, it is no cone to be cut.
  if (load<f32>(l + FOG_LIGHT_FROM) <= 0.05) return
  const ox = <f64>load<f32>(eye) - <f64>px,
    oy = <f64>load<f32>(eye, 4) - <f64>py,
    oz = <f64>load<f32>(eye, 8) - <f64>pz
  cone(l, ox, oy, oz, f32x4.extract_lane(rx, 0), f32x4.extract_lane(ry, 0), f32x4.extract_lane(rz, 0))
  store<f32>(beam, enters)
  store<f32>(beam, leaves, 16)
  cone(l, ox, oy, oz, f32x4.extract_lane(rx, 1), f32x4.extract_lane(ry, 1), f32x4.extract_lane(rz, 1))
  store<f32>(beam, enters, 4)
  store<f32>(beam, leaves, 20)
  cone(l, ox, oy, oz, f32x4.extract_lane(rx, 2), f32x4.extract_lane(ry, 2), f32x4.extract_lane(rz, 2))
  store<f32>(beam, enters, 8)
  store<f32>(beam, leaves, 24)
  cone(l, ox, oy, oz, f32x4.extract_lane(rx, 3), f32x4.extract_lane(ry, 3), f32x4.extract_lane(rz, 3))
  store<f32>(beam, enters, 12)
  store<f32>(beam, leaves, 28)
}
/** Of light from one direction, the share of the scattered that goes on at an angle, per steradian (Henyey and Greenstein 1941). */
// @ts-ignore: decorator
@inline function phase(g: f32, cosine: v128): v128 {
  const d = f32x4.sub(all(1 + g * g), f32x4.mul(all(2 * g), cosine))
  return f32x4.div(all(EVENLY * (1 - g * g)), f32x4.mul(d, f32x4.sqrt(d)))
}
/** Whether a light sees a place. */
function sees(l: usize, x: f32, y: f32, z: f32): bool {
  const r = l + FOG_LIGHT_MAP_ROWS,
    size = load<i32>(l + FOG_LIGHT_MAP_SIZE)
  const w = load<f32>(r, 32) * x + load<f32>(r, 36) * y + load<f32>(r, 40) * z + load<f32>(r, 44)
  if (!(w > 0)) return true
  const u = Mathf.floor((((load<f32>(r) * x + load<f32>(r, 4) * y + load<f32>(r, 8) * z + load<f32>(r, 12)) / w) * 0.5 + 0.5) * <f32>size),
    v = Mathf.floor((((load<f32>(r, 16) * x + load<f32>(r, 20) * y + load<f32>(r, 24) * z + load<f32>(r, 28)) / w) * 0.5 + 0.5) * <f32>size)
  if (!(u >= 0 && v >= 0 && u < <f32>size && v < <f32>size)) return true
  const nearest = load<f32>(<usize>load<u32>(l + FOG_LIGHT_MAP) + ((<usize>(<i32>v * size + <i32>u)) << 2))
  const d = load<f32>(r, 48) * x + load<f32>(r, 52) * y + load<f32>(r, 56) * z + load<f32>(r, 60)
  return nearest == 0 || d <= nearest * (1 + BIAS)
}
/** 1 where a light sees places, 0 where it does not. */
function seen4(l: usize, x: v128, y: v128, z: v128): v128 {
  return f32x4(
    sees(l, f32x4.extract_lane(x, 0), f32x4.extract_lane(y, 0), f32x4.extract_lane(z, 0)) ? 1 : 0,
    sees(l, f32x4.extract_lane(x, 1), f32x4.extract_lane(y, 1), f32x4.extract_lane(z, 1)) ? 1 : 0,
    sees(l, f32x4.extract_lane(x, 2), f32x4.extract_lane(y, 2), f32x4.extract_lane(z, 2)) ? 1 : 0,
    sees(l, f32x4.extract_lane(x, 3), f32x4.extract_lane(y, 3), f32x4.extract_lane(z, 3)) ? 1 : 0,
  )
}
/** Metres to the light from where it was last looked at, of this thread. */
let nearest: v128 = i64x2.splat(0)
/** Irradiance times the share that goes on to the eye, at view depths of four rays. */
function at(
  eye: usize,
  l: usize,
  beam: usize,
  fogs: usize,
  fogCount: i32,
  forward: f32,
  d: v128,
  rx: v128,
  ry: v128,
  rz: v128,
  long: v128,
): v128 {
  const x = f32x4.add(all(load<f32>(eye)), f32x4.mul(rx, d)),
    y = f32x4.add(all(load<f32>(eye, 4)), f32x4.mul(ry, d)),
    z = f32x4.add(all(load<f32>(eye, 8)), f32x4.mul(rz, d))
  const map = load<u32>(l + FOG_LIGHT_MAP)
  nearest = all(FAR)
  if (load<u32>(l + FOG_LIGHT_SUN)) {
    const goes = phase(forward, v128.load(beam, 32))
    return map ? f32x4.mul(goes, seen4(l, x, y, z)) : goes
  }
  const height = load<f32>(l + FOG_LIGHT_PLACE + 4)
  const dx = f32x4.sub(x, all(load<f32>(l + FOG_LIGHT_PLACE))),
    dy = f32x4.sub(y, all(height)),
    dz = f32x4.sub(z, all(load<f32>(l + FOG_LIGHT_PLACE + 8)))
  const squared = f32x4.add(f32x4.mul(dx, dx), f32x4.add(f32x4.mul(dy, dy), f32x4.mul(dz, dz))),
    far = f32x4.sqrt(squared),
    one = f32x4.div(all(1), f32x4.max(far, all(1e-6)))
  nearest = far
  let shine = f32x4.div(all(1), f32x4.max(squared, all(LIGHT_RADIUS * LIGHT_RADIUS)))
  const from = load<f32>(l + FOG_LIGHT_FROM)
  if (from > -2) {
    const a = l + FOG_LIGHT_AIM
    const cosine = f32x4.mul(
      one,
      f32x4.add(f32x4.mul(dx, all(load<f32>(a))), f32x4.add(f32x4.mul(dy, all(load<f32>(a, 4))), f32x4.mul(dz, all(load<f32>(a, 8))))),
    )
    const per: f32 = <f32>1 / max(<f32>1e-6, load<f32>(l + FOG_LIGHT_TO) - from)
    const f = f32x4.min(f32x4.max(f32x4.mul(f32x4.sub(cosine, all(from)), all(per)), all(0)), all(1))
    shine = f32x4.mul(shine, f32x4.mul(f32x4.mul(f, f), f32x4.sub(all(3), f32x4.add(f, f))))
  }
  if (!v128.any_true(f32x4.gt(shine, all(1e-7)))) return all(0)
  if (map) shine = f32x4.mul(shine, seen4(l, x, y, z))
  let before = all(0)
  for (let n = 0; n < fogCount; n++) before = f32x4.add(before, thickness(fogs + <usize>n * FOG_LOOK_BYTES, all(height), y))
  const cosine = f32x4.div(f32x4.mul(f32x4.neg(one), f32x4.add(f32x4.mul(dx, rx), f32x4.add(f32x4.mul(dy, ry), f32x4.mul(dz, rz)))), long)
  return f32x4.mul(f32x4.mul(shine, phase(forward, cosine)), exp2x4(f32x4.mul(all(-LOG2E), f32x4.mul(before, far))))
}
/** The same on the mean between two view depths; `forward` of the fog that scatters it. */
// @ts-ignore: decorator
@inline export function between(
  eye: usize,
  l: usize,
  beam: usize,
  fogs: usize,
  fogCount: i32,
  forward: f32,
  from: f32,
  to: f32,
  rx: v128,
  ry: v128,
  rz: v128,
  long: v128,
): v128 {
  const begins = f32x4.max(all(from), v128.load(beam)),
    ends = f32x4.min(all(to), v128.load(beam, 16)),
    lit = f32x4.lt(begins, ends)
  if (!v128.any_true(lit)) return all(0)
  const part = f32x4.sub(ends, begins),
    share = v128.and(f32x4.mul(part, all(<f32>1 / (to - from))), lit)
  const middle = at(eye, l, beam, fogs, fogCount, forward, f32x4.mul(all(0.5), f32x4.add(begins, ends)), rx, ry, rz, long)
  // Close to a light it changes within a piece.
  const close = v128.and(f32x4.le(f32x4.mul(nearest, all(3)), f32x4.mul(part, long)), lit)
  if (!v128.any_true(close)) return f32x4.mul(share, middle)
  let sum = all(0)
  for (let q = 0; q < LOOKS; q++) {
    const d = f32x4.add(begins, f32x4.mul(part, all((<f32>q + <f32>0.5) / <f32>LOOKS)))
    sum = f32x4.add(sum, at(eye, l, beam, fogs, fogCount, forward, d, rx, ry, rz, long))
  }
  return f32x4.mul(share, v128.bitselect(f32x4.mul(sum, all(<f32>1 / <f32>LOOKS)), middle, close))
}
