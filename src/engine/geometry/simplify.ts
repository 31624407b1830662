import { type Mesh, placeIds } from './mesh'

/** A mesh with fewer faces over the same vertices. */
export interface Level {
  indices: Uint32Array
  /** The mean length of its edges over that of the whole mesh. */
  coarser: number
}
/** Fewer faces than this are not taken from a body. */
const FEWEST = 12
/** Edges of an open mesh count this much more: their outline is seen. */
const RIM = 40
/** A face may not turn by more than this (cosine) when a corner of it moves. */
const TURNED = 0.2

/** Symmetric 4×4, ten numbers each: the sum of squared distances to planes. */
class Quadrics {
  private q: Float64Array
  constructor(n: number) {
    this.q = new Float64Array(n * 10)
  }
  plane(v: number, a: number, b: number, c: number, d: number, w: number): void {
    const { q } = this
    const o = v * 10
    q[o] += w * a * a
    q[o + 1] += w * a * b
    q[o + 2] += w * a * c
    q[o + 3] += w * a * d
    q[o + 4] += w * b * b
    q[o + 5] += w * b * c
    q[o + 6] += w * b * d
    q[o + 7] += w * c * c
    q[o + 8] += w * c * d
    q[o + 9] += w * d * d
  }
  join(into: number, from: number): void {
    for (let k = 0; k < 10; k++) this.q[into * 10 + k] += this.q[from * 10 + k]
  }
  /** What two of them give together at a place. */
  at(u: number, v: number, x: number, y: number, z: number): number {
    const { q } = this
    const s = (k: number) => q[u * 10 + k] + q[v * 10 + k]
    return (
      s(0) * x * x +
      2 * s(1) * x * y +
      2 * s(2) * x * z +
      2 * s(3) * x +
      s(4) * y * y +
      2 * s(5) * y * z +
      2 * s(6) * y +
      s(7) * z * z +
      2 * s(8) * z +
      s(9)
    )
  }
}
/** A heap of pairs by their cost; at equal costs the first pair, so that the same mesh always gives the same levels. */
class Heap {
  private cost: number[] = []
  private pair: number[] = []
  get size(): number {
    return this.cost.length
  }
  private less(i: number, j: number): boolean {
    return this.cost[i] < this.cost[j] || (this.cost[i] === this.cost[j] && this.pair[i] < this.pair[j])
  }
  private swap(i: number, j: number): void {
    ;[this.cost[i], this.cost[j]] = [this.cost[j], this.cost[i]]
    ;[this.pair[i], this.pair[j]] = [this.pair[j], this.pair[i]]
  }
  push(cost: number, pair: number): void {
    let i = this.cost.push(cost) - 1
    this.pair.push(pair)
    for (let up = (i - 1) >> 1; i > 0 && this.less(i, up); i = up, up = (i - 1) >> 1) this.swap(i, up)
  }
  pop(): { cost: number; pair: number } {
    const top = { cost: this.cost[0], pair: this.pair[0] }
    const [cost, pair] = [this.cost.pop() as number, this.pair.pop() as number]
    if (this.cost.length) {
      this.cost[0] = cost
      this.pair[0] = pair
      for (let i = 0; ; ) {
        let m = i
        for (const k of [2 * i + 1, 2 * i + 2]) if (k < this.cost.length && this.less(k, m)) m = k
        if (m === i) break
        this.swap(i, m)
        i = m
      }
    }
    return top
  }
}

/**
 * Levels of a mesh, each with about half of the faces of the one before: edges are collapsed to one of their ends in the order of the error that
 * this makes (quadrics: Garland and Heckbert 1997). Vertices stay what and where they are, so the levels hold for every mesh with the same
 * faces, however its points move. A closed mesh stays closed; the first level is the mesh itself.
 */
export function levelsOf(mesh: Mesh): Level[] {
  const known = kept.get(mesh.indices)
  if (known) return known
  const made = build(mesh)
  kept.set(mesh.indices, made)
  return made
}
const kept = new WeakMap<Uint32Array, Level[]>()

function build(mesh: Mesh): Level[] {
  const { positions: p, normals } = mesh
  const { of, count } = placeIds(p)
  const faces = mesh.indices.length / 3
  // Corners as vertices of the mesh, and as places; faces without an area or with two corners at one place are none.
  const corners = mesh.indices.slice()
  const alive = new Uint8Array(faces)
  const around: Set<number>[] = Array.from({ length: count }, () => new Set())
  const first = new Int32Array(count).fill(-1)
  for (let v = 0; v < of.length; v++) if (first[of[v]] < 0) first[of[v]] = v
  const place = (id: number): [number, number, number] => [p[first[id] * 3], p[first[id] * 3 + 1], p[first[id] * 3 + 2]]
  const idAt = (t: number, k: number) => of[corners[t * 3 + k]]
  let left = 0
  for (let t = 0; t < faces; t++) {
    const [a, b, c] = [idAt(t, 0), idAt(t, 1), idAt(t, 2)]
    if (a === b || b === c || c === a) continue
    alive[t] = 1
    left++
    for (const v of [a, b, c]) around[v].add(t)
  }
  const whole = { indices: mesh.indices, coarser: 1 }
  if (left < 2 * FEWEST) return [whole]
  const quadrics = new Quadrics(count)
  const normalOf = (a: readonly number[], b: readonly number[], c: readonly number[]): [number, number, number] => {
    const [ux, uy, uz] = [b[0] - a[0], b[1] - a[1], b[2] - a[2]]
    const [vx, vy, vz] = [c[0] - a[0], c[1] - a[1], c[2] - a[2]]
    return [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx]
  }
  const edges = new Map<number, number>()
  const pairOf = (a: number, b: number) => Math.min(a, b) * count + Math.max(a, b)
  for (let t = 0; t < faces; t++) {
    if (!alive[t]) continue
    const ids = [idAt(t, 0), idAt(t, 1), idAt(t, 2)]
    const [a, b, c] = ids.map(place)
    const n = normalOf(a, b, c)
    const area = Math.hypot(...n)
    if (area > 0) {
      const [x, y, z] = n.map((v) => v / area)
      const d = -(x * a[0] + y * a[1] + z * a[2])
      for (const v of ids) quadrics.plane(v, x, y, z, d, area)
    }
    for (let k = 0; k < 3; k++) {
      const pair = pairOf(ids[k], ids[(k + 1) % 3])
      edges.set(pair, (edges.get(pair) ?? 0) + 1)
    }
  }
  // Along an open edge a plane that stands on the face holds the outline.
  for (let t = 0; t < faces; t++) {
    if (!alive[t]) continue
    for (let k = 0; k < 3; k++) {
      const [u, v] = [idAt(t, k), idAt(t, (k + 1) % 3)]
      if (edges.get(pairOf(u, v)) !== 1) continue
      const [a, b, c] = [place(u), place(v), place(idAt(t, (k + 2) % 3))]
      const n = normalOf(a, b, c)
      const e = [b[0] - a[0], b[1] - a[1], b[2] - a[2]]
      const s = [e[1] * n[2] - e[2] * n[1], e[2] * n[0] - e[0] * n[2], e[0] * n[1] - e[1] * n[0]]
      const l = Math.hypot(...s)
      if (!(l > 0)) continue
      const [x, y, z] = s.map((q) => q / l)
      const d = -(x * a[0] + y * a[1] + z * a[2])
      for (const w of [u, v]) quadrics.plane(w, x, y, z, d, RIM * (e[0] * e[0] + e[1] * e[1] + e[2] * e[2]))
    }
  }
  const isRim = new Uint8Array(count)
  for (const [pair, n] of edges)
    if (n !== 2) {
      isRim[Math.floor(pair / count)] = 1
      isRim[pair % count] = 1
    }
  const gone = new Uint8Array(count)
  // A count of the changes around a place: what was pushed before is out of date.
  const version = new Uint32Array(count)
  const heap = new Heap()
  const told = new Map<number, { from: number; to: number; at: number }>()
  const push = (a: number, b: number) => {
    const pair = pairOf(a, b)
    const costTo = (to: number) => quadrics.at(a, b, ...place(to))
    // What lies on an outline stays on it.
    const [toA, toB] = [
      isRim[b] && !isRim[a] ? Number.POSITIVE_INFINITY : costTo(a),
      isRim[a] && !isRim[b] ? Number.POSITIVE_INFINITY : costTo(b),
    ]
    const to = toA <= toB ? a : b
    const cost = Math.min(toA, toB)
    if (!Number.isFinite(cost)) return
    told.set(pair, { from: to === a ? b : a, to, at: version[a] + version[b] })
    // Of faces in one plane the shortest edges go first, so that none gets long and thin.
    const [x, y, z] = place(a)
    const [u, v, w] = place(b)
    heap.push(Math.max(0, cost) + 1e-9 * ((x - u) ** 2 + (y - v) ** 2 + (z - w) ** 2) * scale, pair)
  }
  let scale = 0
  for (const pair of edges.keys()) {
    const [a, b] = [place(Math.floor(pair / count)), place(pair % count)]
    scale += (a[0] - b[0]) ** 2 + (a[1] - b[1]) ** 2 + (a[2] - b[2]) ** 2
  }
  scale /= Math.max(1, edges.size)
  for (const pair of edges.keys()) push(Math.floor(pair / count), pair % count)
  const neighbours = (v: number): Set<number> => {
    const out = new Set<number>()
    for (const t of around[v]) for (let k = 0; k < 3; k++) out.add(idAt(t, k))
    out.delete(v)
    return out
  }
  /** Whether faces around a place keep their side, and an area, when it goes to another; those that have both are taken away. */
  const holds = (from: number, to: number): boolean => {
    const there = place(to)
    for (const t of around[from]) {
      const ids = [idAt(t, 0), idAt(t, 1), idAt(t, 2)]
      if (ids.includes(to)) continue
      const before = ids.map(place)
      const after = ids.map((v, k) => (v === from ? there : before[k]))
      const [m, n] = [normalOf(before[0], before[1], before[2]), normalOf(after[0], after[1], after[2])]
      const [l, r] = [Math.hypot(...m), Math.hypot(...n)]
      if (!(r > 1e-12 * l) || m[0] * n[0] + m[1] * n[1] + m[2] * n[2] < TURNED * l * r) return false
    }
    // Both may share no more than the two places across the edge, or faces would come to lie on each other.
    const other = neighbours(to)
    let shared = 0
    for (const v of neighbours(from)) if (other.has(v)) shared++
    let across = 0
    for (const t of around[from]) if ([idAt(t, 0), idAt(t, 1), idAt(t, 2)].includes(to)) across++
    return shared === across
  }
  /** Of the vertices at a place the one whose normal is most like that of a corner. */
  const twins = new Map<number, number[]>()
  for (let v = 0; v < of.length; v++) if (first[of[v]] !== v) twins.set(of[v], [...(twins.get(of[v]) ?? [first[of[v]]]), v])
  const likest = (to: number, corner: number): number => {
    const all = twins.get(to)
    if (!all || !normals) return first[to]
    let [best, most] = [first[to], Number.NEGATIVE_INFINITY]
    for (const v of all) {
      const like = [0, 1, 2].reduce((sum, k) => sum + normals[v * 3 + k] * normals[corner * 3 + k], 0)
      if (like > most + 1e-6) [best, most] = [v, like]
    }
    return best
  }
  const meanEdge = (): number => {
    let [sum, n] = [0, 0]
    for (let t = 0; t < faces; t++) {
      if (!alive[t]) continue
      for (let k = 0; k < 3; k++, n++) {
        const [a, b] = [place(idAt(t, k)), place(idAt(t, (k + 1) % 3))]
        sum += Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2])
      }
    }
    return n ? sum / n : 1
  }
  const start = meanEdge()
  const out: Level[] = [whole]
  let goal = left / 2
  while (heap.size && left > FEWEST) {
    const { pair } = heap.pop()
    const c = told.get(pair)
    if (!c || gone[c.from] || gone[c.to] || c.at !== version[c.from] + version[c.to]) continue
    told.delete(pair)
    if (!holds(c.from, c.to)) continue
    for (const t of [...around[c.from]]) {
      const ids = [idAt(t, 0), idAt(t, 1), idAt(t, 2)]
      if (ids.includes(c.to)) {
        alive[t] = 0
        left--
        for (const v of ids) around[v].delete(t)
        continue
      }
      const k = ids.indexOf(c.from)
      corners[t * 3 + k] = likest(c.to, corners[t * 3 + k])
      around[c.to].add(t)
    }
    around[c.from].clear()
    gone[c.from] = 1
    quadrics.join(c.to, c.from)
    version[c.to]++
    for (const v of neighbours(c.to)) push(v, c.to)
    if (left > goal) continue
    out.push({ indices: remaining(), coarser: meanEdge() / start })
    goal = left / 2
  }
  return out
  function remaining(): Uint32Array {
    const list = new Uint32Array(left * 3)
    for (let t = 0, o = 0; t < faces; t++) if (alive[t]) for (let k = 0; k < 3; k++) list[o++] = corners[t * 3 + k]
    return list
  }
}
