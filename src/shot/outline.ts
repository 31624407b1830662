import { type Animated, type Keyed, sampleWith } from './animated'

/** A corner of an outline in the picture: across and up from its middle, −1…1, and how round the line goes through it, 0…1. */
export type OutlinePoint = [x: number, y: number, round: number]
/** Corners in order; the last one leads to the first. */
export type Outline = OutlinePoint[]
/** Corners that one outline may have. */
export const MOST_CORNERS = 100

/** The outline at a time: corner by corner between keys with as many, else that of the key before. */
export const sampleOutline = (a: Animated<Outline>, t: number): Outline =>
  sampleWith<Outline>(a, t, (p, q, f) =>
    p.length !== q.length ? p : p.map((x, i) => x.map((v, k) => v + (q[i][k] - v) * f) as OutlinePoint),
  )
/** Changes it at all its keys: a corner more or less is one at every time. */
export const atEveryKey = (a: Animated<Outline>, change: (o: Outline) => Outline): Animated<Outline> =>
  Array.isArray(a) ? change(a) : { ...(a as Keyed<Outline>), keys: (a as Keyed<Outline>).keys.map((k) => ({ ...k, v: change(k.v) })) }
