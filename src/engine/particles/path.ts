import type { Columns } from '../memory'

/** Where particles were and how fast, as a substep began: their paths through it. Along with the particles of a system. */
export class Paths {
  /** Place and velocity of each, six numbers. */
  private before: Float32Array = new Float32Array(0)
  /** How many were followed as the substep before ended. */
  followed = 0

  get room(): number {
    return this.before.length / 6
  }
  reserve(count: number): void {
    if (count * 6 <= this.before.length) return
    const grown = new Float32Array(Math.ceil(count * 1.5) * 6)
    grown.set(this.before.subarray(0, this.followed * 6))
    this.before = grown
  }
  /** Place and velocity as the substep began, of one that was there. */
  at(i: number): Float32Array {
    return this.before.subarray(i * 6, i * 6 + 6)
  }
  /** Takes over where all are now, the dead left out. */
  keep(columns: Columns): void {
    const count = columns.count
    this.reserve(count)
    const all = (['px', 'py', 'pz', 'vx', 'vy', 'vz'] as const).map((n) => columns.floats(n))
    const dead = columns.words('dead')
    const { before } = this
    let o = 0
    for (let i = 0; i < count; i++) {
      if (dead[i]) continue
      for (let k = 0; k < 6; k++) before[o + k] = all[k][i]
      o += 6
    }
    this.followed = o / 6
  }
  save(): Float32Array {
    return this.before.slice(0, this.followed * 6)
  }
  restore(words: Float32Array): void {
    this.followed = words.length / 6
    this.before = words.slice()
  }
}
/** The path of one particle through a substep: a cubic (Hermite), or two straight pieces with a contact between them. */
export class Path {
  private readonly a = [0, 0, 0]
  private readonly u = [0, 0, 0]
  private readonly b = [0, 0, 0]
  private readonly v = [0, 0, 0]
  private readonly c = [0, 0, 0]
  /** Seconds that it takes, and where within it, 0 to 1, the contact is; above 1 without one. */
  private h = 0
  corner = 2

  /** From a place and velocity to another; `contact`: where, and when, 0 to 1. */
  set(from: ArrayLike<number>, to: ArrayLike<number>, h: number, contact: { at: ArrayLike<number>; when: number } | null): void {
    for (let k = 0; k < 3; k++) {
      this.a[k] = from[k]
      this.u[k] = from[k + 3]
      this.b[k] = to[k]
      this.v[k] = to[k + 3]
      this.c[k] = contact ? contact.at[k] : 0
    }
    this.h = h
    this.corner = contact ? contact.when : 2
  }
  /** Place and velocity at s, 0 to 1, into `out`. */
  sample(s: number, out: number[]): void {
    const { a, u, b, v, c, h, corner } = this
    for (let k = 0; k < 3; k++) {
      if (corner <= 1) {
        const before = s < corner
        const f = before ? (corner > 0 ? s / corner : 1) : corner < 1 ? (s - corner) / (1 - corner) : 1
        out[k] = before ? a[k] + (c[k] - a[k]) * f : c[k] + (b[k] - c[k]) * f
        out[k + 3] = before ? u[k] : v[k]
        continue
      }
      const [s2, s3] = [s * s, s * s * s]
      out[k] = a[k] * (2 * s3 - 3 * s2 + 1) + u[k] * (s3 - 2 * s2 + s) * h + b[k] * (3 * s2 - 2 * s3) + v[k] * (s3 - s2) * h
      out[k + 3] = h > 0 ? ((b[k] - a[k]) * (6 * s - 6 * s2)) / h + u[k] * (3 * s2 - 4 * s + 1) + v[k] * (3 * s2 - 2 * s) : v[k]
    }
  }
  private readonly p = [0, 0, 0, 0, 0, 0]
  /** Metres up to s, by four chords. */
  length(s: number): number {
    let [x, y, z] = this.a
    let sum = 0
    for (let k = 1; k <= 4; k++) {
      this.sample((s * k) / 4, this.p)
      const [px, py, pz] = this.p
      sum += Math.sqrt((px - x) ** 2 + (py - y) ** 2 + (pz - z) ** 2)
      ;[x, y, z] = [px, py, pz]
    }
    return sum
  }
}
