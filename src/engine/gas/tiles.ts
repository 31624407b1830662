import { SCALAR_COUNT, TILE } from '../memory'
import { type Cells, isEmpty, shared } from './window'

/** Where the n-th tile lies, x first. */
export const placeOf = (n: number, dims: readonly number[]): number[] => [
  n % dims[0],
  Math.floor(n / dims[0]) % dims[1],
  Math.floor(n / (dims[0] * dims[1])),
]
/** The box of cells around all tiles of a window whose flag is set; null when none is. */
export function cellsOfTiles(flags: Uint32Array, dims: readonly number[], { first }: Cells): Cells | null {
  const low = [Infinity, Infinity, Infinity]
  const high = [-Infinity, -Infinity, -Infinity]
  flags.forEach((is, t) => {
    if (!is) return
    placeOf(t, dims).forEach((x, a) => {
      low[a] = Math.min(low[a], x)
      high[a] = Math.max(high[a], x)
    })
  })
  if (!(high[0] >= low[0])) return null
  const cells = (v: number[], by = 0) => v.map((x, a) => first[a] + (x + by) * TILE) as [number, number, number]
  const from = cells(low)
  return { first: from, count: cells(high, 1).map((x, a) => x - from[a]) as [number, number, number] }
}
/** Flags of tiles, x first, a bit each: what any tile has is set as well for `reach` tiles around it; changes them. */
export function spread(flags: Uint8Array, dims: readonly number[], reach: number): Uint8Array {
  let stride = 1
  for (const n of dims) {
    const line = new Uint8Array(n)
    for (let o = 0; o < flags.length; o++) {
      if (Math.floor(o / stride) % n) continue
      for (let i = 0; i < n; i++) line[i] = flags[o + i * stride]
      for (let i = 0; i < n; i++)
        if (line[i]) for (let k = Math.max(0, i - reach), end = Math.min(n - 1, i + reach); k <= end; k++) flags[o + k * stride] |= line[i]
    }
    stride *= n
  }
  return flags
}
const ALL = (1 << SCALAR_COUNT) - 1
/** Sets all flags of the tiles, x first, that cells lie in, as far as they are within a window. */
export function markTiles(flags: Uint32Array, dims: readonly number[], cells: Cells, window: Cells): void {
  const part = shared(cells, window)
  if (isEmpty(part)) return
  const { first, count } = part
  const low = first.map((x, a) => Math.floor((x - window.first[a]) / TILE))
  const high = first.map((x, a) => Math.floor((x - window.first[a] + count[a] - 1) / TILE))
  for (let k = low[2]; k <= high[2]; k++)
    for (let j = low[1]; j <= high[1]; j++) for (let i = low[0]; i <= high[0]; i++) flags[i + dims[0] * (j + dims[1] * k)] = ALL
}
