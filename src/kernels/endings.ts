// What ends lives, where particles are after contact.
import {
  AGE,
  BOUNDS_BYTES,
  BOUNDS_COUNT,
  BOUNDS_PHASES,
  LIFE,
  MIN_SIZE_BYTES,
  MIN_SIZE_MIN,
  MIN_SIZE_PHASES,
  MIN_SIZE_SAMPLES,
  MIN_SIZE_SIZE,
  MIN_SIZE_VARY,
  OP_SEED,
  PHASE,
  PX,
  PY,
  PZ,
  SEED,
  SIZE,
} from './layout'
import { hash3, signed } from './math'

/** Four lanes: who is in one of some phases. */
function inPhases(phases: usize, mask: u32): v128 {
  let out: v128 = i32x4.splat(0)
  out = i32x4.replace_lane(out, 0, (mask >> load<u32>(phases)) & 1 ? -1 : 0)
  out = i32x4.replace_lane(out, 1, (mask >> load<u32>(phases, 4)) & 1 ? -1 : 0)
  out = i32x4.replace_lane(out, 2, (mask >> load<u32>(phases, 8)) & 1 ? -1 : 0)
  return i32x4.replace_lane(out, 3, (mask >> load<u32>(phases, 12)) & 1 ? -1 : 0)
}
/**
 * Ends the lives of those outside any of some planes. Inside is where x·px + y·py + z·pz +
 * d ≥ 0.
 */
export function bounds(columns: usize, op: usize, begin: i32, n: i32): void {
  const base = (<usize>begin) << 2,
    bytes = (<usize>n) << 2
  const life = <usize>load<u32>(columns + (LIFE << 2)) + base
  const px = <usize>load<u32>(columns + (PX << 2)) + base,
    py = <usize>load<u32>(columns + (PY << 2)) + base,
    pz = <usize>load<u32>(columns + (PZ << 2)) + base
  const count = load<i32>(op + BOUNDS_COUNT),
    mask = load<u32>(op + BOUNDS_PHASES),
    phases = <usize>load<u32>(columns + (PHASE << 2)) + base
  const zero = f32x4.splat(0)
  for (let o: usize = 0; o < bytes; o += 16) {
    let out: v128 = i32x4.splat(0)
    for (let k = 0; k < count; k++) {
      const p = op + BOUNDS_BYTES + ((<usize>k) << 4)
      const d = f32x4.add(
        f32x4.add(
          f32x4.add(f32x4.mul(v128.load(px + o), v128.load32_splat(p)), f32x4.mul(v128.load(py + o), v128.load32_splat(p + 4))),
          f32x4.mul(v128.load(pz + o), v128.load32_splat(p + 8)),
        ),
        v128.load32_splat(p + 12),
      )
      out = v128.or(out, f32x4.lt(d, zero))
    }
    if (mask != 0xffffffff) out = v128.and(out, inPhases(phases + o, mask))
    if (v128.any_true(out)) v128.store(life + o, v128.bitselect(zero, v128.load(life + o), out))
  }
}

/**
 * Ends the lives of those that are drawn smaller than a size. The same sizes as in acts/look.ts and in the shaders.
 */
export function minSize(columns: usize, op: usize, begin: i32, n: i32): void {
  const base = (<usize>begin) << 2
  const life = <usize>load<u32>(columns + (LIFE << 2)) + base,
    age = <usize>load<u32>(columns + (AGE << 2)) + base,
    seeds = <usize>load<u32>(columns + (SEED << 2)) + base
  const minimum = load<f32>(op + MIN_SIZE_MIN),
    size = load<f32>(op + MIN_SIZE_SIZE),
    vary = load<f32>(op + MIN_SIZE_VARY)
  const last = load<i32>(op + MIN_SIZE_SAMPLES) - 1,
    curve = op + MIN_SIZE_BYTES
  const seed = load<u32>(op + OP_SEED),
    mask = load<u32>(op + MIN_SIZE_PHASES),
    phases = <usize>load<u32>(columns + (PHASE << 2)) + base
  const grown = <usize>load<u32>(columns + (SIZE << 2)),
    sizes = grown ? grown + base : 0
  for (let o: usize = 0, end = (<usize>n) << 2; o < end; o += 4) {
    const l = load<f32>(life + o),
      a = load<f32>(age + o)
    if (a < 0 || !((mask >> load<u32>(phases + o)) & 1)) continue
    const x = min(max(l > 0 ? a / l : <f32>1, <f32>0), <f32>1) * <f32>last
    const i = min(<i32>x, last - 1)
    const at = curve + ((<usize>i) << 2)
    const f = x - <f32>i
    let factor = load<f32>(at) + f * (load<f32>(at, 4) - load<f32>(at))
    if (sizes) factor *= load<f32>(sizes + o) + 1
    const own = max(<f32>0, vary == 0 ? size : size + vary * signed(hash3(seed, load<u32>(seeds + o), 20)))
    if (own * factor < minimum) store<f32>(life + o, <f32>0)
  }
}
