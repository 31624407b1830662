// Where links stand: in runs, one for each piece of work of the frame that made them, with room between them. Their numbers go on from run to run.
import {
  LINKS_OLD,
  LINKS_OLD_COUNT,
  LINKS_RUN_COUNT,
  LINKS_RUNS,
  LINK_BYTES,
  LINK_ID,
  LINK_PIECE_BYTES,
  LINK_PIECE_MADE,
  LINK_PIECE_OLD,
  LINK_PIECE_OUT,
} from './layout'

// @ts-ignore: decorator
@inline function runAt(r: usize, k: i32): usize {
  return <usize>load<u32>(r + LINKS_RUNS) + <usize>k * LINK_PIECE_BYTES
}
// @ts-ignore: decorator
@inline function beginOf(r: usize, run: usize): usize {
  return <usize>load<u32>(r + LINKS_OLD) + <usize>load<i32>(run + LINK_PIECE_OUT) * LINK_BYTES
}
/** The link at hand, where its run ends, and which run that is; of this thread. */
export let link: usize = 0
let runEnd: usize = 0
let run: usize = 0
/** Goes to a link by its number, which there must be. */
export function goToLink(r: usize, n: i32): void {
  let low = 0,
    high = load<i32>(r + LINKS_RUN_COUNT)
  // The last run that begins at it or before: behind it those without any begin at the same number as the next.
  while (low + 1 < high) {
    const middle = (low + high) >> 1
    if (load<i32>(runAt(r, middle) + LINK_PIECE_OLD) <= n) low = middle
    else high = middle
  }
  run = runAt(r, low)
  link = beginOf(r, run)
  runEnd = link + <usize>load<i32>(run + LINK_PIECE_MADE) * LINK_BYTES
  link += <usize>(n - load<i32>(run + LINK_PIECE_OLD)) * LINK_BYTES
}
/** Goes to the next link, which there must be. */
// @ts-ignore: decorator
@inline export function nextLink(r: usize): void {
  link += LINK_BYTES
  if (link == runEnd) nextRun(r)
}
function nextRun(r: usize): void {
  do run += LINK_PIECE_BYTES
  while (load<i32>(run + LINK_PIECE_MADE) == 0)
  link = beginOf(r, run)
  runEnd = link + <usize>load<i32>(run + LINK_PIECE_MADE) * LINK_BYTES
}
/** The run at which the next lookup starts, for ids that are asked for in their order; of this thread. */
let from: i32 = 0
export function beginLookingUp(): void {
  from = 0
}
/** The number of the first link whose first id is not below this one. */
export function firstFrom(r: usize, id: u32): i32 {
  const runs = load<i32>(r + LINKS_RUN_COUNT)
  for (; from < runs; from++) {
    const at = runAt(r, from),
      made = load<i32>(at + LINK_PIECE_MADE),
      begin = beginOf(r, at)
    if (made == 0 || load<u32>(begin + <usize>(made - 1) * LINK_BYTES + LINK_ID) < id) continue
    let low = 0,
      high = made
    while (low < high) {
      const middle = (low + high) >> 1
      if (load<u32>(begin + <usize>middle * LINK_BYTES + LINK_ID) < id) low = middle + 1
      else high = middle
    }
    return load<i32>(at + LINK_PIECE_OLD) + low
  }
  return load<i32>(r + LINKS_OLD_COUNT)
}
