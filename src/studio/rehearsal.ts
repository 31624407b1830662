import {
  type Animated,
  findElement,
  GROUPS,
  isFree,
  isKeyed,
  isVaried,
  type Key,
  type ModulatorDoc,
  modulatorsOf,
  type Shot,
  type Varied,
  valueOf,
  withModulators,
  withoutDetail,
} from '../shot'

/** What the View shows otherwise than the shot says: never saved, never rendered. */
export interface Rehearsal {
  /** Elements that are looked at alone, each in its own group of the list. */
  solo: ReadonlySet<string>
  /** Births times this. */
  boost: number
}
export const BOOSTS: readonly { value: number; label: string }[] = [
  { value: 0.1, label: 'a tenth' },
  { value: 1, label: 'as it is' },
  { value: 10, label: 'ten times' },
  { value: 100, label: 'a hundred times' },
]
export const isRehearsal = (r: Rehearsal): boolean => r.solo.size > 0 || r.boost !== 1

/** An animated number times a factor, with whatever moves it. */
function times(a: Animated<number>, k: number): Animated<number> {
  const mods = modulatorsOf(a)
  if (mods.length) {
    const factor: ModulatorDoc = { id: 'boost', kind: 'expression', seed: 0, mode: 'multiply', formula: String(k), names: [] }
    return withModulators(a, [...mods, factor])
  }
  if (isKeyed<number>(a))
    return {
      ...a,
      keys: a.keys.map(
        (key): Key<number> => ({
          ...key,
          v: key.v * k,
          ...(key.bend ? { bend: [key.bend[0], key.bend[1] * k, key.bend[2], key.bend[3] * k] as Key<number>['bend'] } : {}),
        }),
      ),
    }
  if (isFree<number>(a)) return { ...a, value: a.value * k }
  return a * k
}
/** Which parameter of a birth says how many there are, and whether more of it means more of them. */
const AMOUNTS: Record<string, { name: string; more: boolean; whole: boolean }> = {
  steady: { name: 'rate', more: true, whole: false },
  burst: { name: 'count', more: true, whole: true },
  total: { name: 'count', more: true, whole: true },
  travel: { name: 'each', more: false, whole: false },
}
/** The shot as the View shows it. The same shot when nothing is different. */
export function rehearsed(shot: Shot, r: Rehearsal): Shot {
  let out = withoutDetail(shot)
  if (!isRehearsal(r)) return out
  if (r.boost !== 1) {
    out = {
      ...out,
      systems: out.systems.map((s) => ({
        ...s,
        birth: s.birth.map((a) => {
          const of = AMOUNTS[a.kind]
          if (!of) return a
          const v = a[of.name] as Varied
          const k = of.more ? r.boost : 1 / r.boost
          const scaled = times(valueOf(v), k)
          const value = of.whole && typeof scaled === 'number' ? Math.ceil(scaled) : scaled
          return { ...a, [of.name]: isVaried(v) ? { ...v, value } : value }
        }),
      })),
    }
  }
  if (r.solo.size) {
    const alone = new Set([...r.solo].flatMap((id) => findElement(shot, id)?.group ?? []))
    const rest = { ...out } as Record<string, unknown>
    for (const group of GROUPS) {
      if (!alone.has(group) || group === 'layers' || group === 'cameras' || group === 'masks' || group === 'controls') continue
      // Objects go on pushing and stopping; only the camera no longer sees them.
      rest[group] = (out[group] as { id: string }[]).map((e) =>
        r.solo.has(e.id) ? e : group === 'objects' ? { ...e, seen: false } : { ...e, muted: true },
      )
    }
    out = rest as unknown as Shot
  }
  return out
}
