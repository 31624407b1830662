import { describe, expect, it } from 'vitest'
import type { StripDraw } from '../acts'
import { identity, type Matrix, type StripsPart, stripColumn } from '../engine'
import { SOLID_VERTEX_WORDS, SolidMesh } from './solidMesh'
import { draw, flat, type Point, partOf } from './testing/strips'

type V3 = readonly [number, number, number]
const solid = (o: Partial<StripDraw> = {}): StripDraw => draw({ as: 'solid', solid: { sides: 12, roughness: 0.5 }, ...o })
const minus = (a: V3, b: V3): V3 => [a[0] - b[0], a[1] - b[1], a[2] - b[2]]
const dot = (a: V3, b: V3) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
const cross = (a: V3, b: V3): V3 => [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]]
function made(part: StripsPart, d = solid(), { m = identity(), share = 1 }: { m?: Matrix; share?: number } = {}) {
  const mesh = new SolidMesh()
  mesh.add(part, d, [], m, share)
  const word = (k: number, at: number): V3 => [0, 1, 2].map((q) => mesh.vertices[k * SOLID_VERTEX_WORDS + at + q]) as unknown as V3
  const triangles = Array.from({ length: mesh.indexCount / 3 }, (_, t) => [0, 1, 2].map((q) => mesh.indices[t * 3 + q]))
  const vertices = Array.from({ length: mesh.count }, (_, k) => ({ place: word(k, 0), normal: word(k, 3), colour: word(k, 6) }))
  return { vertices, triangles }
}
/** By the theorem of Gauss: the sum of the cones from the origin to its triangles, positive when their fronts look out. */
const volumeOf = ({ vertices, triangles }: ReturnType<typeof made>): number =>
  triangles.reduce((sum, t) => {
    const [a, b, c] = t.map((k) => vertices[k].place)
    return sum + dot(a, cross(b, c)) / 6
  }, 0)
const straight: Point[] = Array.from({ length: 9 }, (_, i) => [0, i / 4, 0.3])
/** Half a circle of a metre, in a plane that leans. */
const bow: Point[] = Array.from({ length: 65 }, (_, i) => {
  const a = (Math.PI * i) / 64
  return [Math.cos(a), Math.sin(a) * 0.8, Math.sin(a) * 0.6]
})

describe('strips as bodies', () => {
  it('have the volume of a tube with round ends, as near as their sides allow, fronts outwards', () => {
    const sides = 24
    const [r, l] = [0.1, 2]
    // A polygon in a circle has so much of its area; of a round end in two steps a little less than of a half ball.
    const polygon = (Math.sin((2 * Math.PI) / sides) * sides) / (2 * Math.PI)
    const volume = volumeOf(made(partOf([straight]), solid({ solid: { sides, roughness: 1 } })))
    const tube = Math.PI * r * r * l
    const ends = (4 / 3) * Math.PI * r ** 3
    expect(volume).toBeGreaterThan((tube + 0.75 * ends) * polygon)
    expect(volume).toBeLessThan((tube + ends) * polygon)
  })
  it('are closed: each edge has two triangles that go it in opposite ways', () => {
    const { vertices, triangles } = made(partOf([bow]))
    // Vertices at the tips lie at one place.
    const names = vertices.map(({ place }) => place.map((v) => Math.round(v * 1e5)).join())
    const edges = new Map<string, number>()
    for (const t of triangles)
      for (let q = 0; q < 3; q++) {
        const [a, b] = [names[t[q]], names[t[(q + 1) % 3]]]
        if (a === b) continue
        edges.set(`${a} ${b}`, (edges.get(`${a} ${b}`) ?? 0) + 1)
      }
    expect(edges.size).toBeGreaterThan(60 * 12 * 3)
    for (const [edge, n] of edges) expect(edges.get(edge.split(' ').reverse().join(' '))).toBe(n)
  })
  it('are as wide as they should be all along a bend, with unit normals away from the middle, and are not wrung', () => {
    const { vertices } = made(partOf([bow]))
    const sides = 12
    const rings = vertices.length / sides
    for (let k = 2; k < rings - 2; k++) {
      const ring = vertices.slice(k * sides, (k + 1) * sides)
      const middle = [0, 1, 2].map((a) => ring.reduce((s, v) => s + v.place[a], 0) / sides) as unknown as V3
      expect(Math.hypot(...minus(middle, bow[k - 2]))).toBeLessThan(1e-5)
      for (const { place, normal } of ring) {
        const out = minus(place, middle)
        expect(Math.hypot(...out)).toBeCloseTo(0.1, 4)
        expect(dot(out, normal)).toBeCloseTo(0.1, 4)
      }
      // From ring to ring each vertex goes on along the bow: less than what its angle at this radius gives.
      if (k > 2) for (let s = 0; s < sides; s++) expect(dot(ring[s].normal, vertices[(k - 1) * sides + s].normal)).toBeGreaterThan(0.998)
    }
  })
  it('taper by the look, thin by opacity and fade, and are gone where there is nothing left', () => {
    const part = partOf([straight])
    const radius = (d: StripDraw, p = part) => {
      const { vertices } = made(p, d)
      return vertices.length ? Math.hypot(vertices[6 * 12].place[0], vertices[6 * 12].place[2] - 0.3) : 0
    }
    // The fifth of nine points: half way.
    const halving = { ...solid().look, size: { points: [0, 1].map((at) => ({ at, v: at })) } }
    expect(radius(solid({ look: halving }))).toBeCloseTo(0.05, 3)
    expect(radius(solid({ opacity: 0.5 }))).toBeCloseTo(0.05, 5)
    const faded = partOf([straight])
    stripColumn(faded, 'fade')[0] = 0.25
    expect(radius(solid(), faded)).toBeCloseTo(0.025, 5)
    expect(made(part, solid({ opacity: 0 })).triangles).toHaveLength(0)
    expect(made(part, solid({ look: { ...solid().look, size: flat(0) } })).triangles).toHaveLength(0)
  })
  it('stand where their copy stands, at its size', () => {
    const m: Matrix = identity()
    for (const k of [0, 5, 10]) m[k] = 2
    m[3] = 7
    const { vertices } = made(partOf([straight]), solid(), { m })
    const ring = vertices.slice(6 * 12, 7 * 12)
    for (const { place } of ring) expect(Math.hypot(place[0] - 7, place[2] - 0.6)).toBeCloseTo(0.2, 4)
  })
  it('are thinned by the seed of their particles, and those without a length are left out', () => {
    const many = partOf(Array.from({ length: 400 }, () => straight))
    const all = made(many).triangles.length
    const some = made(many, solid(), { share: 0.5 }).triangles.length
    expect(some / all).toBeGreaterThan(0.4)
    expect(some / all).toBeLessThan(0.6)
    const still: Point[] = Array.from({ length: 4 }, () => [1, 1, 1])
    expect(made(partOf([still])).triangles).toHaveLength(0)
  })
})
