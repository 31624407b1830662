import { type Draw, LOOK_SAMPLES, lookTable, type StripDraw, stripTone } from '../acts'
import { hash3, type Matrix, type StripsPart, stripColumn, stripOffsets, stripPoints, stripTints, unit } from '../engine'

/** Words of a vertex: place, normal, colour. */
export const SOLID_VERTEX_WORDS = 9
const STRIDE = 5
/** Rings of a round end, as angles from the last ring of the strip to its tip, in quarters of a turn. */
const END = [0.5, 1].map((q) => [Math.sin((q * Math.PI) / 2), Math.cos((q * Math.PI) / 2)] as const)

interface Ring {
  /** Middle, how far along the axis the normals lean (−1 to 1), half width, colour. */
  at: readonly [number, number, number]
  lean: number
  radius: number
  colour: readonly [number, number, number]
}

/**
 * Triangles of strips as bodies in the shot: a ring of `sides` vertices about each point, turned as little as may be from one to the next (parallel
 * transport; Bishop 1975), and round ends. They are the same from everywhere, so they take light and throw shadows as objects do.
 */
export class SolidMesh {
  vertices = new Float32Array(SOLID_VERTEX_WORDS * 1024)
  indices = new Uint32Array(4096)
  count = 0
  indexCount = 0
  private rings: Ring[] = []

  clear(): void {
    this.count = this.indexCount = 0
  }
  /** Adds the strips of a part where a copy of their system stands. `looks`: of the particles, by phase; `share`: part of them that is shown, 0 to 1. */
  add(part: StripsPart, draw: StripDraw, looks: readonly Draw[], m: Matrix, share: number): void {
    const offsets = stripOffsets(part)
    const [seeds, phases, ages, lives, fades] = (['seed', 'phase', 'age', 'life', 'fade'] as const).map((n) => stripColumn(part, n))
    const tints = stripTints(part)
    const scale = Math.cbrt(
      Math.abs(m[0] * (m[5] * m[10] - m[6] * m[9]) - m[1] * (m[4] * m[10] - m[6] * m[8]) + m[2] * (m[4] * m[9] - m[5] * m[8])),
    )
    for (let k = 0; k < part.strips; k++) {
      const [from, to] = [offsets[k], offsets[k + 1]]
      if (to - from < 2 || (share < 1 && unit(hash3(0, seeds[k], 21)) >= share)) continue
      const own = { phase: phases[k], age: ages[k], life: lives[k], seed: seeds[k], tint: tints?.[k], fade: fades[k] }
      const { colour, opacity, width } = stripTone(draw, looks, own)
      // A body cannot be seen through: what would fade thins.
      this.strip(part, from, to, draw, m, colour, 0.5 * draw.width * width * opacity * scale)
    }
  }
  private strip(
    part: StripsPart,
    from: number,
    to: number,
    draw: StripDraw,
    m: Matrix,
    colour: readonly [number, number, number],
    radius: number,
  ): void {
    const [xs, ys, zs, alongs] = (['px', 'py', 'pz', 'along'] as const).map((n) => stripPoints(part, n))
    const table = lookTable(draw.look)
    const rings: Ring[] = []
    for (let i = from; i < to; i++) {
      const [x, y, z] = [xs[i], ys[i], zs[i]]
      const at = [0, 4, 8].map((r) => m[r] * x + m[r + 1] * y + m[r + 2] * z + m[r + 3]) as [number, number, number]
      const last = rings[rings.length - 1]
      if (last && (last.at[0] - at[0]) ** 2 + (last.at[1] - at[1]) ** 2 + (last.at[2] - at[2]) ** 2 < 1e-14) continue
      const s = alongs[i] * (LOOK_SAMPLES - 1)
      const o = Math.min(LOOK_SAMPLES - 2, s | 0)
      const f = s - o
      const of = (c: number) => table[o * STRIDE + c] * (1 - f) + table[(o + 1) * STRIDE + c] * f
      rings.push({ at, lean: 0, radius: radius * of(4) * of(3), colour: [of(0) * colour[0], of(1) * colour[1], of(2) * colour[2]] })
    }
    if (rings.length > 1 && rings.some((r) => r.radius > 0)) this.lay(rings, Math.max(3, draw.solid?.sides ?? 6))
  }
  private lay(line: readonly Ring[], sides: number): void {
    const n = line.length
    const tangent = (i: number): [number, number, number] => {
      const [a, b] = [line[Math.max(0, i - 1)].at, line[Math.min(n - 1, i + 1)].at]
      return unitOf([b[0] - a[0], b[1] - a[1], b[2] - a[2]])
    }
    const first = tangent(0)
    const last = tangent(n - 1)
    const end = (r: Ring, t: readonly [number, number, number], sign: number): Ring[] =>
      END.map(([out, in_]) => ({
        ...{ lean: sign * out, radius: r.radius * in_, colour: r.colour },
        at: [0, 1, 2].map((a) => r.at[a] + t[a] * sign * out * r.radius) as [number, number, number],
      }))
    this.rings = [...end(line[0], first, -1).reverse(), ...line, ...end(line[n - 1], last, 1)]
    this.reserve(this.rings.length * sides, (this.rings.length - 1) * sides * 6)
    const up = Math.abs(first[1]) < 0.9 ? [0, 1, 0] : [1, 0, 0]
    let side = unitOf(cross(up, first))
    this.rings.forEach((ring, i) => {
      const t = tangent(Math.min(n - 1, Math.max(0, i - END.length)))
      const d = dot(side, t)
      side = unitOf([side[0] - t[0] * d, side[1] - t[1] * d, side[2] - t[2] * d])
      this.ring(ring, t, side, cross(t, side), sides)
      if (i) this.join(sides)
    })
  }
  private ring(r: Ring, t: readonly number[], a: readonly number[], b: readonly number[], sides: number): void {
    const flat = Math.sqrt(Math.max(0, 1 - r.lean * r.lean))
    for (let k = 0; k < sides; k++) {
      const [c, s] = [Math.cos((2 * Math.PI * k) / sides), Math.sin((2 * Math.PI * k) / sides)]
      let o = this.count++ * SOLID_VERTEX_WORDS
      const v = this.vertices
      for (let q = 0; q < 3; q++) v[o++] = r.at[q] + (a[q] * c + b[q] * s) * r.radius
      for (let q = 0; q < 3; q++) v[o++] = (a[q] * c + b[q] * s) * flat + t[q] * r.lean
      for (let q = 0; q < 3; q++) v[o++] = r.colour[q]
    }
  }
  /** The band between the last two rings, its front outwards. */
  private join(sides: number): void {
    const [before, now] = [this.count - 2 * sides, this.count - sides]
    for (let k = 0; k < sides; k++) {
      const next = (k + 1) % sides
      for (const i of [before + k, before + next, now + k, now + k, before + next, now + next]) this.indices[this.indexCount++] = i
    }
  }
  private reserve(vertices: number, indices: number): void {
    const words = (this.count + vertices) * SOLID_VERTEX_WORDS
    if (words > this.vertices.length) this.vertices = grown(this.vertices, new Float32Array(Math.max(words, this.vertices.length * 2)))
    const all = this.indexCount + indices
    if (all > this.indices.length) this.indices = grown(this.indices, new Uint32Array(Math.max(all, this.indices.length * 2)))
  }
}
function grown<T extends Float32Array | Uint32Array>(from: T, to: T): T {
  to.set(from)
  return to
}
const dot = (a: readonly number[], b: readonly number[]) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
const cross = (a: readonly number[], b: readonly number[]): [number, number, number] => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
]
function unitOf(v: readonly [number, number, number]): [number, number, number] {
  const l = Math.sqrt(dot(v, v))
  return l > 1e-12 ? [v[0] / l, v[1] / l, v[2] / l] : [0, 1, 0]
}
