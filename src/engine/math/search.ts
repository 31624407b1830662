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
/** Whether two lists hold the same numbers; at once for one and the same. */
export function samePlaces(a: Float32Array, b: Float32Array): boolean {
  if (a === b) return true
  if (a.length !== b.length) return false
  for (let i = 0; i < a.length; i++) if (a[i] !== b[i]) return false
  return true
}
