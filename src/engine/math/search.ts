/** How many of an ascending list are at most `x`. */
export function countUpTo(list: ArrayLike<number>, x: number): number {
  let low = 0
  let high = list.length
  while (low < high) {
    const mid = (low + high) >> 1
    if (list[mid] <= x) low = mid + 1
    else high = mid
  }
  return low
}
/** Where a number stands in an ascending list, or −1. */
export function indexOfSorted(list: ArrayLike<number>, x: number): number {
  const i = countUpTo(list, x) - 1
  return list[i] === x ? i : -1
}
