import { describe, expect, it } from 'vitest'
import { nodeKernels } from '../../hosts/node/kernels'
import { buildBvh, Heap, hash3, isClosed, type Mesh, planeMesh, runningAreas, Surface, unit } from '..'
import { boxMesh, sphereMesh } from '../testing/meshes'

type Builder = 'kernel' | 'TypeScript'
async function caster(mesh: Mesh, builder: Builder) {
  const host = await nodeKernels()
  const heap = new Heap(host.memory, 1 << 28)
  const put = (b: ArrayBuffer) => {
    const at = heap.take(b.byteLength)
    heap.u32(at, b.byteLength / 4).set(new Uint32Array(b))
    return at
  }
  const made = () => {
    const bvh = buildBvh(mesh)
    return { nodes: put(bvh.nodes), leaves: put(bvh.leaves) }
  }
  const { nodes, leaves } = builder === 'kernel' ? new Surface(heap, mesh, host.exports).forCast() : made()
  const stack = heap.take(4096)
  const hit = heap.take(256)
  return (o: number[], d: number[], both = false): { t: number; normal: number[] } | null => {
    heap.f32(hit, 1)[0] = 1
    const [ox, oy, oz] = o
    const [dx, dy, dz] = d
    if (!host.exports.castMesh(nodes, leaves, both ? 1 : 0, ox, oy, oz, dx, dy, dz, stack, hit)) return null
    const f = heap.f32(hit, 4)
    return { t: f[0], normal: [f[1], f[2], f[3]] }
  }
}
const sub = (a: number[], b: number[]) => [a[0] - b[0], a[1] - b[1], a[2] - b[2]]
const trianglesOf = new WeakMap<Mesh, { a: number[]; e1: number[]; e2: number[] }[]>()
/** A corner of each triangle and the two sides from there. */
function triangles(mesh: Mesh) {
  const known = trianglesOf.get(mesh)
  if (known) return known
  const p = (i: number) => [...mesh.positions.subarray(mesh.indices[i] * 3, mesh.indices[i] * 3 + 3)]
  const made = Array.from({ length: mesh.indices.length / 3 }, (_, t) => {
    const a = p(t * 3)
    return { a, e1: sub(p(t * 3 + 1), a), e2: sub(p(t * 3 + 2), a) }
  })
  trianglesOf.set(mesh, made)
  return made
}
/** The nearest front face by trying every triangle in double precision. */
function naive(mesh: Mesh, o: number[], d: number[], both: boolean): number | null {
  const cross = (a: number[], b: number[]) => [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]]
  const dot = (a: number[], b: number[]) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
  let best: number | null = null
  for (const { a, e1, e2 } of triangles(mesh)) {
    const h = cross(d, e2)
    const det = dot(e1, h)
    if (both ? Math.abs(det) < 1e-12 : det <= 1e-12) continue
    const s = sub(o, a)
    const u = dot(s, h) / det
    const q = cross(s, e1)
    const v = dot(d, q) / det
    const k = dot(e2, q) / det
    if (u >= 0 && v >= 0 && u + v <= 1 && k >= 0 && k < 1 && (best === null || k < best)) best = k
  }
  return best
}
const random = (i: number, c: number, lo: number, hi: number) => lo + (hi - lo) * unit(hash3(99, i, c))

describe.each(['kernel', 'TypeScript'] as const)('casts through the hierarchy built by %s', (builder) => {
  it.each([
    ['a sphere of 3,120 triangles', sphereMesh(1, 40)],
    ['a box', boxMesh([1, 2, 0.5])],
    ['one square', planeMesh(2)],
  ])('find what trying every triangle finds: %s', async (_name, mesh) => {
    const cast = await caster(mesh, builder)
    let hits = 0
    for (let i = 0; i < 500; i++) {
      const o = [0, 1, 2].map((c) => random(i, c, -2, 2))
      const d = [3, 4, 5].map((c) => random(i, c, -4, 4))
      const both = i % 2 === 1
      const ours = cast(o, d, both)
      const true_ = naive(mesh, o, d, both)
      if (true_ === null) {
        // The overlap at edges may find a little more, never much.
        if (ours)
          expect(
            naive(
              mesh,
              o.map((x) => x * 1.0002),
              d,
              both,
            ) ??
              naive(
                mesh,
                o.map((x) => x * 0.9998),
                d,
                both,
              ),
          ).not.toBeNull()
        continue
      }
      hits++
      expect(ours).not.toBeNull()
      expect(ours?.t).toBeCloseTo(true_, 4)
    }
    expect(hits).toBeGreaterThan(20)
  })
  it('leave no gap between neighbours: every ray from outside to the middle of a sphere hits', async () => {
    const cast = await caster(sphereMesh(1, 24), builder)
    for (let i = 0; i < 20000; i++) {
      const z = random(i, 0, -1, 1)
      const a = random(i, 1, 0, 2 * Math.PI)
      const r = Math.sqrt(1 - z * z)
      const o = [r * Math.cos(a) * 2, r * Math.sin(a) * 2, z * 2]
      const h = cast(
        o,
        o.map((x) => -x),
      )
      expect(h).not.toBeNull()
    }
  })
  it('see only front faces of a closed mesh unless asked for both', async () => {
    const cast = await caster(sphereMesh(1, 20), builder)
    expect(cast([0, 0, 0], [2, 0, 0])).toBeNull()
    expect(cast([0, 0, 0], [2, 0.01, 0.013], true)?.t).toBeCloseTo(0.5, 1)
  })
  it('an empty mesh is hit by nothing', async () => {
    const cast = await caster({ positions: new Float32Array(0), normals: null, indices: new Uint32Array(0), parts: [] }, builder)
    expect(cast([0, 5, 0], [0, -10, 0])).toBeNull()
  })
  it('degenerate triangles do no harm', async () => {
    const mesh: Mesh = {
      positions: new Float32Array([0, 0, 0, 0, 0, 0, 0, 0, 0, 1, 0, 0, 2, 0, 0]),
      normals: null,
      indices: new Uint32Array([0, 1, 2, 0, 3, 4, 0, 0, 3]),
      parts: [],
    }
    const cast = await caster(mesh, builder)
    for (let i = 0; i < 200; i++)
      expect(
        cast(
          [0, 1, 2].map((c) => random(i, c, -2, 2)),
          [3, 4, 5].map((c) => random(i, c, -2, 2)),
        ),
      ).toBeNull()
  })
})
describe('meshes', () => {
  it('know whether they have an inside', () => {
    expect(isClosed(boxMesh())).toBe(true)
    expect(isClosed(sphereMesh(1, 12))).toBe(true)
    expect(isClosed(planeMesh(1))).toBe(false)
    const open = boxMesh()
    expect(isClosed({ ...open, indices: open.indices.slice(3) })).toBe(false)
  })
  it('sum their areas', () => {
    const areas = runningAreas(boxMesh([1, 2, 3]))
    expect(areas[areas.length - 1]).toBeCloseTo(2 * (1 * 2 + 2 * 3 + 3 * 1), 5)
    expect(runningAreas(planeMesh(4)).at(-1)).toBeCloseTo(16, 6)
  })
})
