import { actOf, CAMERA_PARAMS, LIGHT_PARAMS, MATERIAL_PARAMS, OBJECT_PARAMS, SYSTEM_PARAMS } from '../acts'
import { type ActDoc, actsOf, type Params, type Shot } from '../shot'
import { type Bind, bindsOf, keysOf } from './fields/bind'

export interface KeyedValue {
  element: string
  elementName: string
  /** As in “Turbulence, strength”. */
  name: string
  bind: Bind
}
type Find = (s: Shot) => Record<string, unknown> | undefined

/** Every value of the shot that has keys, in the order of the list of elements; of one element when `only` names it. */
export function keyedValues(shot: Shot, only?: string | null): KeyedValue[] {
  const out: KeyedValue[] = []
  const take = (element: { id: string; name: string }, title: string, params: Params, record: unknown, find: Find) => {
    if (only !== undefined && element.id !== only) return
    for (const bind of Object.values(bindsOf(params, record as Record<string, unknown>, title || element.name, find))) {
      if (keysOf(bind).length) out.push({ element: element.id, elementName: element.name, name: title ? `${title}, ${bind.param.label.toLowerCase()}` : bind.param.label.toLowerCase(), bind })
    }
  }
  const rec = (x: unknown) => x as Record<string, unknown> | undefined
  shot.objects.forEach((o, i) => {
    take(o, '', OBJECT_PARAMS, o, (s) => rec(s.objects[i]))
    take(o, '', MATERIAL_PARAMS, o.material, (s) => rec(s.objects[i]?.material))
  })
  shot.systems.forEach((sys, i) => {
    take(sys, '', SYSTEM_PARAMS, sys, (s) => rec(s.systems[i]))
    for (const a of actsOf(sys)) take(sys, actOf(a.kind).title, actOf(a.kind).params, a, (s) => (s.systems[i] ? (actsOf(s.systems[i]).find((x) => x.id === a.id) as ActDoc | undefined) : undefined))
  })
  shot.forces.forEach((f, i) => take(f, '', actOf(f.act.kind).params, f.act, (s) => s.forces[i]?.act))
  shot.lights.forEach((l, i) => take(l, '', LIGHT_PARAMS, l, (s) => rec(s.lights[i])))
  shot.cameras.forEach((c, i) => take(c, '', CAMERA_PARAMS, c, (s) => rec(s.cameras[i])))
  shot.layers.forEach((l, i) => {
    for (const a of l.finish) take(l, actOf(a.kind).title, actOf(a.kind).params, a, (s) => s.layers[i]?.finish.find((x) => x.id === a.id))
  })
  return out
}
