import { type Draw, LOOK_SAMPLES, lookTable, type StripDraw, stripTone } from '../acts'
import { hash3, STRIP_NORMAL_COLUMNS, type StripsPart, stripColumn, stripOffsets, stripPoints, stripTints, unit } from '../engine'

/** Words of a vertex: place on the screen (3), across, half width and beyond an end (px), metres along, light from the side and the front, colour (4). */
export const STRIP_VERTEX_WORDS = 13
/** Place (3), where on the disc (2), its turn, colour (4). */
export const HEAD_VERTEX_WORDS = 10
/** Thinner than that, in px, a strip is drawn so and fainter by as much. */
const MIN_RADIUS = 0.62
/** Room for the rim, px. */
const PAD = 0.7
/** Wider than that, in px from the middle, a strip has round ends: at finer ones nobody sees them, and without a GPU they cost as much as the rest. */
const CAPPED = 1.2
/** Points nearer to each other on the screen than that, px, are one. */
const APART = 0.6
/** The cosine below which a corner is not mitred but bevelled. */
const SHARP = 0.3
/** What is nearer to the lens, m, is cut off. */
const BEHIND_LENS = 1e-3
const STRIDE = 5

/** A list of numbers that grows. */
class Floats {
  data = new Float32Array(4096)
  length = 0
  reserve(more: number): void {
    if (this.length + more <= this.data.length) return
    const grown = new Float32Array(Math.max(this.data.length * 2, this.length + more))
    grown.set(this.data.subarray(0, this.length))
    this.data = grown
  }
}
class Words {
  data = new Uint32Array(4096)
  length = 0
  reserve(more: number): void {
    if (this.length + more <= this.data.length) return
    const grown = new Uint32Array(Math.max(this.data.length * 2, this.length + more))
    grown.set(this.data.subarray(0, this.length))
    this.data = grown
  }
}
export interface StripView {
  /** Own space to clip space, four rows of four; own space to the camera's, three rows of four. */
  clip: ArrayLike<number>
  view: ArrayLike<number>
  width: number
  height: number
  /** Half the height of the picture at one metre, as 1 / tan of half its angle. */
  zoom: number
  /** What is nearer to the lens than this fades, m. */
  near: number
  /** Part of the strips, 0 to 1, by the seed of their particles. */
  share: number
  /** The first light in the camera's space, and 1 for a place or 0 for a direction. */
  light: readonly [number, number, number, number]
}

/**
 * Triangles of strips on the screen. They are made here and not by shaders: a point is projected once, strips that are out of sight or finer
 * than pixels cost nothing further on, and corners may have more vertices than points.
 */
export class StripMesh {
  readonly vertices = new Floats()
  readonly indices = new Words()
  readonly heads = new Floats()
  readonly headIndices = new Words()
  // The run that is being laid: places on the screen, depth, half width, colour, metres.
  private run = new Float32Array(0)
  private scale = 1

  clear(): void {
    for (const list of [this.vertices, this.indices, this.heads, this.headIndices]) list.length = 0
  }
  /** Adds all strips of a part, as one copy of their system has them. `looks`: of the particles, by phase. */
  add(part: StripsPart, draw: StripDraw, looks: readonly Draw[], v: StripView): void {
    const offsets = stripOffsets(part)
    const [seeds, phases, ages, lives, fades] = (['seed', 'phase', 'age', 'life', 'fade'] as const).map((n) => stripColumn(part, n))
    const tints = stripTints(part)
    const m = v.view
    this.scale = Math.cbrt(
      Math.abs(m[0] * (m[5] * m[10] - m[6] * m[9]) - m[1] * (m[4] * m[10] - m[6] * m[8]) + m[2] * (m[4] * m[9] - m[5] * m[8])),
    )
    const points = (['px', 'py', 'pz', 'along', 'metres'] as const).map((n) => stripPoints(part, n))
    const normals = part.turned && draw.turned && draw.as === 'band' ? STRIP_NORMAL_COLUMNS.map((n) => stripPoints(part, n)) : null
    for (const k of this.order(part, draw, v)) {
      if (v.share < 1 && unit(hash3(0, seeds[k], 21)) >= v.share) continue
      const [from, to] = [offsets[k], offsets[k + 1]]
      if (to <= from || fades[k] * draw.opacity <= 0) continue
      const own = { phase: phases[k], age: ages[k], life: lives[k], seed: seeds[k], tint: tints?.[k], fade: fades[k] }
      const { colour, opacity, width } = stripTone(draw, looks, own)
      // Bodies are drawn among the objects.
      if (to - from > 1 && draw.as !== 'solid') this.strip(points, normals, from, to, draw, v, colour, opacity, width)
      if (draw.head) this.head(points, to - 1, draw, v, colour, opacity, width, seeds[k])
    }
  }
  /** Those that cover each other go from the farthest to the nearest. */
  private order(part: StripsPart, draw: StripDraw, v: StripView): Iterable<number> {
    const all = Array.from({ length: part.strips }, (_, k) => k)
    if (draw.blend === 'add') return all
    const offsets = stripOffsets(part)
    const [x, y, z] = (['px', 'py', 'pz'] as const).map((n) => stripPoints(part, n))
    const depth = all.map((k) => {
      const i = Math.min(Math.max(0, part.points - 1), (offsets[k] + offsets[k + 1]) >> 1)
      return v.clip[12] * x[i] + v.clip[13] * y[i] + v.clip[14] * z[i] + v.clip[15]
    })
    return all.sort((a, b) => depth[b] - depth[a])
  }
  private strip(
    [xs, ys, zs, alongs, metres]: readonly Float32Array[],
    normals: readonly Float32Array[] | null,
    from: number,
    to: number,
    draw: StripDraw,
    v: StripView,
    colour: readonly number[],
    alpha: number,
    relative: number,
  ): void {
    const c = v.clip
    const table = lookTable(draw.look)
    const covers = draw.blend === 'normal' ? 1 : 0
    const [halfW, halfH] = [v.width / 2, v.height / 2]
    const perMetre = 0.5 * draw.width * relative * this.scale * v.zoom * halfH
    if (this.run.length < (to - from) * RUN) this.run = new Float32Array((to - from) * RUN * 2)
    const { run } = this
    let n = 0
    let lastX = 0
    let lastY = 0
    for (let i = from; i < to; i++) {
      const x = xs[i]
      const y = ys[i]
      const z = zs[i]
      const w = c[12] * x + c[13] * y + c[14] * z + c[15]
      if (w < BEHIND_LENS) {
        this.lay(n, draw, v)
        n = 0
        continue
      }
      const sx = ((c[0] * x + c[1] * y + c[2] * z + c[3]) / w) * halfW
      const sy = ((c[4] * x + c[5] * y + c[6] * z + c[7]) / w) * halfH
      if (n && i < to - 1 && Math.abs(sx - lastX) + Math.abs(sy - lastY) < APART) continue
      lastX = sx
      lastY = sy
      const at = alongs[i] * (LOOK_SAMPLES - 1)
      const s = Math.min(LOOK_SAMPLES - 2, at | 0)
      const f = at - s
      const o = s * STRIDE
      const close = w < v.near ? smooth((w - 0.15 * v.near) / (0.85 * v.near)) : 1
      const radius = (perMetre / w) * (table[o + 4] * (1 - f) + table[o + 9] * f)
      const a = (table[o + 3] * (1 - f) + table[o + 8] * f) * alpha * close * Math.min(1, radius / MIN_RADIUS)
      const r = n * RUN
      run[r] = sx
      run[r + 1] = sy
      run[r + 2] = (c[8] * x + c[9] * y + c[10] * z + c[11]) / w
      run[r + 3] = Math.max(MIN_RADIUS, radius)
      run[r + 4] = (table[o] * (1 - f) + table[o + 5] * f) * colour[0] * a
      run[r + 5] = (table[o + 1] * (1 - f) + table[o + 6] * f) * colour[1] * a
      run[r + 6] = (table[o + 2] * (1 - f) + table[o + 7] * f) * colour[2] * a
      run[r + 7] = a * covers
      run[r + 8] = metres[i]
      run[r + 9] = x
      run[r + 10] = y
      run[r + 11] = z
      for (let q = 0; q < 3; q++) run[r + 12 + q] = normals ? normals[q][i] : draw.normal[q]
      n++
    }
    this.lay(n, draw, v)
  }
  /** Lays the run of n points: pairs of vertices, joined by mitres, at sharp corners by a bevel, with a cap at each end. */
  private lay(n: number, draw: StripDraw, v: StripView): void {
    if (n < 2) return
    const { run, vertices, indices } = this
    if (!this.inSight(n, v)) return
    vertices.reserve((n * 2 + 4) * 2 * STRIP_VERTEX_WORDS)
    indices.reserve((n * 2 + 4) * 6)
    const band = draw.as === 'band'
    const light = draw.as === 'tube' ? this.lightAt(run[9], run[10], run[11], v) : null
    let dx = 0
    let dy = 0
    let first = true
    for (let i = 0; i < n; i++) {
      const o = i * RUN
      const last = i === n - 1
      const ex = last ? 0 : run[o + RUN] - run[o]
      const ey = last ? 0 : run[o + RUN + 1] - run[o + 1]
      // Math.hypot takes ten times as long as the root.
      const l = Math.sqrt(ex * ex + ey * ey)
      const nx = last || l < 1e-6 ? dx : ex / l
      const ny = last || l < 1e-6 ? dy : ey / l
      if (i === 0) {
        dx = nx
        dy = ny
        const capped = !band && run[o + 3] > CAPPED
        if (capped) this.pair(o, -nx, -ny, dx, dy, 1, light, v, true, first)
        first = !capped
      }
      if (band) {
        this.flat(o, i, n, v, first)
        first = false
        dx = nx
        dy = ny
        continue
      }
      const cos = dx * nx + dy * ny
      if (cos < SHARP) {
        this.pair(o, 0, 0, dx, dy, 1, light, v, false, first)
        this.pair(o, 0, 0, nx, ny, 1, light, v, false, false)
      } else {
        const mx = dx + nx
        const my = dy + ny
        const k = Math.sqrt(mx * mx + my * my)
        // Along the bisector it is as wide as the strip over the cosine of half the corner.
        this.pair(o, 0, 0, mx / k, my / k, Math.min(1.6, 2 / k), light, v, false, first)
      }
      first = false
      dx = nx
      dy = ny
      if (last && run[o + 3] > CAPPED) this.pair(o, dx, dy, dx, dy, 1, light, v, true, false)
    }
  }
  private inSight(n: number, { width, height }: StripView): boolean {
    const { run } = this
    let [left, right, low, high, wide] = [1e9, -1e9, 1e9, -1e9, 0]
    for (let i = 0, o = 0; i < n; i++, o += RUN) {
      left = Math.min(left, run[o])
      right = Math.max(right, run[o])
      low = Math.min(low, run[o + 1])
      high = Math.max(high, run[o + 1])
      wide = Math.max(wide, run[o + 3])
    }
    return right + wide > -width / 2 && left - wide < width / 2 && high + wide > -height / 2 && low - wide < height / 2
  }
  /** How much of the light comes from the right and from above in the picture, and from the camera. */
  private lightAt(x: number, y: number, z: number, { view: m, light }: StripView): [number, number, number] {
    const at = [0, 4, 8].map((r) => m[r] * x + m[r + 1] * y + m[r + 2] * z + m[r + 3])
    const to = [0, 1, 2].map((a) => (light[3] > 0.5 ? light[a] - at[a] : light[a]))
    const l = Math.hypot(...to) || 1
    return [to[0] / l, to[1] / l, to[2] / l]
  }
  /** Two vertices across a direction at a point of the run; `bx`, `by`: moved out for a cap, by the half width. */
  private pair(
    o: number,
    bx: number,
    by: number,
    dx: number,
    dy: number,
    stretch: number,
    light: [number, number, number] | null,
    v: StripView,
    cap: boolean,
    first: boolean,
  ): void {
    const { run } = this
    const r = run[o + 3]
    const reach = (r + PAD) * stretch
    const beyond = r + PAD
    const x = run[o] + bx * beyond
    const y = run[o + 1] + by * beyond
    const [ox, oy] = [(dy * reach) / (v.width / 2), (dx * reach) / (v.height / 2)]
    const [mx, my] = [x / (v.width / 2), y / (v.height / 2)]
    const lit = light ? -dy * light[0] + dx * light[1] : 0
    const front = light ? light[2] : 0
    this.vertex(o, mx + ox, my - oy, run[o + 2], -beyond, r, cap ? beyond : 0, lit, front)
    this.vertex(o, mx - ox, my + oy, run[o + 2], beyond, r, cap ? beyond : 0, lit, front)
    if (!first) this.join()
  }
  /** Two vertices of a band that lies in the world. */
  private flat(o: number, i: number, n: number, v: StripView, first: boolean): void {
    const { run } = this
    const [a, b] = [Math.max(0, i - 1) * RUN, Math.min(n - 1, i + 1) * RUN]
    const t = [9, 10, 11].map((k) => run[b + k] - run[a + k])
    const q = [run[o + 12], run[o + 13], run[o + 14]]
    const side = [t[1] * q[2] - t[2] * q[1], t[2] * q[0] - t[0] * q[2], t[0] * q[1] - t[1] * q[0]]
    const l = Math.hypot(...side) || 1
    const c = v.clip
    const w = c[12] * run[o + 9] + c[13] * run[o + 10] + c[14] * run[o + 11] + c[15]
    const half = (run[o + 3] / (0.5 * this.scale * v.zoom * (v.height / 2))) * 0.5 * w
    const edge = (sign: number) => {
      const [x, y, z] = [0, 1, 2].map((k) => run[o + 9 + k] + (side[k] / l) * half * sign)
      const ww = Math.max(BEHIND_LENS, c[12] * x + c[13] * y + c[14] * z + c[15])
      return [0, 4, 8].map((r) => (c[r] * x + c[r + 1] * y + c[r + 2] * z + c[r + 3]) / ww)
    }
    const [p, s] = [edge(-1), edge(1)]
    const r = Math.max(MIN_RADIUS, Math.hypot((s[0] - p[0]) * v.width, (s[1] - p[1]) * v.height) / 4)
    for (const [sign, e] of [
      [-1, p],
      [1, s],
    ] as const)
      this.vertex(o, e[0], e[1], e[2], sign * r, r, 0, 0, 0)
    if (!first) this.join()
  }
  private vertex(
    o: number,
    x: number,
    y: number,
    z: number,
    across: number,
    radius: number,
    cap: number,
    side: number,
    front: number,
  ): void {
    const { run, vertices } = this
    const d = vertices.data
    const at = vertices.length
    d[at] = x
    d[at + 1] = y
    d[at + 2] = z
    d[at + 3] = across
    d[at + 4] = radius
    d[at + 5] = cap
    d[at + 6] = run[o + 8]
    d[at + 7] = side
    d[at + 8] = front
    d[at + 9] = run[o + 4]
    d[at + 10] = run[o + 5]
    d[at + 11] = run[o + 6]
    d[at + 12] = run[o + 7]
    vertices.length = at + STRIP_VERTEX_WORDS
  }
  /** The last pair of vertices with the one before. */
  private join(): void {
    const { indices } = this
    const k = this.vertices.length / STRIP_VERTEX_WORDS - 4
    const d = indices.data
    const at = indices.length
    d[at] = k
    d[at + 1] = k + 1
    d[at + 2] = k + 2
    d[at + 3] = k + 2
    d[at + 4] = k + 1
    d[at + 5] = k + 3
    indices.length = at + 6
  }
  private head(
    [xs, ys, zs, alongs]: readonly Float32Array[],
    i: number,
    draw: StripDraw,
    v: StripView,
    colour: readonly number[],
    alpha: number,
    relative: number,
    seed: number,
  ): void {
    const c = v.clip
    const { size, brightness } = draw.head as NonNullable<StripDraw['head']>
    const w = c[12] * xs[i] + c[13] * ys[i] + c[14] * zs[i] + c[15]
    if (w < BEHIND_LENS) return
    const at = Math.min(LOOK_SAMPLES - 1, Math.round(alongs[i] * (LOOK_SAMPLES - 1))) * STRIDE
    const table = lookTable(draw.look)
    const close = w < v.near ? smooth((w - 0.15 * v.near) / (0.85 * v.near)) : 1
    const a = table[at + 3] * alpha * brightness * close
    const radius = ((0.5 * size * relative * table[at + 4] * this.scale * v.zoom) / w) * (v.height / 2)
    if (a <= 0 || radius < 0.2) return
    const [x, y, z] = [0, 4, 8].map((r) => (c[r] * xs[i] + c[r + 1] * ys[i] + c[r + 2] * zs[i] + c[r + 3]) / w)
    const grown = Math.max(1.5, radius)
    const faint = (radius / grown) ** 2
    const { heads, headIndices } = this
    heads.reserve(4 * HEAD_VERTEX_WORDS)
    headIndices.reserve(6)
    const k = heads.length / HEAD_VERTEX_WORDS
    const turn = unit(hash3(1, seed, 22)) * Math.PI
    for (const [u, t] of CORNERS) {
      const o = heads.length
      const d = heads.data
      d[o] = x + (u * grown) / (v.width / 2)
      d[o + 1] = y + (t * grown) / (v.height / 2)
      d[o + 2] = z
      d[o + 3] = u
      d[o + 4] = t
      d[o + 5] = turn
      for (let q = 0; q < 3; q++) d[o + 6 + q] = table[at + q] * colour[q] * a * faint
      d[o + 9] = 0
      heads.length = o + HEAD_VERTEX_WORDS
    }
    headIndices.data.set([k, k + 1, k + 2, k + 2, k + 1, k + 3], headIndices.length)
    headIndices.length += 6
  }
}
/** Words of a point of the run. */
const RUN = 15
const CORNERS = [
  [-1, -1],
  [1, -1],
  [-1, 1],
  [1, 1],
] as const
const smooth = (x: number): number => {
  const s = Math.min(1, Math.max(0, x))
  return s * s * (3 - 2 * s)
}
