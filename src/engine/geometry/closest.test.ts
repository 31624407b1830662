import { beforeAll, describe, expect, it } from 'vitest'
import { nodeKernels } from '../../hosts/node/kernels'
import { evenSphere, Heap, hash3, type KernelHost, type Mesh, Surface, torus, unit } from '..'
import { boxMesh, sphereMesh } from '../testing/meshes'

type V = [number, number, number]
let host: KernelHost
let heap: Heap
let scratch: { stack: number; hit: number }
beforeAll(async () => {
  host = await nodeKernels({ threads: 1 })
  heap = new Heap(host.memory, 1 << 28)
  scratch = { stack: heap.take(4096), hit: heap.take(1024) }
})
const random = (i: number, c: number, lo: number, hi: number) => lo + (hi - lo) * unit(hash3(17, i, c))
const sub = (a: V, b: V): V => [a[0] - b[0], a[1] - b[1], a[2] - b[2]]
const dot = (a: V, b: V) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
const corner = (m: Mesh, i: number): V => [...m.positions.subarray(m.indices[i] * 3, m.indices[i] * 3 + 3)] as V
/** By looking at every triangle, one after the other, in double precision. */
function distance(m: Mesh, p: V): number {
  let best = Number.POSITIVE_INFINITY
  for (let t = 0; t < m.indices.length; t += 3) {
    const [a, b, c] = [corner(m, t), corner(m, t + 1), corner(m, t + 2)]
    const [e1, e2, q] = [sub(b, a), sub(c, a), sub(p, a)]
    const [d11, d12, d22, q1, q2] = [dot(e1, e1), dot(e1, e2), dot(e2, e2), dot(q, e1), dot(q, e2)]
    const det = d11 * d22 - d12 * d12
    const [u, v] = [(d22 * q1 - d12 * q2) / det, (d11 * q2 - d12 * q1) / det]
    const at = (x: number, y: number) => Math.hypot(...sub(q, [e1[0] * x + e2[0] * y, e1[1] * x + e2[1] * y, e1[2] * x + e2[2] * y]))
    if (u >= 0 && v >= 0 && u + v <= 1) best = Math.min(best, at(u, v))
    const clamp = (x: number) => Math.min(1, Math.max(0, x))
    const w = clamp((q2 - q1 + d11 - d12) / (d11 - 2 * d12 + d22))
    best = Math.min(best, at(clamp(q1 / d11), 0), at(0, clamp(q2 / d22)), at(1 - w, w))
  }
  return best
}
/** How often a closed mesh goes round a point: the sum of its triangles' solid angles (Van Oosterom and Strackee 1983). */
function winding(m: Mesh, p: V): number {
  let sum = 0
  for (let t = 0; t < m.indices.length; t += 3) {
    const [a, b, c] = [0, 1, 2].map((k) => sub(corner(m, t + k), p))
    const [la, lb, lc] = [a, b, c].map((v) => Math.hypot(...v))
    const volume = a[0] * (b[1] * c[2] - b[2] * c[1]) + a[1] * (b[2] * c[0] - b[0] * c[2]) + a[2] * (b[0] * c[1] - b[1] * c[0])
    sum += 2 * Math.atan2(volume, la * lb * lc + dot(a, b) * lc + dot(b, c) * la + dot(c, a) * lb)
  }
  return sum / (4 * Math.PI)
}
const nearest = (s: Surface, p: V, within = 1e15) => {
  const cast = s.forCast()
  const v = heap.view()
  v.setFloat32(scratch.hit, within * within, true)
  v.setUint32(scratch.hit + 16, 0xffffffff, true)
  const found = host.exports.closestPoint(cast.nodes, cast.leaves, ...p, scratch.stack, scratch.hit)
  const f = (o: number) => heap.view().getFloat32(scratch.hit + o, true)
  return found
    ? {
        d: Math.sqrt(f(0)),
        at: [f(4), f(8), f(12)] as V,
        height: f(28),
        triangle: heap.view().getUint32(cast.triangles + heap.view().getUint32(scratch.hit + 16, true) * 4, true),
        u: f(20),
        v: f(24),
      }
    : null
}
const ball = (s: Surface, o: V, d: V, r: number, both = false) => {
  const cast = s.forCast()
  heap.view().setFloat32(scratch.hit, 1, true)
  const found = host.exports.castBall(cast.nodes, cast.leaves, both ? 1 : 0, ...o, ...d, r, scratch.stack, scratch.hit)
  const f = (k: number) => heap.view().getFloat32(scratch.hit + k, true)
  return found ? { t: f(0), n: [f(4), f(8), f(12)] as V } : null
}

describe('the nearest place of a mesh', () => {
  it('is as near as by looking at every triangle, and lies on the one it names', () => {
    for (const mesh of [boxMesh([1, 2, 0.5]), torus(1, 0.3, 12), evenSphere(1, 4)]) {
      const s = new Surface(heap, mesh, host.exports)
      for (let i = 0; i < 60; i++) {
        const p: V = [random(i, 0, -2, 2), random(i, 1, -2, 2), random(i, 2, -2, 2)]
        const got = nearest(s, p)
        if (!got) throw new Error('nothing found')
        expect(got.d).toBeCloseTo(distance(mesh, p), 3)
        const t = got.triangle * 3
        const [a, b, c] = [corner(mesh, t), corner(mesh, t + 1), corner(mesh, t + 2)]
        for (let k = 0; k < 3; k++) expect(got.at[k]).toBeCloseTo(a[k] + got.u * (b[k] - a[k]) + got.v * (c[k] - a[k]), 5)
      }
      s.dispose()
    }
  })
  it('tells inside from outside, also beyond an edge', () => {
    const mesh = boxMesh([1, 1, 1])
    const s = new Surface(heap, mesh, host.exports)
    for (let i = 0; i < 400; i++) {
      const p: V = [random(i, 3, -1, 1), random(i, 4, -1, 1), random(i, 5, -1, 1)]
      const inside = p.every((x) => Math.abs(x) < 0.5)
      expect((nearest(s, p)?.height ?? 0) < 0, p.join()).toBe(inside)
    }
    s.dispose()
  })
  it('tells the side by all faces around a corner: thin tetrahedra, spikes, saddles', () => {
    // A tetrahedron a hundredth thick, a saw-toothed star with corners in and out, and a ring.
    const thin: Mesh = {
      positions: Float32Array.of(0, 0, 0, 2, 0.02, 0, 0.3, 0, 0.05, 1.9, 0.06, -0.02),
      normals: null,
      indices: Uint32Array.of(0, 1, 2, 0, 3, 1, 0, 2, 3, 1, 3, 2),
      parts: [],
    }
    const star = sphereMesh(1, 8)
    star.positions = star.positions.map((v, i) => v * (Math.floor(i / 3) % 3 === 0 ? 1.8 : 0.35))
    for (const mesh of [thin, star, torus(1, 0.3, 8)]) {
      const s = new Surface(heap, mesh, host.exports)
      const outside = winding(mesh, [50, 40, 30])
      expect(Math.abs(outside)).toBeLessThan(1e-6)
      let asked = 0
      for (let i = 0; i < 600; i++) {
        const p: V = [random(i, 13, -1.5, 3), random(i, 14, -1.6, 1.6), random(i, 15, -1.6, 1.6)]
        const got = nearest(s, p)
        if (!got || got.d < 1e-4) continue
        const cast = s.forCast()
        const behind = host.exports.isBehind(cast.nodes, cast.leaves, ...p, scratch.stack, scratch.hit) !== 0
        expect(behind, `${p}`).toBe(Math.abs(winding(mesh, p)) > 0.5)
        asked++
      }
      expect(asked).toBeGreaterThan(500)
      s.dispose()
    }
  })
  it('finds nothing farther than it may look', () => {
    const s = new Surface(heap, evenSphere(1, 4), host.exports)
    expect(nearest(s, [3, 0, 0], 1.5)).toBeNull()
    expect(nearest(s, [3, 0, 0], 2.1)?.d).toBeGreaterThan(1.99)
    s.dispose()
  })
})
describe('a ball on its way', () => {
  it('meets a face at its radius, an edge and a corner round them', () => {
    const s = new Surface(heap, boxMesh([1, 1, 1]), host.exports)
    const face = ball(s, [0.1, 2, 0.2], [0, -3, 0], 0.2)
    expect(face?.t).toBeCloseTo((2 - 0.7) / 3, 5)
    expect(face?.n[1]).toBeCloseTo(1, 5)
    // 0.1 beyond the edge x = 0.5: it is touched when 0.2² = 0.1² + h².
    const edge = ball(s, [0.6, 2, 0], [0, -3, 0], 0.2)
    expect(edge?.t).toBeCloseTo((2 - 0.5 - Math.sqrt(0.04 - 0.01)) / 3, 5)
    expect(edge?.n[0]).toBeCloseTo(0.5, 4)
    const corner = ball(s, [0.6, 2, 0.6], [0, -3, 0], 0.2)
    expect(corner?.t).toBeCloseTo((2 - 0.5 - Math.sqrt(0.04 - 0.02)) / 3, 5)
    expect(ball(s, [0.71, 2, 0], [0, -3, 0], 0.2)).toBeNull()
    s.dispose()
  })
  it('one that overlaps meets at once, one inside a closed mesh goes on, a sheet stops both sides', () => {
    const s = new Surface(heap, boxMesh([1, 1, 1]), host.exports)
    expect(ball(s, [0, 0.55, 0], [0, 0.1, 0], 0.2)?.t).toBeLessThan(0)
    expect(ball(s, [0, 0, 0], [0, 3, 0], 0.1)).toBeNull()
    expect(ball(s, [0, 0, 0], [0, 3, 0], 0.1, true)?.t).toBeCloseTo(0.4 / 3, 5)
    s.dispose()
  })
  it('never comes nearer to a mesh than its radius, wherever it flies', () => {
    const mesh = torus(1, 0.35, 16)
    const s = new Surface(heap, mesh, host.exports)
    let met = 0
    for (let i = 0; i < 300; i++) {
      const o: V = [random(i, 6, -2, 2), random(i, 7, -1.5, 1.5), random(i, 8, -2, 2)]
      const r = random(i, 12, 0.02, 0.2)
      const start = nearest(s, o)
      if (!start || start.height < 0 || start.d < r) continue
      const d: V = [random(i, 9, -3, 3), random(i, 10, -3, 3), random(i, 11, -3, 3)]
      const hit = ball(s, o, d, r)
      if (hit) met++
      for (let k = 0; k <= 30; k++) {
        const t = (k / 30) * (hit?.t ?? 1)
        expect(nearest(s, [o[0] + d[0] * t, o[1] + d[1] * t, o[2] + d[2] * t])?.d).toBeGreaterThan(r * 0.995 - 1e-5)
      }
      if (hit) expect(nearest(s, [o[0] + d[0] * hit.t, o[1] + d[1] * hit.t, o[2] + d[2] * hit.t])?.d).toBeCloseTo(r, 3)
    }
    expect(met).toBeGreaterThan(25)
    s.dispose()
  })
})
