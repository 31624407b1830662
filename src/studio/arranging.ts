import { worldMatrix } from '../acts'
import { decompose, invert, multiply } from '../engine'
import { changes, type ElementDoc, findElement, GROUPS, newId, type Shot, timeOf } from '../shot'
import { edit, shotNow, studio } from './store'
import { toast } from './toast'

/** Gives an object another parent, or none; it keeps its place in the shot at the playhead where no keys or modulators move it. */
export function setParent(id: string, parent: string | null): void {
  const shot = shotNow()
  const object = shot.objects.find((o) => o.id === id)
  const to = shot.objects.find((o) => o.id === parent)
  if (!object || object.parent === parent) return
  for (let p: typeof to = to; p; p = shot.objects.find((o) => o.id === p?.parent)) {
    if (p.id !== id) continue
    toast(`${object.name} cannot be parented to ${to?.name}: that is already parented to it; give that one another parent first.`, true)
    return
  }
  const t = timeOf(shot, studio().playhead)
  const inverse = to ? invert(worldMatrix(to, t)) : null
  const now = worldMatrix(object, t)
  const local = decompose(inverse ? multiply(inverse, now) : now)
  const kept = !changes(object.place) && !changes(object.rotate) && !changes(object.scale)
  edit(`parent of ${object.name}`, (s) => {
    const o = s.objects.find((x) => x.id === id)
    if (!o) return
    o.parent = parent
    if (kept) Object.assign(o, local)
  })
  toast(
    `${object.name} ${to ? `is parented to ${to.name}` : 'stands by itself'}${kept ? '' : '; it has keys or modulators, so its place may have jumped'}`,
  )
}
/** Puts an element into a folder, a new one, or none. */
export function putIntoFolder(id: string, folder: string | 'new' | null): void {
  const found = findElement(shotNow(), id)
  if (!found) return
  const fresh = folder === 'new' ? { id: newId('folder'), name: `Folder ${shotNow().folders.length + 1}` } : null
  edit(`${found.element.name} ${folder ? 'in a folder' : 'out of its folder'}`, (s) => {
    if (fresh) s.folders.push(fresh)
    const e = s[found.group][found.index]
    if (folder === null) delete e.folder
    else e.folder = fresh?.id ?? folder
  })
}
const inFolder = (s: Shot, id: string) => GROUPS.flatMap((g) => (s[g] as ElementDoc[]).filter((e) => e.folder === id))
export function removeFolder(id: string): void {
  const name = shotNow().folders.find((f) => f.id === id)?.name
  edit(`removal of the folder ${name}`, (s) => {
    for (const e of inFolder(s, id)) delete e.folder
    s.folders = s.folders.filter((f) => f.id !== id)
  })
}
export function muteFolder(id: string, muted: boolean): void {
  const name = shotNow().folders.find((f) => f.id === id)?.name
  edit(`${name} ${muted ? 'off' : 'on'}`, (s) => {
    const cameras = new Set(s.cameras.map((c) => c.id))
    for (const e of inFolder(s, id)) if (!cameras.has(e.id)) e.muted = muted
  })
}
