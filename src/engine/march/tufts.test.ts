import { describe, expect, it } from 'vitest'
import { hash3, LUMPS_ACROSS, LUMPS_SIDE, LUMPS_SLOPE, type TuftView, unit } from '..'
import { lumpBytes as bytes, evenly, fromHalf, painted, seen, type Tuft, tuft } from './testing/tuftLists'

/** Odd: the kernel takes two by two pixels at once. */
const [width, height] = [151, 71]
const [halfX, halfY] = [Math.floor(width / 2), Math.floor(height / 2)]
const view = (depth: Float32Array | null = null): TuftView => ({
  width,
  height,
  across: 1.2,
  upwards: 1.2 * (width / height),
  shiftX: 0,
  shiftY: 0,
  depth,
})
const at = (picture: Uint16Array, x: number, y: number) =>
  Array.from(picture.subarray((y * width + x) * 4, (y * width + x) * 4 + 4), fromHalf)
const dot = (a: readonly number[], b: readonly number[]) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
const unitOf = (v: readonly number[]) => v.map((x) => x / Math.hypot(...v))
const cross = (a: readonly number[], b: readonly number[]) => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
]
/** Lumps between the eight texels around a place. */
function lumpAt(p: readonly number[], c: number): number {
  const low = p.map(Math.floor)
  let sum = 0
  for (let k = 0; k < 8; k++) {
    const id = low.map((v, a) => (((v + ((k >> a) & 1)) % LUMPS_SIDE) + LUMPS_SIDE) % LUMPS_SIDE)
    const w = p.reduce((by, v, a) => by * ((k >> a) & 1 ? v - low[a] : 1 - v + low[a]), 1)
    sum += (w * bytes[(id[0] + LUMPS_SIDE * (id[1] + LUMPS_SIDE * id[2])) * 4 + c]) / 255
  }
  return sum
}
/** What one adds to a pixel, as the formulas of TUFT_FRAGMENT say: colour and coverage. */
function reference(t: Tuft, v: TuftView, x: number, y: number): number[] {
  const d = [(((x + 0.5) / width) * 2 - 1 + v.shiftX) / v.across, (((y + 0.5) / height) * 2 - 1 + v.shiftY) / v.upwards, -1]
  const far2 = dot(t.head, t.head)
  const eye = unitOf(t.head.map((h) => -h))
  const right = unitOf([eye[2], 0, -eye[0]])
  const up = cross(eye, right)
  const on = far2 / dot(d, t.head)
  const disc = [(on * dot(d, right)) / t.radius, (on * dot(d, up)) / t.radius]
  const r2 = disc[0] ** 2 + disc[1] ** 2
  if (!(r2 < 1)) return [0, 0, 0, 0]
  const solid = v.depth?.[y * width + x] || Number.POSITIVE_INFINITY
  if (solid <= on) return [0, 0, 0, 0]
  const n = [disc[0], disc[1], Math.sqrt(1 - r2)]
  const own = [0, 1, 2].map((a) => t.turn.reduce((sum, axis, k) => sum + axis[a] * n[k], 0))
  const texel = own.map((o, a) => o * t.texels + t.lumps[a])
  const rim = 1 - t.torn * lumpAt(texel, 3)
  const inside = 1 - r2 / rim ** 2
  if (inside <= 0) return [0, 0, 0, 0]
  const fades = t.meets > 0 ? Math.min(1, Math.max(0, (solid + t.head[2]) / t.meets)) : 1
  const a = (1 - Math.exp(-t.thickness * rim * inside ** t.power)) * fades
  if (a < 0.002) return [0, 0, 0, 0]
  const slope = [0, 1, 2].map((c) => (lumpAt(texel, c) - 128 / 255) * 2 * LUMPS_SLOPE * ((t.texels * LUMPS_ACROSS) / LUMPS_SIDE))
  const seenSlope = t.turn.map((axis) => dot(axis, slope))
  const lean = unitOf(n.map((v, k) => v + t.torn * (seenSlope[k] - n[k] * dot(n, seenSlope)) + (k === 2 ? 1e-4 : 0)))
  // Light that changes evenly does so by as much as it leans.
  const light = lightOf(t)(t.head.map((h, k) => h + t.radius * (lean[0] * right[k] + lean[1] * up[k] + lean[2] * eye[k]))).map(
    (l, c) => Math.max(0, t.own[c] * (l + t.shine)) + t.veil[c],
  )
  return [...light.map((l) => l * a), a]
}
/** All of them from the farthest on, each over what is there. */
const over = (all: readonly Tuft[], v: TuftView, x: number, y: number) =>
  [...all]
    .sort((a, b) => a.head[2] - b.head[2])
    .reduce(
      (there, t) => {
        const one = reference(t, v, x, y)
        return there.map((b, k) => one[k] + b * (1 - one[3]))
      },
      [0, 0, 0, 0],
    )
const random = (n: number, channel: number) => unit(hash3(0x7f, n, channel))
/** Light that changes evenly over the shot: of the first of them, and of the others. */
const fields = [
  (p: readonly number[]) => [0.8 + 0.05 * p[0], 0.9 - 0.04 * p[1], 1 + 0.06 * p[2]],
  (p: readonly number[]) => [0.7, 0.6 + 0.03 * p[0], 0.5 - 0.04 * p[1]],
]
const FIRST = 120
const lightOf = (t: Tuft) => fields[many.indexOf(t) < FIRST ? 0 : 1]
const lit = (all: readonly Tuft[]) =>
  seen(
    all,
    [FIRST, all.length].map((end, k) => ({ end, ...evenly(fields[k]) })),
  )
/** Torn, turned, coloured, near and far, some across the edge of the picture, one around the eye. */
const many: Tuft[] = Array.from({ length: 300 }, (_, n) => {
  const u = (k: number) => random(n, k)
  const x = unitOf([u(0) - 0.5, u(1) - 0.5, u(2) - 0.5])
  const y = unitOf(cross(x, [0.3, 0.5, 0.8]))
  return tuft({
    head: [8 * (u(3) - 0.5), 4 * (u(4) - 0.5), -2 - 5 * u(5)],
    ...{ radius: 0.05 + 0.6 * u(6) ** 3, thickness: 0.2 + 3 * u(7), power: 0.5 + 1.5 * u(8), torn: n % 5 ? 0.5 * u(9) : 0 },
    ...{ texels: 4 + 12 * u(10), lumps: [u(11) * 32, u(12) * 32, u(13) * 32], turn: [x, y, cross(x, y)], meets: n % 3 ? 0.5 : 0 },
    ...{ own: [u(14), u(15), u(16)], shine: n % 4 ? 0 : 0.2 * u(18) },
    veil: [0.05 * u(17), 0, 0.02],
  })
})
const wall = Float32Array.from({ length: width * height }, (_, i) => (i % width < width / 2 ? 0 : 4 + (i % 7) * 0.1))

describe('pictures of tufts', () => {
  it('cover in the middle as their thickness says, in their light, and nothing beside them', async () => {
    const picture = await painted((p) => p.picture(seen([tuft({})]), view()))
    const middle = at(picture, halfX, halfY)
    const a = 1 - Math.exp(-1.5)
    ;[0.5 * a, 0.25 * a, 0.125 * a, a].forEach((v, k) => expect(middle[k]).toBeCloseTo(v, 2))
    expect(at(picture, 2, halfY)).toEqual([0, 0, 0, 0])
  })
  it('are what plain code makes of them from the farthest on: torn, turned, before and behind what is solid', async () => {
    const v = view(wall)
    const picture = await painted((p) => p.picture(lit(many), v))
    let [sum, worst, covered, looked] = [0, 0, 0, 0]
    // Every seventh pixel, so that each column has some.
    for (let i = 0; i < width * height; i += 7, looked++) {
      const [x, y] = [i % width, Math.floor(i / width)]
      const wanted = over(many, v, x, y)
      covered += wanted[3] > 0.5 ? 1 : 0
      at(picture, x, y).forEach((c, k) => {
        sum += Math.abs(c - wanted[k])
        worst = Math.max(worst, Math.abs(c - wanted[k]))
      })
    }
    expect(covered).toBeGreaterThan(looked * 0.3)
    // What is left out when less than a 512th is left, halves, and pixels right at a rim.
    expect(sum / (looked * 4)).toBeLessThan(0.001)
    expect(worst).toBeLessThan(0.03)
  })
  it('are the same on one to four threads', async () => {
    const by = (threads: number) => painted((p) => p.picture(lit(many), view(wall)).slice(), threads)
    const one = await by(1)
    for (const threads of [2, 3, 4]) expect(await by(threads)).toEqual(one)
  })
  it('leave out what is not there, and are empty without any', async () => {
    const some = seen([tuft({ radius: 0 }), tuft({ head: [0, 0, 5] })])
    const [a, b] = await painted((p) => [p.picture(some, view()).slice(), p.picture(seen([]), view()).slice()])
    expect(a.some((v) => v !== 0) || b.some((v) => v !== 0)).toBe(false)
  })
  it('say between which rows all of them lie', async () => {
    const low = [tuft({ head: [0, -1.2, -5], radius: 0.1 }), tuft({ head: [1, -0.8, -5], radius: 0.1 })]
    const [picture, [from, to], none] = await painted((p) => {
      const out = [p.picture(seen(low), view()).slice(), p.rows] as const
      p.picture(seen([tuft({ radius: 0 })]), view())
      return [...out, p.rows] as const
    })
    const filled = Array.from({ length: height }, (_, y) => y).filter((y) =>
      picture.subarray(y * width * 4, (y + 1) * width * 4).some((v) => v),
    )
    expect(filled.length).toBeGreaterThan(4)
    expect(filled[0]).toBeGreaterThanOrEqual(from)
    expect(filled[filled.length - 1]).toBeLessThan(to)
    expect(to - from).toBeLessThan(height / 2 + 32)
    expect(none).toEqual([0, 0])
  })
  it('are drawn from a lens that is shifted as from one that is not, that far beside', async () => {
    const one = [tuft({ head: [0.4, 0.2, -5], torn: 0.4 })]
    const shifted = { ...view(), shiftX: 10 * (2 / width), shiftY: -6 * (2 / height) }
    const [a, b] = await painted((p) => [p.picture(seen(one), view()).slice(), p.picture(seen(one), shifted).slice()])
    for (let y = 10; y < height - 10; y++)
      for (let x = 20; x < width - 20; x++)
        at(b, x - 10, y + 6).forEach((c, k) => {
          expect(Math.abs(c - at(a, x, y)[k])).toBeLessThan(0.002)
        })
  })
})
