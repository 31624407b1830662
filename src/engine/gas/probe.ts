import type { Gas, GasGrid } from './gas'
import type { Cells } from './window'

/** What is known of a gas in its window, x first. */
export interface GasField {
  readonly window: Cells | null
  /** Corner of all that it may have, m, from which its window is counted. */
  readonly low: readonly number[]
  readonly voxel: number
  grid(name: GasGrid): Float32Array
}
export const fieldOf = (gas: Gas): GasField => ({
  ...{ window: gas.window, low: gas.plan.low, voxel: gas.plan.voxel },
  grid: (name) => gas.grid(name),
})
/** The velocity of a gas at places in the shot, xyz each, m/s: trilinear on the faces of its cells; at rest outside its window. */
export function velocityOf(gas: GasField): (places: Float32Array) => Float32Array {
  const { window } = gas
  if (!window) return (places) => new Float32Array(places.length)
  const { first, count } = window
  const [nx, ny, nz] = count
  const { low, voxel } = gas
  const grids = (['u', 'v', 'w'] as const).map((g) => gas.grid(g))
  if (!grids[0].length) return (places) => new Float32Array(places.length)
  const within = (x: number, n: number) => Math.min(n - 1, Math.max(0, x))
  return (places) =>
    places.map((_, n) => {
      const axis = n % 3
      const p = [0, 1, 2].map((a) => (places[n - axis + a] - low[a]) / voxel - first[a])
      if (p.some((x, a) => !(x >= 0 && x <= count[a]))) return 0
      // Its own component lies on faces, the others half a cell further.
      const q = p.map((x, a) => (a === axis ? x : x - 0.5))
      const [i, j, k] = q.map(Math.floor)
      let sum = 0
      for (let c = 0; c < 8; c++) {
        const [a, b, d] = [c & 1, (c >> 1) & 1, c >> 2]
        const share = (a ? q[0] - i : 1 - q[0] + i) * (b ? q[1] - j : 1 - q[1] + j) * (d ? q[2] - k : 1 - q[2] + k)
        sum += share * grids[axis][within(i + a, nx) + nx * (within(j + b, ny) + ny * within(k + d, nz))]
      }
      return sum
    })
}
