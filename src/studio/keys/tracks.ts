import { isKeyed, type Key, type Loop, modulatorsOf, type Shot, settled, sortedKeys } from '../../shot'
import { type Bind, inner, rewrap } from '../fields/bind'
import { keyedValues } from '../keyed'

/** One line of keys: a value, or a component of a vector. */
export interface Track {
  id: string
  element: string
  /** As in “Sparks: Turbulence, strength X”. */
  name: string
  bind: Bind
  component: number | undefined
  keys: Key<unknown>[]
  loop: Loop
  /** Names of its modulators. */
  modulators: string[]
  kind: 'number' | 'colour' | 'step'
}
export function tracksOf(shot: Shot): Track[] {
  return keyedValues(shot).flatMap(({ element, elementName, name, bind }) =>
    (bind.param.type === 'vector' ? [0, 1, 2] : [undefined]).flatMap((component): Track[] => {
      const a = inner(bind, component)
      const modulators = modulatorsOf(a).map((m) => m.kind)
      if (!isKeyed(a) && !modulators.length) return []
      const kind =
        bind.param.type === 'colour' || bind.param.type === 'outline'
          ? 'colour'
          : bind.param.type === 'number' || bind.param.type === 'vector'
            ? 'number'
            : 'step'
      return [
        {
          id: `${element}|${name}|${component ?? ''}`,
          element,
          name: `${elementName}, ${name}${component === undefined ? '' : ` ${'XYZ'[component]}`}`,
          bind,
          component,
          keys: isKeyed<unknown>(a) ? sortedKeys(a) : [],
          loop: (isKeyed(a) && a.loop) || 'hold',
          modulators,
          kind,
        },
      ]
    }),
  )
}
/** Writes keys back; without any the value stays what the first was. */
export function writeKeys(track: Track, label: string, keys: Key<unknown>[], gesture: string | null): void {
  const a = inner(track.bind, track.component)
  const next = keys.length ? { ...(isKeyed<unknown>(a) ? a : { modulators: modulatorsOf(a) }), keys } : settled(a, track.keys[0]?.v)
  track.bind.write(label, rewrap(track.bind, next, track.component), gesture)
}
export function writeLoop(track: Track, loop: Loop): void {
  const a = inner(track.bind, track.component)
  if (!isKeyed<unknown>(a)) return
  const { loop: _, ...rest } = a
  track.bind.write(
    `what comes after the keys of ${track.bind.param.label.toLowerCase()}`,
    rewrap(track.bind, loop === 'hold' ? rest : { ...rest, loop }, track.component),
    null,
  )
}

/** Times within this many seconds are one moment. */
export const SAME = 1e-6
const has = (chosen: readonly number[], t: number) => chosen.some((c) => Math.abs(c - t) < SAME)
export const isChosen = has
const byTime = (a: Key<unknown>, b: Key<unknown>) => a.t - b.t
interface Moved {
  keys: Key<unknown>[]
  /** Where the chosen keys are now. */
  chosen: number[]
}
/** Moves the chosen keys to where `to` says; what they land on gives way. */
function place(keys: readonly Key<unknown>[], chosen: readonly number[], to: (k: Key<unknown>) => Key<unknown>): Moved {
  const moved = new Map<number, Key<unknown>>()
  for (const k of keys)
    if (has(chosen, k.t)) {
      const n = to(k)
      moved.set(Math.round(n.t / SAME), n)
    }
  const list = [...moved.values()]
  const rest = keys.filter(
    (k) =>
      !has(chosen, k.t) &&
      !has(
        list.map((m) => m.t),
        k.t,
      ),
  )
  return { keys: [...rest, ...list].sort(byTime), chosen: list.map((m) => m.t).sort((a, b) => a - b) }
}
/** By seconds and, for numbers, by an amount. `snap`: seconds of a frame, or 0. No key goes before the first frame. */
export function moveKeys(
  keys: readonly Key<unknown>[],
  chosen: readonly number[],
  dt: number,
  dv: number,
  snap: number,
  bounds: readonly [number, number] = [-Infinity, Infinity],
): Moved {
  const earliest = Math.min(...chosen)
  const step = snap ? Math.round((earliest + dt) / snap) * snap - earliest : dt
  const held = Math.max(step, -earliest)
  return place(keys, chosen, (k) => ({
    ...k,
    t: k.t + held,
    v: typeof k.v === 'number' ? Math.min(bounds[1], Math.max(bounds[0], k.v + dv)) : k.v,
  }))
}
/** Stretches the times of the chosen keys about a moment. */
export function scaleKeys(keys: readonly Key<unknown>[], chosen: readonly number[], about: number, factor: number, snap: number): Moved {
  return place(keys, chosen, (k) => {
    const t = Math.max(0, about + (k.t - about) * factor)
    return { ...k, t: snap ? Math.round(t / snap) * snap : t }
  })
}
export const dropKeys = (keys: readonly Key<unknown>[], chosen: readonly number[]): Key<unknown>[] => keys.filter((k) => !has(chosen, k.t))
export const changeKeys = (
  keys: readonly Key<unknown>[],
  chosen: readonly number[],
  change: (k: Key<unknown>) => Key<unknown>,
): Key<unknown>[] => keys.map((k) => (has(chosen, k.t) ? change(k) : k))
export interface Clip {
  kind: Track['kind']
  keys: Key<unknown>[]
}
/** Copies of keys with the first at t = 0. */
export const copyKeys = (track: Track, chosen: readonly number[]): Clip => {
  const list = track.keys.filter((k) => has(chosen, k.t))
  return { kind: track.kind, keys: list.map((k) => ({ ...structuredClone(k), t: k.t - list[0].t })) }
}
/** Puts copied keys so that the first stands at t; what they land on gives way. */
export function pasteKeys(keys: readonly Key<unknown>[], clip: Clip, t: number): Moved {
  const list = clip.keys.map((k) => ({ ...structuredClone(k), t: k.t + t }))
  return {
    keys: [
      ...keys.filter(
        (k) =>
          !has(
            list.map((m) => m.t),
            k.t,
          ),
      ),
      ...list,
    ].sort(byTime),
    chosen: list.map((k) => k.t),
  }
}
