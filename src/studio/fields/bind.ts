import {
  type Animated,
  defaultOf,
  dropKey,
  isFree,
  isKeyed,
  isVaried,
  type Key,
  keyedNumber,
  type Outline,
  type Param,
  sampleColour,
  sampleOutline,
  sampleStep,
  setKey,
  settled,
  timeOf,
  type Varied,
  type Vec3,
  valueOf,
  withValue,
} from '../../shot'
import { edit, shotNow, studio } from '../store'

/** One parameter of one thing in the shot: how to read it now and how to change it. */
export interface Bind {
  param: Param
  name: string
  value: unknown
  /** Writes the stored form. */
  write: (label: string, value: unknown, gesture: string | null) => void
  /** The object that the parameter's neighbours are on, for parts. */
  owner: Record<string, unknown>
}
export const timeNow = (): number => timeOf(shotNow(), studio().playhead)
const tolerance = () => 0.25 / (shotNow().rate.num / shotNow().rate.den)

/** One parameter in each of its units; the same record for the same unit, since rows are rendered again when it changes. */
const variants = new WeakMap<Param, Map<string, Param>>()
function inUnit(p: Param, record: Record<string, unknown>): Param {
  const unit =
    p.type === 'number' && p.unitBy ? p.unitBy.units[String(sampleStep(record[p.unitBy.param] as Animated<string>, timeNow()))] : undefined
  if (p.type !== 'number' || !unit || unit === p.unit) return p
  let known = variants.get(p)
  if (!known) variants.set(p, (known = new Map()))
  const made = known.get(unit) ?? { ...p, unit }
  known.set(unit, made)
  return made
}
/** Makes binds for all parameters of a record that `find` fetches from a draft of the shot. */
export function bindsOf(
  params: Record<string, Param>,
  record: Record<string, unknown>,
  title: string,
  find: (shot: ReturnType<typeof shotNow>) => Record<string, unknown> | undefined,
): Record<string, Bind> {
  return Object.fromEntries(
    Object.entries(params).map(([name, param]) => [
      name,
      {
        param: inUnit(param, record),
        name,
        value: record[name],
        owner: record,
        write: (label: string, value: unknown, gesture: string | null) =>
          edit(
            `${title}, ${label}`,
            (shot) => {
              const r = find(shot)
              if (r) r[name] = value
            },
            gesture,
          ),
      } satisfies Bind,
    ]),
  )
}
/** What is animated inside a parameter: itself, or its value beside a ±, or a component of a vector. */
export const inner = (b: Bind, component?: number): unknown =>
  component !== undefined ? (b.value as unknown[])[component] : isVaried(b.value) ? b.value.value : b.value
export function rewrap(b: Bind, v: unknown, component?: number): unknown {
  if (component !== undefined) return (b.value as unknown[]).map((x, i) => (i === component ? v : x))
  return isVaried(b.value) ? { ...b.value, value: v } : v
}
export const canKey = (b: Bind): boolean => 'animated' in b.param && !!b.param.animated
export const keysOf = (b: Bind): Key<unknown>[] => {
  const parts = b.param.type === 'vector' ? (b.value as unknown[]) : [inner(b)]
  return parts.flatMap((p) => (isKeyed<unknown>(p) ? p.keys : []))
}
export const hasKeyAt = (b: Bind, t: number): boolean => keysOf(b).some((k) => Math.abs(k.t - t) < tolerance())

/** The value below its modulators: what a field shows and changes. */
export const numberNow = (b: Bind, component?: number): number =>
  keyedNumber(component !== undefined ? (inner(b, component) as Animated<number>) : valueOf(b.value as Varied), timeNow())
export const colourNow = (b: Bind): Vec3 =>
  sampleColour(
    (isFree<Vec3>(b.value)
      ? b.value.value
      : isKeyed<Vec3>(b.value)
        ? { keys: b.value.keys, loop: b.value.loop }
        : b.value) as Animated<Vec3>,
    timeNow(),
  )
export const stepNow = <T extends string | boolean>(b: Bind): T => sampleStep(b.value as Animated<T>, timeNow())

/** Changes the value as seen now: a constant, or the key at the playhead when the value has keys. */
export function writeNow(b: Bind, value: number | string | boolean | Vec3, gesture: string | null, component?: number): void {
  const ease = typeof value === 'string' || typeof value === 'boolean' ? 'hold' : 'smooth'
  b.write(
    b.param.label.toLowerCase(),
    rewrap(b, withValue<unknown>(inner(b, component), timeNow(), value, ease, tolerance()), component),
    gesture,
  )
}
export function writeVary(b: Bind, vary: number, gesture: string | null): void {
  const base = valueOf(b.value as Varied)
  b.write(`± of ${b.param.label.toLowerCase()}`, vary > 0 ? { value: base, vary } : base, gesture)
}
export function setKeyNow(b: Bind): void {
  const t = timeNow()
  const label = `key on ${b.param.label.toLowerCase()}`
  if (b.param.type === 'vector') {
    b.write(
      label,
      (b.value as Animated<number>[]).map((c) => setKey(c, t, keyedNumber(c, t), 'smooth', tolerance())),
      null,
    )
    return
  }
  const { type } = b.param
  const now =
    type === 'number'
      ? numberNow(b)
      : type === 'colour'
        ? colourNow(b)
        : type === 'outline'
          ? sampleOutline(b.value as Animated<Outline>, t)
          : stepNow(b)
  const ease = type === 'number' || type === 'colour' || type === 'outline' ? 'smooth' : 'hold'
  b.write(label, rewrap(b, setKey<unknown>(inner(b), t, now, ease, tolerance())), null)
}
export function dropKeyNow(b: Bind, t = timeNow()): void {
  const label = `key of ${b.param.label.toLowerCase()}`
  const drop = (a: unknown) => (isKeyed<unknown>(a) ? dropKey(a, t, tolerance()) : a)
  b.write(label, b.param.type === 'vector' ? (b.value as unknown[]).map(drop) : rewrap(b, drop(inner(b))), null)
}
/** All keys go; the value stays as it is at the playhead. */
export function freezeNow(b: Bind): void {
  const t = timeNow()
  const now = (a: unknown): unknown => {
    if (!isKeyed<unknown>(a)) return a
    const v =
      b.param.type === 'colour'
        ? sampleColour({ keys: a.keys } as Animated<Vec3>, t)
        : b.param.type === 'outline'
          ? sampleOutline({ keys: a.keys } as Animated<Outline>, t)
          : typeof a.keys[0].v === 'number'
            ? keyedNumber(a as Animated<number>, t)
            : sampleStep(a as Animated<string>, t)
    return settled<unknown>(a, v)
  }
  b.write(
    `keys of ${b.param.label.toLowerCase()}`,
    b.param.type === 'vector' ? (b.value as unknown[]).map(now) : rewrap(b, now(inner(b))),
    null,
  )
}
export function toDefault(b: Bind): void {
  b.write(`${b.param.label.toLowerCase()} to its default`, defaultOf(b.param), null)
}
let clipboard: { type: Param['type']; value: unknown } | null = null
export function copyValue(b: Bind): void {
  clipboard = { type: b.param.type, value: structuredClone(b.value) }
}
export const canPaste = (b: Bind): boolean =>
  clipboard?.type === b.param.type && (!isVaried(clipboard.value) || (b.param.type === 'number' && !!b.param.varied))
export function pasteValue(b: Bind): void {
  if (clipboard && canPaste(b)) b.write(`${b.param.label.toLowerCase()}, pasted`, structuredClone(clipboard.value), null)
}
