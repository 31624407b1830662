// Fog before the places of a view, four rays of a row at once. Along each ray in pieces: what a piece takes is exact (the height by its integral,
// patches by their middle), and what it sends on is that of a light that is even within it (Hillaire 2015). Scattered once.
import {
  FOG_AHEAD,
  FOG_DEPTHS,
  FOG_EVEN,
  FOG_EYE,
  FOG_FOGS,
  FOG_FOG_COUNT,
  FOG_HEIGHT,
  FOG_LIGHTS,
  FOG_LIGHT_BYTES,
  FOG_LIGHT_COLOUR,
  FOG_LIGHT_COUNT,
  FOG_LOOK_ALBEDO,
  FOG_LOOK_BYTES,
  FOG_LOOK_FORWARD,
  FOG_LOOK_PATCHES,
  FOG_LOOK_PATCH_ROW,
  FOG_LOOK_SURROUNDINGS,
  FOG_OUT,
  FOG_PATCH_RAYS,
  FOG_REACH,
  FOG_RIGHT,
  FOG_UP,
  FOG_WIDTH,
  JOB_CHUNK,
  JOB_COUNT,
  JOB_NEXT,
  JOB_RECORD,
  JOB_SCRATCH,
  JOB_STOP,
  SCRATCH_BYTES,
} from './layout'
import { beginBeam, BEAM_BYTES, between, thickness } from './fogBeam'
import { exp2x4, LOG2E, toHalf } from './math'
import { all } from './vector'

/** A vector along an axis of four rays. */
// @ts-ignore: decorator
@inline function along(m: usize, axis: usize, u: v128, v: f32): v128 {
  return f32x4.add(
    all(load<f32>(m + FOG_AHEAD + axis) + load<f32>(m + FOG_UP + axis) * v),
    f32x4.mul(u, all(load<f32>(m + FOG_RIGHT + axis))),
  )
}
// @ts-ignore: decorator
@inline function depthAt(m: usize, k: i32): f32 {
  const part = <f32>k / <f32>(load<i32>(m + FOG_DEPTHS) - 1)
  return load<f32>(m + FOG_REACH) * part * part
}
/** How much denser a fog is by its patches in the piece before the k-th depth, on four rays from the i-th on. */
// @ts-ignore: decorator
@inline function patched(m: usize, f: usize, i: i32, j: i32, k: i32): v128 {
  const depths = load<i32>(m + FOG_DEPTHS),
    row = load<i32>(f + FOG_LOOK_PATCH_ROW) * depths,
    fy: f32 = <f32>(j & (FOG_PATCH_RAYS - 1)) / <f32>FOG_PATCH_RAYS
  const at = <usize>load<u32>(f + FOG_LOOK_PATCHES) + ((<usize>((j / FOG_PATCH_RAYS) * row + (i / FOG_PATCH_RAYS) * depths + k)) << 2)
  const next = (<usize>depths) << 2,
    above = (<usize>row) << 2
  const a = load<f32>(at) + (load<f32>(at + above) - load<f32>(at)) * fy,
    b = load<f32>(at + next) + (load<f32>(at + above + next) - load<f32>(at + next)) * fy
  return f32x4.add(all(a), f32x4.mul(all(b - a), f32x4(0, 0.25, 0.5, 0.75)))
}
/** Light and what is left of four rays, as halves; those beyond the row are left out. */
// @ts-ignore: decorator
@inline function put(at: usize, count: i32, r: v128, g: v128, b: v128, left: v128): void {
  one(at, f32x4.extract_lane(r, 0), f32x4.extract_lane(g, 0), f32x4.extract_lane(b, 0), f32x4.extract_lane(left, 0))
  if (count > 1) one(at + 8, f32x4.extract_lane(r, 1), f32x4.extract_lane(g, 1), f32x4.extract_lane(b, 1), f32x4.extract_lane(left, 1))
  if (count > 2) one(at + 16, f32x4.extract_lane(r, 2), f32x4.extract_lane(g, 2), f32x4.extract_lane(b, 2), f32x4.extract_lane(left, 2))
  if (count > 3) one(at + 24, f32x4.extract_lane(r, 3), f32x4.extract_lane(g, 3), f32x4.extract_lane(b, 3), f32x4.extract_lane(left, 3))
}
function one(at: usize, r: f32, g: f32, b: f32, left: f32): void {
  store<u16>(at, <u16>toHalf(r))
  store<u16>(at, <u16>toHalf(g), 2)
  store<u16>(at, <u16>toHalf(b), 4)
  store<u16>(at, <u16>toHalf(left), 6)
}
function fogRow(m: usize, j: i32, scratch: usize): void {
  const width = load<i32>(m + FOG_WIDTH),
    height = load<i32>(m + FOG_HEIGHT),
    depths = load<i32>(m + FOG_DEPTHS)
  const fogs = <usize>load<u32>(m + FOG_FOGS),
    fogCount = load<i32>(m + FOG_FOG_COUNT),
    lights = <usize>load<u32>(m + FOG_LIGHTS),
    lightCount = load<i32>(m + FOG_LIGHT_COUNT)
  const plane = (<usize>(width * height)) << 3
  const v: f32 = ((<f32>j + <f32>0.5) / <f32>height) * 2 - 1,
    eyeY = all(load<f32>(m + FOG_EYE + 4))
  for (let i = 0; i < width; i += 4) {
    const u = f32x4.sub(f32x4.mul(f32x4.add(all(<f32>i), f32x4(0.5, 1.5, 2.5, 3.5)), all(<f32>2 / <f32>width)), all(1))
    const rx = along(m, 0, u, v),
      ry = along(m, 4, u, v),
      rz = along(m, 8, u, v)
    const long = f32x4.sqrt(f32x4.add(f32x4.mul(rx, rx), f32x4.add(f32x4.mul(ry, ry), f32x4.mul(rz, rz))))
    for (let n = 0; n < lightCount; n++)
      beginBeam(m + FOG_EYE, lights + <usize>n * FOG_LIGHT_BYTES, scratch + <usize>n * BEAM_BYTES, rx, ry, rz, long)
    let left = all(1),
      r = all(0),
      g = all(0),
      b = all(0)
    let out = <usize>load<u32>(m + FOG_OUT) + ((<usize>(j * width + i)) << 3)
    put(out, width - i, r, g, b, left)
    for (let k = 1; k < depths; k++) {
      const from = depthAt(m, k - 1),
        to = depthAt(m, k)
      const y0 = f32x4.add(eyeY, f32x4.mul(ry, all(from))),
        y1 = f32x4.add(eyeY, f32x4.mul(ry, all(to)))
      let sum = all(0),
        sr = all(0),
        sg = all(0),
        sb = all(0)
      for (let n = 0; n < fogCount; n++) {
        const f = fogs + <usize>n * FOG_LOOK_BYTES
        let thick = thickness(f, y0, y1)
        if (load<u32>(f + FOG_LOOK_PATCHES)) thick = f32x4.mul(thick, patched(m, f, i, j, k))
        if (!v128.any_true(f32x4.gt(thick, all(1e-9)))) continue
        sum = f32x4.add(sum, thick)
        const share = load<f32>(f + FOG_LOOK_SURROUNDINGS)
        let lr = all(share * load<f32>(m + FOG_EVEN)),
          lg = all(share * load<f32>(m + FOG_EVEN + 4)),
          lb = all(share * load<f32>(m + FOG_EVEN + 8))
        for (let q = 0; q < lightCount; q++) {
          const l = lights + <usize>q * FOG_LIGHT_BYTES
          const shine = between(
            m + FOG_EYE,
            l,
            scratch + <usize>q * BEAM_BYTES,
            fogs,
            fogCount,
            load<f32>(f + FOG_LOOK_FORWARD),
            from,
            to,
            rx,
            ry,
            rz,
            long,
          )
          const c = l + FOG_LIGHT_COLOUR
          lr = f32x4.add(lr, f32x4.mul(shine, all(load<f32>(c))))
          lg = f32x4.add(lg, f32x4.mul(shine, all(load<f32>(c, 4))))
          lb = f32x4.add(lb, f32x4.mul(shine, all(load<f32>(c, 8))))
        }
        const a = f + FOG_LOOK_ALBEDO
        sr = f32x4.add(sr, f32x4.mul(f32x4.mul(thick, all(load<f32>(a))), lr))
        sg = f32x4.add(sg, f32x4.mul(f32x4.mul(thick, all(load<f32>(a, 4))), lg))
        sb = f32x4.add(sb, f32x4.mul(f32x4.mul(thick, all(load<f32>(a, 8))), lb))
      }
      const passes = exp2x4(f32x4.mul(f32x4.mul(sum, long), all(-LOG2E * (to - from))))
      const takes = f32x4.gt(sum, all(0)),
        sent = v128.and(f32x4.div(f32x4.mul(left, f32x4.sub(all(1), passes)), f32x4.max(sum, all(1e-20))), takes)
      r = f32x4.add(r, f32x4.mul(sr, sent))
      g = f32x4.add(g, f32x4.mul(sg, sent))
      b = f32x4.add(b, f32x4.mul(sb, sent))
      left = f32x4.mul(left, v128.bitselect(passes, all(1), takes))
      out += plane
      put(out, width - i, r, g, b, left)
    }
  }
}
/** Rows of rays, chunk by chunk from a shared counter. */
export function fog(job: usize, thread: i32): void {
  const m = <usize>load<u32>(job + JOB_RECORD),
    count = load<i32>(job + JOB_COUNT),
    chunk = load<i32>(job + JOB_CHUNK)
  const stop = <usize>load<u32>(job + JOB_STOP),
    scratch = <usize>load<u32>(job + JOB_SCRATCH) + <usize>thread * SCRATCH_BYTES
  while (atomic.load<u32>(stop) == 0) {
    const begin = atomic.add<i32>(job + JOB_NEXT, chunk)
    if (begin >= count) return
    for (let n = begin, end = min(begin + chunk, count); n < end; n++) fogRow(m, n, scratch)
  }
}
