import * as fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { nodeKernels } from '../../hosts/node/kernels'
import { disc, evenSphere, guideOf, Heap, type Mesh, type PlanObject, runningAreas, Surface, sphere } from '..'
import { boxMesh } from '../testing/meshes'
import { bounce, column, framesOn, plan, points, still, system, withWorld } from '../testing/plans'

const moved = (m: Mesh, f: (x: number, y: number, z: number) => [number, number, number]): Float32Array => {
  const out = new Float32Array(m.positions.length)
  for (let i = 0; i < out.length; i += 3) out.set(f(m.positions[i], m.positions[i + 1], m.positions[i + 2]), i)
  return out
}
const changing = (mesh: Mesh, f: (t: number) => (x: number, y: number, z: number) => [number, number, number]): PlanObject => ({
  ...still(mesh),
  shape: (t) => moved(mesh, f(t)),
})
const places = (f: Parameters<typeof column>[0]) => Array.from(column(f, 'px'), (x, i) => [x, column(f, 'py')[i], column(f, 'pz')[i]])

describe('births on a surface that changes shape', () => {
  it('lie on it as it is at their own moment, and inherit how it moves', async () => {
    // A ball that grows by 2 m/s: whoever is born at t starts at radius 1 + 2 t and keeps 2 m/s outward.
    const ball = changing(evenSphere(1, 12), (t) => (x, y, z) => [x * (1 + 2 * t), y * (1 + 2 * t), z * (1 + 2 * t)])
    const s = system({
      births: [
        {
          id: 'b',
          seed: 3,
          due: (t0, t1) => [{ count: 100, at: 0, spacing: (t1 - t0) / 100 }],
          params: () => ({
            source: 0,
            part: '',
            on: 'faces',
            along: 'normal',
            direction: [0, 1, 0],
            spreadTurns: 0,
            speed: 0,
            speedVary: 0,
            inherit: 1,
          }),
        },
      ],
    })
    await withWorld(plan([s], [ball]), (w) => {
      const f = framesOn(w, 6)
      const age = column(f, 'age')
      const speed = column(f, 'vx').map((x, i) => Math.hypot(x, column(f, 'vy')[i], column(f, 'vz')[i]))
      places(f).forEach((p, i) => {
        // A facet's middle lies within 1 % of the ball; flying on at the speed of the surface it stays at the radius of now.
        expect(Math.hypot(...p) / (1 + 2 * (6 / 24))).toBeGreaterThan(0.985)
        expect(Math.hypot(...p) / (1 + 2 * (6 / 24))).toBeLessThan(1.002)
        expect(speed[i]).toBeGreaterThan(1.95)
        expect(speed[i]).toBeLessThan(2.001)
        expect(age[i]).toBeGreaterThanOrEqual(0)
      })
    })
  })
  it('follow the areas of now: a face that has grown gets its share', async () => {
    // Of a box 1 × 1 × 1 the upper half goes up by 4 m in 1 s: then sides have 4 × 5 m², top and bottom 2.
    const box = changing(boxMesh(), (t) => (x, y, z) => [x, y > 0 ? y + 4 * t : y, z])
    const s = system({
      births: [
        {
          id: 'b',
          seed: 3,
          due: (t0) => (t0 >= 1 - 1e-9 && t0 < 1.01 ? [{ count: 22000, at: 0, spacing: 0 }] : []),
          params: () => ({
            source: 0,
            part: '',
            on: 'faces',
            along: 'normal',
            direction: [0, 1, 0],
            spreadTurns: 0,
            speed: 0,
            speedVary: 0,
            inherit: 0,
          }),
        },
      ],
    })
    await withWorld(plan([s], [box], { rate: { num: 24, den: 1 } }), (w) => {
      const f = framesOn(w, 25)
      const top = places(f).filter((p) => p[1] > 4.49).length
      expect(top / 22000).toBeGreaterThan(1 / 22 - 0.006)
      expect(top / 22000).toBeLessThan(1 / 22 + 0.006)
    })
  })
  it('on corner points and along edges go along too', async () => {
    const box = changing(boxMesh(), (t) => (x, y, z) => [x + 24 * t, y, z])
    for (const on of ['vertices', 'edges'] as const) {
      const s = system({ burst: 200, birth: { source: 0, on, inherit: 1 } })
      s.births[0].due = (t0, t1) => (t0 === 0 ? [{ count: 200, at: 0, spacing: (t1 - t0) / 200 }] : [])
      await withWorld(plan([s], [box]), (w) => {
        const f = framesOn(w, 1)
        for (const p of places(f)) expect(Math.max(Math.abs(p[0] - 1), Math.abs(p[1]), Math.abs(p[2]))).toBeLessThan(0.5005)
        for (const v of column(f, 'vx')) expect(v).toBeCloseTo(24, 3)
      })
    }
  })
})

describe('contact with a surface that changes shape', () => {
  const plate = boxMesh([4, 0.01, 4])
  it('lets nothing through a thin plate that bulges against what comes at 500 m/s', async () => {
    // The plate's middle comes up at 60 m/s while particles fall on it.
    const bulging = changing(plate, (t) => (x, y, z) => [x, y + 60 * t * Math.max(0, 1 - Math.hypot(x, z) / 3), z])
    const source: PlanObject = {
      ...still(disc(1.2, 0, 24)),
      matrix: (_t, out) => {
        out.set([1, 0, 0, 0, 0, 1, 0, 60, 0, 0, 1, 0])
        return out
      },
    }
    const s = system({
      burst: 5000,
      birth: { source: 1, on: 'faces', direction: [0, -1, 0], speed: 500, speedVary: 80 },
      contacts: [bounce(0.3, 0.2)],
    })
    await withWorld(plan([s], [bulging, source]), (w) => {
      let contacts = 0
      for (let k = 0; k < 24; k++) contacts += framesOn(w, 1).stats.system.contacts
      const f = w.capture()
      const t = 1
      expect(contacts).toBeGreaterThan(4000)
      for (const [x, y, z] of places(f)) {
        // A rim wide of the bulge may be missed sideways; whoever is above the plate's outline must be above its skin.
        if (Math.abs(x) < 1.9 && Math.abs(z) < 1.9) expect(y).toBeGreaterThan(60 * t * Math.max(0, 1 - Math.hypot(x, z) / 3) - 0.5)
      }
    })
  })
  it('that moves as a rigid body would gives the same as the rigid body', async () => {
    const up = (t: number) => 3 * t
    const rigid: PlanObject = {
      ...still(plate),
      matrix: (t, out) => {
        out.set([1, 0, 0, 0, 0, 1, 0, up(t), 0, 0, 1, 0])
        return out
      },
    }
    const soft = changing(plate, (t) => (x, y, z) => [x, y + up(t), z])
    const source: PlanObject = {
      ...still(disc(1, 0, 24)),
      matrix: (_t, out) => {
        out.set([1, 0, 0, 0, 0, 1, 0, 1, 0, 0, 1, 0])
        return out
      },
    }
    const s = system({ burst: 500, birth: { source: 1, on: 'faces', direction: [0, -1, 0], speed: 4 }, contacts: [bounce(0.5, 0.1)] })
    const run = (o: PlanObject) => withWorld(plan([s], [o, source]), (w) => places(framesOn(w, 20)))
    const [a, b] = [await run(rigid), await run(soft)]
    a.forEach((p, i) => p.forEach((v, k) => expect(b[i][k]).toBeCloseTo(v, 3)))
    expect(Math.min(...a.map((p) => p[1]))).toBeGreaterThan(2)
  })
  it('keeps what is inside a ball that shrinks and swells', async () => {
    const ball = sphere(1, 16)
    const pulse = changing(ball, (t) => {
      const k = 1 - 0.4 * Math.abs(((t * 4) % 2) - 1)
      return (x, y, z) => [x * k, y * k * 1.1, z * k]
    })
    // Seen from inside the faces point away; both sides stop particles when the mesh is open.
    const open: PlanObject = { ...pulse, mesh: { ...ball, indices: ball.indices.slice(3) } }
    open.shape = pulse.shape
    const s = system({ burst: 2000, birth: { direction: [0, 1, 0], spreadTurns: 0.5, speed: 6 }, contacts: [bounce(0.9)] })
    await withWorld(plan([s], [open], { substeps: 4 }), (w) => {
      const f = framesOn(w, 48)
      const outside = places(f).filter((p) => Math.hypot(...p) > 1.2).length
      expect(f.stats.system.contacts).toBeGreaterThan(100)
      // One triangle is missing on purpose: a few may find the hole.
      expect(outside).toBeLessThan(40)
    })
  })
  it('is the same on three threads and after going back to a snapshot', async () => {
    const bulging = changing(plate, (t) => (x, y, z) => [x, y + t * Math.max(0, 1 - Math.hypot(x, z)), z])
    const s = system({
      burst: 9000,
      birth: { direction: [0, -1, 0], spreadTurns: 0.1, speed: 3 },
      contacts: [bounce(0.5, 0.1)],
      forces: [],
    })
    const source: PlanObject = {
      ...still(null),
      matrix: (_t, out) => {
        out.set([1, 0, 0, 0, 0, 1, 0, 1, 0, 0, 1, 0])
        return out
      },
    }
    s.births[0].params = () => ({
      source: 1,
      part: '',
      on: 'point',
      along: 'direction',
      direction: [0, -1, 0],
      spreadTurns: 0.1,
      speed: 3,
      speedVary: 1,
      inherit: 0,
    })
    const p = plan([s], [bulging, source])
    const words = (f: ReturnType<typeof framesOn>) => new Uint32Array(points(f).data)
    const one = await withWorld(p, (w) => {
      framesOn(w, 8)
      const kept = w.save()
      const straight = words(framesOn(w, 12))
      w.restore(kept)
      expect(words(framesOn(w, 12))).toEqual(straight)
      return straight
    })
    expect(await withWorld(p, (w) => words(framesOn(w, 20)), 3)).toEqual(one)
  })
})

describe('the meeting of a point with moving triangles', () => {
  it('is that of a search in small steps (property)', async () => {
    const host = await nodeKernels()
    const heap = new Heap(host.memory, 1 << 26)
    const stack = heap.take(4096),
      hit = heap.take(512)
    const v = fc.double({ min: -1, max: 1, noNaN: true })
    const corner = fc.tuple(v, v, v)
    fc.assert(
      fc.property(
        fc.array(corner, { minLength: 3, maxLength: 3 }),
        fc.array(corner, { minLength: 3, maxLength: 3 }),
        corner,
        corner,
        (a, b, from, to) => {
          const mesh: Mesh = { positions: new Float32Array(a.flat()), normals: null, indices: new Uint32Array([0, 1, 2]), parts: [] }
          const surface = new Surface(heap, mesh, host.exports, true)
          surface.move(0, 1, (t) => (t === 0 ? mesh.positions : new Float32Array(b.flat())))
          const cast = surface.forCast()
          heap.f32(hit, 1)[0] = 1.000001
          const [x, y, z] = from,
            [dx, dy, dz] = to.map((p, i) => p - from[i])
          const found = host.exports.castMoving(cast.nodes, cast.leaves, cast.ends, 1, 0, x, y, z, dx, dy, dz, 0, stack, hit)
            ? heap.f32(hit, 1)[0]
            : null
          surface.dispose()
          const at = (t: number) => {
            const p = [0, 1, 2].map((i) => a[i].map((q, k) => q + t * (b[i][k] - q)))
            const e = p[1].map((q, k) => q - p[0][k]),
              f = p[2].map((q, k) => q - p[0][k]),
              w = [x + dx * t - p[0][0], y + dy * t - p[0][1], z + dz * t - p[0][2]]
            const n = [e[1] * f[2] - e[2] * f[1], e[2] * f[0] - e[0] * f[2], e[0] * f[1] - e[1] * f[0]]
            const dot = (g: number[], h: number[]) => g[0] * h[0] + g[1] * h[1] + g[2] * h[2]
            const nn = Math.max(1e-12, dot(n, n))
            const cross = (g: number[], h: number[]) => [g[1] * h[2] - g[2] * h[1], g[2] * h[0] - g[0] * h[2], g[0] * h[1] - g[1] * h[0]]
            return { d: dot(w, n) / Math.sqrt(nn), u: dot(cross(w, f), n) / nn, v: dot(cross(e, w), n) / nn, area: Math.sqrt(nn) }
          }
          if (found === null) {
            // Then the ends lie on one side, or the way goes past the triangle.
            const [p, q] = [at(0), at(1)]
            if (p.area < 0.05 || q.area < 0.05 || Math.abs(p.d) < 1e-3 || Math.abs(q.d) < 1e-3 || p.d * q.d > 0) return
            let crossings = 0,
              inside = true
            for (let k = 0; k < 2000; k++) {
              const [m, n] = [at(k / 2000), at((k + 1) / 2000)]
              if (m.d * n.d > 0) continue
              crossings++
              if (m.area < 0.05 || m.u < 0.02 || m.v < 0.02 || m.u + m.v > 0.98) inside = false
            }
            expect(crossings === 1 && inside).toBe(false)
            return
          }
          const m = at(found)
          if (m.area < 0.05) return
          expect(Math.abs(m.d)).toBeLessThan(2e-3)
          expect(Math.min(m.u, m.v, 1 - m.u - m.v)).toBeGreaterThan(-0.02)
        },
      ),
      { numRuns: 400, seed: 11 },
    )
    host.team.dispose()
  })
})

describe('births that follow a region', () => {
  it('have its density: on a strip whose amount grows evenly the mean lies at two thirds', async () => {
    const strip: Mesh = {
      positions: new Float32Array([0, 0, 0, 1, 0, 0, 1, 0, -1, 0, 0, -1]),
      normals: null,
      indices: new Uint32Array([0, 1, 2, 0, 2, 3]),
      parts: [],
    }
    const amounts = new Float32Array([0, 1, 1, 0])
    const object: PlanObject = { ...still(strip), regions: new Map([['r', () => amounts]]) }
    for (const on of ['faces', 'edges'] as const) {
      await withWorld(plan([system({ burst: 20000, birth: { source: 0, on, region: 'r' } })], [object]), (w) => {
        const px = column(framesOn(w, 1), 'px')
        const mean = px.reduce((s, x) => s + x, 0) / px.length
        // Edges: two across and the diagonal grow evenly (mean 2/3), one stands at 1 with all of its amount, one at 0 with none.
        const across = (2 + Math.SQRT2) / 2
        expect(mean).toBeCloseTo(on === 'faces' ? 2 / 3 : (across * (2 / 3) + 1) / (across + 1), 1.6)
      })
    }
    await withWorld(plan([system({ burst: 500, birth: { source: 0, on: 'vertices', region: 'r' } })], [object]), (w) =>
      expect(column(framesOn(w, 1), 'px').every((x) => Math.abs(x - 1) < 1e-6)).toBe(true),
    )
  })
  it('wait while it is empty, say so, and go on when there is some of it again', async () => {
    const full = new Float32Array(8).fill(1),
      none = new Float32Array(8)
    const object: PlanObject = { ...still(boxMesh()), regions: new Map([['r', (t: number) => (t < 0.5 ? none : full)]]) }
    const s = system({
      births: [
        {
          id: 'b',
          seed: 3,
          due: () => [{ count: 10, at: 0, spacing: 0 }],
          params: () => ({
            source: 0,
            part: '',
            region: 'r',
            on: 'faces',
            along: 'normal',
            direction: [0, 1, 0],
            spreadTurns: 0,
            speed: 0,
            speedVary: 0,
            inherit: 0,
          }),
        },
      ],
    })
    await withWorld(plan([s], [object]), (w) => {
      const early = framesOn(w, 12)
      expect(points(early).count).toBe(0)
      expect(early.notices[0].message).toMatch(/region .* is empty; its births wait/)
      expect(points(framesOn(w, 1)).count).toBe(20)
    })
  })
  it('take the same sums and guides as made in TypeScript', async () => {
    const host = await nodeKernels()
    const heap = new Heap(host.memory, 1 << 26)
    const mesh = sphere(1, 40)
    const surface = new Surface(heap, mesh, host.exports)
    const f = surface.forBirth()
    const areas = runningAreas(mesh)
    expect(heap.f32(f.areas, areas.length)).toEqual(areas)
    expect(heap.u32(f.guide, f.guideCount)).toEqual(guideOf(areas))
    surface.dispose()
    expect(heap.usedBytes).toBe(0)
    host.team.dispose()
  })
})
