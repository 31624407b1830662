import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { nodeKernels } from '../../hosts/node/kernels'
import {
  type BirthParams,
  edgeSites,
  evenSphere,
  type Frame,
  guideOf,
  latticeSites,
  line,
  type Mesh,
  planeMesh,
  Surface,
  sphere,
  torus,
  vertexSites,
  World,
} from '..'
import { boxMesh, sphereMesh } from '../testing/meshes'
import { column, framesOn, gravity, plan, point, points, still, system, withWorld } from '../testing/plans'

const born = async (mesh: Mesh, burst: number, birth: Partial<BirthParams>, inspect: (f: Frame) => void) =>
  withWorld(plan([system({ burst, birth: { ...point, source: 0, ...birth } })], [still(mesh)], { substeps: 1 }), (w) =>
    inspect(framesOn(w, 1)),
  )
const rows = (f: Frame, names: ['px', 'py', 'pz'] | ['vx', 'vy', 'vz'] = ['px', 'py', 'pz'], part = 0) => {
  const c = names.map((n) => column(f, n, part))
  return Array.from({ length: points(f, part).count }, (_, i) => c.map((x) => x[i]))
}
const speeds = (f: Frame) => rows(f, ['vx', 'vy', 'vz'])
const length = (v: number[]) => Math.hypot(...v)

describe('places', () => {
  it('vertices: each corner of a box is one, and gets its share', async () => {
    await born(boxMesh([2, 2, 2]), 8000, { on: 'vertices', along: 'normal', speed: 1 }, (f) => {
      const seen = new Map<string, number>()
      rows(f).forEach((p) => seen.set(p.map(Math.sign).join(), (seen.get(p.map(Math.sign).join()) ?? 0) + 1))
      expect(seen.size).toBe(8)
      for (const n of seen.values()) expect(Math.abs(n - 1000)).toBeLessThan(5 * Math.sqrt(1000))
      // The normal of a corner leads outwards.
      const p = rows(f)
      speeds(f).forEach((v, i) => expect(v.map(Math.sign)).toEqual(p[i].map(Math.sign)))
    })
    expect(vertexSites(boxMesh()).positions.length / 3).toBe(8)
  })
  it('edges: evenly by length', async () => {
    const e = edgeSites(boxMesh([1, 1, 1]))
    expect(e.lengths.length).toBe(18)
    expect(e.lengths.at(-1)).toBeCloseTo(12 + 6 * Math.SQRT2, 5)
    await born(boxMesh([2, 2, 2]), 20000, { on: 'edges' }, (f) => {
      const upright = rows(f).filter((p) => Math.abs(Math.abs(p[0]) - 1) < 0.01 && Math.abs(Math.abs(p[2]) - 1) < 0.01)
      const share = 8 / (24 + 12 * Math.SQRT2)
      expect(Math.abs(upright.length - 20000 * share)).toBeLessThan(5 * Math.sqrt(20000 * share))
      // Along an edge the height is even: its mean and its variance.
      const y = upright.map((p) => p[1])
      expect(Math.abs(y.reduce((a, b) => a + b) / y.length)).toBeLessThan(0.05)
      expect(y.reduce((a, b) => a + b * b, 0) / y.length).toBeCloseTo(1 / 3, 1)
    })
  })
  it('inside: even in the volume of a sphere', async () => {
    await born(evenSphere(1, 12), 20000, { on: 'inside', along: 'normal', speed: 0.001 }, (f) => {
      const p = rows(f)
      const r = p.map(length)
      expect(Math.max(...r)).toBeLessThan(1.0001)
      // r³ is even from 0 to 1: a chi-square over ten shells.
      const shells = new Array<number>(10).fill(0)
      for (const x of r) shells[Math.min(9, Math.floor(x ** 3 * 10.05))]++
      const chi = shells.slice(0, 9).reduce((s, n) => s + (n - 1990) ** 2 / 1990, 0)
      expect(chi).toBeLessThan(30)
      speeds(f).forEach((v, i) => expect(length(v.map((x, k) => x * 1000 - p[i][k] / r[i]))).toBeLessThan(0.01))
    })
  })
  it('inside: never in the hole of a torus; both bodies of a mesh that crosses itself', async () => {
    await born(torus(1, 0.3, 48), 4000, { on: 'inside' }, (f) => {
      for (const [x, y, z] of rows(f)) expect(Math.hypot(Math.hypot(x, z) - 1, y)).toBeLessThan(0.301)
      expect(f.notices).toEqual([])
    })
    const a = boxMesh([2, 1, 1]),
      b = boxMesh([1, 2, 1])
    const cross: Mesh = {
      positions: new Float32Array([...a.positions, ...b.positions]),
      normals: null,
      indices: new Uint32Array([...a.indices, ...b.indices].map((v, i) => (i < a.indices.length ? v : v + 8))),
      parts: [],
    }
    await born(cross, 6000, { on: 'inside' }, (f) => {
      const middle = rows(f).filter(([x, y]) => Math.abs(x) < 0.5 && Math.abs(y) < 0.5)
      expect(Math.abs(middle.length - 2000)).toBeLessThan(5 * Math.sqrt(2000))
    })
  })
  it('inside something flat or open says so and starts on its faces', async () => {
    const flat: Mesh = {
      positions: new Float32Array([0, 0, 0, 1, 0, 0, 0, 0, 1]),
      normals: null,
      indices: new Uint32Array([0, 2, 1]),
      parts: [],
    }
    await born(flat, 50, { on: 'inside' }, (f) => {
      expect(points(f).count).toBe(50)
      expect(f.notices[0].message).toMatch(/is open/)
      for (const [x, y, z] of rows(f)) expect(Math.abs(y) < 0.01 && x >= -1e-6 && z >= -1e-6 && x + z < 1.00001).toBe(true)
    })
  })
  it('a lattice fills a box in even rows, one after another, and says when it cannot', async () => {
    await born(boxMesh([1, 1, 1]), 27, { on: 'lattice', lattice: 0.4 }, (f) => {
      const p = rows(f)
      expect(new Set(p.map((x) => x.map((v) => v.toFixed(3)).join())).size).toBe(27)
      expect(new Set(p.flat().map((v) => Math.abs(v).toFixed(3)))).toEqual(new Set(['0.400', '0.000']))
    })
    await born(boxMesh([1, 1, 1]), 5, { on: 'lattice', lattice: 0.001 }, (f) => {
      expect(f.notices[0].message).toMatch(/too fine .* make the spacing larger/)
      expect(
        rows(f)
          .flat()
          .every((v) => v === 0),
      ).toBe(true)
    })
  })
  it('the inside of a sphere on a lattice is that of its formula', async () => {
    const host = await nodeKernels()
    const w = new World(host, plan([], []), 1 << 28)
    const s = new Surface(w.heap, sphere(1, 64), host.exports)
    const scratch = { stack: w.heap.take(8192), hit: w.heap.take(256) }
    const cast = s.forCast()
    const found = latticeSites(
      s.bounds,
      0.1,
      (x, y, z) => host.exports.insideMesh(cast.nodes, cast.leaves, x, y, z, 12, scratch.stack, scratch.hit) !== 0,
    )
    const ideal = latticeSites(s.bounds, 0.1, (x, y, z) => x * x + y * y + z * z < 0.998)
    // The facets lie a little inside the sphere; some points of the lattice stand on it.
    expect(Math.abs((found?.positions.length ?? 0) - (ideal?.positions.length ?? 0)) / 3).toBeLessThan(20)
    s.dispose()
    w.dispose()
    host.team.dispose()
  })
})

describe('the guide into running sums', () => {
  it('never begins too late, and not far too early (property)', () => {
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: 0, max: 100, noNaN: true }), { minLength: 1, maxLength: 300 }),
        fc.double({ min: 0, max: 0.999999, noNaN: true }),
        (areas, u) => {
          let sum = 0
          const sums = Float32Array.from(areas, (a) => (sum += a))
          const whole = sums[sums.length - 1]
          if (!(whole > 0)) return true
          const guide = guideOf(sums)
          const at = Math.fround(u * whole)
          const ideal = Math.min(sums.length - 1, sums.findIndex((s) => s > at) < 0 ? sums.length - 1 : sums.findIndex((s) => s > at))
          // As the kernel asks it.
          const even = Math.fround(at * Math.fround(guide.length / whole)) - 1
          const begin = guide[even > 0 ? Math.trunc(Math.min(even, guide.length - 1)) : 0]
          return begin <= ideal
        },
      ),
    )
    expect([...guideOf(new Float32Array([1, 2, 3, 4]))]).toEqual([0, 0, 1, 2])
    expect(guideOf(new Float32Array(0)).length).toBe(1)
  })
})
it('births on infinite faces, or next to nothing, trap nothing', async () => {
  for (const size of [1e25, 1e-25]) {
    const m = boxMesh([size, size, size])
    await born(m, 20, { on: 'faces' }, (f) => expect(points(f).count).toBeLessThanOrEqual(20))
    await born(m, 20, { on: 'edges' }, (f) => expect(points(f).count).toBeLessThanOrEqual(20))
  }
})
describe('a line', () => {
  it('gives births evenly along it, also when all faces were asked for', async () => {
    for (const on of ['edges', 'faces'] as const) {
      await born(line(4, 8), 4000, { on }, (f) => {
        const p = rows(f)
        expect(p.every(([, y, z]) => Math.abs(y) < 1e-3 && z === 0)).toBe(true)
        expect(Math.min(...p.map((x) => x[0]))).toBeLessThan(-1.98)
        expect(Math.max(...p.map((x) => x[0]))).toBeGreaterThan(1.98)
        // Each half metre has an eighth of them.
        for (let k = 0; k < 8; k++) expect(p.filter(([x]) => x >= k / 2 - 2 && x < k / 2 - 1.5).length / 4000).toBeCloseTo(1 / 8, 1.3)
      })
    }
  })
})

describe('particles of another system as a source', () => {
  const parent = system({ id: 'parent', seed: 3, burst: 40, birth: { ...point, source: 0, on: 'faces', along: 'normal', speed: 2 } })
  const child = (inherit: number) =>
    system({
      id: 'child',
      seed: 4,
      births: [
        {
          id: 'c',
          seed: 9,
          due: (t0) => (t0 > 0.3 ? [{ count: 30, at: 0, spacing: 0 }] : []),
          params: () => ({ ...point, system: 0, inherit }),
        },
      ],
    })
  it('children start where living parents are, with a share of their velocity, in either order of the list', async () => {
    const at = async (order: 'first' | 'last') => {
      const systems =
        order === 'first'
          ? [parent, child(0.5)]
          : [
              { ...child(0.5), births: child(0.5).births.map((b) => ({ ...b, params: () => ({ ...point, system: 1, inherit: 0.5 }) })) },
              parent,
            ]
      return withWorld(plan(systems, [still(sphereMesh(0.5, 12))], { substeps: 1 }), (w) => {
        framesOn(w, 8)
        const before = w.capture()
        const f = framesOn(w, 1)
        return { f, before, child: order === 'first' ? 1 : 0 }
      })
    }
    const a = await at('first')
    const parents = rows(a.before, ['px', 'py', 'pz'], 0)
    // Born as the substep began, they have flown for one frame since.
    const flown = rows(a.f, ['vx', 'vy', 'vz'], 1)
    const starts = rows(a.f, ['px', 'py', 'pz'], 1).map((p, i) => p.map((x, k) => x - flown[i][k] / 24))
    expect(starts.length).toBe(30)
    for (const s of starts) expect(Math.min(...parents.map((p) => length(p.map((x, k) => x - s[k]))))).toBeLessThan(1e-4)
    rows(a.f, ['vx', 'vy', 'vz'], 1).forEach((v) => expect(length(v)).toBeCloseTo(1, 4))
    const b = await at('last')
    expect(rows(b.f, ['px', 'py', 'pz'], 0)).toEqual(rows(a.f, ['px', 'py', 'pz'], 1))
  })
  it('with a share always the same ones give births, about that many; with none nothing lives', async () => {
    const still = system({ id: 'parent', seed: 3, burst: 400, birth: { ...point, spreadTurns: 0.5, speed: 5, speedVary: 4 } })
    const used = async (share: number) =>
      withWorld(
        plan(
          [
            still,
            system({
              id: 'child',
              seed: 4,
              births: [
                {
                  id: 'c',
                  seed: 9,
                  due: (t0) => (t0 > 0.3 ? [{ count: 4000, at: 0, spacing: 0 }] : []),
                  params: () => ({ ...point, system: 0, share }),
                },
              ],
            }),
          ],
          [],
          { substeps: 1 },
        ),
        (w) => {
          const parents = rows(framesOn(w, 8), ['px', 'py', 'pz'], 0)
          const f = framesOn(w, 1)
          const seen = new Set(
            rows(f, ['px', 'py', 'pz'], 1).map((p) => parents.findIndex((q) => length(q.map((x, k) => x - p[k])) < 1e-4)),
          )
          return { seen, count: points(f, 1).count }
        },
      )
    const quarter = await used(0.25)
    expect(quarter.seen.size).toBeGreaterThan(70)
    expect(quarter.seen.size).toBeLessThan(130)
    expect(quarter.count).toBe(4000)
    const more = await used(0.5)
    for (const i of quarter.seen) expect(more.seen.has(i)).toBe(true)
    expect((await used(0)).count).toBe(0)
  })
  it('without a living parent nothing is born', async () => {
    await withWorld(plan([system({ id: 'parent', burst: 5, life: () => [0.1, 0] }), child(1)], []), (w) => {
      expect(points(framesOn(w, 24), 1).count).toBe(0)
    })
  })
})

describe('start velocities add up', () => {
  it('outward, sideways, any way, each with its ±', async () => {
    const m = evenSphere(1, 8)
    await born(m, 4000, { on: 'faces', along: 'normal', speed: 0, outward: 3, outwardVary: 1 }, (f) => {
      const v = speeds(f).map(length)
      expect(Math.min(...v)).toBeGreaterThan(1.99)
      expect(Math.max(...v)).toBeLessThan(4.01)
      const p = rows(f)
      speeds(f).forEach((u, i) => expect(u.reduce((s, x, k) => s + x * p[i][k], 0)).toBeGreaterThan(0))
    })
    await born(planeMesh(4), 4000, { on: 'faces', along: 'normal', speed: 0, slide: 2 }, (f) => {
      const top = speeds(f)
      for (const v of top) {
        expect(length(v)).toBeCloseTo(2, 4)
        expect(Math.abs(v[1])).toBeLessThan(1e-4)
      }
      expect(Math.abs(top.reduce((s, v) => s + v[0], 0) / top.length)).toBeLessThan(0.15)
    })
    await born(m, 8000, { on: 'point', speed: 0, anyway: 2 }, (f) => {
      const v = speeds(f)
      for (const x of v) expect(length(x)).toBeCloseTo(2, 4)
      // The cosine to any axis is even from −1 to 1.
      for (const a of [0, 1, 2]) expect(v.reduce((s, x) => s + (x[a] / 2) ** 2, 0) / v.length).toBeCloseTo(1 / 3, 1)
    })
  })
  it('nothing of it changes a source that does not use it', async () => {
    await withWorld(
      plan([system({ burst: 50, birth: { source: 0, on: 'faces', along: 'normal', speed: 1 }, forces: [gravity()] })], [still(boxMesh())]),
      (w) => {
        expect(points(framesOn(w, 3)).count).toBe(50)
      },
    )
  })
})
