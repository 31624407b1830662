/** Values that change over the shot. Times are seconds from the shot's first frame. Everything is pure arithmetic, so all machines agree. */
export type Ease = 'hold' | 'linear' | 'smooth'
export interface Key<T> {
  /** seconds */
  t: number
  v: T
  /** How the value goes from this key to the next. */
  ease: Ease
}
export interface Keyed<T> {
  keys: Key<T>[]
}
export type Animated<T> = T | Keyed<T>
export type Varied = Animated<number> | { value: Animated<number>; vary: number }
export type Vec3 = [number, number, number]
export type AnimatedVec3 = [Animated<number>, Animated<number>, Animated<number>]

export function isKeyed<T>(a: unknown): a is Keyed<T> {
  return typeof a === 'object' && a !== null && !Array.isArray(a) && Array.isArray((a as Keyed<T>).keys)
}
export const isVaried = (a: unknown): a is { value: Animated<number>; vary: number } => typeof a === 'object' && a !== null && 'vary' in a && 'value' in a
export const valueOf = (a: Varied): Animated<number> => (isVaried(a) ? a.value : a)
export const varyOf = (a: Varied): number => (isVaried(a) ? a.vary : 0)

/** Keys by time; of two at one time the later in the list counts. */
export function sortedKeys<T>(a: Keyed<T>): Key<T>[] {
  return a.keys.map((k, i) => [k, i] as const).sort((x, y) => x[0].t - y[0].t || x[1] - y[1]).map(([k]) => k)
}

const weight = (ease: Ease, f: number) => (ease === 'hold' ? 0 : ease === 'linear' ? f : f * f * (3 - 2 * f))

function sample<T>(a: Animated<T>, t: number, mix: (p: T, q: T, f: number) => T): T {
  if (!isKeyed<T>(a)) return a
  const keys = sortedKeys(a)
  if (t <= keys[0].t) return keys[0].v
  for (let i = keys.length - 1; i >= 0; i--) {
    if (t < keys[i].t) continue
    if (i === keys.length - 1) return keys[i].v
    return mix(keys[i].v, keys[i + 1].v, weight(keys[i].ease, (t - keys[i].t) / (keys[i + 1].t - keys[i].t)))
  }
  return keys[0].v
}

export const sampleNumber = (a: Animated<number>, t: number): number => sample(a, t, (p, q, f) => p + (q - p) * f)
export const sampleColour = (a: Animated<Vec3>, t: number): Vec3 => sample(a, t, (p, q, f) => [p[0] + (q[0] - p[0]) * f, p[1] + (q[1] - p[1]) * f, p[2] + (q[2] - p[2]) * f])
/** Switches and choices hold until the next key. */
export const sampleStep = <T extends boolean | string>(a: Animated<T>, t: number): T => sample(a, t, (p) => p)
export const sampleVec3 = (a: AnimatedVec3, t: number): Vec3 => [sampleNumber(a[0], t), sampleNumber(a[1], t), sampleNumber(a[2], t)]

/** Integral of the value from 0 to t, in closed form: eases are polynomials. */
export function integral(a: Animated<number>, t: number): number {
  if (!isKeyed<number>(a)) return a * t
  const upTo = (end: number): number => {
    const keys = sortedKeys(a)
    const before = Math.min(end, keys[0].t)
    let sum = keys[0].v * before
    for (let i = 0; i < keys.length && end > keys[i].t; i++) {
      const k = keys[i]
      const next = keys[i + 1]
      if (!next) return sum + k.v * (end - k.t)
      const span = next.t - k.t
      if (span <= 0) continue
      const f = Math.min(1, (end - k.t) / span)
      const w = k.ease === 'hold' ? 0 : k.ease === 'linear' ? (f * f) / 2 : f * f * f - (f * f * f * f) / 2
      sum += span * (k.v * f + (next.v - k.v) * w)
    }
    return sum
  }
  return upTo(t) - upTo(0)
}

/**
 * From when on two values can differ: Infinity when they never do, -Infinity when from the start. Conservative: a changed
 * key counts from the key before it, where the segment that it ends begins.
 */
export function firstDifference(a: unknown, b: unknown): number {
  if (Object.is(a, b)) return Number.POSITIVE_INFINITY
  if (isKeyed(a) && isKeyed(b)) {
    const p = sortedKeys(a)
    const q = sortedKeys(b)
    for (let i = 0; i < Math.max(p.length, q.length); i++) {
      if (i < p.length && i < q.length && JSON.stringify(p[i]) === JSON.stringify(q[i])) continue
      if (i === 0) return Number.NEGATIVE_INFINITY
      const last = p[i - 1]
      const onlyEase = i < p.length && i < q.length && last.ease === 'hold'
      return onlyEase ? Math.min(p[i].t, q[i].t) : last.t
    }
    return Number.POSITIVE_INFINITY
  }
  if (Array.isArray(a) && Array.isArray(b) && a.length === b.length) return Math.min(Number.POSITIVE_INFINITY, ...a.map((v, i) => firstDifference(v, b[i])))
  if (isVaried(a) && isVaried(b)) return Math.min(firstDifference(a.value, b.value), firstDifference(a.vary, b.vary))
  return JSON.stringify(a) === JSON.stringify(b) ? Number.POSITIVE_INFINITY : Number.NEGATIVE_INFINITY
}

/** Sets or replaces the key at time t; times within `tolerance` seconds are the same key. */
export function setKey<T>(a: Animated<T>, t: number, v: T, ease: Ease = 'smooth', tolerance = 1e-6): Keyed<T> {
  const keys = isKeyed<T>(a) ? a.keys.filter((k) => Math.abs(k.t - t) > tolerance) : []
  return { keys: [...keys, { t, v, ease }].sort((p, q) => p.t - q.t) }
}
/** Takes the key at time t away; without keys left the value is a constant again. */
export function dropKey<T>(a: Keyed<T>, t: number, tolerance = 1e-6): Animated<T> {
  const keys = a.keys.filter((k) => Math.abs(k.t - t) > tolerance)
  return keys.length ? { keys } : a.keys[0].v
}
