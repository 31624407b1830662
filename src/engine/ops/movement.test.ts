import { describe, expect, it } from 'vitest'
import { encodeDrag, encodeGravity, encodeSquareDrag, encodeTurbulence, hash3, type OpWriter, particleStateOf, unit } from '..'
import { column, framesOn, gravity, plan, system, withWorld } from '../testing/plans'

const drag = (halving: number) => ({ id: 'drag', resists: true, encode: (w: OpWriter) => encodeDrag(w, halving) })
const squareDrag = (c: number) => ({ id: 'square', resists: true, encode: (w: OpWriter) => encodeSquareDrag(w, c) })
const thrown = { speed: 7, direction: [0, 1, 0] as const }

describe('movement against closed forms', () => {
  it('ballistic flight is exact at any step', async () => {
    await withWorld(plan([system({ birth: thrown, forces: [gravity()] })], [], { substeps: 1 }), (w) => {
      const f = framesOn(w, 24)
      expect(column(f, 'vy')[0]).toBeCloseTo(7 - 9.81, 4)
      expect(column(f, 'py')[0]).toBeCloseTo(7 - 9.81 / 2, 4)
    })
  })
  it('terminal speed under gravity and drag is g·halving/ln 2', async () => {
    // In either order of the cards, at one substep.
    for (const forces of [
      [gravity(), drag(0.5)],
      [drag(0.5), gravity()],
    ])
      await withWorld(plan([system({ forces })], [], { substeps: 1 }), (w) => {
        const v = -column(framesOn(w, 24 * 12), 'vy')[0]
        expect(v / ((9.81 * 0.5) / Math.LN2)).toBeCloseTo(1, 4)
      })
  })
  it('terminal speed under gravity and square drag is √(g / c), to a part in two hundred at one substep', async () => {
    await withWorld(plan([system({ forces: [squareDrag(0.4), gravity()] })], [], { substeps: 1 }), (w) => {
      const v = -column(framesOn(w, 24 * 8), 'vy')[0]
      expect(v / Math.sqrt(9.81 / 0.4)).toBeCloseTo(1, 2)
    })
  })
  it('drag halves the speed in its time, whatever the steps', async () => {
    for (const substeps of [1, 3, 8]) {
      await withWorld(plan([system({ birth: { speed: 8 }, forces: [drag(0.5)] })], [], { substeps }), (w) => {
        expect(column(framesOn(w, 24), 'vy')[0]).toBeCloseTo(2, 4)
      })
    }
  })
  it('a share scales a force, and differs from particle to particle with ±', async () => {
    const shared = (value: number, vary: number) => ({
      id: 'g',
      encode: (w: OpWriter) => encodeGravity(w, [0, -10, 0], 9, { value, vary }),
    })
    await withWorld(plan([system({ forces: [shared(0.25, 0)] })], [], { substeps: 1 }), (w) => {
      expect(column(framesOn(w, 24), 'vy')[0]).toBeCloseTo(-2.5, 4)
    })
    await withWorld(plan([system({ burst: 4000, forces: [shared(0.5, 0.25)] })], [], { substeps: 1 }), (w) => {
      const v = [...column(framesOn(w, 24), 'vy')].map((x) => -x / 10)
      expect(Math.min(...v)).toBeGreaterThan(0.2499)
      expect(Math.max(...v)).toBeLessThan(0.7501)
      const mean = v.reduce((a, b) => a + b, 0) / v.length
      expect(mean).toBeCloseTo(0.5, 1)
      expect(v.reduce((s, x) => s + (x - mean) ** 2, 0) / v.length).toBeCloseTo(0.5 ** 2 / 12, 2)
    })
  })
  it('ages and ends: everybody lives as long as their life', async () => {
    await withWorld(plan([system({ burst: 1000, life: () => [1, 0.5] })]), (w) => {
      let before = 1000
      for (let f = 1; f <= 40; f++) {
        w.step()
        const frame = w.capture()
        const age = column(frame, 'age')
        const life = column(frame, 'life')
        expect(age.findIndex((a, i) => !(a < life[i] && Math.abs(a - f / 24) < 5e-5 && life[i] >= 0.5 && life[i] <= 1.5))).toBe(-1)
        expect(frame.stats.system.alive).toBe(before - frame.stats.system.died)
        before = frame.stats.system.alive
      }
      expect(before).toBe(0)
    })
  })
})

describe('turbulence', () => {
  const noise = (o: { carry?: boolean; eddy?: number; octaves?: number; phase?: number; seed?: number } = {}) => ({
    id: 'noise',
    encode: (w: OpWriter) =>
      encodeTurbulence(
        w,
        { carry: o.carry ?? false, strength: 1, eddy: o.eddy ?? 1, octaves: o.octaves ?? 1, phase: o.phase ?? 0.3, responseS: 0 },
        o.seed ?? 5,
      ),
  })
  /** The field at given places: one step with carry and no response leaves the field in the velocity. */
  async function field(points: number[][], o: Parameters<typeof noise>[0] = {}): Promise<number[][]> {
    return withWorld(plan([system({ burst: points.length, forces: [] })], [], { substeps: 1 }), async (w) => {
      w.step()
      const s = w.save()
      const n = points.length
      const f = new Float32Array(particleStateOf(s, 'system').words.buffer)
      points.forEach((p, i) => {
        for (let a = 0; a < 3; a++) {
          f[a * n + i] = p[a]
          f[(3 + a) * n + i] = 0
        }
      })
      w.load(plan([system({ burst: n, forces: [noise({ ...o, carry: true })] })], [], { substeps: 1 }))
      w.restore(s)
      w.step()
      const c = w.capture()
      return points.map((_, i) => [column(c, 'vx')[i], column(c, 'vy')[i], column(c, 'vz')[i]])
    })
  }
  const places = Array.from({ length: 400 }, (_, i) => [((i * 37) % 101) / 11 - 4, ((i * 53) % 97) / 13 - 3, ((i * 71) % 89) / 9 - 5])

  it('has no divergence: central differences vanish beside the slopes', async () => {
    const h = 1 / 256
    const around = places.flatMap((p) =>
      [0, 1, 2].flatMap((a) => [p.map((x, k) => (k === a ? x + h : x)), p.map((x, k) => (k === a ? x - h : x))]),
    )
    const v = await field(around, { octaves: 2 })
    let slopes = 0
    let divergence = 0
    places.forEach((_, i) => {
      let div = 0
      for (let a = 0; a < 3; a++) {
        const hi = v[i * 6 + a * 2]
        const lo = v[i * 6 + a * 2 + 1]
        div += (hi[a] - lo[a]) / (2 * h)
        for (let b = 0; b < 3; b++) slopes += ((hi[b] - lo[b]) / (2 * h)) ** 2
      }
      divergence += div ** 2
    })
    expect(Math.sqrt(divergence / places.length)).toBeLessThan(0.01 * Math.sqrt(slopes / places.length / 9))
  })
  it('is as strong as it says: 99.9 % of places at most 1.05, and the strongest above 0.6', async () => {
    const many = Array.from({ length: 20000 }, (_, i) => [((i * 379) % 1009) / 17, ((i * 541) % 997) / 13, ((i * 733) % 991) / 19])
    const length = (await field(many)).map((v) => Math.hypot(...v)).sort((a, b) => a - b)
    expect(length[Math.floor(length.length * 0.999)]).toBeLessThan(1.05)
    expect(length[length.length - 1]).toBeGreaterThan(0.6)
  })
  it('is smooth in space and in its phase, and another with another seed', async () => {
    const base = await field(places)
    const moved = await field(places.map((p) => p.map((x) => x + 1e-3)))
    const later = await field(places, { phase: 0.3 + 1e-3 })
    const other = await field(places, { seed: 6 })
    const far = (a: number[][], b: number[][]) => Math.max(...a.map((v, i) => Math.hypot(...v.map((x, k) => x - b[i][k]))))
    expect(far(base, moved)).toBeLessThan(0.05)
    expect(far(base, later)).toBeLessThan(0.05)
    expect(far(base, other)).toBeGreaterThan(0.3)
  })
  it('gives way to new eddies: after one renewal the field has little to do with the old one', async () => {
    const a = await field(places, { phase: 0 })
    const b = await field(places, { phase: 0.75 })
    const dot = a.reduce((s, v, i) => s + v.reduce((t, x, k) => t + x * b[i][k], 0), 0)
    const norm = Math.sqrt(a.reduce((s, v) => s + Math.hypot(...v) ** 2, 0) * b.reduce((s, v) => s + Math.hypot(...v) ** 2, 0))
    expect(Math.abs(dot / norm)).toBeLessThan(0.4)
  })
  it('carry keeps an even cloud even, push lets it gather', async () => {
    const n = 8000
    const spreadOf = async (carry: boolean): Promise<number> =>
      withWorld(plan([system({ burst: n })], [], { substeps: 2 }), async (w) => {
        w.step()
        const s = w.save()
        const f = new Float32Array(particleStateOf(s, 'system').words.buffer)
        for (let i = 0; i < n; i++) for (let a = 0; a < 3; a++) f[a * n + i] = unit(hash3(1, i, a)) * 4
        const strong = {
          id: 'noise',
          encode: (o: OpWriter) =>
            encodeTurbulence(o, { carry, strength: carry ? 0.7 : 12, eddy: 1, octaves: 1, phase: 0.2, responseS: 0.01 }, 3),
        }
        w.load(plan([system({ burst: n, forces: carry ? [strong] : [strong, drag(0.3)] })], [], { substeps: 2 }))
        w.restore(s)
        const c = framesOn(w, 48)
        const cells = new Array(512).fill(0)
        let inside = 0
        for (let i = 0; i < n; i++) {
          const q = ['px', 'py', 'pz'].map((k) => Math.floor((column(c, k as 'px')[i] - 1) * 4))
          if (q.some((x) => x < 0 || x > 7)) continue
          cells[q[0] * 64 + q[1] * 8 + q[2]]++
          inside++
        }
        const mean = inside / 512
        // Variance over mean: 1 for a fair scatter, more where particles gather.
        return cells.reduce((sum, x) => sum + (x - mean) ** 2, 0) / 512 / mean
      })
    expect(await spreadOf(true)).toBeLessThan(1.25)
    expect(await spreadOf(false)).toBeGreaterThan(1.5)
  })
})
