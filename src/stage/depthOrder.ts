/**
 * Particles from the farthest to the nearest along a view direction, by two passes of a radix sort over depths of 16 bits. Its buffers grow
 * and are kept: a View sorts at every picture.
 */
export class DepthOrder {
  /** View depths by number, of those that were sorted last. */
  depth = new Float32Array(0)
  private keys = new Uint16Array(0)
  private from = new Uint32Array(0)
  private to = new Uint32Array(0)
  private starts = [new Uint32Array(256), new Uint32Array(256)]

  /** `x`, `y` and `z` of `n` particles. The order is valid until the next call. */
  of(
    x: Float32Array,
    y: Float32Array,
    z: Float32Array,
    n: number,
    place: readonly [number, number, number],
    forward: readonly [number, number, number],
  ): Uint32Array {
    this.reserve(n)
    const { depth, keys, from, to } = this
    const [px, py, pz] = place
    const [fx, fy, fz] = forward
    let low = Number.POSITIVE_INFINITY
    let high = Number.NEGATIVE_INFINITY
    for (let i = 0; i < n; i++) {
      depth[i] = (x[i] - px) * fx + (y[i] - py) * fy + (z[i] - pz) * fz
      // As it was stored: a bound that is finer than the depths would let keys run over.
      const d = depth[i]
      if (d < low) low = d
      if (d > high) high = d
    }
    const scale = high > low ? 65535 / (high - low) : 0
    const [fine, coarse] = this.starts
    fine.fill(0)
    coarse.fill(0)
    for (let i = 0; i < n; i++) {
      const key = 65535 - (depth[i] - low) * scale
      keys[i] = key
      fine[key & 255]++
      coarse[(key >> 8) & 255]++
    }
    for (const counts of this.starts) {
      let sum = 0
      for (let k = 0; k < 256; k++) {
        const c = counts[k]
        counts[k] = sum
        sum += c
      }
    }
    for (let i = 0; i < n; i++) from[fine[keys[i] & 255]++] = i
    for (let i = 0; i < n; i++) {
      const j = from[i]
      to[coarse[keys[j] >> 8]++] = j
    }
    return to.subarray(0, n)
  }
  private reserve(n: number): void {
    if (n <= this.depth.length) return
    const room = Math.ceil(n * 1.25)
    this.depth = new Float32Array(room)
    this.keys = new Uint16Array(room)
    this.from = new Uint32Array(room)
    this.to = new Uint32Array(room)
  }
}
