import { records, sameRecord } from '../acts'
import { modulatorsOf, type Shot } from '../shot'
import { type Bind, bindsOf, keysOf } from './fields/bind'

export interface KeyedValue {
  element: string
  elementName: string
  /** As in “Turbulence, strength”. */
  name: string
  bind: Bind
}
const moves = (b: Bind): boolean =>
  keysOf(b).length > 0 || (b.param.type === 'vector' ? (b.value as unknown[]) : [b.value]).some((v) => modulatorsOf(v).length > 0)

/** Every value of the shot that has keys, in the order of the list of elements; of one element when `only` names it. */
export function keyedValues(shot: Shot, only?: string | null): KeyedValue[] {
  const out: KeyedValue[] = []
  for (const r of records(shot)) {
    if (only !== undefined && r.element.id !== only) continue
    for (const bind of Object.values(bindsOf(r.params, r.record, r.title || r.element.name, (s) => sameRecord(s, r)))) {
      if (moves(bind))
        out.push({
          element: r.element.id,
          elementName: r.element.name,
          name: r.title ? `${r.title}, ${bind.param.label.toLowerCase()}` : bind.param.label.toLowerCase(),
          bind,
        })
    }
  }
  return out
}
