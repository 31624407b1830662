import { cosTurns, sinTurns } from '../math'
import { Builder } from './builder'
import type { Mesh } from './mesh'
import { lineThrough } from './path'

/** A whole turn, closed exactly: the last column stands where the first does. */
const around = (u: number): [number, number] => (u >= 1 ? [1, 0] : [cosTurns(u), sinTurns(u)])

/** Sides Top, Bottom, Front, Back, Right and Left. */
export function box(width: number, height: number, depth: number): Mesh {
  const b = new Builder()
  const side = (name: string, n: number[], u: number[], v: number[]) => {
    b.part(name)
    const h = [width / 2, height / 2, depth / 2]
    b.grid(1, 1, (s, t) => ({ p: [0, 1, 2].map((k) => (n[k] + u[k] * (s * 2 - 1) + v[k] * (t * 2 - 1)) * h[k]), n }))
  }
  side('Top', [0, 1, 0], [1, 0, 0], [0, 0, -1])
  side('Bottom', [0, -1, 0], [1, 0, 0], [0, 0, 1])
  side('Front', [0, 0, 1], [1, 0, 0], [0, 1, 0])
  side('Back', [0, 0, -1], [-1, 0, 0], [0, 1, 0])
  side('Right', [1, 0, 0], [0, 0, -1], [0, 1, 0])
  side('Left', [-1, 0, 0], [0, 0, 1], [0, 1, 0])
  return b.done()
}
/** By rings from pole to pole. */
export function sphere(radius: number, rings: number): Mesh {
  const b = new Builder()
  b.grid(rings * 2, rings, (u, v) => {
    const [c, s] = around(u)
    const y = v <= 0 ? -1 : v >= 1 ? 1 : -cosTurns(v / 2),
      r = v <= 0 || v >= 1 ? 0 : sinTurns(v / 2)
    const n = [r * s, y, r * c]
    return { p: n.map((x) => x * radius), n }
  })
  return b.done()
}
const GOLD = 1.618033988749895
const ICO = [
  [-1, GOLD, 0],
  [1, GOLD, 0],
  [-1, -GOLD, 0],
  [1, -GOLD, 0],
  [0, -1, GOLD],
  [0, 1, GOLD],
  [0, -1, -GOLD],
  [0, 1, -GOLD],
  [GOLD, 0, -1],
  [GOLD, 0, 1],
  [-GOLD, 0, -1],
  [-GOLD, 0, 1],
]
const ICO_FACES = [
  [0, 11, 5],
  [0, 5, 1],
  [0, 1, 7],
  [0, 7, 10],
  [0, 10, 11],
  [1, 5, 9],
  [5, 11, 4],
  [11, 10, 2],
  [10, 7, 6],
  [7, 1, 8],
  [3, 9, 4],
  [3, 4, 2],
  [3, 2, 6],
  [3, 6, 8],
  [3, 8, 9],
  [4, 9, 5],
  [2, 4, 11],
  [6, 2, 10],
  [8, 6, 7],
  [9, 8, 1],
]
/** By nearly even triangles: an icosahedron, each edge cut into `cuts`, put onto the sphere. */
export function evenSphere(radius: number, cuts: number): Mesh {
  const b = new Builder()
  const known = new Map<string, number>()
  const put = (p: number[]) => {
    const l = Math.sqrt(p[0] * p[0] + p[1] * p[1] + p[2] * p[2])
    const n = p.map((x) => x / l)
    // Corners of neighbouring faces come out of sums in another order: one vertex for what is the same to a millionth.
    const key = n.map((x) => Math.round(x * 1e6)).join()
    let v = known.get(key)
    if (v === undefined)
      known.set(
        key,
        (v = b.vertex(
          n.map((x) => x * radius),
          n,
        )),
      )
    return v
  }
  for (const [p, q, r] of ICO_FACES) {
    const at = (i: number, j: number) => put([0, 1, 2].map((k) => (ICO[p][k] * (cuts - i - j) + ICO[q][k] * i + ICO[r][k] * j) / cuts))
    for (let i = 0; i < cuts; i++)
      for (let j = 0; j < cuts - i; j++) {
        b.triangle(at(i, j), at(i + 1, j), at(i, j + 1))
        if (i + j < cuts - 1) b.triangle(at(i + 1, j), at(i + 1, j + 1), at(i, j + 1))
      }
  }
  return b.done()
}
/** Flat in y = 0, its front up; `hole` is the inner radius. */
export function disc(radius: number, hole: number, segments: number): Mesh {
  const b = new Builder()
  b.grid(segments, 1, (u, v) => {
    const [c, s] = around(u)
    const r = radius + (hole - radius) * v
    return { p: [r * s, 0, r * c], n: [0, 1, 0] }
  })
  return b.done()
}
/** Around the y axis, without caps, standing on y = 0. */
export function tube(radius: number, height: number, segments: number): Mesh {
  const b = new Builder()
  b.grid(segments, 1, (u, v) => {
    const [c, s] = around(u)
    return { p: [radius * s, height * v, radius * c], n: [s, 0, c] }
  })
  return b.done()
}
/** Standing on y = 0, closed below and, where `top` is above 0, above. Parts Side, Base and Top. */
export function cone(radius: number, top: number, height: number, segments: number): Mesh {
  const b = new Builder()
  const lean = Math.sqrt((radius - top) * (radius - top) + height * height) || 1
  b.part('Side')
  b.grid(segments, 1, (u, v) => {
    const [c, s] = around(u)
    const r = radius + (top - radius) * v
    return { p: [r * s, height * v, r * c], n: [(s * height) / lean, (radius - top) / lean, (c * height) / lean] }
  })
  const cap = (name: string, r: number, y: number, up: number) => {
    if (r <= 0) return
    b.part(name)
    b.grid(segments, 1, (u, v) => {
      const [c, s] = around(up > 0 ? u : 1 - u)
      return { p: [r * (1 - v) * s, y, r * (1 - v) * c], n: [0, up, 0] }
    })
  }
  cap('Base', radius, 0, -1)
  cap('Top', top, height, 1)
  return b.done()
}
/** Lying around the y axis: `radius` to the middle of the ring, `thickness` the radius of its round section. */
export function torus(radius: number, thickness: number, segments: number): Mesh {
  const b = new Builder()
  b.grid(segments, Math.max(6, segments >> 1), (u, v) => {
    const [c, s] = around(u)
    const [e, f] = around(v)
    const r = radius + thickness * e
    return { p: [r * s, thickness * f, r * c], n: [e * s, f, e * c] }
  })
  return b.done()
}
/** A straight line along X around the middle. */
export function line(length: number, pieces: number): Mesh {
  const positions = new Float32Array((pieces + 1) * 3)
  for (let i = 0; i <= pieces; i++) positions[i * 3] = length * (i / pieces - 0.5)
  return lineThrough(positions)
}
