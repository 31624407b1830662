import { type ActDoc, actsOf, type Params, type Shot } from '../shot'
import { CAMERA_PARAMS, CONTROL_PARAMS, LIGHT_PARAMS, MATERIAL_PARAMS, OBJECT_PARAMS, SYSTEM_PARAMS } from './elementParams'
import { actOf } from './registry'

/** A record of parameters in the shot: an element's own, its material, or one of its acts. */
export interface ParamRecord {
  element: { id: string; name: string }
  /** As in “Turbulence”; empty for the element's own. */
  title: string
  params: Params
  record: Record<string, unknown>
  /** How values in it are named, before the parameter: '', 'material.' or 'acts.ID.'. */
  prefix: string
  /** Whether its parameters belong to the simulation where they do not say otherwise. */
  changes: 'simulation' | 'look' | 'picture'
  /** The same record in another state of the shot. */
  find(shot: Shot): Record<string, unknown> | undefined
}
const rec = (x: unknown) => x as Record<string, unknown> | undefined

/** Every record of parameters of the shot, in the order of the list of elements. */
export function* records(shot: Shot): Generator<ParamRecord> {
  const own = (element: { id: string; name: string }, params: Params, find: ParamRecord['find']): ParamRecord => ({ element, title: '', params, record: element as never, prefix: '', changes: 'picture', find })
  const ofAct = (element: { id: string; name: string }, a: ActDoc, find: (s: Shot) => ActDoc[] | undefined): ParamRecord => {
    const act = actOf(a.kind)
    return { element, title: act.title, params: act.params, record: a, prefix: `acts.${a.id}.`, changes: act.changes, find: (s) => find(s)?.find((x) => x.id === a.id) }
  }
  for (const [i, o] of shot.objects.entries()) {
    yield own(o, OBJECT_PARAMS, (s) => rec(s.objects[i]))
    yield { ...own(o, MATERIAL_PARAMS, (s) => rec(s.objects[i]?.material)), record: o.material, prefix: 'material.' }
    for (const a of o.reshape) yield ofAct(o, a, (s) => s.objects[i]?.reshape)
    for (const a of o.copies) yield ofAct(o, a, (s) => s.objects[i]?.copies)
    for (const r of o.regions) for (const a of r.acts) yield ofAct(o, a, (s) => s.objects[i]?.regions.find((x) => x.id === r.id)?.acts)
  }
  for (const [i, x] of shot.systems.entries()) {
    yield own(x, SYSTEM_PARAMS, (s) => rec(s.systems[i]))
    for (const a of x.copies) yield { ...ofAct(x, a, (s) => s.systems[i]?.copies), changes: 'picture' }
    for (const a of actsOf(x)) yield ofAct(x, a, (s) => s.systems[i] && actsOf(s.systems[i]))
  }
  for (const [i, f] of shot.forces.entries()) yield { ...ofAct(f, f.act, (s) => (s.forces[i] ? [s.forces[i].act] : undefined)), title: '' }
  for (const [i, l] of shot.lights.entries()) yield own(l, LIGHT_PARAMS, (s) => rec(s.lights[i]))
  for (const [i, c] of shot.cameras.entries()) yield own(c, CAMERA_PARAMS, (s) => rec(s.cameras[i]))
  for (const [i, l] of shot.layers.entries()) for (const a of l.finish) yield ofAct(l, a, (s) => s.layers[i]?.finish)
  for (const [i, c] of shot.controls.entries()) yield own(c, CONTROL_PARAMS, (s) => rec(s.controls[i]))
}
