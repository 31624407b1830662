import * as fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  boundsOf,
  box,
  isClosed,
  type Mesh,
  normalsFor,
  refine,
  runningAreas,
  sphere,
  subdivide,
  triangleCount,
  tube,
  weld,
} from '../engine'
import { type ActDoc, defaultsOf, type ObjectDoc, type RegionDoc } from '../shot'
import { baseMesh } from './baseMesh'
import { paint } from './regions/painted'
import { actOf } from './registry'
import { regionOf, shapedOf } from './reshaped'
import { thing } from './testing/things'

const act = (kind: string, values: Record<string, unknown> = {}): ActDoc => ({
  id: `a-${kind}`,
  kind,
  seed: 7,
  ...defaultsOf(actOf(kind).params),
  ...values,
})
const object = (reshape: ActDoc[], regions: RegionDoc[] = []): ObjectDoc =>
  thing('o', { reshape, regions, roles: { source: true, collider: false } })
const rows = (p: Float32Array) => Array.from({ length: p.length / 3 }, (_, i) => [p[i * 3], p[i * 3 + 1], p[i * 3 + 2]])
const area = (m: Mesh) => runningAreas(m).at(-1) as number
/** By the divergence theorem. */
const volume = (m: Mesh) => {
  let sum = 0
  const p = rows(m.positions)
  for (let t = 0; t < m.indices.length; t += 3) {
    const [a, b, c] = [p[m.indices[t]], p[m.indices[t + 1]], p[m.indices[t + 2]]]
    sum += a[0] * (b[1] * c[2] - b[2] * c[1]) + a[1] * (b[2] * c[0] - b[0] * c[2]) + a[2] * (b[0] * c[1] - b[1] * c[0])
  }
  return sum / 6
}

describe('reshape steps', () => {
  it('taper gives a frustum the volume of its formula', () => {
    const m = shapedOf(object([act('taper', { low: 100, high: 50 })]), box(2, 3, 2), false).mesh
    // h/3 (A + B + sqrt(A B))
    expect(volume(m)).toBeCloseTo((3 / 3) * (4 + 1 + 2), 5)
  })
  it('twist keeps heights and distances from the axis, and turns the ends by half the angle each way', () => {
    const base = box(1, 2, 1)
    const m = shapedOf(object([act('twist', { angle: 90 })]), base, false).mesh
    rows(m.positions).forEach((p, i) => {
      const q = rows(base.positions)[i]
      expect(p[1]).toBeCloseTo(q[1], 6)
      expect(Math.hypot(p[0], p[2])).toBeCloseTo(Math.hypot(q[0], q[2]), 6)
      // z to x about Y, as a right hand turns.
      const turned = ((Math.atan2(p[0], p[2]) - Math.atan2(q[0], q[2])) * 180) / Math.PI
      expect((((turned % 360) + 540) % 360) - 180).toBeCloseTo(q[1] > 0 ? 45 : -45, 3)
    })
  })
  it('bend puts the middle line on a circle and keeps its length', () => {
    const rod = subdivide(box(0.01, 4, 0.01), 5).mesh
    const m = shapedOf(object([act('bend', { angle: 180 })]), rod, false).mesh
    const radius = 4 / Math.PI
    const before = boundsOf(rod).min[1]
    // Towards Z, the axis behind Y.
    for (const [, y, z] of rows(m.positions)) expect(Math.hypot(z - radius, y - before)).toBeCloseTo(radius, 1.8)
    expect(Math.max(...rows(m.positions).map((p) => p[2]))).toBeGreaterThan(2 * radius - 0.02)
  })
  it('noise moves along the normal by no more than its height, with other bumps for another seed', () => {
    const base = sphere(1, 24)
    const at = (seed: number) =>
      rows(shapedOf(object([{ ...act('noise', { height: 0.1, octaves: 1 }), seed }]), base, false).mesh.positions).map((p) =>
        Math.hypot(...p),
      )
    const [a, b] = [at(1), at(2)]
    expect(Math.max(...a.map((r) => Math.abs(r - 1)))).toBeLessThan(0.1)
    expect(Math.max(...a.map((r) => Math.abs(r - 1)))).toBeGreaterThan(0.04)
    expect(a.some((r, i) => Math.abs(r - b[i]) > 0.03)).toBe(true)
  })
  it('ridges stand out along the normal: so many around, by their height on the crest and by nothing between', () => {
    const base = sphere(1, 48)
    const places = rows(base.positions)
    const far = (values: Record<string, unknown>) =>
      rows(shapedOf(object([act('ridges', { axis: 'y', count: 8, height: 0.2, ...values })]), base, false).mesh.positions).map((p, i) => {
        const [x, , z] = places[i]
        return { out: Math.hypot(...p) - 1, turn: Math.atan2(x, z), across: Math.hypot(x, z) }
      })
    // About Y the turn goes from Z to X, and the wave stands on Z.
    for (const q of far({})) if (q.across > 0.1) expect(q.out).toBeCloseTo(0.2 * (0.5 + 0.5 * Math.cos(8 * q.turn)), 2)
    // Thin ridges have less on the mean, and as much on their crests.
    const mean = (list: { out: number }[]) => list.reduce((s, q) => s + q.out, 0) / list.length
    expect(mean(far({ sharp: 100 }))).toBeLessThan(0.5 * mean(far({})))
    expect(Math.max(...far({ sharp: 100 }).map((q) => q.out))).toBeCloseTo(0.2, 2)
    const rings = shapedOf(object([act('ridges', { run: 'around', count: 3, height: 0.1 })]), base, false).mesh
    rows(rings.positions).forEach((p, i) => {
      const y = places[i][1]
      expect(Math.hypot(...p) - 1).toBeCloseTo(0.1 * (0.5 + 0.5 * Math.cos(2 * Math.PI * 3 * (y / 2 + 0.5))), 2)
    })
  })
  it('subdivide keeps area, volume, parts and closedness', () => {
    const m = shapedOf(object([act('subdivide', { times: 2 })]), box(1, 2, 3), false).mesh
    expect(triangleCount(m)).toBe(12 * 16)
    expect(area(m)).toBeCloseTo(22, 4)
    expect(volume(m)).toBeCloseTo(6, 4)
    expect(isClosed(m)).toBe(true)
    expect(m.parts.map((p) => p.triangleCount)).toEqual([32, 32, 32, 32, 32, 32])
  })
  it('weld joins the corners of a box, and closing holes gives a tube an inside', () => {
    expect(weld(box(1, 1, 1), 1e-4).mesh.positions.length / 3).toBe(8)
    const m = shapedOf(object([act('weld', { holes: true })]), tube(1, 2, 64), false).mesh
    expect(isClosed(m)).toBe(true)
    expect(volume(m)).toBeCloseTo(64 * 0.5 * Math.sin((2 * Math.PI) / 64) * 2, 2)
    expect(isClosed(shapedOf(object([act('weld', { holes: true, edges: 10 })]), tube(1, 2, 64), false).mesh)).toBe(false)
  })
  it('come in order, leave out what is muted, and stand still while their values do', () => {
    const base = box(1, 1, 1)
    const keyed = {
      keys: [
        { t: 1, v: 0, ease: 'linear' },
        { t: 2, v: 90, ease: 'linear' },
      ],
    }
    const s = shapedOf(object([act('subdivide'), act('twist', { angle: keyed }), { ...act('taper'), muted: true }]), base, false)
    expect(s.at?.(0)).toBe(s.mesh.positions)
    expect(s.at?.(0.5)).toBe(s.mesh.positions)
    const half = s.at?.(1.5) as Float32Array
    expect(half).not.toBe(s.mesh.positions)
    expect(s.at?.(1.5)).toBe(half)
    expect(Math.abs(boundsOf({ ...s.mesh, positions: half }).max[0])).toBeGreaterThan(0.55)
    // Taper behind twist is not twist behind taper.
    const ab = shapedOf(object([act('taper', { axis: 'x' }), act('twist')]), base, false).mesh.positions
    const ba = shapedOf(object([act('twist'), act('taper', { axis: 'x' })]), base, false).mesh.positions
    expect(ab).not.toEqual(ba)
    expect(shapedOf(object([act('taper')]), base, false).mesh).toBe(shapedOf(object([act('taper')]), base, false).mesh)
  })
  it('cutting long edges keeps the surface without gaps (property)', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.2, max: 2, noNaN: true }),
        fc.double({ min: 0.12, max: 1, noNaN: true }),
        fc.double({ min: 0.1, max: 3, noNaN: true }),
        (w, longest, h) => {
          const m = refine(box(w, h, 1), longest, 1e6).mesh
          expect(isClosed(m)).toBe(true)
          expect(area(m)).toBeCloseTo(2 * (w * h + h + w), 3)
          let most = 0
          for (let t = 0; t < m.indices.length; t += 3)
            for (let k = 0; k < 3; k++) {
              const [p, q] = [m.indices[t + k], m.indices[t + ((k + 1) % 3)]].map((v) => rows(m.positions.subarray(v * 3, v * 3 + 3))[0])
              most = Math.max(most, Math.hypot(...p.map((x, i) => x - q[i])))
            }
          expect(most).toBeLessThan(longest * 1.0001)
        },
      ),
      { numRuns: 8, seed: 4 },
    )
  })
  it('normals of a reshaped ball are those of the ball where it was only moved', () => {
    const m = sphere(1, 48)
    const n = normalsFor(
      m,
      m.positions.map((x, i) => (i % 3 === 1 ? x + 5 : x)),
    ) as Float32Array
    rows(n).forEach((q, i) =>
      expect(q[0] * m.positions[i * 3] + q[1] * m.positions[i * 3 + 1] + q[2] * m.positions[i * 3 + 2]).toBeGreaterThan(0.995),
    )
  })
})

describe('regions', () => {
  const none = () => null
  const amounts = (acts: ActDoc[], base: Mesh, otherOf: Parameters<typeof regionOf>[3] = none, o: Partial<ObjectDoc> = {}, t = 0) => {
    const region = { id: 'r', name: 'Part', acts }
    const doc = { ...object([], [region]), ...o }
    const shaped = shapedOf(doc, base, true)
    return { amounts: regionOf(doc, region, shaped, otherOf)(t), places: rows(shaped.mesh.positions), shaped, mesh: shaped.mesh }
  }
  it('a side takes one half, a ball and a box what lies inside, with an edge as soft as asked', () => {
    const { amounts: a, places } = amounts([act('side', { direction: [0, 2, 0], beyond: 0.1, soft: 0 })], sphere(1, 32))
    expect(places.findIndex((p, i) => a[i] !== (p[1] >= 0.1 ? 1 : 0))).toBe(-1)
    const soft = amounts([act('inBall', { place: [1, 0, 0], radius: 0.8, soft: 0.4 })], sphere(1, 32))
    soft.places.forEach((p, i) => {
      const d = Math.hypot(p[0] - 1, p[1], p[2])
      if (d < 0.599) expect(soft.amounts[i]).toBe(1)
      if (d > 1.001) expect(soft.amounts[i]).toBe(0)
      if (Math.abs(d - 0.8) < 1e-3) expect(soft.amounts[i]).toBeCloseTo(0.5, 1)
    })
    const cut = amounts([act('inBox', { place: [0, 1, 0], size: [9, 1, 9], soft: 0 })], sphere(1, 32))
    expect(cut.places.findIndex((p, i) => Math.abs(p[1] - 0.5) > 1e-5 && cut.amounts[i] !== (p[1] > 0.5 ? 1 : 0))).toBe(-1)
  })
  it('slope and height take the upper faces of a box alone', () => {
    const { amounts: a, mesh, places } = amounts([act('slope', { angle: 45, fade: 0 }), act('height', { from: 50, to: 100 })], box(1, 1, 1))
    const n = mesh.normals as Float32Array
    places.forEach((p, i) => expect(a[i]).toBeCloseTo(n[i * 3 + 1] > 0.9 ? Math.max(0, p[1] * 2) : 0, 5))
  })
  it('steps join: only, also, not', () => {
    const upper = act('side', { soft: 0 }),
      right = act('side', { direction: [1, 0, 0], soft: 0 })
    for (const [how, take] of [
      ['only', (u: boolean, r: boolean) => u && r],
      ['also', (u: boolean, r: boolean) => u || r],
      ['not', (u: boolean, r: boolean) => u && !r],
    ] as const) {
      const { amounts: a, places } = amounts([upper, { ...right, id: 'b', how }], sphere(1, 16))
      const clear = (p: number[]) => Math.abs(p[0]) > 1e-5 && Math.abs(p[1]) > 1e-5
      expect(
        places.findIndex((p, i) => clear(p) && a[i] !== (take(p[1] > 0, p[0] > 0) ? 1 : 0)),
        how,
      ).toBe(-1)
    }
  })
  it('one that stays in the shot moves over an object that moves, one near another follows that', () => {
    const place = [
      {
        keys: [
          { t: 0, v: 0, ease: 'linear' },
          { t: 1, v: 4, ease: 'linear' },
        ],
      },
      0,
      0,
    ] as never
    const stays = amounts([act('side', { direction: [1, 0, 0], beyond: 2, soft: 0, space: 'shot' })], sphere(1, 8), none, { place }, 0.5)
    expect(stays.places.findIndex((p, i) => Math.abs(p[0]) > 1e-5 && stays.amounts[i] !== (p[0] > 0 ? 1 : 0))).toBe(-1)
    const probe = { ...object([]), id: 'p', place, scale: [0.5, 0.5, 0.5] as never }
    const near = amounts(
      [act('near', { object: 'p', reach: 0.1, soft: 0 })],
      sphere(1, 24),
      (id) => (id === 'p' ? { object: probe, base: { mesh: sphere(1, 8), at: null } } : null),
      {},
      0.25,
    )
    const far = (p: number[]) => Math.hypot(p[0] - 1, p[1], p[2]) - 0.6
    expect(near.places.findIndex((p, i) => Math.abs(far(p)) > 1e-3 && near.amounts[i] !== (far(p) < 0 ? 1 : 0))).toBe(-1)
  })
  it('patches cover about the share that is asked for', () => {
    for (const share of [20, 50, 80]) {
      const { amounts: a } = amounts([act('patches', { share, size: 0.15, softness: 10 })], sphere(1, 96))
      expect(a.reduce((s, x) => s + x, 0) / a.length).toBeGreaterThan(share / 100 - 0.06)
      expect(a.reduce((s, x) => s + x, 0) / a.length).toBeLessThan(share / 100 + 0.06)
    }
  })
  it('a picture: where the texture of the part is bright, and only there', () => {
    const plane: Mesh = {
      positions: new Float32Array([0, 0, 0, 1, 0, 0, 1, 0, -1, 0, 0, -1]),
      normals: null,
      indices: new Uint32Array([0, 1, 2, 0, 2, 3]),
      parts: [{ name: 'Cloth', firstTriangle: 0, triangleCount: 2 }],
      uv: new Float32Array([0, 1, 1, 1, 1, 0, 0, 0]),
      textures: [
        {
          part: 'Cloth',
          type: 'image/png',
          data: new Uint8Array(0),
          brightness: { width: 4, height: 1, data: new Uint8Array([0, 0, 255, 255]) },
        },
      ],
    }
    const { amounts: a, places } = amounts([act('picture')], plane)
    places.forEach((p, i) => {
      if (p[0] > 0.15 && p[0] < 0.35) expect(a[i]).toBe(0)
      if (p[0] > 0.65 && p[0] < 0.85) expect(a[i]).toBe(1)
    })
    expect(amounts([act('picture')], sphere(1, 8)).amounts.every((x) => x === 0)).toBe(true)
    expect(amounts([act('picture', { dark: true })], plane).amounts.some((x) => x === 1)).toBe(true)
  })
  it('paint lies where the brush was, goes away under a brush that takes, and stays on the skin when it is reshaped', () => {
    const { amounts: a, places } = amounts(
      [
        act('painted', {
          dabs: [
            [0, 1, 0, 0.5, 1],
            [1, 0, 0, 0.5, 1],
            [1, 0, 0, 0.5, -2],
          ],
        }),
      ],
      sphere(1, 24),
    )
    places.forEach((p, i) => {
      const d = Math.hypot(p[0], p[1] - 1, p[2])
      expect(a[i]).toBeCloseTo(d < 0.5 ? (1 - d * d * 4) ** 2 : 0, 4)
    })
    const region = { id: 'r', name: 'Part', acts: [act('painted', { dabs: [[0, 1, 0, 0.5, 1]] })] }
    const tall = { ...object([act('twist', { axis: 'x', angle: 180 })], [region]) }
    const shaped = shapedOf(tall, sphere(1, 24), true)
    expect(regionOf(tall, region, shaped, none)(0)).toEqual(paint([[0, 1, 0, 0.5, 1]], shaped.rest))
  })
})

describe('a shape whose numbers move', () => {
  const doc = (shape: Record<string, unknown>) => ({ ...object([]), shape }) as ObjectDoc
  const keyed = (from: number, to: number) => ({
    keys: [
      { t: 0, v: from, ease: 'linear' },
      { t: 1, v: to, ease: 'linear' },
    ],
  })
  it('has its size at every time, and stands still while they do', () => {
    const o = doc({ kind: 'sphere', radius: keyed(0.5, 2), detail: 24, build: 'rings' })
    const base = baseMesh(o, new Map())
    if (!base) throw new Error('no mesh')
    const s = shapedOf(o, base, false)
    const size = (t: number) => Math.max(...rows(s.at?.(t) as Float32Array).map((p) => Math.hypot(...p)))
    expect([size(0), size(0.5), size(1), size(9)].map((v) => Number(v.toFixed(5)))).toEqual([0.5, 1.25, 2, 2])
    expect(s.at?.(1)).toBe(s.at?.(9))
    // Where it stands at the first frame it is the mesh itself.
    expect(s.at?.(0)).toEqual(s.mesh.positions)
  })
  it('keeps triangles that have no area at first: a cone that becomes a drum stays closed', () => {
    const o = doc({ kind: 'cone', radius: 0.5, top: keyed(0, 0.5), height: 1, segments: 48 })
    const base = baseMesh(o, new Map())
    if (!base) throw new Error('no mesh')
    const s = shapedOf(o, base, false)
    const at = (t: number) => ({ ...s.mesh, positions: s.at?.(t) as Float32Array })
    const disc = 24 * Math.sin((2 * Math.PI) / 48) * 0.25
    expect(volume(at(1))).toBeCloseTo(disc, 4)
    expect(volume(at(0))).toBeCloseTo(disc / 3, 4)
    expect(isClosed(at(1))).toBe(true)
  })
  it('goes through its reshape steps', () => {
    const o = { ...doc({ kind: 'box', width: keyed(1, 3), height: 1, depth: 1 }), reshape: [act('subdivide', { times: 1 })] } as ObjectDoc
    const base = baseMesh(o, new Map())
    const s = shapedOf(o, base as never, false)
    expect(boundsOf({ ...s.mesh, positions: s.at?.(1) as Float32Array }).max[0]).toBeCloseTo(1.5, 6)
  })
})
