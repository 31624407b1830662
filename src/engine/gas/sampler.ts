import type { StoredGrid } from '../geometry'
import type { Matrix } from '../math'

const LEAF = 512
/** Leaves are found by a table as long as it has no more places than this. */
const MOST_PLACES = 1 << 22
/** From places of a grid to the file's space, as other matrices are. */
export const matrixOf = (g: StoredGrid): Matrix => Float64Array.from({ length: 12 }, (_, i) => g.matrix[i % 4][Math.floor(i / 4)])
const samplers = new WeakMap<StoredGrid, Sampler>()

/** Reads a sparse grid between its samples: trilinear, nothing outside of its leaves. */
export class Sampler {
  /** In leaves. */
  private readonly low: number[]
  private readonly dims: number[]
  /** The box of its samples, with one around. */
  readonly box: { low: number[]; high: number[] }
  private readonly table: Int32Array | null
  private readonly found = new Map<string, number>()

  static of(grid: StoredGrid): Sampler {
    const known = samplers.get(grid) ?? new Sampler(grid)
    samplers.set(grid, known)
    return known
  }
  private constructor(private readonly grid: StoredGrid) {
    const { count, origins } = grid
    this.many = grid.channels
    const low = [Infinity, Infinity, Infinity]
    const high = [-Infinity, -Infinity, -Infinity]
    for (let i = 0; i < origins.length; i++) {
      low[i % 3] = Math.min(low[i % 3], origins[i] >> 3)
      high[i % 3] = Math.max(high[i % 3], origins[i] >> 3)
    }
    this.low = count ? low : [0, 0, 0]
    this.dims = count ? high.map((v, a) => v - low[a] + 1) : [0, 0, 0]
    this.box = { low: this.low.map((v) => v * 8 - 1), high: this.low.map((v, a) => (v + this.dims[a]) * 8) }
    const places = this.dims[0] * this.dims[1] * this.dims[2]
    this.table = places <= MOST_PLACES ? new Int32Array(places).fill(-1) : null
    for (let n = 0; n < count; n++) {
      const [x, y, z] = [0, 1, 2].map((a) => (origins[n * 3 + a] >> 3) - this.low[a])
      if (this.table) this.table[x + this.dims[0] * (y + this.dims[1] * z)] = n
      else this.found.set(`${x} ${y} ${z}`, n)
    }
  }
  /** The leaf that has a place of the grid; -1: none. */
  private leaf(i: number, j: number, k: number): number {
    const [x, y, z] = [(i >> 3) - this.low[0], (j >> 3) - this.low[1], (k >> 3) - this.low[2]]
    const [nx, ny, nz] = this.dims
    if (x < 0 || y < 0 || z < 0 || x >= nx || y >= ny || z >= nz) return -1
    return this.table ? this.table[x + nx * (y + ny * z)] : (this.found.get(`${x} ${y} ${z}`) ?? -1)
  }
  private one(i: number, j: number, k: number): number {
    const n = this.leaf(i, j, k)
    return n < 0 ? 0 : this.grid.values[(n * LEAF + (((i & 7) << 6) | ((j & 7) << 3) | (k & 7))) * this.many + this.which]
  }
  /** Numbers of a sample, and which of them is read. */
  private readonly many: number
  private which = 0
  /** The value at a place of the grid, in samples; of a vector one of its numbers. */
  at(x: number, y: number, z: number, which = 0): number {
    this.which = which
    const i = Math.floor(x)
    const j = Math.floor(y)
    const k = Math.floor(z)
    const fx = x - i
    const fy = y - j
    const fz = z - k
    let a: number, b: number, c: number, d: number, e: number, f: number, g: number, h: number
    if ((i & 7) < 7 && (j & 7) < 7 && (k & 7) < 7) {
      const n = this.leaf(i, j, k)
      if (n < 0) return 0
      const v = this.grid.values
      const m = this.many
      const o = (n * LEAF + (((i & 7) << 6) | ((j & 7) << 3) | (k & 7))) * m + which
      a = v[o]
      b = v[o + m]
      c = v[o + 8 * m]
      d = v[o + 9 * m]
      e = v[o + 64 * m]
      f = v[o + 65 * m]
      g = v[o + 72 * m]
      h = v[o + 73 * m]
    } else {
      a = this.one(i, j, k)
      b = this.one(i, j, k + 1)
      c = this.one(i, j + 1, k)
      d = this.one(i, j + 1, k + 1)
      e = this.one(i + 1, j, k)
      f = this.one(i + 1, j, k + 1)
      g = this.one(i + 1, j + 1, k)
      h = this.one(i + 1, j + 1, k + 1)
    }
    const near = (a + (b - a) * fz) * (1 - fy) + (c + (d - c) * fz) * fy
    const far = (e + (f - e) * fz) * (1 - fy) + (g + (h - g) * fz) * fy
    return near + (far - near) * fx
  }
}
