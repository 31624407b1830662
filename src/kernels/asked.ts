// What of a thing is where particles are: how far a mesh is, how much of a region its nearest place has, what a gas holds; and the order of
// particles by their depth.
import { closestPoint } from './closest'
import {
  ASK_ACROSS,
  ASK_AMOUNTS,
  ASK_CLOSED,
  ASK_HALVES,
  ASK_INDICES,
  ASK_INTO,
  ASK_LEAVES,
  ASK_NODES,
  ASK_OUT,
  ASK_PX,
  ASK_PY,
  ASK_PZ,
  ASK_SCALE,
  ASK_STEP,
  ASK_STEP_AMOUNT,
  ASK_STEP_COUNT,
  ASK_STEP_DEPTH,
  ASK_STEP_GAS,
  ASK_STEP_SORT,
  ASK_TILES,
  ASK_TILE_BYTES,
  ASK_TRIANGLES,
  JOB_CHUNK,
  JOB_COUNT,
  JOB_NEXT,
  JOB_RECORD,
  JOB_SCRATCH,
  JOB_STOP,
  NEAREST_SLOT,
  NEAREST_U,
  NEAREST_V,
  SCRATCH_BYTES,
  SCRATCH_HIT,
  SCRATCH_STACK,
  TILE,
} from './layout'
import { fromHalf } from './math'
import { isBehind } from './side'
import { countDigits, depthKeys, moveDigits } from './sort'

/** The nearest place of a mesh: how far it is, below zero inside of a closed one, or how much of a region it has. */
function ofMesh(a: usize, x: f32, y: f32, z: f32, stack: usize, hit: usize, amount: bool): f32 {
  const nodes = <usize>load<u32>(a + ASK_NODES),
    leaves = <usize>load<u32>(a + ASK_LEAVES)
  store<f32>(hit, 1e30)
  store<u32>(hit, 0xffffffff, NEAREST_SLOT)
  closestPoint(nodes, leaves, x, y, z, stack, hit)
  if (!amount) {
    const far = Mathf.sqrt(load<f32>(hit)) * load<f32>(a + ASK_SCALE)
    return load<u32>(a + ASK_CLOSED) && isBehind(nodes, leaves, x, y, z, stack, hit) ? -far : far
  }
  const slot = load<u32>(hit, NEAREST_SLOT)
  if (slot == 0xffffffff) return 0
  const region = <usize>load<u32>(a + ASK_AMOUNTS),
    t = load<u32>(<usize>load<u32>(a + ASK_TRIANGLES) + ((<usize>slot) << 2)),
    i = <usize>load<u32>(a + ASK_INDICES) + <usize>t * 12,
    u = load<f32>(hit, NEAREST_U),
    v = load<f32>(hit, NEAREST_V)
  return (
    (1 - u - v) * load<f32>(region + ((<usize>load<u32>(i)) << 2)) +
    u * load<f32>(region + ((<usize>load<u32>(i, 4)) << 2)) +
    v * load<f32>(region + ((<usize>load<u32>(i, 8)) << 2))
  )
}
/** One voxel of a gas; nothing where it has no tile. */
function voxel(a: usize, i: i32, j: i32, k: i32): f32 {
  const tx = load<i32>(a + ASK_ACROSS),
    ty = load<i32>(a + ASK_ACROSS + 4),
    tz = load<i32>(a + ASK_ACROSS + 8)
  if (i < 0 || j < 0 || k < 0 || i >= tx * TILE || j >= ty * TILE || k >= tz * TILE) return 0
  const tile = load<u32>(<usize>load<u32>(a + ASK_TILES) + ((<usize>(i / TILE + tx * (j / TILE + ty * (k / TILE)))) << 2))
  if (tile == 0) return 0
  const at = <usize>load<u32>(a + ASK_HALVES) + <usize>(tile - 1) * <usize>load<u32>(a + ASK_TILE_BYTES)
  return fromHalf(load<u16>(at + ((<usize>((i & (TILE - 1)) + TILE * ((j & (TILE - 1)) + TILE * (k & (TILE - 1))))) << 1)))
}
/** Between the middles of voxels, trilinear; places in voxels. */
function ofGas(a: usize, x: f32, y: f32, z: f32): f32 {
  const u = x - <f32>0.5,
    v = y - <f32>0.5,
    w = z - <f32>0.5
  const fx = Mathf.floor(u),
    fy = Mathf.floor(v),
    fz = Mathf.floor(w)
  // Far outside a float is no whole number any more.
  if (!(Mathf.abs(fx) < 1e6 && Mathf.abs(fy) < 1e6 && Mathf.abs(fz) < 1e6)) return 0
  const i = <i32>fx,
    j = <i32>fy,
    k = <i32>fz
  let sum: f32 = 0
  for (let c = 0; c < 8; c++) {
    const weight = (c & 1 ? u - fx : 1 - (u - fx)) * ((c >> 1) & 1 ? v - fy : <f32>1 - (v - fy)) * (c >> 2 ? w - fz : <f32>1 - (w - fz))
    sum += weight * voxel(a, i + (c & 1), j + ((c >> 1) & 1), k + (c >> 2))
  }
  return sum
}
// @ts-ignore: decorator
@inline function row(m: usize, x: f32, y: f32, z: f32): f32 {
  return load<f32>(m) * x + load<f32>(m, 4) * y + load<f32>(m, 8) * z + load<f32>(m, 12)
}
/** One question, chunk by chunk of the places or part by part of a sort. */
export function asked(job: usize, thread: i32): void {
  const a = <usize>load<u32>(job + JOB_RECORD),
    step = load<u32>(a + ASK_STEP),
    chunk = load<i32>(job + JOB_CHUNK),
    last = load<i32>(job + JOB_COUNT)
  const scratch = <usize>load<u32>(job + JOB_SCRATCH) + <usize>thread * SCRATCH_BYTES
  const stop = <usize>load<u32>(job + JOB_STOP)
  const stack = scratch + SCRATCH_STACK,
    hit = scratch + SCRATCH_HIT
  while (atomic.load<u32>(stop) == 0) {
    const begin = atomic.add<i32>(job + JOB_NEXT, chunk)
    if (begin >= last) return
    if (step == ASK_STEP_COUNT) {
      countDigits(a, begin)
      continue
    }
    if (step == ASK_STEP_SORT) {
      moveDigits(a, begin)
      continue
    }
    if (step == ASK_STEP_DEPTH) {
      depthKeys(a, begin)
      continue
    }
    const end = min(begin + chunk, last)
    const px = <usize>load<u32>(a + ASK_PX),
      py = <usize>load<u32>(a + ASK_PY),
      pz = <usize>load<u32>(a + ASK_PZ),
      out = <usize>load<u32>(a + ASK_OUT)
    for (let o = (<usize>begin) << 2, e = (<usize>end) << 2; o < e; o += 4) {
      const wx = load<f32>(px + o),
        wy = load<f32>(py + o),
        wz = load<f32>(pz + o)
      const x = row(a + ASK_INTO, wx, wy, wz),
        y = row(a + ASK_INTO + 16, wx, wy, wz),
        z = row(a + ASK_INTO + 32, wx, wy, wz)
      store<f32>(out + o, step == ASK_STEP_GAS ? ofGas(a, x, y, z) : ofMesh(a, x, y, z, stack, hit, step == ASK_STEP_AMOUNT))
    }
  }
}
