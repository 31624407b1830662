import earcut, { deviation } from 'earcut'

/** A closed outline without its last point repeated: x, y, x, y … in metres. */
export type Contour = number[]
export interface Corner {
  before: [number, number]
  after: [number, number]
  inward: [number, number]
}
/** A corner of the rim moves at most this many bevels, however sharp it is. */
const MITER = 2
/** For each point: the normals of its edges (outwards, unit), and the way in that keeps both edges even, in bevels. */
function corners(c: Contour): Corner[] {
  const n = c.length / 2
  const edge = (i: number): [number, number] => {
    const a = (((i % n) + n) % n) * 2,
      b = ((((i + 1) % n) + n) % n) * 2
    const x = c[b] - c[a],
      y = c[b + 1] - c[a + 1]
    const l = Math.sqrt(x * x + y * y)
    return [y / l, -x / l]
  }
  return Array.from({ length: n }, (_, i) => {
    const before = edge(i - 1),
      after = edge(i)
    const x = before[0] + after[0],
      y = before[1] + after[1]
    const l2 = x * x + y * y
    const k = l2 > 1e-9 ? 2 / l2 : 0
    const far = Math.sqrt(l2) * k
    const held = far > MITER ? MITER / far : 1
    return { before, after, inward: [-x * k * held, -y * k * held] }
  })
}

/** Of the room to the other side of a stroke, a rim takes at most this from either side. */
const ROOM = 0.46
/**
 * Where a stroke is thinner than two rims, its points move in less. Looked at from each corner along its way in and straight in from both
 * of its edges; `body` is an outline with its holes, `inset` in metres.
 */
function limitThin(body: readonly { c: Contour; at: Corner[] }[], inset: number): void {
  if (!(inset > 0)) return
  const limits = body.map(({ at }) => at.map(() => 1))
  const hold = (k: number, i: number, share: number) => {
    limits[k][i] = Math.min(limits[k][i], share)
  }
  for (const [own, { c, at }] of body.entries()) {
    for (const [i, corner] of at.entries()) {
      const [x, y] = [c[i * 2], c[i * 2 + 1]]
      const n = at.length
      const far = Math.sqrt(corner.inward[0] ** 2 + corner.inward[1] ** 2)
      // Each direction, unit, with how far it goes for the whole rim.
      const ways: [number, number, number][] = [
        [-corner.before[0], -corner.before[1], inset],
        [-corner.after[0], -corner.after[1], inset],
      ]
      if (far > 1e-9) ways.push([corner.inward[0] / far, corner.inward[1] / far, far * inset])
      for (const [dx, dy, reach] of ways) {
        for (const [k, o] of body.entries()) {
          const m = o.at.length
          for (let e = 0; e < m; e++) {
            if (k === own && (e === i || e === (i + n - 1) % n)) continue
            const ax = o.c[e * 2] - x,
              ay = o.c[e * 2 + 1] - y
            const bx = o.c[((e + 1) % m) * 2] - x,
              by = o.c[((e + 1) % m) * 2 + 1] - y
            // Sides of the ray on which the ends lie; where it crosses, how far out.
            const sa = dx * ay - dy * ax,
              sb = dx * by - dy * bx
            if (sa > 0 === sb > 0) continue
            const t = (sa * (bx * dx + by * dy) - sb * (ax * dx + ay * dy)) / (sa - sb)
            const share = (ROOM * t) / reach
            if (!(t > 1e-9) || share >= 1) continue
            // The edge on the other side gives way as well.
            hold(own, i, share)
            hold(k, e, share)
            hold(k, (e + 1) % m, share)
          }
        }
      }
    }
  }
  body.forEach(({ at }, k) => {
    at.forEach((corner, i) => {
      corner.inward = [corner.inward[0] * limits[k][i], corner.inward[1] * limits[k][i]]
    })
  })
}
/**
 * Where a rim is wide for a tight curve, edges of the moved outline would run backwards. Their ends go to one point instead: where the
 * edges before and behind them meet after moving. Changes the ways in; `inset` in metres.
 */
function closeTight(c: Contour, at: Corner[], inset: number): void {
  const n = at.length
  if (!(inset > 0) || n < 4) return
  // Group of each point; a group moves to one place.
  const group = Array.from({ length: n }, (_, i) => i)
  const moved = at.map((v, i): [number, number] => [c[i * 2] + v.inward[0] * inset, c[i * 2 + 1] + v.inward[1] * inset])
  const next = (i: number) => (i + 1) % n
  for (let round = 0; round < 24; round++) {
    let changed = false
    for (let i = 0; i < n; i++) {
      const j = next(i)
      if (group[i] === group[j]) continue
      const ux = c[j * 2] - c[i * 2],
        uy = c[j * 2 + 1] - c[i * 2 + 1]
      if ((moved[j][0] - moved[i][0]) * ux + (moved[j][1] - moved[i][1]) * uy > 1e-6 * (ux * ux + uy * uy)) continue
      const [from, to] = [group[j], group[i]]
      for (let k = 0; k < n; k++) if (group[k] === from) group[k] = to
      changed = true
    }
    if (!changed) break
    for (const g of new Set(group)) {
      const members = group.flatMap((x, i) => (x === g ? [i] : []))
      if (members.length < 2) continue
      if (members.length === n) return
      const first = members.find((i) => group[(i + n - 1) % n] !== g) as number
      const last = members.find((i) => group[next(i)] !== g) as number
      // The lines of the edge into the group and of the edge out of it, moved in.
      const [p, q] = [at[first].before, at[last].after]
      const d = p[0] * q[1] - p[1] * q[0]
      const a = p[0] * c[first * 2] + p[1] * c[first * 2 + 1] - inset,
        b = q[0] * c[last * 2] + q[1] * c[last * 2 + 1] - inset
      const mean = [0, 1].map((k) => members.reduce((s, i) => s + moved[i][k], 0) / members.length)
      const meet = Math.abs(d) > 0.05 ? [(a * q[1] - b * p[1]) / d, (p[0] * b - q[0] * a) / d] : mean
      const near = Math.sqrt((meet[0] - c[first * 2]) ** 2 + (meet[1] - c[first * 2 + 1]) ** 2) < 4 * inset
      for (const i of members) moved[i] = [...(near ? meet : mean)] as [number, number]
    }
  }
  moved.forEach((m, i) => {
    at[i].inward = [(m[0] - c[i * 2]) / inset, (m[1] - c[i * 2 + 1]) / inset]
  })
}
/**
 * Ear clipping that uses every point: those it leaves out, on straight lines or on another point, come back as triangles without area
 * between their neighbours, so that the cap has every edge of its outlines. Null where it finds no triangulation of that kind.
 */
function capTriangles(points: number[], holes: number[]): number[] | null {
  const list = earcut(points, holes)
  if (deviation(points, holes, 2, list) > 1e-3) return null
  const n = points.length / 2
  // Points on one another are one: ear clipping keeps any of them.
  const known = new Map<string, number>()
  const one = Array.from({ length: n }, (_, i) => {
    const key = `${points[i * 2] + 0},${points[i * 2 + 1] + 0}`
    const first = known.get(key)
    if (first === undefined) known.set(key, i)
    return first ?? i
  })
  const edges = new Set<number>()
  const used = new Uint8Array(n)
  for (let i = 0; i < list.length; i += 3) {
    for (let k = 0; k < 3; k++) {
      const a = one[list[i + k]]
      used[a] = 1
      edges.add(a * n + one[list[i + ((k + 1) % 3)]])
    }
  }
  let forward = 0
  let backward = 0
  const out = [...list]
  const fans: number[][] = []
  for (const [k, begin] of [0, ...holes].entries()) {
    const end = holes[k] ?? n
    const count = end - begin
    const at = (i: number) => one[begin + (i % count)]
    let first = 0
    while (first < count && !used[at(first)]) first++
    if (first === count) return null
    for (let i = first; i < first + count; ) {
      let next = i + 1
      while (!used[at(next)] || (at(next) === at(i) && next < first + count)) next++
      const [a, b] = [at(i), at(next)]
      if (a !== b) {
        if (edges.has(a * n + b)) forward++
        else if (edges.has(b * n + a)) backward++
        else return null
      }
      for (let m = i + 1; m < next; m++) fans.push([a, at(m), at(m + 1)])
      i = next
    }
  }
  // All triangles run one way round, the outlines with them or against them.
  if (forward && backward) return null
  for (const [a, b, c] of fans) if (a !== b && b !== c && c !== a) out.push(...(forward ? [a, b, c] : [a, c, b]))
  return out
}

export interface Rimmed {
  contours: { c: Contour; at: Corner[] }[]
  /** All points, outline and holes, and where they are after moving in. */
  outline: number[]
  inset: number[]
  /** Where holes begin, in points. */
  holes: number[]
  /** Triangles of the moved points; null where they cross whatever is tried, and the cap must fold over. */
  triangles: number[] | null
}
/** Narrower rims that are tried for an outline whose whole rim crosses itself. */
const NARROWER = [1, 0.8, 0.6, 0.45, 0.3, 0.18, 0.1]

/** The rim of an outline with its holes: as wide as asked, or as wide as the outline lets it be. `inset` in metres. */
export function rimmed(outlines: readonly Contour[], inset: number): Rimmed {
  const outline = outlines.flat()
  const holes: number[] = []
  for (const c of outlines.slice(0, -1)) holes.push((holes.at(-1) ?? 0) + c.length / 2)
  const at = (width: number): Rimmed => {
    const contours = outlines.map((c) => ({ c, at: corners(c) }))
    limitThin(contours, inset * width)
    for (const x of contours) {
      closeTight(x.c, x.at, inset * width)
      for (const corner of x.at) corner.inward = [corner.inward[0] * width, corner.inward[1] * width]
    }
    const moved = contours.flatMap((x) =>
      x.at.flatMap((corner, i) => [x.c[i * 2] + corner.inward[0] * inset, x.c[i * 2 + 1] + corner.inward[1] * inset]),
    )
    return { contours, outline, inset: moved, holes, triangles: capTriangles(moved, holes) }
  }
  for (const width of NARROWER) {
    const made = at(width)
    if (made.triangles) return made
  }
  return at(1)
}
