import { describe, expect, it } from 'vitest'
import { actOfSort, readerOf } from '../../acts/index'
import { type ActDoc, defaultsOf } from '../../shot/index'
import { type BirthParams, type BirthPlan, compose, encodeGravity, type Frame, type Mesh, type PlanObject, runningAreas } from '..'
import { boxMesh, sphereMesh } from '../testing/meshes'
import { column, framesOn, plan, point, points, still, system, withWorld } from '../testing/plans'

const steady = (rate: number, params: Partial<BirthParams> = {}, seed = 77): BirthPlan => {
  const act = actOfSort('steady', 'source')
  const p = readerOf({ id: 'a', kind: 'steady', seed: 1, ...defaultsOf(act.params), rate, end: null } as ActDoc)
  return { id: 'a', seed, due: (a, b) => act.due(p, a, b, () => 0), params: () => ({ ...point, ...params }) }
}
const places = (f: Frame): number[][] =>
  Array.from({ length: points(f).count }, (_, i) => [column(f, 'px')[i], column(f, 'py')[i], column(f, 'pz')[i]])
const speeds = (f: Frame): number[][] =>
  Array.from({ length: points(f).count }, (_, i) => [column(f, 'vx')[i], column(f, 'vy')[i], column(f, 'vz')[i]])
const onFaces = { source: 0, on: 'faces', along: 'normal' } as const
const burstOn = (mesh: Mesh, burst: number, birth: Partial<BirthParams> = {}) =>
  plan([system({ burst, birth: { ...onFaces, ...birth } })], [still(mesh)], { substeps: 1 })

describe('births between frames', () => {
  it('a source at 200 m/s and 24 frames a second leaves an even line', async () => {
    const run: PlanObject = {
      id: 'object',
      mesh: null,
      endless: false,
      matrix: (t, out) => compose([200 * t, 0, 0], [0, 0, 0], [1, 1, 1], out),
    }
    for (const substeps of [1, 3]) {
      await withWorld(plan([system({ births: [steady(1000, { source: 0 })] })], [run], { substeps }), (w) => {
        const x = places(framesOn(w, 24))
          .map((p) => p[0])
          .sort((a, b) => a - b)
        expect(x.length).toBe(1000)
        for (let i = 1; i < x.length; i++) expect(x[i] - x[i - 1]).toBeCloseTo(0.2, 2)
      })
    }
  })
  it('ages say when each was born, evenly too', async () => {
    await withWorld(plan([system({ births: [steady(480)] })], [], { substeps: 1 }), (w) => {
      const age = [...column(framesOn(w, 24), 'age')].sort((a, b) => a - b)
      expect(age.length).toBe(480)
      age.forEach((a, k) => expect(a).toBeCloseTo(k / 480, 4))
    })
  })
  it('a newborn moves only for the time it has lived', async () => {
    await withWorld(plan([system({ births: [steady(240, { speed: 3, direction: [1, 0, 0] })] })], [], { substeps: 2 }), (w) => {
      const f = framesOn(w, 12)
      const age = column(f, 'age')
      places(f).forEach((p, i) => expect(p[0]).toBeCloseTo(3 * age[i], 4))
    })
  })
  it('slow rates carry their fractions over: 7.3 a second are 73 in ten seconds', async () => {
    await withWorld(plan([system({ births: [steady(7.3)] })], [], { last: 240 }), (w) => {
      let born = 0
      for (let f = 1; f <= 240; f++) {
        w.step()
        born += w.capture().stats.system.born
        expect(born).toBe(Math.floor((7.3 * f) / 24 + 1e-9))
      }
      expect(born).toBe(73)
    })
  })
})

describe('places on a mesh', () => {
  it('are even by area: chi-square over the triangles of a very uneven mesh', async () => {
    // Twelve triangles in six sizes and a sphere of slivers.
    for (const mesh of [boxMesh([0.1, 1, 3]), sphereMesh(1, 4)]) {
      const n = 20000
      await withWorld(burstOn(mesh, n), (w) => {
        const areas = runningAreas(mesh)
        const total = areas[areas.length - 1]
        const seen = new Array(areas.length).fill(0)
        for (const p of places(framesOn(w, 1))) seen[nearestTriangle(mesh, p)]++
        let chi = 0
        areas.forEach((a, t) => {
          const expected = (n * (a - (t ? areas[t - 1] : 0))) / total
          chi += (seen[t] - expected) ** 2 / expected
        })
        const freedom = areas.length - 1
        // Five standard deviations of the distribution.
        expect(chi).toBeLessThan(freedom + 5 * Math.sqrt(2 * freedom))
      })
    }
  })
  it('are even inside each triangle: their mean is its middle', async () => {
    const mesh: Mesh = {
      positions: new Float32Array([0, 0, 0, 3, 0, 0, 0, 0, -6]),
      normals: null,
      indices: new Uint32Array([0, 1, 2]),
      parts: [],
    }
    await withWorld(burstOn(mesh, 20000), (w) => {
      const p = places(framesOn(w, 1))
      const mean = [0, 1, 2].map((a) => p.reduce((s, x) => s + x[a], 0) / p.length)
      expect(mean[0]).toBeCloseTo(1, 1)
      expect(mean[2]).toBeCloseTo(-2, 1)
      expect(mean[1]).toBeCloseTo(0, 2)
      // Half of the area lies within 1/√2 of the corner's two sides.
      const near = p.filter(([x, , z]) => x / 3 - z / 6 < Math.SQRT1_2).length / p.length
      expect(near).toBeCloseTo(0.5, 1)
    })
  })
  it('lie on the front, a hair off the face, along the normal', async () => {
    await withWorld(burstOn(sphereMesh(1, 40), 2000, { speed: 2 }), (w) => {
      w.step()
      const f = w.capture()
      const v = speeds(f)
      places(f).forEach((p, i) => {
        const r = Math.hypot(...p)
        expect(v[i].reduce((s, x, a) => s + x * p[a], 0) / r / 2).toBeGreaterThan(0.995)
      })
    })
  })
  it('stay on a named part', async () => {
    await withWorld(burstOn(boxMesh([2, 1, 2]), 500, { part: 'Top' }), (w) => {
      for (const p of places(framesOn(w, 1))) expect(p[1]).toBeCloseTo(0.5, 2)
    })
  })
  it('start at the place of the source when asked for its point, or when it has no faces', async () => {
    const far: PlanObject = {
      id: 'object',
      mesh: boxMesh(),
      endless: false,
      matrix: (_t, out) => compose([1, 2, 3], [0, 0, 0], [1, 1, 1], out),
    }
    await withWorld(plan([system({ burst: 20, birth: { source: 0, on: 'point' } })], [far]), (w) => {
      for (const p of places(framesOn(w, 1))) expect(p).toEqual([1, 2, 3])
    })
    await withWorld(plan([system({ burst: 20, birth: { source: 0, on: 'faces' } })], [{ ...far, mesh: null }]), (w) => {
      for (const p of places(framesOn(w, 1))) expect(p).toEqual([1, 2, 3])
    })
  })
})

describe('start velocities', () => {
  it('fill the cap of the spread evenly: cosines are even from its edge to 1', async () => {
    const spread = 40
    const direction = [1, 2, -0.5] as const
    const l = Math.hypot(...direction)
    await withWorld(plan([system({ burst: 20000, birth: { direction, speed: 1, spreadTurns: spread / 360 } })]), (w) => {
      const cos = speeds(framesOn(w, 1)).map((v) => v.reduce((s, x, a) => s + (x * direction[a]) / l, 0))
      const edge = Math.cos((spread * Math.PI) / 180)
      expect(Math.min(...cos)).toBeGreaterThan(edge - 1e-4)
      const mean = cos.reduce((a, b) => a + b, 0) / cos.length
      expect(mean).toBeCloseTo((1 + edge) / 2, 2)
      const variance = cos.reduce((s, c) => s + (c - mean) ** 2, 0) / cos.length
      expect(variance / ((1 - edge) ** 2 / 12)).toBeCloseTo(1, 1)
    })
  })
  it('180° is every way', async () => {
    await withWorld(plan([system({ burst: 20000, birth: { speed: 1, spreadTurns: 0.5 } })]), (w) => {
      const v = speeds(framesOn(w, 1))
      for (let a = 0; a < 3; a++) expect(Math.abs(v.reduce((s, x) => s + x[a], 0) / v.length)).toBeLessThan(0.02)
    })
  })
  it('have their ± and inherit a share of the source’s own motion', async () => {
    const run: PlanObject = {
      id: 'object',
      mesh: null,
      endless: false,
      matrix: (t, out) => compose([6 * t, 0, 0], [0, 0, 0], [1, 1, 1], out),
    }
    await withWorld(
      plan([system({ burst: 4000, birth: { source: 0, speed: 3, speedVary: 1, inherit: 0.5, direction: [0, 1, 0] } })], [run]),
      (w) => {
        const v = speeds(framesOn(w, 1))
        for (const [x, y] of v) {
          expect(x).toBeCloseTo(3, 3)
          expect(y).toBeGreaterThanOrEqual(2)
          expect(y).toBeLessThanOrEqual(4)
        }
        expect(v.reduce((s, x) => s + x[1], 0) / v.length).toBeCloseTo(3, 1)
      },
    )
  })
  it('normals stay right under uneven scale', async () => {
    const squashed: PlanObject = {
      id: 'object',
      mesh: sphereMesh(1, 40),
      endless: false,
      matrix: (_t, out) => compose([0, 0, 0], [0, 0, 0], [1, 0.25, 1], out),
    }
    await withWorld(plan([system({ burst: 1000, birth: { ...onFaces, speed: 1 } })], [squashed]), (w) => {
      w.step()
      const f = w.capture()
      const v = speeds(f)
      places(f).forEach((p, i) => {
        // The gradient of x² + 16 y² + z².
        const back = p.map((x, a) => x - v[i][a] / 24)
        const g = [back[0], 16 * back[1], back[2]]
        expect(g.reduce((s, x, a) => s + x * v[i][a], 0) / Math.hypot(...g)).toBeGreaterThan(0.98)
      })
    })
  })
})

describe('limits', () => {
  it('the population limit stops births with a notice, and they go on when there is room', async () => {
    await withWorld(plan([system({ limit: 100, life: () => [0.5, 0], births: [steady(480)] })], [], { last: 100 }), (w) => {
      let maximum = 0
      let born = 0
      for (let f = 0; f < 48; f++) {
        w.step()
        const c = w.capture()
        maximum = Math.max(maximum, points(c).count)
        born += c.stats.system.born
        if (f === 47) {
          expect(c.notices).toHaveLength(1)
          expect(c.notices[0]).toMatchObject({ element: 'system', kind: 'limit' })
          expect(c.notices[0].message).toContain('limit of 100')
        }
      }
      expect(maximum).toBe(100)
      expect(born).toBeGreaterThan(300)
    })
  })
  it('so does a memory that is full, and what lives goes on living', async () => {
    await withWorld(
      plan([system({ births: [steady(400000)] })], [], { last: 100 }),
      (w) => {
        const f = framesOn(w, 24)
        expect(f.notices.map((n) => n.kind)).toContain('memory')
        expect(f.notices[0].message).toMatch(/no room for \d+ MB more: the limit is 8 MB; its births wait/)
        const alive = points(f).count
        expect(alive).toBeGreaterThan(1000)
        expect(points(framesOn(w, 5)).count).toBe(alive)
      },
      1,
      8 * 1024 * 1024,
    )
  })
  it('what leaves all numbers is taken out and named, the others stay', async () => {
    const wild = { id: 'wild', encode: (o: import('..').OpWriter) => encodeGravity(o, [0, 1e30, 0], 5, { value: 0, vary: 1e-30 }) }
    await withWorld(plan([system({ burst: 50, forces: [wild], birth: { speed: 1e20 } })]), (w) => {
      const f = framesOn(w, 3)
      expect(points(f).count).toBe(0)
      expect(f.notices[0]).toMatchObject({ kind: 'lost', element: 'system' })
      expect(f.notices[0].message).toContain('50 particles')
    })
  })
})

/** The triangle whose plane and inside a point is nearest to. */
function nearestTriangle(m: Mesh, p: number[]): number {
  let best = -1
  let minimum = Infinity
  const at = (i: number) => [...m.positions.subarray(m.indices[i] * 3, m.indices[i] * 3 + 3)]
  const sub = (a: number[], b: number[]) => a.map((x, i) => x - b[i])
  const dot = (a: number[], b: number[]) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
  for (let t = 0; t < m.indices.length / 3; t++) {
    const a = at(t * 3),
      e = sub(at(t * 3 + 1), a),
      f = sub(at(t * 3 + 2), a),
      s = sub(p, a)
    const n = [e[1] * f[2] - e[2] * f[1], e[2] * f[0] - e[0] * f[2], e[0] * f[1] - e[1] * f[0]]
    const nn = dot(n, n)
    if (nn === 0) continue
    const dd = [dot(e, e), dot(e, f), dot(f, f), dot(s, e), dot(s, f)]
    const det = dd[0] * dd[2] - dd[1] * dd[1]
    const u = (dd[2] * dd[3] - dd[1] * dd[4]) / det,
      v = (dd[0] * dd[4] - dd[1] * dd[3]) / det
    const out = Math.max(0, -u, -v, u + v - 1)
    const d = Math.abs(dot(s, n)) / Math.sqrt(nn) + out
    if (d < minimum) {
      minimum = d
      best = t
    }
  }
  return best
}
