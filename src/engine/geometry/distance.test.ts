import { describe, expect, it } from 'vitest'
import { nodeKernels } from '../../hosts/node/kernels'
import { evenSphere, frameMark, Heap, planeMesh, Surface } from '..'
import { boxMesh } from '../testing/meshes'
import { bounce, framesOn, gravity, still } from '../testing/plans'
import { allIn, chance, length, placeIn, runFrom, type V } from '../testing/start'

const P: ['px', 'py', 'pz'] = ['px', 'py', 'pz']
describe('a grid of distances', () => {
  it('is the distance to a ball, below zero inside, and goes on outside the grid', async () => {
    const host = await nodeKernels({ threads: 1 })
    const heap = new Heap(host.memory, 1 << 28)
    const s = new Surface(heap, evenSphere(1, 24), host.exports)
    const [job, scratch] = [heap.take(128), heap.take(16384)]
    const at = s.forDistances(48, (record, slabs) => {
      const v = heap.view()
      v.setInt32(job + 4, slabs, true)
      v.setUint32(job + 28, scratch, true)
      v.setUint32(job + 48, 7, true)
      v.setUint32(job + 64, record, true)
      host.exports.work(job, 0)
    })
    const cell = 2 / 48
    for (let i = 0; i < 500; i++) {
      const p: V = [chance(i, 1, -1.8, 1.8), chance(i, 2, -1.8, 1.8), chance(i, 3, -1.8, 1.8)]
      const error = host.exports.distanceAt(at, ...p) - (length(p) - 1)
      const outside = Math.max(...p.map(Math.abs)) > 1 + 2 * cell
      // Far outside only the way to the grid and the distance there are known: never less than half of it, never much more.
      if (!outside) expect(Math.abs(error)).toBeLessThan(0.25 * cell + 0.004)
    }
    s.dispose()
    host.team.dispose()
  })
  it('stops particles at a body as its faces would, to a part of a cell, at every speed, standing and moving', async () => {
    for (const speed of [2, 60, 500]) {
      const start = Array.from({ length: 80 }, (_, i) => ({
        p: [chance(i, 1, -0.3, 0.3), 2, chance(i, 2, -0.3, 0.3)] as V,
        v: [0, -speed, 0] as V,
      }))
      await runFrom(
        start,
        { contacts: [bounce(0)], forces: [gravity()] },
        (w) => {
          framesOn(w, 40)
          for (const p of allIn(w, P)) expect(length(p)).toBeGreaterThan(0.985)
        },
        { substeps: 2 },
        [{ ...still(evenSphere(1, 24)), cells: 48 }],
      )
    }
  })
  it('a thick one stops them that far off; what begins inside goes on; an open or changing mesh is met by its faces', async () => {
    const start = [
      { p: [0, 2, 0] as V, v: [0, -3, 0] as V },
      { p: [0.1, 0, 0] as V, v: [0, -3, 0] as V },
    ]
    await runFrom(
      start,
      { contacts: [bounce(0)] },
      (w) => {
        framesOn(w, 40)
        expect(placeIn(w)[1]).toBeCloseTo(1.2, 1)
        expect(placeIn(w, 1)[1]).toBeLessThan(-3)
      },
      { substeps: 2 },
      [{ ...still(evenSphere(1, 24)), cells: 48, thickness: () => 0.2 }],
    )
    await runFrom(
      [{ p: [0.2, 0.5, 0.3], v: [0, -3, 0] }],
      { contacts: [bounce(0)], forces: [gravity()] },
      (w) => {
        framesOn(w, 40)
        expect(placeIn(w)[1]).toBeCloseTo(0, 2)
      },
      {},
      [{ ...still(planeMesh(4)), cells: 32 }],
    )
  })
  it('a box of cells keeps particles at rest on it still, and the same on one thread and three', async () => {
    const start = Array.from({ length: 3000 }, (_, i) => ({
      p: [chance(i, 1, -0.4, 0.4), 0.8 + chance(i, 3), chance(i, 2, -0.4, 0.4)] as V,
    }))
    const mark = (threads: number) =>
      runFrom(
        start,
        { contacts: [bounce(0.2, 0.5)], forces: [gravity()] },
        (w) => {
          framesOn(w, 60)
          const before = allIn(w, P)
          framesOn(w, 24)
          const on = before.map((p, i) => ({ p, i })).filter(({ p }) => p[1] > 0.45 && Math.max(Math.abs(p[0]), Math.abs(p[2])) < 0.45)
          expect(on.length).toBeGreaterThan(2000)
          const now = allIn(w, P)
          for (const { p, i } of on) expect(Math.hypot(now[i][0] - p[0], now[i][1] - p[1], now[i][2] - p[2])).toBeLessThan(0.01)
          return frameMark(w.capture())
        },
        { substeps: 2 },
        [{ ...still(boxMesh([1, 1, 1])), cells: 40 }],
        threads,
      )
    expect(await mark(3)).toBe(await mark(1))
  })
})
