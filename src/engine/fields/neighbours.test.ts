import { describe, expect, it } from 'vitest'
import { nodeKernels } from '../../hosts/node/kernels'
import { Block, Columns, FALLOFFS, Heap, hash3, Neighbourhood, type PassRequest, SCRATCH, unit } from '..'

const random = (i: number, c: number, lo = 0, hi = 1) => lo + (hi - lo) * unit(hash3(91, i, c))
type Points = { p: number[][]; v: number[][] }
const cloud = (n: number, scale = [1, 1, 1], at = [0, 0, 0], first = 0): Points => ({
  p: Array.from({ length: n }, (_, i) => scale.map((s, a) => Math.fround(at[a] + s * random(first + i, a)))),
  v: Array.from({ length: n }, (_, i) => [3, 4, 5].map((c) => Math.fround(random(i, c, -1, 1)))),
})
type Wanted = Omit<PassRequest, 'at' | 'system'>
/** What a pass leaves for `asking` of the particles `asked` (the same: its own); `before`: another over the same ones. */
async function pass(asking: Points, asked: Points, wanted: Wanted, threads = 1, before?: Wanted): Promise<Float32Array[]> {
  const host = await nodeKernels({ threads })
  const heap = new Heap(host.memory, 1 << 29)
  const scratch = heap.take(SCRATCH.bytes * threads)
  const columnsOf = (points: Points) => {
    const c = new Columns(heap, [])
    c.reserve(points.p.length)
    c.count = points.p.length
    ;(['px', 'py', 'pz'] as const).forEach((name, a) => heap.f32(c.pointer(name), c.count).set(points.p.map((q) => q[a])))
    ;(['vx', 'vy', 'vz'] as const).forEach((name, a) => heap.f32(c.pointer(name), c.count).set(points.v.map((q) => q[a])))
    heap.u32(c.pointer('id'), c.count).set(points.p.map((_, i) => i))
    return c
  }
  const a = columnsOf(asking),
    b = asking === asked ? a : columnsOf(asked)
  const near = new Neighbourhood('near', { heap, host, scratch })
  const out = new Block(heap)
  near.prepare()
  if (before) near.pass({ ...before, system: -1, at: 0 }, a, b, 'b', out)
  const { stride } = near.pass({ ...wanted, system: -1, at: 0 }, a, b, 'b', out)
  const result = Array.from({ length: wanted.columns }, (_, k) => heap.f32(out.at + k * stride, a.count).slice())
  near.dispose()
  out.free()
  a.dispose()
  if (b !== a) b.dispose()
  heap.give(scratch)
  expect(heap.usedBytes).toBe(0)
  host.team.dispose()
  return result
}
const far = (a: number[], b: number[]) => Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2])
const words = (...list: number[]) => [...new Float32Array(Uint32Array.from(list).buffer)]

describe('neighbours', () => {
  it.each([
    ['a cube', cloud(2000)],
    ['a plane far from the middle', cloud(2000, [1, 0, 1], [500, 3, -80])],
    ['a long line, for which cells repeat themselves', cloud(1500, [4000, 0.05, 0.05])],
    ['one that is far away', { p: [...cloud(600).p, [1e7, -1e7, 3e6]], v: cloud(601).v }],
    ['all at one place', { p: cloud(50, [0, 0, 0]).p, v: cloud(50).v }],
  ])('are counted as by looking at every pair: %s', async (_name, points) => {
    const r = 0.1
    const [found] = await pass(points, points, { kind: 'counting', radius: r, words: [r * r], columns: 1 })
    points.p.forEach((p, i) => {
      // Those within rounding of the radius may count or not.
      const count = (k: number) => points.p.filter((q, j) => j !== i && far(p, q) < r * k).length
      expect(found[i]).toBeGreaterThanOrEqual(count(1 - 1e-5))
      expect(found[i]).toBeLessThanOrEqual(count(1 + 1e-5))
    })
  })
  it('of another system: forces add up over each near particle, or their mean, by the falloff', async () => {
    const [mine, theirs] = [cloud(300), cloud(400, [1, 1, 1], [0, 0, 0], 5000)]
    const reach = 0.25
    for (const mean of [false, true]) {
      const got = await pass(mine, theirs, {
        kind: 'swarm',
        radius: reach,
        words: [reach * reach, 1 / reach, 3, ...words(FALLOFFS.indexOf('linear'), mean ? 1 : 0)],
        columns: 3,
      })
      mine.p.forEach((p, i) => {
        const near = theirs.p.filter((q) => far(p, q) < reach)
        for (let a = 0; a < 3; a++) {
          const sum = near.reduce((s, q) => s + (3 * (1 - far(p, q) / reach) * (q[a] - p[a])) / far(p, q), 0)
          expect(got[a][i]).toBeCloseTo(mean && near.length ? sum / near.length : sum, 3)
        }
      })
    }
  })
  it('its own: what one particle does to another the other does to it, so nothing is gained', async () => {
    const points = cloud(500)
    const got = await pass(points, points, { kind: 'swarm', radius: 0.3, words: [0.09, 1 / 0.3, 5, ...words(2, 0)], columns: 3 })
    for (const c of got) expect(Math.abs(c.reduce((s, x) => s + x, 0))).toBeLessThan(1e-3 * c.reduce((s, x) => s + Math.abs(x), 0))
  })
  it('the nearest of another system, with its velocity; nothing beyond the reach', async () => {
    const [mine, theirs] = [cloud(200), cloud(40, [1, 1, 1], [0, 0, 0], 5000)]
    const got = await pass(mine, theirs, { kind: 'nearest', radius: 0.2, words: [0.04], columns: 7 })
    mine.p.forEach((p, i) => {
      const best = theirs.p.reduce((b, q, j) => (far(p, q) < far(p, theirs.p[b]) ? j : b), 0)
      const has = far(p, theirs.p[best]) < 0.2
      expect(got[6][i]).toBe(has ? 1 : 0)
      if (has) expect([got[0][i], got[4][i]]).toEqual([theirs.p[best][0], theirs.v[best][1]])
    })
  })
  it('one that asks for velocities and one that does not do not mind each other, over the same particles and radius', async () => {
    const [mine, theirs] = [cloud(200), cloud(90, [1, 1, 1], [0, 0, 0], 5000)]
    const nearest: Wanted = { kind: 'nearest', radius: 0.2, words: [0.04], columns: 7 }
    const counting: Wanted = { kind: 'counting', radius: 0.2, words: [0.04], columns: 1 }
    const [velocities, counts] = [await pass(mine, theirs, nearest), await pass(mine, theirs, counting)]
    expect(velocities[4].some((v) => v !== 0)).toBe(true)
    expect(await pass(mine, theirs, nearest, 1, counting)).toEqual(velocities)
    expect(await pass(mine, theirs, counting, 1, nearest)).toEqual(counts)
  })
  it('in turn: by their numbers, round and round', async () => {
    const [mine, theirs] = [cloud(10), cloud(4)]
    const got = await pass(mine, theirs, { kind: 'ordered', radius: 1, words: [], columns: 7 })
    expect([...got[1]]).toEqual(mine.p.map((_, i) => theirs.p[i % 4][1]))
  })
  it('a flock: apart, aligned and together as the formula says, by those in view alone', async () => {
    const points = cloud(400)
    const [radius, room, cosine, apart, align, together, dt] = [0.3, 0.15, 0, 7, 3, 2, 0.02]
    const got = await pass(points, points, {
      kind: 'flock',
      radius,
      words: [radius * radius, room, cosine, apart, align, together, dt],
      columns: 3,
    })
    points.p.forEach((p, i) => {
      const v = points.v[i]
      const near = points.p
        .map((q, j) => ({ q, w: points.v[j], d: far(p, q), j }))
        .filter((x) => x.j !== i && x.d < radius && (x.q[0] - p[0]) * v[0] + (x.q[1] - p[1]) * v[1] + (x.q[2] - p[2]) * v[2] >= 0)
      for (let a = 0; a < 3; a++) {
        const push = near.reduce((s, x) => s - apart * Math.max(0, 1 - x.d / room) * ((x.q[a] - p[a]) / x.d), 0)
        const mean = near.reduce((s, x) => s + x.w[a] / near.length, 0),
          middle = near.reduce((s, x) => s + (x.q[a] - p[a]) / near.length, 0)
        const wanted = near.length ? push + (align / (1 + align * dt)) * (mean - v[a]) + (together / radius) * middle : 0
        expect(Math.abs(got[a][i] - wanted)).toBeLessThan(2e-3)
      }
    })
  })
  it('the same bits on one thread, two and three', async () => {
    const points = cloud(40000)
    const flock = { kind: 'flock', radius: 0.06, words: [0.0036, 0.03, -2, 7, 3, 2, 0.02], columns: 3 } as const
    const [one, ...more] = [
      await pass(points, points, { ...flock, words: [...flock.words] }),
      await pass(points, points, { ...flock, words: [...flock.words] }, 2),
      await pass(points, points, { ...flock, words: [...flock.words] }, 3),
    ]
    for (const m of more) m.forEach((c, k) => expect(Buffer.from(c.buffer).equals(Buffer.from(one[k].buffer))).toBe(true))
  })
})
