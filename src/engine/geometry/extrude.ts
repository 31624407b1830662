import earcut from 'earcut'
import { cosTurns, sinTurns } from '../math'
import { Builder } from './builder'
import type { Mesh } from './mesh'
import { type Contour, type Corner, rimmed } from './rim'

export interface ExtrudeOptions {
  /** Along Z, in metres; the middle is at z = 0. */
  depth: number
  /** How far the rounded rim reaches in, in metres; at most half the depth. */
  bevel: number
  /** Rings of the rim. */
  steps: number
}
/** Edges that meet at less than this are one smooth wall. */
const CREASE_COS = 0.8

/** Above zero when it runs counter-clockwise with Y up. */
export const signedArea = (c: Contour): number => {
  let sum = 0
  for (let i = 0; i < c.length; i += 2) {
    const j = (i + 2) % c.length
    sum += c[i] * c[j + 1] - c[j] * c[i + 1]
  }
  return sum / 2
}
export const containsPoint = (c: Contour, x: number, y: number): boolean => {
  let inside = false
  for (let i = 0, j = c.length - 2; i < c.length; j = i, i += 2) {
    if (c[i + 1] > y !== c[j + 1] > y && x < ((c[j] - c[i]) * (y - c[i + 1])) / (c[j + 1] - c[i + 1]) + c[i]) inside = !inside
  }
  return inside
}
/**
 * Without points that stand on their neighbour or on the straight line between both: ear clipping leaves those out, and walls must agree.
 */
const clean = (c: Contour): Contour => {
  // Of points on one another one stays, also of a first and a last: both would look straight to each other below.
  let now: Contour = []
  for (let i = 0; i < c.length; i += 2) {
    const k = (i + c.length - 2) % c.length
    if (c[i] !== c[k] || c[i + 1] !== c[k + 1]) now.push(c[i], c[i + 1])
  }
  for (let again = true; again; ) {
    again = false
    const out: Contour = []
    const n = now.length
    for (let i = 0; i < n; i += 2) {
      const [ax, ay] = out.length ? [out[out.length - 2], out[out.length - 1]] : [now[n - 2], now[n - 1]]
      const [bx, by] = [now[i], now[i + 1]]
      const [cx, cy] = [now[(i + 2) % n], now[(i + 3) % n]]
      const ux = bx - ax,
        uy = by - ay,
        vx = cx - bx,
        vy = cy - by
      const lengths = (ux * ux + uy * uy) * (vx * vx + vy * vy)
      const cross = ux * vy - uy * vx
      // A spike that comes straight back stays out as well; so does what bends by less than a ten-thousandth of a radian.
      if (cross * cross > 1e-8 * lengths && lengths > 0) out.push(bx, by)
      else again = true
    }
    if (out.length < 6) return out
    now = out
  }
  return now
}
const turned = (c: Contour): Contour => {
  const out: Contour = []
  for (let i = c.length - 2; i >= 0; i -= 2) out.push(c[i], c[i + 1])
  return out
}
/**
 * For each outline those of larger area that its first point lies in, by their places in the list. Boxes are looked at first, so
 * that outlines beside each other cost little.
 */
export function enclosing(list: readonly Contour[]): number[][] {
  const areas = list.map((c) => Math.abs(signedArea(c)))
  const boxes = new Float64Array(list.length * 4)
  for (const [k, c] of list.entries()) {
    let [x0, y0, x1, y1] = [Number.POSITIVE_INFINITY, Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY, Number.NEGATIVE_INFINITY]
    for (let i = 0; i < c.length; i += 2) {
      x0 = Math.min(x0, c[i])
      x1 = Math.max(x1, c[i])
      y0 = Math.min(y0, c[i + 1])
      y1 = Math.max(y1, c[i + 1])
    }
    boxes.set([x0, y0, x1, y1], k * 4)
  }
  const rowOf = rowsOf(boxes)
  return list.map((c, i) => {
    const [x, y] = [c[0], c[1]]
    return rowOf(y).filter((k) => {
      const b = k * 4
      return (
        x >= boxes[b] &&
        x <= boxes[b + 2] &&
        y >= boxes[b + 1] &&
        y <= boxes[b + 3] &&
        k !== i &&
        areas[k] > areas[i] &&
        containsPoint(list[k], x, y)
      )
    })
  })
}
/** Boxes sorted into as many rows as the root of their number: for a height those of its row, in order. */
function rowsOf(boxes: Float64Array): (y: number) => readonly number[] {
  const count = boxes.length / 4
  const rows: number[][] = Array.from({ length: Math.max(1, Math.round(Math.sqrt(count))) }, () => [])
  let [bottom, top] = [Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY]
  for (let b = 0; b < boxes.length; b += 4) {
    bottom = Math.min(bottom, boxes[b + 1])
    top = Math.max(top, boxes[b + 3])
  }
  const at = (y: number) => Math.min(rows.length - 1, Math.max(0, Math.floor(((y - bottom) / (top - bottom)) * rows.length) || 0))
  for (let k = 0; k < count; k++) for (let r = at(boxes[k * 4 + 1]); r <= at(boxes[k * 4 + 3]); r++) rows[r].push(k)
  return (y) => rows[at(y)]
}
/** Sorts outlines into bodies with their holes, however the file turned them: what lies in an even number of others is a body. */
export function bodiesOf(contours: readonly Contour[]): { outer: Contour; holes: Contour[] }[] {
  const list = contours.map(clean).filter((c) => c.length >= 6 && Math.abs(signedArea(c)) > 1e-12)
  const around = enclosing(list)
  const bodies = new Map<number, { outer: Contour; holes: Contour[] }>()
  list.forEach((c, i) => {
    if (around[i].length % 2 === 0) bodies.set(i, { outer: signedArea(c) > 0 ? c : turned(c), holes: [] })
  })
  list.forEach((c, i) => {
    if (around[i].length % 2 === 0) return
    // Of all bodies around it the smallest is its own.
    const own = around[i].filter((k) => bodies.has(k)).sort((a, b) => Math.abs(signedArea(list[a])) - Math.abs(signedArea(list[b])))[0]
    bodies.get(own)?.holes.push(signedArea(c) < 0 ? c : turned(c))
  })
  return [...bodies.values()]
}
/**
 * Outlines as a body with depth: parts Front, Sides and Back, closed, with a rounded rim. Holes are right whichever way the outlines run.
 * Caps are triangulated by ear clipping (the earcut library). A rim wider than a stroke crosses itself there.
 */
export function extrude(contours: readonly Contour[], o: ExtrudeOptions): Mesh {
  const bevel = Math.min(Math.max(0, o.bevel), o.depth / 2)
  const steps = bevel > 0 ? Math.max(1, Math.round(o.steps)) : 0
  const rings = steps
    ? Array.from({ length: steps + 1 }, (_, k) => ({
        inset: k === 0 ? 0 : bevel * (1 - cosTurns(k / steps / 4)),
        z: o.depth / 2 - bevel + bevel * (k === 0 ? 0 : sinTurns(k / steps / 4)),
        up: sinTurns(k / steps / 4),
      }))
    : [{ inset: 0, z: o.depth / 2, up: 0 }]
  const last = rings[rings.length - 1]
  const bodies = bodiesOf(contours).map(({ outer, holes }) => rimmed([outer, ...holes], last.inset))
  const b = new Builder()
  const point = (c: Contour, at: Corner[], i: number, inset: number): [number, number] => [
    c[i * 2] + at[i].inward[0] * inset,
    c[i * 2 + 1] + at[i].inward[1] * inset,
  ]
  const caps = (name: string, side: 1 | -1) => {
    b.part(name)
    for (const body of bodies) {
      const { inset, outline, triangles } = body
      const first = Array.from({ length: inset.length / 2 }, (_, i) =>
        b.vertex([inset[i * 2], inset[i * 2 + 1], side * last.z], [0, 0, side]),
      )
      const list = triangles ?? earcut(outline, body.holes)
      const from = triangles ? inset : outline
      // All of them one way round, by their whole: where an outline crosses itself single ones lie upside down, and must stay so to be
      // closed.
      const area = (i: number) => {
        const [p, q, r] = [list[i] * 2, list[i + 1] * 2, list[i + 2] * 2]
        return (from[q] - from[p]) * (from[r + 1] - from[p + 1]) - (from[r] - from[p]) * (from[q + 1] - from[p + 1])
      }
      let whole = 0
      for (let i = 0; i < list.length; i += 3) whole += area(i)
      for (let i = 0; i < list.length; i += 3) {
        if (whole > 0 === side > 0) b.triangle(first[list[i]], first[list[i + 1]], first[list[i + 2]])
        else b.triangle(first[list[i]], first[list[i + 2]], first[list[i + 1]])
      }
    }
  }
  caps('Front', 1)
  b.part('Sides')
  // From the back's rim over the wall to the front's rim.
  const profile = [...[...rings].reverse().map((r) => ({ ...r, z: -r.z, up: -r.up })), ...rings]
  for (const body of bodies) {
    for (const { c, at } of body.contours) {
      const n = at.length
      for (let i = 0; i < n; i++) {
        const j = (i + 1) % n
        const smooth = (k: number, own: [number, number]): [number, number] => {
          const { before, after } = at[k]
          if (before[0] * after[0] + before[1] * after[1] < CREASE_COS) return own
          const x = before[0] + after[0],
            y = before[1] + after[1]
          const l = Math.sqrt(x * x + y * y)
          return [x / l, y / l]
        }
        const ni = smooth(i, at[i].after),
          nj = smooth(j, at[j].before)
        const vertex = (k: number, normal: [number, number], r: (typeof profile)[number]) => {
          const flat = Math.sqrt(Math.max(0, 1 - r.up * r.up))
          return b.vertex([...point(c, at, k, r.inset), r.z], [normal[0] * flat, normal[1] * flat, r.up])
        }
        for (let s = 0; s + 1 < profile.length; s++) {
          const [p, q] = [profile[s], profile[s + 1]]
          const a0 = vertex(i, ni, p),
            a1 = vertex(j, nj, p),
            b0 = vertex(i, ni, q),
            b1 = vertex(j, nj, q)
          b.triangle(a0, a1, b1)
          b.triangle(a0, b1, b0)
        }
      }
    }
  }
  caps('Back', -1)
  return b.done()
}
