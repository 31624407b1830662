import { describe, expect, it } from 'vitest'
import {
  type ContactPlan,
  compose,
  type Frame,
  hash3,
  type Matrix,
  type Mesh,
  type PlanObject,
  particleStateOf,
  planeMesh,
  unit,
  type World,
} from '..'
import { boxMesh, sphereMesh } from '../testing/meshes'
import { bounce, column, framesOn, gravity, plan, points, still, system, withWorld } from '../testing/plans'

const floor = still(null, true)
const random = (i: number, c: number, lo = -1, hi = 1) => lo + (hi - lo) * unit(hash3(4, i, c))
/** Puts particles where a test wants them: after their birth, by the columns of a saved state. */
function place(w: World, set: (i: number) => { p: number[]; v: number[] }): void {
  const s = w.save()
  const f = new Float32Array(particleStateOf(s, 'system').words.buffer)
  const n = points(w.capture()).count
  for (let i = 0; i < n; i++) {
    const { p, v } = set(i)
    for (let a = 0; a < 3; a++) {
      f[a * n + i] = p[a]
      f[(3 + a) * n + i] = v[a]
    }
  }
  w.restore(s)
}
const places = (f: Frame): number[][] =>
  Array.from({ length: points(f).count }, (_, i) => [column(f, 'px')[i], column(f, 'py')[i], column(f, 'pz')[i]])
const speeds = (f: Frame): number[][] =>
  Array.from({ length: points(f).count }, (_, i) => [column(f, 'vx')[i], column(f, 'vy')[i], column(f, 'vz')[i]])
const moving = (mesh: Mesh | null, pose: (t: number) => { place?: number[]; rotate?: number[]; scale?: number[] }): PlanObject => ({
  id: 'object',
  mesh,
  endless: false,
  matrix: (t, out: Matrix) => {
    const p = pose(t)
    return compose((p.place ?? [0, 0, 0]) as never, (p.rotate ?? [0, 0, 0]) as never, (p.scale ?? [1, 1, 1]) as never, out)
  },
})

describe('bounces against closed forms', () => {
  it('the heights of a series of bounces fall by the square of the restitution', async () => {
    const e = 0.7
    await withWorld(plan([system({ forces: [gravity()], contacts: [bounce(e)] })], [floor], { substeps: 32, last: 400 }), (w) => {
      w.step()
      place(w, () => ({ p: [0, 1, 0], v: [0, 0, 0] }))
      const tops: number[] = []
      let rising = false
      let last = 1
      for (let k = 0; k < 60; k++) {
        w.step()
        const c = w.capture()
        const y = column(c, 'py')[0]
        const v = column(c, 'vy')[0]
        // The top between two frames, from the height and the speed.
        if (v > 0) last = y + (v * v) / (2 * 9.81)
        if (rising && v <= 0) tops.push(last)
        rising = v > 0
      }
      expect(tops.length).toBeGreaterThanOrEqual(3)
      tops.slice(0, 3).forEach((top, i) => expect(top / e ** (2 * (i + 1))).toBeCloseTo(1, 1))
      for (let i = 1; i < 3; i++) expect(tops[i] / tops[i - 1]).toBeCloseTo(e * e, 1)
    })
  })
  it('friction takes its share of the blow along the surface, and no more than there is', async () => {
    for (const [along, left] of [
      [2, 2 - 0.3 * 1.5 * 1],
      [0.2, 0],
    ]) {
      await withWorld(plan([system({ contacts: [bounce(0.5, 0.3)] })], [floor], { substeps: 1 }), (w) => {
        w.step()
        place(w, () => ({ p: [0, 0.01, 0], v: [along, -1, 0] }))
        const [v] = speeds(framesOn(w, 1))
        expect(v[0]).toBeCloseTo(left, 4)
        expect(v[1]).toBeCloseTo(0.5, 4)
      })
    }
  })
  it('never gains energy: in a closed room without forces the fastest only slows down', async () => {
    await withWorld(
      plan([system({ burst: 300, contacts: [bounce(0.9, 0.1)] })], [still(inward(boxMesh([2, 2, 2])))], { substeps: 2 }),
      (w) => {
        w.step()
        place(w, (i) => ({ p: [0, 1, 2].map((c) => random(i, c, -0.9, 0.9)), v: [3, 4, 5].map((c) => random(i, c, -9, 9)) }))
        let before = speeds(w.capture()).map((v) => Math.hypot(...v))
        for (let k = 0; k < 48; k++) {
          const now = speeds(framesOn(w, 1)).map((v) => Math.hypot(...v))
          now.forEach((s, i) => expect(s).toBeLessThanOrEqual(before[i] * 1.00001))
          before = now
        }
      },
    )
  })
  it('a wall that comes hits with its own speed: a perfect bounce doubles it', async () => {
    const wall = moving(planeMesh(4), (t) => ({ place: [0, -1 + 10 * t, 0] }))
    await withWorld(plan([system({ contacts: [bounce(1)] })], [wall], { substeps: 4 }), (w) => {
      w.step()
      place(w, () => ({ p: [0.3, 0.5, 0.2], v: [0, 0, 0] }))
      const f = framesOn(w, 6)
      expect(speeds(f)[0][1]).toBeCloseTo(20, 2)
    })
  })
  it('a growing ball pushes particles outwards', async () => {
    const ball = moving(sphereMesh(1, 24), (t) => ({ scale: [0.5 + t, 0.5 + t, 0.5 + t] }))
    await withWorld(plan([system({ burst: 200, contacts: [bounce(0)] })], [ball], { substeps: 4 }), (w) => {
      w.step()
      place(w, (i) => {
        const d = [0, 1, 2].map((c) => random(i, c))
        const l = Math.hypot(...d)
        return { p: d.map((x) => (x / l) * 0.8), v: [0, 0, 0] }
      })
      const f = framesOn(w, 20)
      // 0.5 + 21/24; flat faces lie a little inside the round ball.
      for (const p of places(f)) expect(Math.hypot(...p)).toBeGreaterThan((0.5 + 20 / 24) * 0.985)
    })
  })
  it('die ends a particle where it meets the surface', async () => {
    const dies: ContactPlan = {
      id: 'die',
      seed: 1,
      colliders: [0],
      params: () => ({ restitution: 0, restitutionVary: 0, friction: 0, frictionVary: 0, mode: 'die', letGo: 0, passes: 0 }),
    }
    await withWorld(plan([system({ burst: 50, birth: { speed: 2 }, forces: [gravity()], contacts: [dies] })], [floor]), (w) => {
      w.step()
      place(w, (i) => ({ p: [i * 0.1, 0.2 + i * 0.02, 0], v: [0, 0, 0] }))
      let died = 0
      let contacts = 0
      for (let k = 0; k < 40; k++) {
        const f = framesOn(w, 1)
        died += f.stats.system.died
        contacts += f.stats.system.contacts
        for (const [, y] of places(f)) expect(y).toBeGreaterThan(0)
      }
      expect([died, contacts]).toEqual([50, 50])
    })
  })
  it('restitution and friction with ± differ from particle to particle, within their range', async () => {
    const varied: ContactPlan = {
      id: 'b',
      seed: 8,
      colliders: [0],
      params: () => ({ restitution: 0.5, restitutionVary: 0.2, friction: 0, frictionVary: 0, mode: 'bounce', letGo: 0, passes: 0 }),
    }
    await withWorld(plan([system({ burst: 500, contacts: [varied] })], [floor], { substeps: 1 }), (w) => {
      w.step()
      place(w, (i) => ({ p: [i, 0.001, 0], v: [0, -1, 0] }))
      const v = speeds(framesOn(w, 1)).map((x) => x[1])
      expect(Math.min(...v)).toBeGreaterThanOrEqual(0.2999)
      expect(Math.max(...v)).toBeLessThanOrEqual(0.7001)
      expect(Math.max(...v) - Math.min(...v)).toBeGreaterThan(0.35)
    })
  })
})

/** The same mesh seen from within. */
function inward(m: Mesh): Mesh {
  const indices = m.indices.slice()
  for (let t = 0; t < indices.length; t += 3) [indices[t + 1], indices[t + 2]] = [indices[t + 2], indices[t + 1]]
  return { ...m, indices }
}

describe('nothing passes', () => {
  it('a thin plate that moves itself, at 500 m/s and 24 frames a second', async () => {
    const height = (t: number) => 0.4 * t
    const plate = moving(planeMesh(40), (t) => ({ place: [0, height(t), 0] }))
    await withWorld(plan([system({ burst: 2000, contacts: [bounce(0.3)] })], [plate], { substeps: 1 }), (w) => {
      w.step()
      place(w, (i) => ({
        p: [random(i, 0, -5, 5), random(i, 1, 2, 9), random(i, 2, -5, 5)],
        v: [random(i, 3, -20, 20), -500, random(i, 4, -20, 20)],
      }))
      let contacts = 0
      for (let k = 2; k < 6; k++) {
        const f = framesOn(w, 1)
        contacts += f.stats.system.contacts
        for (const p of places(f)) if (Math.abs(p[0]) < 19 && Math.abs(p[2]) < 19) expect(p[1]).toBeGreaterThan(height(k / 24) - 1e-3)
      }
      expect(contacts).toBeGreaterThan(1900)
    })
  })
  it('an open sheet from either side', async () => {
    await withWorld(plan([system({ burst: 400, contacts: [bounce(0.5)] })], [still(planeMesh(10))], { substeps: 1 }), (w) => {
      w.step()
      place(w, (i) => ({ p: [random(i, 0), i % 2 ? 1 : -1, random(i, 1)], v: [0, i % 2 ? -60 : 60, 0] }))
      const f = framesOn(w, 3)
      places(f).forEach((p, i) => expect(Math.sign(p[1])).toBe(i % 2 ? 1 : -1))
    })
  })
  it('a closed room in 10,000 frames, with gravity and hard bounces', async () => {
    await withWorld(
      plan([system({ burst: 120, forces: [gravity()], contacts: [bounce(0.97, 0.05)] })], [still(inward(sphereMesh(1, 20)))], {
        substeps: 2,
        last: 20000,
      }),
      (w) => {
        w.step()
        place(w, (i) => ({ p: [0, 1, 2].map((c) => random(i, c, -0.5, 0.5)), v: [3, 4, 5].map((c) => random(i, c, -6, 6)) }))
        for (let k = 0; k < 100; k++) {
          const f = framesOn(w, 100)
          for (const p of places(f)) expect(Math.hypot(...p)).toBeLessThan(1)
        }
      },
    )
  })
  it('a turning box, however it catches the particles', async () => {
    const box = moving(inward(boxMesh([2, 2, 2])), (t) => ({ rotate: [70 * t, 200 * t, 30 * t] }))
    await withWorld(plan([system({ burst: 300, forces: [gravity()], contacts: [bounce(0.4, 0.2)] })], [box], { substeps: 4 }), (w) => {
      w.step()
      place(w, (i) => ({ p: [0, 1, 2].map((c) => random(i, c, -0.6, 0.6)), v: [3, 4, 5].map((c) => random(i, c, -2, 2)) }))
      const f = framesOn(w, 96)
      // The corners of the box are √3 from its middle.
      for (const p of places(f)) expect(Math.hypot(...p)).toBeLessThan(Math.sqrt(3) + 1e-3)
    })
  })
  it('what rests stays: it does not sink, jump or creep', async () => {
    await withWorld(
      plan([system({ burst: 100, forces: [gravity()], contacts: [bounce(0, 0.5)] })], [floor], { substeps: 2, last: 1000 }),
      (w) => {
        w.step()
        place(w, (i) => ({ p: [i * 0.1, 0.05, 0], v: [0, 0, 0] }))
        const a = places(framesOn(w, 48))
        const b = places(framesOn(w, 480))
        b.forEach((p, i) => {
          expect(p[1]).toBeGreaterThan(0)
          expect(p[1]).toBeLessThan(2e-3)
          expect(Math.hypot(p[0] - a[i][0], p[2] - a[i][2])).toBeLessThan(1e-4)
        })
      },
    )
  })
  it('what is born under an endless floor falls on: the floor stops only what comes from above', async () => {
    await withWorld(plan([system({ burst: 1, forces: [gravity()], contacts: [bounce(0.5)] })], [floor]), (w) => {
      w.step()
      place(w, () => ({ p: [0, -0.5, 0], v: [0, 0, 0] }))
      const f = framesOn(w, 24)
      expect(places(f)[0][1]).toBeLessThan(-4)
      expect(f.stats.system.contacts).toBe(0)
    })
  })
  it('a flat object (scale zero) meets nothing and breaks nothing', async () => {
    const flat = moving(boxMesh(), () => ({ scale: [1, 0, 1] }))
    await withWorld(plan([system({ burst: 10, forces: [gravity()], contacts: [bounce(0.5)] })], [flat]), (w) => {
      const f = framesOn(w, 24)
      expect(f.stats.system.contacts).toBe(0)
      for (const p of places(f)) expect(p.every(Number.isFinite)).toBe(true)
    })
  })
})
