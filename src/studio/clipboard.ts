import { dequal } from 'dequal'
import { checkShot, type ReferenceTo, references, referencesOf, shotTypes } from '../acts'
import { type ElementDoc, findElement, GROUPS, type Group, newId, newSeed, type Problem, problemsOf, type Shot } from '../shot'
import { copiesOf } from './duplicate'
import { edit, select, shotNow } from './store'
import { toast } from './toast'

/** What goes over the clipboard: elements of one shot with the looks and files that they need. Other shots and other windows take it. */
interface Parcel {
  foxEmber: 'elements'
  version: number
  elements: { group: Group; element: ElementDoc }[]
  looks: Shot['shared']['looks']
  assets: Shot['assets']
}
/** Kept here as well: a browser may not let a page read its clipboard. */
const KEY = 'copied-elements'

export function parcelOf(shot: Shot, id: string): string | null {
  const found = findElement(shot, id)
  if (!found || found.group === 'layers') return null
  const elements = copiesOf(shot, id, 'same').map(({ group, element }) => ({
    group,
    element: { ...element, name: element.name.replace(/ copy$/, '') } as unknown as ElementDoc,
  }))
  const named = new Set(elements.flatMap(({ group, element }) => referencesOf(group, element, 0).map((r) => r.id)))
  const parcel: Parcel = {
    foxEmber: 'elements',
    version: shot.version,
    elements,
    looks: shot.shared.looks.filter((l) => named.has(l.id)),
    assets: shot.assets.filter((a) => named.has(a.hash)),
  }
  return JSON.stringify(parcel)
}
const LEADS_TO_ELEMENT: ReadonlySet<ReferenceTo> = new Set([
  'object',
  'system',
  'gas',
  'source',
  'reached',
  'lit',
  'stuck',
  'mask',
  'layer',
])
const refused = (p: Problem) => ({ problem: `What was copied does not fit here: ${p.path}: ${p.message}` })
/** A copy in which everything has its fresh id. */
function renewed(x: unknown, ids: ReadonlyMap<string, string>): unknown {
  if (Array.isArray(x)) return x.map((y) => renewed(y, ids))
  if (!x || typeof x !== 'object') return x
  return Object.fromEntries(Object.entries(x).map(([k, v]) => [k, k === 'id' ? (ids.get(v) ?? v) : renewed(v, ids)]))
}
/** The shot with a parcel's elements in it, checked as a whole; or why it cannot be. */
export function withParcel(shot: Shot, text: string): { shot: Shot; added: string[] } | { problem: string } {
  let parcel: Parcel
  try {
    parcel = JSON.parse(text)
  } catch {
    return { problem: 'There are no elements of a shot to paste.' }
  }
  if (parcel?.foxEmber !== 'elements' || !Array.isArray(parcel.elements)) return { problem: 'There are no elements of a shot to paste.' }
  if (parcel.version !== shot.version)
    return { problem: 'What was copied comes from another version of Fox Ember; open its shot here and copy it again.' }
  const next = structuredClone(shot)
  // Everything that has an id gets a fresh one, and what refers to it follows.
  const ids = new Map<string, string>()
  const looks = new Map<string, string>()
  for (const l of parcel.looks ?? []) {
    // The same look is there already: pasted into its own shot, it stays shared.
    if (next.shared.looks.some((x) => x.id === l.id && dequal(x, l))) continue
    looks.set(l.id, newId('look'))
  }
  const gather = (x: unknown): void => {
    if (!x || typeof x !== 'object') return
    if (Array.isArray(x)) {
      for (const y of x) gather(y)
      return
    }
    const o = x as Record<string, unknown>
    if (typeof o.id === 'string' && !ids.has(o.id)) ids.set(o.id, newId(o.id.replace(/-[0-9a-f]{8}$/, '').slice(0, 40)))
    for (const v of Object.values(o)) gather(v)
  }
  for (const { element } of parcel.elements) gather(element)
  const names = new Set(GROUPS.flatMap((g) => (next[g] as { name: string }[]).map((e) => e.name)))
  const added: string[] = []
  for (const { group, element } of parcel.elements) {
    if (!GROUPS.includes(group) || group === 'layers') return { problem: 'What was copied holds something that this shot cannot take.' }
    const e = renewed(element, ids) as ElementDoc & { layer?: string | null }
    delete e.folder
    if (e.layer && !next.layers.some((l) => l.id === e.layer)) e.layer = null
    const base = e.name
    for (let n = 2; names.has(e.name); n++) e.name = `${base} ${n}`
    names.add(e.name)
    e.seed = newSeed()
    ;(next[group] as unknown as ElementDoc[]).push(e)
    added.push(e.id)
  }
  for (const l of parcel.looks ?? []) if (looks.has(l.id)) next.shared.looks.push({ ...l, id: looks.get(l.id) as string })
  for (const a of parcel.assets ?? []) if (!next.assets.some((x) => x.hash === a.hash)) next.assets.push(a)
  // Its types first: what refers to what is known only of acts that pass.
  const typed = shotTypes().safeParse(next)
  if (!typed.success) return refused(problemsOf(typed.error)[0])
  const pasted = typed.data as unknown as Shot
  const there = new Set(GROUPS.flatMap((g) => (pasted[g] as { id: string }[]).map((e) => e.id)))
  for (const r of references(pasted)) {
    if (!added.includes(r.element.id)) continue
    const id = r.to === 'look' ? (looks.get(r.id) ?? r.id) : (ids.get(r.id) ?? r.id)
    // What it referred to is not in this shot: it leads nowhere, as after a removal.
    const isLost = LEADS_TO_ELEMENT.has(r.to) && !there.has(id)
    r.lead(isLost ? null : id)
  }
  const r = checkShot(pasted)
  return r.ok ? { shot: r.shot, added } : refused(r.problems[0])
}
export async function copyElement(id: string): Promise<void> {
  const text = parcelOf(shotNow(), id)
  if (!text) {
    toast('The picture’s layer stays in its shot; copy what is drawn into it instead.', true)
    return
  }
  try {
    localStorage.setItem(KEY, text)
  } catch {
    // Then only the clipboard has it.
  }
  await navigator.clipboard?.writeText(text).catch(() => {})
  toast(`${findElement(shotNow(), id)?.element.name} is copied; paste it here or in another shot with Ctrl V`)
}
export async function pasteElements(): Promise<void> {
  let text = ''
  try {
    text = (await navigator.clipboard?.readText?.()) ?? ''
  } catch {
    // Not allowed to read it; what was copied in this browser is kept beside it.
  }
  if (!text.includes('"foxEmber"')) text = localStorage.getItem(KEY) ?? ''
  const r = withParcel(shotNow(), text)
  if ('problem' in r) {
    toast(r.problem, true)
    return
  }
  edit(r.added.length === 1 ? `a pasted ${findElement(r.shot, r.added[0])?.element.name}` : `${r.added.length} pasted elements`, (s) => {
    const add = <T>(to: T[], from: readonly T[], key: (x: T) => string) =>
      to.push(...from.filter((x) => !to.some((y) => key(y) === key(x))))
    for (const g of GROUPS) add(s[g] as { id: string }[], r.shot[g] as { id: string }[], (x) => x.id)
    add(s.shared.looks, r.shot.shared.looks, (x) => x.id)
    add(s.assets, r.shot.assets, (x) => x.hash)
  })
  select(r.added[0])
}
