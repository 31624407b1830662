import { actOfSort, referencesOf } from '../acts'
import { type ElementDoc, findElement, type Group, isFree, isKeyed, type ModulatorDoc, newId, newSeed, type Shot } from '../shot'
import { edit, select, shotNow } from './store'

/** Fresh: with seeds of its own. Same: with the same seeds. Companion: the same seeds, and modulators that run ahead. */
export type CopyKind = 'fresh' | 'same' | 'companion'
/** Seconds that the modulators of a companion run ahead: alike, but not the same. */
export const COMPANION_S = 0.35

type Rec = Record<string, unknown>
/** An element and all objects that are parented to it, copied. References between them lead to the copies, all others stay. */
export function copiesOf(shot: Shot, id: string, kind: CopyKind): { group: Group; element: Rec & { id: string; name: string } }[] {
  const found = findElement(shot, id)
  if (!found) return []
  const set = [id]
  for (let i = 0; found.group === 'objects' && i < set.length; i++)
    set.push(...shot.objects.filter((o) => o.parent === set[i] && !set.includes(o.id)).map((o) => o.id))
  const ids = new Map(set.map((x) => [x, newId(found.group.slice(0, -1))]))
  const copies = set.map((x) => structuredClone(findElement(shot, x)?.element) as unknown as Rec & { id: string; name: string })
  // First ids of acts and modulators, so that references to them can be followed.
  const renew = (x: unknown): void => {
    if (Array.isArray(x)) for (const y of x) renew(y)
    if (!x || Array.isArray(x) || typeof x !== 'object') return
    const o = x as Rec
    if (typeof o.kind === 'string' && typeof o.id === 'string' && !ids.has(o.id)) {
      const fresh = newId(o.kind)
      ids.set(o.id, fresh)
      o.id = fresh
      if (kind === 'fresh') o.seed = newSeed()
    }
    if (kind === 'companion' && (isKeyed(o) || isFree(o)))
      for (const m of (o as { modulators?: ModulatorDoc[] }).modulators ?? []) {
        const { ahead } = actOfSort(m.kind, 'modulator')
        if (ahead) m[ahead] = Number(((m[ahead] as number) + COMPANION_S).toFixed(6))
      }
    for (const v of Object.values(o)) renew(v)
  }
  for (const c of copies) {
    renew(c)
    for (const p of (c.phases ?? []) as { id: string }[]) {
      const fresh = newId('phase')
      ids.set(p.id, fresh)
      p.id = fresh
    }
  }
  for (const c of copies) {
    for (const r of referencesOf(found.group, c as unknown as ElementDoc, 0)) if (ids.has(r.id)) r.lead(ids.get(r.id) as string)
    c.id = ids.get(c.id) as string
    c.name = `${c.name} ${kind === 'companion' ? 'companion' : 'copy'}`.slice(0, 200)
    if (kind === 'fresh') c.seed = newSeed()
  }
  return copies.map((element) => ({ group: found.group, element }))
}
export function duplicateElement(id: string, kind: CopyKind = 'fresh'): void {
  const found = findElement(shotNow(), id)
  if (!found || found.group === 'layers') return
  const copies = copiesOf(shotNow(), id, kind)
  edit(`a new ${copies[0].element.name}`, (s) => {
    for (const { group, element } of copies) (s[group] as unknown as Rec[]).push(element)
  })
  select(copies[0].element.id)
}
