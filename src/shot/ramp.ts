import type { Vec3 } from './animated'

/** A colour over 0..1. Colours are linear Rec. 709; they may exceed 1. */
export interface Ramp {
  stops: { at: number; colour: Vec3 }[]
  smooth?: boolean
  /** Each stop holds up to the next one. */
  steps?: boolean
}
/** A number over 0..1. */
export interface Curve {
  points: { at: number; v: number }[]
  smooth?: boolean
  steps?: boolean
}
/** How stops are joined. */
export type Joining = 'straight' | 'smooth' | 'steps'
type Joined = Pick<Ramp, 'smooth' | 'steps'>
export const joiningOf = (r: Joined): Joining => (r.steps ? 'steps' : r.smooth ? 'smooth' : 'straight')
/** The same, joined otherwise. */
export function joinedBy<R extends Joined>(r: R, how: Joining): R {
  const { smooth: _, steps: __, ...rest } = r
  return { ...rest, ...(how === 'straight' ? {} : { [how]: true }) } as R
}

function between<T>(list: { at: number }[], x: number, { smooth, steps }: Joined, mix: (i: number, j: number, f: number) => T): T {
  const order = list.map((_, i) => i).sort((p, q) => list[p].at - list[q].at || p - q)
  if (steps) {
    const at = order.findLast((i) => list[i].at <= x) ?? order[0]
    return mix(at, at, 0)
  }
  if (x <= list[order[0]].at) return mix(order[0], order[0], 0)
  for (let k = 1; k < order.length; k++) {
    const p = list[order[k - 1]]
    const q = list[order[k]]
    if (x > q.at) continue
    const f = q.at > p.at ? (x - p.at) / (q.at - p.at) : 1
    return mix(order[k - 1], order[k], smooth ? f * f * (3 - 2 * f) : f)
  }
  const last = order[order.length - 1]
  return mix(last, last, 0)
}
export const sampleRamp = (r: Ramp, x: number): Vec3 =>
  between(r.stops, x, r, (i, j, f) => {
    const p = r.stops[i].colour
    const q = r.stops[j].colour
    return [p[0] + (q[0] - p[0]) * f, p[1] + (q[1] - p[1]) * f, p[2] + (q[2] - p[2]) * f]
  })
export const sampleCurve = (c: Curve, x: number): number =>
  between(c.points, x, c, (i, j, f) => c.points[i].v + (c.points[j].v - c.points[i].v) * f)

/** Stops evenly apart, in their order: from one end to the other, or of steps each as wide as the others. */
export function spreadEvenly<S extends { at: number }>(stops: readonly S[], steps = false): S[] {
  const order = [...stops].sort((p, q) => p.at - q.at)
  const pieces = steps ? order.length : Math.max(1, order.length - 1)
  return order.map((s, i) => ({ ...s, at: i / pieces }))
}
/** The other way round; of steps each piece keeps its width. */
export function turnedAround<S extends { at: number }>(stops: readonly S[], steps = false): S[] {
  const order = [...stops].sort((p, q) => p.at - q.at)
  const end = (i: number) => (steps ? (order[i + 1]?.at ?? 1) : order[i].at)
  // What lies before the first step belongs to it.
  return order.map((s, i) => ({ ...s, at: 1 - end(i) })).reverse()
}
const encode = (v: number) => (v <= 0.0031308 ? v * 12.92 : 1.055 * v ** (1 / 2.4) - 0.055)
const decode = (v: number) => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4)
/** Linear colour to `#rrggbb`; clipped to what a screen shows. */
export const toHex = (c: Vec3): string =>
  `#${c
    .map((v) =>
      Math.round(encode(Math.min(1, Math.max(0, v))) * 255)
        .toString(16)
        .padStart(2, '0'),
    )
    .join('')}`
export function fromHex(hex: string): Vec3 | null {
  const m = /^#?([0-9a-f]{2})([0-9a-f]{2})([0-9a-f]{2})$/i.exec(hex.trim())
  return m ? ([1, 2, 3].map((i) => decode(Number.parseInt(m[i], 16) / 255)) as Vec3) : null
}
