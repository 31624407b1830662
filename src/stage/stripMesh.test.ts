import { describe, expect, it } from 'vitest'
import { STRIP_COLUMNS, type StripsPart } from '../engine'
import { HEAD_VERTEX_WORDS, STRIP_VERTEX_WORDS, StripMesh, type StripView } from './stripMesh'
import { draw, type Point, partOf } from './testing/strips'
import { nearestFirst } from './triangleOrder'

/** One metre is 100 px at every depth: w is 1. */
const view = (o: Partial<StripView> = {}): StripView => ({
  clip: [0.5, 0, 0, 0, 0, 1, 0, 0, 0, 0, 0, 0.25, 0, 0, 0, 1],
  view: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0],
  ...{ width: 400, height: 200, zoom: 1, near: 0, share: 1, light: [0, 0, 1, 0] },
  ...o,
})
function made(part: StripsPart, d = draw(), v = view()) {
  const m = new StripMesh()
  m.add(part, d, [], v)
  const vertex = (k: number) => {
    const w = m.vertices.data.subarray(k * STRIP_VERTEX_WORDS, (k + 1) * STRIP_VERTEX_WORDS)
    return {
      x: w[0] * (v.width / 2),
      y: w[1] * (v.height / 2),
      across: w[3],
      radius: w[4],
      cap: w[5],
      metres: w[6],
      red: w[9],
      alpha: w[12],
    }
  }
  const count = m.vertices.length / STRIP_VERTEX_WORDS
  return { m, count, vertices: Array.from({ length: count }, (_, k) => vertex(k)), triangles: m.indices.length / 3 }
}
/** Area of all triangles, px². */
function area({ m, vertices }: ReturnType<typeof made>): number {
  let sum = 0
  for (let k = 0; k < m.indices.length; k += 3) {
    const [a, b, c] = [0, 1, 2].map((i) => vertices[m.indices.data[k + i]])
    sum += Math.abs((b.x - a.x) * (c.y - a.y) - (c.x - a.x) * (b.y - a.y)) / 2
  }
  return sum
}
const line: Point[] = [
  [-1, 0, 0],
  [0, 0, 0],
  [1, 0, 0],
]
it('is tested with parts that have all columns of a strip', () => expect(STRIP_COLUMNS).toHaveLength(6))
describe('a strip on the screen', () => {
  it('is as wide as it is, with a cap at each end', () => {
    const s = made(partOf([line]))
    // 200 px long, 20 px wide, 0.7 px of rim around it, capped by as much as half its width.
    expect(area(s)).toBeCloseTo((200 + 2 * 10.7) * 21.4, 1)
    expect(s.vertices.map((v) => v.radius).every((r) => Math.abs(r - 10) < 1e-4)).toBe(true)
    expect(Math.max(...s.vertices.map((v) => v.x))).toBeCloseTo(110.7, 3)
  })
  it('thinner than a pixel it fades instead', () => {
    const s = made(partOf([line]), draw({ width: 0.00124 }))
    expect(s.vertices[4].radius).toBeCloseTo(0.62, 3)
    expect(s.vertices[4].red).toBeCloseTo(0.1, 3)
  })
  it('is mitred at a bend and bevelled at a sharp corner, and never reaches far beyond it', () => {
    const turn = (degrees: number): Point[] => {
      const a = (degrees * Math.PI) / 180
      return [
        [-1, 0, 0],
        [0, 0, 0],
        [Math.cos(a), Math.sin(a), 0],
      ]
    }
    expect(made(partOf([turn(30)])).count).toBe(10)
    expect(made(partOf([turn(170)])).count).toBe(12)
    for (const degrees of [1, 30, 72, 75, 120, 179])
      for (const v of made(partOf([turn(degrees)])).vertices) {
        const nearest = Math.min(
          Math.hypot(v.x, v.y),
          Math.abs(v.y) + Math.max(0, v.x),
          Math.hypot(v.x - 100 * Math.cos((degrees * Math.PI) / 180), v.y - 100 * Math.sin((degrees * Math.PI) / 180)),
        )
        expect(nearest).toBeLessThan(120)
        expect(Number.isFinite(v.x + v.y)).toBe(true)
      }
  })
  it('points nearer than pixels are one, and its ends stay', () => {
    const fine = Array.from({ length: 20001 }, (_, i): Point => [-1 + i / 10000, 0, 0])
    const s = made(partOf([fine]))
    expect(s.count).toBeLessThan(2 * (200 / 0.6 + 6))
    expect(Math.max(...s.vertices.map((v) => v.x))).toBeCloseTo(110.7, 3)
  })
  it('costs nothing out of sight, behind the lens it is cut', () => {
    expect(made(partOf([line.map(([x]) => [x + 9, 0, 0] as const)])).count).toBe(0)
    const lens = view({ clip: [0.5, 0, 0, 0, 0, 1, 0, 0, 0, 0, 0, 0.25, -1, 0, 0, 0.5] })
    const s = made(partOf([line]), draw(), lens)
    for (const v of s.vertices) expect(Number.isFinite(v.x + v.y + v.radius)).toBe(true)
  })
  it('a part of them is a part by the seeds of their particles, the same in every frame', () => {
    const many = partOf(Array.from({ length: 1000 }, () => line))
    const some = made(many, draw(), view({ share: 0.3 })).count / made(many).count
    expect(some).toBeGreaterThan(0.25)
    expect(some).toBeLessThan(0.35)
  })
  it('covers by its opacity and only adds light else', () => {
    expect(made(partOf([line]), draw({ opacity: 0.5, blend: 'normal' })).vertices[0].alpha).toBeCloseTo(0.5, 5)
    expect(made(partOf([line]), draw({ opacity: 0.5 })).vertices[0].alpha).toBe(0)
  })
  it('those that cover each other come farthest first', () => {
    const at = (z: number): Point[] => line.map(([x, y]) => [x, y, z])
    const deep = view({ clip: [0.5, 0, 0, 0, 0, 1, 0, 0, 0, 0, 0, 0.25, 0, 0, 1, 5] })
    const s = made(partOf([at(0), at(3), at(1)]), draw({ blend: 'normal' }), deep)
    const radii = s.vertices.map((v) => v.radius).filter((_, k) => k % 10 === 0)
    expect(radii).toEqual([...radii].sort((a, b) => a - b))
  })
  it('has a glow at its head', () => {
    const { m } = made(partOf([line]), draw({ head: { size: 1, brightness: 2, rays: 0 } }))
    expect(m.heads.length).toBe(4 * HEAD_VERTEX_WORDS)
    const [x, , , , , , red] = m.heads.data.subarray(HEAD_VERTEX_WORDS)
    expect(x * 200).toBeCloseTo(150, 3)
    expect(red).toBeCloseTo(2, 5)
  })
  it('a flat band is narrow from its side', () => {
    const straight = area(made(partOf([line]), draw({ as: 'band', normal: [0, 0, 1] })))
    const side = area(made(partOf([line]), draw({ as: 'band', normal: [0, 1, 0] })))
    expect(straight).toBeCloseTo(200 * 20, 0)
    expect(side).toBeLessThan(200 * 2)
  })
  it('a flat band lies as its particle lay at each point, where it should and its points say how', () => {
    const way: Point[] = Array.from({ length: 7 }, (_, i) => [i / 4 - 0.75, 0, 0])
    // From facing the camera to standing on its edge.
    const normals = way.map((_, i): Point => [0, Math.sin((i / 6) * (Math.PI / 2)), Math.cos((i / 6) * (Math.PI / 2))])
    const heights = (d: Parameters<typeof draw>[0], part = partOf([way], [normals])) => {
      const { vertices } = made(part, draw({ as: 'band', width: 0.4, normal: [0, 0, 1], ...d }))
      const at = new Map<number, number>()
      for (const v of vertices) at.set(Math.round(v.x), Math.max(at.get(Math.round(v.x)) ?? 0, v.y))
      return [...at].sort(([a], [b]) => a - b).map(([, y]) => y)
    }
    const turned = heights({ turned: true })
    expect(turned).toHaveLength(7)
    for (let k = 1; k < 7; k++) expect(turned[k]).toBeLessThan(turned[k - 1])
    expect(turned[6]).toBeLessThan(turned[0] * 0.15)
    const flatAll = heights({ turned: false })
    expect(flatAll).toEqual(Array(7).fill(expect.closeTo(turned[0], 3)))
    // Without normals it faces its direction.
    expect(heights({ turned: true }, partOf([way]))).toEqual(flatAll)
  })
})
it('is put in order from the nearest triangle on, all of them there', () => {
  const points: Point[] = Array.from({ length: 40 }, (_, i) => [i / 20 - 1, 0.3 * Math.sin(i), 3 * Math.cos(i * 1.7)])
  const { m, vertices, triangles } = made(partOf([points]), draw(), view({ clip: [0.5, 0, 0, 0, 0, 1, 0, 0, 0, 0, 0.2, 0, 0, 0, 0, 1] }))
  const corners = () => Array.from({ length: triangles }, (_, k) => [...m.indices.data.subarray(3 * k, 3 * k + 3)].join())
  const before = corners()
  const z = (corner: string) => corner.split(',').reduce((sum, i) => sum + m.vertices.data[Number(i) * STRIP_VERTEX_WORDS + 2] / 3, 0)
  const at = (vertex: number) => m.vertices.data[vertex * STRIP_VERTEX_WORDS + 2]
  const depths = nearestFirst(m.indices.data.subarray(0, m.indices.length), at, (d) => 10 + d)
  const after = corners()
  expect(vertices.length).toBeGreaterThan(80)
  expect(after).not.toEqual(before)
  expect([...after].sort()).toEqual([...before].sort())
  after.forEach((corner, k) => {
    expect(depths[k]).toBeCloseTo(10 + z(corner), 5)
    if (k) expect(depths[k]).toBeGreaterThanOrEqual(depths[k - 1] - 1e-6)
  })
})
