import { dequal } from 'dequal'
/**
 * Values that change over the shot. Times are seconds from the shot's first frame. Everything is pure arithmetic, so all machines agree.
 */
export type Ease = 'hold' | 'linear' | 'smooth' | 'curve'
export interface Key<T> {
  /** seconds */
  t: number
  v: T
  /** How the value goes from this key to the next. */
  ease: Ease
  /**
   * For `curve`: the two handles of a cubic Bézier to the next key. Shares of the way in time for the first and the second handle, and how
   * far they stand off this key's and the next key's value: [x1, off1, x2, off2].
   */
  bend?: [number, number, number, number]
}
/** What comes after the last key: its value, the keys again, there and back, or again from where they ended. */
export type Loop = 'hold' | 'repeat' | 'mirror' | 'onward'
/** Something that moves a value on top of its keys: an act as the registry has it. */
export interface ModulatorDoc {
  id: string
  kind: string
  seed: number
  mode: 'add' | 'multiply' | 'replace'
  muted?: boolean
  [param: string]: unknown
}
export interface Keyed<T> {
  keys: Key<T>[]
  loop?: Loop
  modulators?: ModulatorDoc[]
}
/** A value without keys that modulators move. */
export interface Free<T> {
  value: T
  modulators: ModulatorDoc[]
}
export type Animated<T> = T | Keyed<T> | Free<T>
export type Varied = Animated<number> | { value: Animated<number>; vary: number }
export type Vec3 = [number, number, number]
export type AnimatedVec3 = [Animated<number>, Animated<number>, Animated<number>]

export function isKeyed<T>(a: unknown): a is Keyed<T> {
  return typeof a === 'object' && a !== null && !Array.isArray(a) && Array.isArray((a as Keyed<T>).keys)
}
export const isFree = <T>(a: unknown): a is Free<T> =>
  typeof a === 'object' && a !== null && !Array.isArray(a) && Array.isArray((a as Free<T>).modulators) && !isKeyed(a)
export const modulatorsOf = (a: unknown): ModulatorDoc[] => (isKeyed(a) || isFree(a) ? (a.modulators ?? []) : [])
/** Whether it can differ from one moment to another. */
export const changes = (v: unknown): boolean =>
  (isKeyed(v) && (v.keys.length > 1 || modulatorsOf(v).length > 0)) ||
  modulatorsOf(v).length > 0 ||
  (Array.isArray(v) && v.some(changes)) ||
  (isVaried(v) && changes(v.value))
export const isVaried = (a: unknown): a is { value: Animated<number>; vary: number } =>
  typeof a === 'object' && a !== null && 'vary' in a && 'value' in a
export const valueOf = (a: Varied): Animated<number> => (isVaried(a) ? a.value : a)
export const varyOf = (a: Varied): number => (isVaried(a) ? a.vary : 0)

/** Keys by time; of two at one time the later in the list counts. */
export function sortedKeys<T>(a: Keyed<T>): Key<T>[] {
  return a.keys
    .map((k, i) => [k, i] as const)
    .sort((x, y) => x[0].t - y[0].t || x[1] - y[1])
    .map(([k]) => k)
}

const weight = (ease: Ease, f: number) => (ease === 'hold' ? 0 : ease === 'linear' ? f : f * f * (3 - 2 * f))
const FLAT: [number, number, number, number] = [1 / 3, 0, 2 / 3, 0]
/** Coefficients of a cubic Bézier over u, highest power first. */
const cubic = (p0: number, p1: number, p2: number, p3: number) =>
  [p3 - 3 * p2 + 3 * p1 - p0, 3 * (p2 - 2 * p1 + p0), 3 * (p1 - p0), p0] as const
const at = (c: readonly number[], u: number) => ((c[0] * u + c[1]) * u + c[2]) * u + c[3]
/** The parameter at which the curve has gone the share f of its time; times of handles lie within, so there is one. */
function solve(x: readonly number[], f: number): number {
  let lo = 0,
    hi = 1
  for (let i = 0; i < 48; i++) {
    const mid = (lo + hi) / 2
    if (at(x, mid) < f) lo = mid
    else hi = mid
  }
  return (lo + hi) / 2
}
const curveOf = (k: Key<number>, next: Key<number>) => {
  const [x1, d1, x2, d2] = k.bend ?? FLAT
  return { x: cubic(0, Math.min(1, Math.max(0, x1)), Math.min(1, Math.max(0, x2)), 1), v: cubic(k.v, k.v + d1, next.v + d2, next.v) }
}

/** Where time t falls in the keys: within them, or, when they loop, which time of them and how many times they have passed. */
function inLoop<T>(keys: Key<T>[], loop: Loop | undefined, t: number): { t: number; passed: number } {
  const t0 = keys[0].t
  const span = keys[keys.length - 1].t - t0
  if (!loop || loop === 'hold' || span <= 0 || t < t0 + span) return { t, passed: 0 }
  const passed = Math.floor((t - t0) / span)
  const rest = t - t0 - passed * span
  return { t: loop === 'mirror' && passed % 2 ? t0 + span - rest : t0 + rest, passed }
}
type Mix<T> = (k: Key<T>, next: Key<T>, f: number) => T
/** The value from keys alone. */
function sample<T>(a: Animated<T>, t: number, mix: Mix<T>, onward?: (v: T, first: T, last: T, times: number) => T): T {
  if (isFree<T>(a)) return a.value
  if (!isKeyed<T>(a)) return a
  const keys = sortedKeys(a)
  const l = inLoop(keys, a.loop, t)
  const v = within(keys, l.t, mix)
  return a.loop === 'onward' && l.passed > 0 && onward ? onward(v, keys[0].v, keys[keys.length - 1].v, l.passed) : v
}
function within<T>(keys: Key<T>[], t: number, mix: Mix<T>): T {
  if (t <= keys[0].t) return keys[0].v
  for (let i = keys.length - 1; i >= 0; i--) {
    if (t < keys[i].t) continue
    if (i === keys.length - 1) return keys[i].v
    return mix(keys[i], keys[i + 1], (t - keys[i].t) / (keys[i + 1].t - keys[i].t))
  }
  return keys[0].v
}
const mixNumbers: Mix<number> = (k, next, f) => {
  if (k.ease !== 'curve') return k.v + (next.v - k.v) * weight(k.ease, f)
  const c = curveOf(k, next)
  return at(c.v, solve(c.x, f))
}

/** Moves a value from its keys on to what it is: set by whoever knows the shot, for references lead elsewhere in it. */
export type Modulation = (t: number, keyed: number) => number
const modulations = new WeakMap<object, Modulation>()
/**
 * Ties a modulated value to its function. It is kept by the value itself, so that everything that samples it needs nothing else; a
 * changed shot ties its values again. A value that nobody has tied is what its keys say.
 */
export function tie(a: object, f: Modulation | null): void {
  if (f) modulations.set(a, f)
  else modulations.delete(a)
  sums.delete(a)
}
const modulationOf = (a: unknown): Modulation | undefined => (typeof a === 'object' && a !== null ? modulations.get(a) : undefined)

/** The value before its modulators. */
export const keyedNumber = (a: Animated<number>, t: number): number =>
  sample(a, t, mixNumbers, (v, first, last, times) => v + (last - first) * times)
export const keyedVec3 = (a: AnimatedVec3, t: number): Vec3 => [keyedNumber(a[0], t), keyedNumber(a[1], t), keyedNumber(a[2], t)]
export function sampleNumber(a: Animated<number>, t: number): number {
  const v = keyedNumber(a, t)
  const f = modulationOf(a)
  return f ? f(t, v) : v
}
export function sampleColour(a: Animated<Vec3>, t: number): Vec3 {
  const v = sample<Vec3>(a, t, (k, next, s) => {
    const f = weight(k.ease, s)
    return [k.v[0] + (next.v[0] - k.v[0]) * f, k.v[1] + (next.v[1] - k.v[1]) * f, k.v[2] + (next.v[2] - k.v[2]) * f]
  })
  const f = modulationOf(a)
  return f ? [f(t, v[0]), f(t, v[1]), f(t, v[2])] : v
}
/** Of any other kind of value: `mix` makes what is at a share of the way between those of two keys. */
export const sampleWith = <T>(a: Animated<T>, t: number, mix: (v: T, next: T, f: number) => T): T =>
  sample<T>(a, t, (k, next, f) => mix(k.v, next.v, weight(k.ease, f)))
/** Switches and choices hold until the next key. */
export const sampleStep = <T extends boolean | string>(a: Animated<T>, t: number): T => sample(a, t, (k) => k.v)
export const sampleVec3 = (a: AnimatedVec3, t: number): Vec3 => [sampleNumber(a[0], t), sampleNumber(a[1], t), sampleNumber(a[2], t)]

/** Seconds between the places where a modulated value is summed up. */
const SUM_STEP = 1 / 240
const sums = new WeakMap<object, { on: number[]; back: number[] }>()
/** Integral of a modulated value from 0 to t by the midpoint rule on a fixed grid, so that it does not depend on who asked before. */
function summed(a: Keyed<number> | Free<number>, t: number): number {
  let known = sums.get(a)
  if (!known) sums.set(a, (known = { on: [0], back: [0] }))
  const side = t < 0 ? known.back : known.on
  const sign = t < 0 ? -1 : 1
  const n = Math.floor((t * sign) / SUM_STEP)
  while (side.length <= n) side.push(side[side.length - 1] + sign * SUM_STEP * sampleNumber(a, sign * (side.length - 0.5) * SUM_STEP))
  const rest = t - sign * n * SUM_STEP
  return side[n] + rest * sampleNumber(a, t - rest / 2)
}
/** Integral of the keys of one segment from its start, seconds × value, at the share f of it; in closed form. */
function segment(k: Key<number>, next: Key<number>, f: number): number {
  const span = next.t - k.t
  if (k.ease !== 'curve')
    return span * (k.v * f + (next.v - k.v) * (k.ease === 'hold' ? 0 : k.ease === 'linear' ? (f * f) / 2 : f * f * f - (f * f * f * f) / 2))
  const { x, v } = curveOf(k, next)
  const u = solve(x, f)
  // ∫ v(u) x'(u) du, a polynomial of degree six.
  const d = [3 * x[0], 2 * x[1], x[2]]
  const c = [
    v[0] * d[0],
    v[0] * d[1] + v[1] * d[0],
    v[0] * d[2] + v[1] * d[1] + v[2] * d[0],
    v[1] * d[2] + v[2] * d[1] + v[3] * d[0],
    v[2] * d[2] + v[3] * d[1],
    v[3] * d[2],
  ]
  let sum = 0
  for (let i = 0; i < 6; i++) sum = (sum + c[i] / (6 - i)) * u
  return span * sum
}
/** Integral of the value from 0 to t: in closed form for keys, summed up on a grid where modulators move it. */
export function integral(a: Animated<number>, t: number): number {
  if (isFree<number>(a) || (isKeyed<number>(a) && modulationOf(a))) return modulationOf(a) ? summed(a, t) : (a as Free<number>).value * t
  if (!isKeyed<number>(a)) return a * t
  const keys = sortedKeys(a)
  const plain = (end: number): number => {
    let sum = keys[0].v * Math.min(end, keys[0].t)
    for (let i = 0; i < keys.length && end > keys[i].t; i++) {
      const k = keys[i]
      const next = keys[i + 1]
      if (!next) return sum + k.v * (end - k.t)
      const span = next.t - k.t
      if (span > 0) sum += segment(k, next, Math.min(1, (end - k.t) / span))
    }
    return sum
  }
  const upTo = (end: number): number => {
    const { passed } = inLoop(keys, a.loop, end)
    if (!passed) return plain(end)
    const t0 = keys[0].t
    const last = keys[keys.length - 1]
    const span = last.t - t0
    const once = plain(last.t) - plain(t0)
    const rest = end - t0 - passed * span
    const tail = a.loop === 'mirror' && passed % 2 ? plain(last.t) - plain(last.t - rest) : plain(t0 + rest) - plain(t0)
    const lift = a.loop === 'onward' ? (last.v - keys[0].v) * ((span * passed * (passed - 1)) / 2 + rest * passed) : 0
    return plain(t0) + once * passed + tail + lift
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
    if (!dequal(modulatorsOf(a), modulatorsOf(b))) return Number.NEGATIVE_INFINITY
    const p = sortedKeys(a)
    const q = sortedKeys(b)
    // What loops repeats a changed key, but never before the first time round.
    if ((a.loop ?? 'hold') !== (b.loop ?? 'hold'))
      return Math.min(firstDifference({ keys: a.keys }, { keys: b.keys }), p[p.length - 1].t, q[q.length - 1].t)
    for (let i = 0; i < Math.max(p.length, q.length); i++) {
      if (i < p.length && i < q.length && dequal(p[i], q[i])) continue
      if (i === 0) return Number.NEGATIVE_INFINITY
      const last = p[i - 1]
      const onlyEase = i < p.length && i < q.length && last.ease === 'hold'
      return onlyEase ? Math.min(p[i].t, q[i].t) : last.t
    }
    return Number.POSITIVE_INFINITY
  }
  if (Array.isArray(a) && Array.isArray(b) && a.length === b.length)
    return Math.min(Number.POSITIVE_INFINITY, ...a.map((v, i) => firstDifference(v, b[i])))
  if (isVaried(a) && isVaried(b)) return Math.min(firstDifference(a.value, b.value), firstDifference(a.vary, b.vary))
  return dequal(a, b) ? Number.POSITIVE_INFINITY : Number.NEGATIVE_INFINITY
}

/** Sets or replaces the key at time t; times within `tolerance` seconds are the same key. Modulators and loop stay. */
export function setKey<T>(a: Animated<T>, t: number, v: T, ease: Ease = 'smooth', tolerance = 1e-6): Keyed<T> {
  const keys = isKeyed<T>(a) ? a.keys.filter((k) => Math.abs(k.t - t) > tolerance) : []
  const rest = isKeyed<T>(a) ? a : isFree<T>(a) ? { modulators: a.modulators } : {}
  return { ...rest, keys: [...keys, { t, v, ease }].sort((p, q) => p.t - q.t) }
}
/** Without keys: the value itself, or, where modulators move it, with them. */
export const settled = <T>(a: Animated<T>, v: T): Animated<T> => (modulatorsOf(a).length ? { value: v, modulators: modulatorsOf(a) } : v)
/** Takes the key at time t away; without keys left the value is a constant again. */
export function dropKey<T>(a: Keyed<T>, t: number, tolerance = 1e-6): Animated<T> {
  const keys = a.keys.filter((k) => Math.abs(k.t - t) > tolerance)
  return keys.length ? { ...a, keys } : settled(a, a.keys[0].v)
}
/** Writes a constant into a value: with keys it becomes the key at t, else the constant below its modulators. */
export function withValue<T>(a: Animated<T>, t: number, v: T, ease: Ease = 'smooth', tolerance = 1e-6): Animated<T> {
  if (!isKeyed<T>(a)) return settled(a, v)
  const old = a.keys.find((k) => Math.abs(k.t - t) <= tolerance)
  const next = setKey(a, t, v, old?.ease ?? ease, tolerance)
  return old?.bend ? { ...next, keys: next.keys.map((k) => (Math.abs(k.t - t) <= tolerance ? { ...k, bend: old.bend } : k)) } : next
}
/** The same value with other modulators. */
export function withModulators<T>(a: Animated<T>, modulators: ModulatorDoc[]): Animated<T> {
  if (isKeyed<T>(a)) {
    const { modulators: _, ...rest } = a
    return modulators.length ? { ...rest, modulators } : rest
  }
  const v = isFree<T>(a) ? a.value : a
  return modulators.length ? { value: v, modulators } : v
}
