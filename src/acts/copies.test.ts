import { describe, expect, it } from 'vitest'
import { apply, boundsOf, box, isClosed, type Mesh, multiply, pointColumn, runningAreas, sphere } from '../engine'
import { framesOn, points, withWorld } from '../engine/testing/plans'
import { pointsCsv } from '../formats'
import { type ActDoc, defaultsOf, type ObjectDoc, type Shot } from '../shot'
import { checkShot, compile, systemMatrices, worldMatrix } from '.'
import { copyMatrices } from './copied'
import { drawsOf } from './look'
import { readerOf } from './reader'
import { actOf, actOfSort } from './registry'
import { shapedOf } from './reshaped'
import { demoShot } from './testing/shots'
import { thing } from './testing/things'

const act = (kind: string, values: Record<string, unknown> = {}): ActDoc => ({
  id: `a-${kind}`,
  kind,
  seed: 7,
  ...defaultsOf(actOf(kind).params),
  ...values,
})
const object = (copies: ActDoc[]): ObjectDoc => thing('o', { copies })
const volume = (m: Mesh) => {
  let sum = 0
  const p = m.positions
  for (let t = 0; t < m.indices.length; t += 3) {
    const [a, b, c] = [0, 1, 2].map((k) => m.indices[t + k] * 3)
    sum +=
      p[a] * (p[b + 1] * p[c + 2] - p[b + 2] * p[c + 1]) +
      p[a + 1] * (p[b + 2] * p[c] - p[b] * p[c + 2]) +
      p[a + 2] * (p[b] * p[c + 1] - p[b + 1] * p[c])
  }
  return sum / 6
}

describe('copies of an object', () => {
  it('in a ring stand at its radius, evenly, and are turned along', () => {
    const m = copyMatrices([act('copiesRing', { count: 8, radius: 2 })], 0)
    m.forEach((a, i) => {
      const [x, y, z] = apply(a, 0, 0, 0)
      expect(Math.hypot(x, z)).toBeCloseTo(2, 9)
      expect(y).toBe(0)
      expect([x / 2, z / 2].map((v) => v.toFixed(6).replace('-0.000000', '0.000000'))).toEqual(
        [Math.sin((i * Math.PI) / 4), Math.cos((i * Math.PI) / 4)].map((v) => v.toFixed(6).replace('-0.000000', '0.000000')),
      )
      // Each looks outwards along its own Z.
      const [dx, , dz] = apply(a, 0, 0, 1).map((v, k) => v - [x, y, z][k])
      expect(dx * x + dz * z).toBeCloseTo(2, 6)
    })
    expect(
      copyMatrices([act('copiesRing', { count: 3, arc: 90 })], 0).map((a) => Math.round((Math.atan2(a[3], a[11]) * 180) / Math.PI)),
    ).toEqual([0, 45, 90])
  })
  it('in a line and a grid stand apart as asked, around their middle', () => {
    expect(copyMatrices([act('copiesLine', { count: 3, step: [1, 0, 0] })], 0).map((a) => a[3])).toEqual([-1, 0, 1])
    expect(copyMatrices([act('copiesLine', { count: 3, step: [1, 0, 0], centred: false })], 0).map((a) => a[3])).toEqual([0, 1, 2])
    const g = copyMatrices([act('copiesGrid', { across: 2, up: 2, deep: 3, spacing: [1, 2, 3] })], 0)
    expect(g).toHaveLength(12)
    expect([...new Set(g.map((a) => a[11]))]).toEqual([-3, 0, 3])
  })
  it('of copies: every arrangement takes all that the ones before it made, and the scale is right when nested', () => {
    const m = copyMatrices(
      [act('copiesLine', { count: 2, step: [1, 0, 0], larger: 0 }), act('copiesRing', { count: 4, radius: 5, larger: 40 })],
      0,
    )
    expect(m).toHaveLength(8)
    const sizes = m.map((a) => Math.hypot(a[0], a[4], a[8]))
    // Both of a pair are as large as their place in the ring, and as far apart as that.
    for (let i = 0; i < 8; i += 2) {
      expect(sizes[i]).toBeCloseTo(sizes[i + 1], 9)
      expect(Math.hypot(m[i][3] - m[i + 1][3], m[i][11] - m[i + 1][11])).toBeCloseTo(sizes[i], 9)
    }
    expect(new Set(sizes.map((s) => s.toFixed(6))).size).toBe(4)
  })
  it('are triangles of the mesh: areas, volume, parts and closedness are those of all', () => {
    const m = shapedOf(object([act('copiesGrid', { across: 3, up: 1, deep: 2, spacing: [2, 2, 2] })]), box(1, 1, 1), false).mesh
    expect(runningAreas(m).at(-1)).toBeCloseTo(36, 4)
    expect(volume(m)).toBeCloseTo(6, 4)
    expect(isClosed(m)).toBe(true)
    const top = m.parts.find((p) => p.name === 'Top')
    const heights = new Set(
      Array.from({ length: (top?.triangleCount ?? 0) * 3 }, (_, k) => m.positions[m.indices[(top?.firstTriangle ?? 0) * 3 + k] * 3 + 1]),
    )
    expect([top?.triangleCount, [...heights]]).toEqual([12, [0.5]])
    // Normals turn along with a ring.
    const ball = shapedOf(object([act('copiesRing', { count: 5, radius: 3 })]), sphere(1, 16), false).mesh
    const n = ball.normals as Float32Array
    const centres = copyMatrices([act('copiesRing', { count: 5, radius: 3 })], 0).map((a) => apply(a, 0, 0, 0))
    for (let v = 0; v < n.length / 3; v += 7) {
      const p = [0, 1, 2].map((a) => ball.positions[v * 3 + a])
      const c = centres[Math.floor(v / (n.length / 15))]
      expect(p.reduce((s, x, a) => s + (x - c[a]) * n[v * 3 + a], 0)).toBeGreaterThan(0.98)
    }
  })
  it('move when their numbers do, and stand the same at the same time', () => {
    const s = shapedOf(
      object([
        act('copiesRing', {
          count: 4,
          radius: {
            keys: [
              { t: 0, v: 1, ease: 'linear' },
              { t: 1, v: 3, ease: 'linear' },
            ],
          },
        }),
      ]),
      box(0.1, 0.1, 0.1),
      false,
    )
    expect(s.at?.(0)).toBe(s.mesh.positions)
    expect(boundsOf({ ...s.mesh, positions: s.at?.(1) as Float32Array }).max[2]).toBeCloseTo(3.05, 4)
  })
  it('every arrangement gives as many at every time', () => {
    for (const kind of ['copiesRing', 'copiesLine', 'copiesGrid']) {
      const a = act(kind)
      const f = (t: number) => actOfSort(kind, 'copies').matrices(readerOf(a), t, 1, () => 1).length
      expect([f(1), f(9)]).toEqual([f(0), f(0)])
    }
  })
})

describe('the whole of a system', () => {
  const simple = (change: (s: Shot) => void): Shot => {
    const s = demoShot()
    s.objects = [
      {
        ...s.objects[0],
        id: 'cart',
        shape: { kind: 'anchor' },
        place: [
          {
            keys: [
              { t: 0, v: 0, ease: 'linear' },
              { t: 2, v: 10, ease: 'linear' },
            ],
          },
          1,
          0,
        ],
        rotate: [0, 90, 0],
      } as never,
    ]
    s.systems[0].birth = [
      act('steady', { source: 'cart', from: 'point', rate: 50, end: null, along: 'direction', direction: [0, 0, 1], spread: 0, speed: 2 }),
    ]
    Object.assign(s.systems[0].whole, { movement: [], contact: [] })
    Object.assign(s.systems[0].phases[0], { movement: [], contact: [] })
    s.systems[0].life = 10
    change(s)
    return s
  }
  const at = (s: Shot, frame: number) =>
    withWorld(compile(s, new Map()).plan, (w) => {
      const f = framesOn(w, frame)
      const part = points(f)
      return {
        part,
        places: Array.from({ length: part.count }, (_, i) => [0, 1, 2].map((a) => pointColumn(part, (['px', 'py', 'pz'] as const)[a])[i])),
      }
    })
  it('simulated in the space of a moving object it goes along: there the source stands still', async () => {
    const s = simple((d) => void (d.systems[0].space = 'cart'))
    const { places } = await at(s, 24)
    for (const [x, y, z] of places) {
      expect(Math.hypot(x, y)).toBeLessThan(1e-4)
      expect(z).toBeGreaterThanOrEqual(0)
    }
    // In the shot they lie on a line from the cart along its own Z, which looks along X.
    const [m] = systemMatrices(s, s.systems[0], 1)
    m.forEach((v, i) => expect(v).toBeCloseTo(worldMatrix(s.objects[0], 1)[i], 12))
    const [x, y, z] = apply(m, ...(places.at(0) as [number, number, number]))
    expect([y, z].map((v) => Number(v.toFixed(4)))).toEqual([1, 0])
    expect(x).toBeGreaterThan(5)
    const free = await at(
      simple(() => {}),
      24,
    )
    expect(free.places.some(([px]) => px < 2.2)).toBe(true)
  })
  it('put, rotated, scaled and copied afterwards changes no particle of the simulation, only where it is', async () => {
    const plain = await at(
      simple(() => {}),
      12,
    )
    const s = simple((d) =>
      Object.assign(d.systems[0], {
        place: [0, 5, 0],
        rotate: [0, 90, 0],
        scale: [2, 2, 2],
        copies: [act('copiesLine', { count: 3, step: [0, 0, 1] })],
      }),
    )
    const put = await at(s, 12)
    expect(put.places).toEqual(plain.places)
    const all = systemMatrices(s, s.systems[0], 0.5)
    expect(all).toHaveLength(3)
    expect(apply(all[1], 1, 0, 0).map((v) => Math.round(v * 1e6) / 1e6)).toEqual([0, 5, -2])
    expect(apply(all[2], 0, 0, 0).map((v) => Math.round(v * 1e6) / 1e6)).toEqual([2, 5, 0])
    expect(multiply(all[1], all[1])).toBeDefined()
    const rows = pointsCsv(put.part, drawsOf(s, s.systems[0], 0.5), all)
      .trim()
      .split('\n')
    expect(rows).toHaveLength(1 + put.part.count * 3)
    const single = pointsCsv(put.part, drawsOf(s, s.systems[0], 0.5))
      .trim()
      .split('\n')
    expect(Number(rows[2].split(',')[9]) / Number(single[1].split(',')[9])).toBeCloseTo(2, 6)
  })
})

describe('copies that differ', () => {
  const base = (mesh: Mesh) => ({ mesh, at: null })
  const twice = (mesh: Mesh, shift: readonly number[]): Mesh => ({ ...mesh, positions: mesh.positions.map((v, i) => v + shift[i % 3]) })

  it('in time: each runs behind by its own seconds, also at the first frame', () => {
    // The shape rises by one metre a second.
    const cube = box(0.2, 0.2, 0.2)
    const rising = { mesh: cube, at: (t: number) => ({ key: `at ${t}`, places: () => twice(cube, [0, t, 0]).positions }) }
    const shaped = shapedOf(thing('o', { copies: [act('copiesLine', { count: 4, step: [1, 0, 0], lag: 0.25 })] }), rising, false)
    const n = cube.positions.length
    for (const t of [0, 1, 2.5]) {
      const p = shaped.at?.(t) as Float32Array
      expect(p).toHaveLength(n * 4)
      for (let c = 0; c < 4; c++) expect(p[c * n + 1] - cube.positions[1], `copy ${c} at ${t}`).toBeCloseTo(t - 0.25 * c, 5)
    }
    expect([...(shaped.at as (t: number) => Float32Array)(0)]).toEqual([...shaped.mesh.positions])
    const either = (
      shapedOf(thing('o', { copies: [act('copiesLine', { count: 40, step: [1, 0, 0], late: 0.5 })] }), rising, false).at as (
        t: number,
      ) => Float32Array
    )(3)
    const heights = Array.from({ length: 40 }, (_, c) => either[c * n + 1] - cube.positions[1])
    expect(Math.min(...heights)).toBeGreaterThan(2.5)
    expect(Math.max(...heights)).toBeLessThan(3.5)
    expect(Math.max(...heights) - Math.min(...heights)).toBeGreaterThan(0.7)
  })
  it('in shape: picked one after another or at random among several objects, each turned and scaled as it is', () => {
    const ball = thing('ball', { scale: [2, 2, 2] })
    const others = (id: string | null) => (id === 'ball' ? { object: ball, base: base(sphere(0.1, 8)) } : null)
    const inTurn = shapedOf(
      thing('o', { copies: [act('copiesLine', { count: 6, step: [5, 0, 0], among: ['ball'], pick: 'turn' })] }),
      base(box(0.2, 0.2, 0.2)),
      false,
      others,
    ).mesh
    expect(isClosed(inTurn)).toBe(true)
    // Three boxes, and three balls of twice their radius.
    const one = volume(sphere(0.1, 8)) * 8
    expect(volume(inTurn)).toBeCloseTo(3 * 0.008 + 3 * one, 5)
    const random = shapedOf(
      thing('o', { copies: [act('copiesGrid', { across: 10, up: 1, deep: 10, spacing: [5, 5, 5], among: ['ball'] })] }),
      base(box(0.2, 0.2, 0.2)),
      false,
      others,
    ).mesh
    const balls = (volume(random) - 100 * 0.008) / (one - 0.008)
    expect(balls).toBeCloseTo(Math.round(balls), 2)
    expect(balls).toBeGreaterThan(30)
    expect(balls).toBeLessThan(70)
    // One that is gone is stood in for by the object itself.
    expect(
      volume(
        shapedOf(
          thing('o', { copies: [act('copiesLine', { count: 6, step: [5, 0, 0], among: ['nobody'], pick: 'turn' })] }),
          base(box(0.2, 0.2, 0.2)),
          false,
          others,
        ).mesh,
      ),
    ).toBeCloseTo(6 * 0.008, 6)
  })
  it('only inside an object that moves over them', () => {
    const zone = thing('zone', {
      place: [
        {
          keys: [
            { t: 0, v: 0, ease: 'linear' },
            { t: 1, v: 10, ease: 'linear' },
          ],
        },
        0,
        0,
      ],
    })
    const others = (id: string | null) => (id === 'zone' ? { object: zone, base: base(box(4, 4, 4)) } : null)
    const copies = [act('copiesLine', { count: 21, step: [1, 0, 0], larger: 50, object: 'zone', soft: 0 })]
    for (const t of [0, 0.5, 1]) {
      copyMatrices(copies, t, () => worldMatrix(thing('o', {}), t), others).forEach((m, i) => {
        const varied = Math.abs(m[0] - 1) > 1e-9
        const x = i - 10
        if (Math.abs(Math.abs(x - t * 10) - 2) > 1e-6) expect(varied, `copy at ${x}, ${t} s`).toBe(Math.abs(x - t * 10) < 2)
      })
    }
    const shaped = shapedOf(thing('o', { copies }), base(box(0.2, 0.2, 0.2)), false, others)
    expect(shaped.at?.(0)).not.toEqual(shaped.at?.(1))
  })
  it('a shot with them compiles, and names an object that is not there', () => {
    const shot = demoShot()
    shot.objects[0].copies = [act('copiesRing', { count: 3, among: [shot.objects[1].id], pick: 'turn' })]
    expect(checkShot(shot).ok).toBe(true)
    shot.objects[0].copies = [act('copiesRing', { count: 3, among: ['nobody'] })]
    expect(checkShot(shot)).toMatchObject({
      ok: false,
      problems: [{ path: 'objects[0].copies[0].among[0]', message: 'no object has the id nobody' }],
    })
  })
})
