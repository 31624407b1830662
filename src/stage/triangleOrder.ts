/** Steps of a depth from the lens to the end, by halves, and triangles that are told apart within one: a key is a whole number below 2⁵³. */
const DEPTH_STEPS = 2 ** 29
const MOST_TRIANGLES = 2 ** 23

/**
 * Puts triangles in order from the nearest on, for what is drawn slab by slab; how far each is, m. Those that are as near stay as they lie.
 *
 * @param indices Three vertices each; put in order in place.
 * @param z Of a vertex, its z of clip space over its w.
 * @param distance The view depth of what lies there, m.
 */
export function nearestFirst(indices: Uint32Array, z: (vertex: number) => number, distance: (z: number) => number): Float32Array {
  const n = indices.length / 3
  const depths = new Float64Array(n)
  // Sorted as numbers: how far, and behind it which one.
  const keys = new Float64Array(n)
  for (let k = 0; k < n; k++) {
    depths[k] = (z(indices[3 * k]) + z(indices[3 * k + 1]) + z(indices[3 * k + 2])) / 3
    keys[k] = Math.floor((Math.min(1, Math.max(-1, depths[k])) + 1) * DEPTH_STEPS) * MOST_TRIANGLES + k
  }
  keys.sort()
  const before = indices.slice()
  const out = new Float32Array(n)
  for (let k = 0; k < n; k++) {
    const from = keys[k] % MOST_TRIANGLES
    out[k] = distance(depths[from])
    for (let c = 0; c < 3; c++) indices[3 * k + c] = before[3 * from + c]
  }
  return out
}
