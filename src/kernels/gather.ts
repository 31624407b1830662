// The living move to the front.
import { JOB_COLUMNS, JOB_COUNT, JOB_LIVE, JOB_MAP, JOB_NEXT } from './layout'

/**
 * Words move to the front of a column, as `map` says from where. It only rises, and is never below its own place, so reading is never behind
 * writing; few are missing as a rule, so four stand side by side mostly.
 */
function moveUp(data: usize, map: usize, bytes: usize): void {
  let i: usize = 0
  while (i + 16 <= bytes && load<u32>(map + i, 12) == <u32>(i >> 2) + 3) i += 16
  while (i + 16 <= bytes) {
    const from = load<u32>(map + i)
    if (i + 64 <= bytes && load<u32>(map + i, 60) == from + 15) {
      const at = data + ((<usize>from) << 2)
      v128.store(data + i, v128.load(at))
      v128.store(data + i, v128.load(at, 16), 16)
      v128.store(data + i, v128.load(at, 32), 32)
      v128.store(data + i, v128.load(at, 48), 48)
      i += 64
      continue
    }
    if (load<u32>(map + i, 12) == from + 3) v128.store(data + i, v128.load(data + ((<usize>from) << 2)))
    else for (let k: usize = i; k < i + 16; k += 4) store<u32>(data + k, load<u32>(data + ((<usize>load<u32>(map + k)) << 2)))
    i += 16
  }
  for (; i < bytes; i += 4) store<u32>(data + i, load<u32>(data + ((<usize>load<u32>(map + i)) << 2)))
}
/** Moves the living of all columns to the front, in their order; a column is one unit of work. */
export function gather(job: usize): void {
  const live = load<i32>(job + JOB_LIVE),
    columnCount = load<i32>(job + JOB_COUNT)
  const columns = <usize>load<u32>(job + JOB_COLUMNS),
    map = <usize>load<u32>(job + JOB_MAP)
  while (true) {
    const c = atomic.add<i32>(job + JOB_NEXT, 1)
    if (c >= columnCount) return
    const data = <usize>load<u32>(columns + ((<usize>c) << 2))
    if (data == 0) continue
    moveUp(data, map, (<usize>live) << 2)
  }
}

/** Fills `map` with the places of the living in order; returns how many there are. */
export function survivors(dead: usize, count: i32, map: usize): i32 {
  let live: usize = 0
  for (let i = 0; i < count; i++) {
    store<u32>(map + (live << 2), i)
    live += load<u32>(dead + ((<usize>i) << 2)) == 0 ? 1 : 0
  }
  return <i32>live
}
