import { findElement, type Group, isFree, isKeyed, type ModulatorDoc, newId, newSeed, type Shot } from '../shot'
import { edit, select, shotNow } from './store'

/** Fresh: with seeds of its own. Same: with the same seeds. Companion: the same seeds, and modulators that run ahead. */
export type CopyKind = 'fresh' | 'same' | 'companion'
/** Seconds that the modulators of a companion run ahead: alike, but not the same. */
export const COMPANION_S = 0.35

type Rec = Record<string, unknown>
/** Fields that hold the id of an element. */
const REFERENCES = new Set(['parent', 'source', 'with', 'element', 'to', 'object', 'space', 'target', 'mover', 'system'])

/** An element and all objects that go along with it, copied. References between them lead to the copies, all others stay. */
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
    if (kind === 'companion' && (isKeyed(o) || isFree(o))) {
      for (const m of ((o as Rec).modulators ?? []) as ModulatorDoc[])
        if ((m.kind === 'wave' || m.kind === 'wander') && typeof m.offset === 'number')
          m.offset = Number((m.offset + COMPANION_S).toFixed(6))
    }
    for (const v of Object.values(o)) renew(v)
  }
  const follow = (x: unknown): void => {
    if (Array.isArray(x)) for (const y of x) follow(y)
    if (!x || Array.isArray(x) || typeof x !== 'object') return
    const o = x as Rec
    for (const [k, v] of Object.entries(o)) {
      if (k === 'among') o[k] = (v as string[]).map((x) => ids.get(x) ?? x)
      else if (typeof v === 'string') {
        if (REFERENCES.has(k) && ids.has(v)) o[k] = ids.get(v)
        // A path into an act of the element that is referred to.
        const path = k === 'value' ? /^acts\.([^.]+)\.(.+)$/.exec(v) : null
        if (path && ids.has(path[1]) && [...ids.values()].includes(String(o.element))) o[k] = `acts.${ids.get(path[1])}.${path[2]}`
      } else follow(v)
    }
  }
  for (const c of copies) {
    renew(c)
    for (const p of (c.phases ?? []) as { id: string }[]) p.id = newId('phase')
  }
  for (const c of copies) {
    follow(c)
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
