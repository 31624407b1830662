import { describe, expect, it } from 'vitest'
import { identity, OpWriter } from '../engine'
import { column } from '../engine/testing/plans'
import { defaultsOf, type Vec3 } from '../shot'
import type { Outline } from './define'
import { readerOf } from './reader'
import { actOfSort, actsOfSort } from './registry'
import { act, after, quiet } from './testing/quiet'
import { primitive, thing } from './testing/things'

describe('handles', () => {
  const held = actsOfSort('force').filter((a) => a.handles)
  it.each(held.map((a) => [a.kind, a] as const))('%s: each names a parameter that fits it', (_, force) => {
    const type = (name: string | null | undefined) => (name ? force.params[name]?.type : null)
    for (const h of force.handles ?? []) {
      switch (h.kind) {
        case 'place':
          expect(type(h.param)).toBe('vector')
          break
        case 'direction':
          expect(type(h.param)).toBe('vector')
          expect([null, 'vector']).toContain(type(h.at))
          break
        case 'reach':
          expect(type(h.param)).toBe('number')
          expect(type(h.at)).toBe('vector')
          expect([null, 'vector']).toContain(type(h.axis))
      }
    }
    // One handle a parameter: two of them would move it at once.
    const params = (force.handles ?? []).map((h) => h.param)
    expect(new Set(params).size).toBe(params.length)
  })
  it('everything that has a place in the shot has a handle for it', () => {
    for (const force of actsOfSort('force')) {
      if (force.params.place?.type === 'vector') expect(force.handles?.some((h) => h.kind === 'place' && h.param === 'place')).toBe(true)
    }
  })
  it('a line has one at each end, and is drawn between them', () => {
    const force = actOfSort('attractLine', 'force')
    expect(force.handles?.filter((h) => h.kind === 'place').map((h) => h.param)).toEqual(['from', 'to'])
    const p = readerOf(act('attractLine', { from: [1, 2, 3], to: [4, 5, 6] }))
    expect(force.outlines?.(p, 0)).toEqual([
      {
        shape: 'line',
        points: [
          [1, 2, 3],
          [4, 5, 6],
        ],
      },
    ])
  })
})

/** Whether a place lies within an outline, in the space of its act. */
const within = (o: Outline, [x, y, z]: Vec3): boolean => {
  if (o.shape === 'line') return false
  const d = [x - o.middle[0], y - o.middle[1], z - o.middle[2]]
  return o.shape === 'ball' ? Math.hypot(...d) <= o.radius : d.every((v, a) => Math.abs(v) <= o.half[a])
}
describe('outlines of limits', () => {
  // Particles at rest all over a box, pulled where the limit lets the force act, for one frame: who moves was inside.
  const movedBy = async (limit: ReturnType<typeof act>, box: { size: number; place: Vec3 }) => {
    const s = quiet((x) => {
      x.objects = [
        thing('grid', { shape: primitive('box', { width: 4, height: 4, depth: 4 }), seen: false }),
        thing('post', { shape: primitive('box', { width: box.size, height: box.size, depth: box.size }), place: box.place }),
      ]
      x.systems[0].birth = [act('burst', { count: 400, at: 0, source: 'grid', from: 'inside', speed: 0, every: null, spread: 0 })]
      x.systems[0].whole.movement = [act('gravity', { limits: [limit] })]
    })
    const f = await after(s, 2)
    return [...column(f, 'vy')].map((v, i) => ({
      at: [column(f, 'px')[i], column(f, 'py')[i], column(f, 'pz')[i]] as Vec3,
      moved: v !== 0,
    }))
  }
  it.each([
    ['a ball', act('limitPlace', { shape: 'ball', place: [0.3, 0.2, -0.4], size: [2.4, 1, 1], soft: 0 })],
    ['a box', act('limitPlace', { shape: 'box', place: [-0.5, 0, 0.2], size: [2, 3, 1.5], soft: 0 })],
    ['the box around an object', act('limitObject', { object: 'post', shape: 'box', beyond: 0.3, soft: 0 })],
    ['the ball around an object', act('limitObject', { object: 'post', shape: 'ball', beyond: 0.4, soft: 0 })],
  ])('%s: forces act within what is drawn, and nowhere else', async (_, limit) => {
    const at: Vec3 = limit.object === 'post' ? [0.4, 0.6, 0] : [0, 0, 0]
    const def = actOfSort(limit.kind, 'limit')
    const half = 0.5
    const bounds = limit.object === 'post' ? { min: [-half, -half, -half] as Vec3, max: [half, half, half] as Vec3 } : null
    const [outline] = def.outlines?.(readerOf(limit), 0, bounds) ?? []
    const particles = await movedBy(limit, { size: 2 * half, place: at })
    expect(particles.some((q) => q.moved)).toBe(true)
    expect(particles.some((q) => !q.moved)).toBe(true)
    for (const q of particles) {
      const own: Vec3 = [q.at[0] - at[0], q.at[1] - at[1], q.at[2] - at[2]]
      // Gravity of two frames moves them by less than this.
      const near = [-0.03, 0.03].some((d) => within(outline, [own[0], own[1] + d, own[2]]) !== within(outline, own))
      if (!near) expect(q.moved, `${own}`).toBe(within(outline, own))
    }
  })
  it('above a plane: the plane itself', () => {
    const limit = act('limitPlace', { shape: 'above', place: [0, 1, 0], size: [2, 9, 4] })
    expect(actOfSort('limitPlace', 'limit').outlines?.(readerOf(limit), 0, null)).toEqual([
      { shape: 'box', middle: [0, 1, 0], half: [1, 0, 2] },
    ])
  })
  it('a limit to an object that is gone says what is missing, and encodes without it', () => {
    const limit = { ...defaultsOf(actOfSort('limitObject', 'limit').params), id: 'l', kind: 'limitObject', seed: 1 }
    const def = actOfSort('limitObject', 'limit')
    expect(def.needs?.(readerOf(limit))).toMatch(/none is chosen/)
    const w = new OpWriter()
    const site = {
      from: () => identity(),
      box: () => null,
      line: () => null,
      index: () => -1,
      system: () => null,
      gas: () => -1,
      view: () => [],
    }
    expect(() => def.encode(w, readerOf(limit), { t0: 0, t1: 0.04, dt: 0.04 }, 1, site)).not.toThrow()
  })
})
