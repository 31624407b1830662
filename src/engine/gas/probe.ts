import type { Gas } from './gas'

/** The velocity of a gas at places in the shot, xyz each, m/s: trilinear on the faces of its cells; at rest outside its window. */
export function velocityOf(gas: Gas): (places: Float32Array) => Float32Array {
  const { window } = gas
  if (!window) return (places) => new Float32Array(places.length)
  const { first, count } = window
  const [nx, ny, nz] = count
  const { low, voxel } = gas.plan
  const grids = (['u', 'v', 'w'] as const).map((g) => gas.grid(g))
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
