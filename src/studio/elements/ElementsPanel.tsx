'use client'
import { ChevronDown, ChevronRight, PanelLeftClose, PanelLeftOpen, Search } from 'lucide-react'
import { useEffect, useState } from 'react'
import { type ElementDoc, GROUPS, type Group, type ObjectDoc } from '../../shot'
import { GROUP_NAMES } from '../commands'
import { select, useShot, useStudio } from '../store'
import { cx, IconButton } from '../ui'
import { AddMenu } from './AddMenu'
import { Folder } from './Folder'
import { iconOf, Row } from './Row'

/** Below this width of the window the list folds into a rail, and the View gets the room. */
const NARROW = '(max-width: 1100px)'
function useNarrow(): boolean {
  const [narrow, setNarrow] = useState(() => matchMedia(NARROW).matches)
  useEffect(() => {
    const m = matchMedia(NARROW)
    const measure = () => setNarrow(m.matches)
    m.addEventListener('change', measure)
    return () => m.removeEventListener('change', measure)
  }, [])
  return narrow
}
/** Everything in the shot: a list, or on a narrow window a rail that opens it over the View. */
export function ElementsPanel() {
  const narrow = useNarrow()
  const [open, setOpen] = useState(false)
  if (!narrow) return <List />
  return (
    <div className="relative flex">
      <Rail open={() => setOpen(true)} />
      {open && <List close={() => setOpen(false)} />}
    </div>
  )
}
function Rail({ open }: { open: () => void }) {
  const shot = useShot((s) => s)
  const selected = useStudio((s) => s.selected)
  return (
    <nav
      aria-label="Elements"
      className="flex w-10 shrink-0 flex-col items-center gap-0.5 overflow-y-auto border-bark border-r bg-pine py-2"
    >
      <IconButton name="Open the list of elements" onClick={open}>
        <PanelLeftOpen size={15} strokeWidth={1.5} />
      </IconButton>
      <AddMenu />
      {GROUPS.map((group) => (
        <div key={group} className="flex flex-col items-center gap-0.5 border-bark border-t pt-1 empty:hidden">
          {(shot[group] as ElementDoc[]).map((e) => {
            const Icon = iconOf(group, e)
            return (
              <IconButton
                key={e.id}
                name={`${e.name}${e.muted ? ', muted' : ''}`}
                data-element={e.id}
                on={selected === e.id}
                className={cx(selected === e.id && 'ticks', e.muted && 'opacity-50')}
                onClick={() => select(e.id)}
              >
                <Icon size={15} strokeWidth={1.5} />
              </IconButton>
            )
          })}
        </div>
      ))}
    </nav>
  )
}
function List({ close }: { close?: () => void }) {
  const shot = useShot((s) => s)
  const [query, setQuery] = useState('')
  const [closed, setClosed] = useState<ReadonlySet<Group>>(new Set())
  const q = query.trim().toLowerCase()
  return (
    <nav
      aria-label="Elements"
      className={cx(
        'flex w-[216px] shrink-0 flex-col border-bark border-r bg-pine',
        close && 'absolute top-0 bottom-0 left-0 z-30 shadow-xl',
      )}
    >
      <div className="flex items-center gap-1 p-2 pl-3">
        <label className="flex h-6 min-w-0 flex-1 items-center gap-2 rounded-md border border-twig bg-night px-2 focus-within:outline-2 focus-within:outline-mist">
          <Search size={13} strokeWidth={1.5} className="shrink-0 text-moss" />
          <input
            value={query}
            onChange={(e) => setQuery(e.target.value)}
            placeholder="Find an element"
            aria-label="Find an element"
            className="w-full min-w-0 bg-transparent outline-none placeholder:text-moss"
          />
        </label>
        <AddMenu />
        {close && (
          <IconButton name="Fold the list" onClick={close}>
            <PanelLeftClose size={15} strokeWidth={1.5} />
          </IconButton>
        )}
      </div>
      <div className="min-h-0 flex-1 overflow-y-auto pb-2">
        {!q && shot.folders.map((f) => <Folder key={f.id} folder={f} shot={shot} />)}
        {GROUPS.map((group) => {
          const all = shot[group] as ElementDoc[]
          const list = all.filter((e) => (q ? e.name.toLowerCase().includes(q) : !e.folder))
          if (
            !list.length &&
            (q ||
              all.length > 0 ||
              group === 'gases' ||
              group === 'forces' ||
              group === 'glows' ||
              group === 'masks' ||
              group === 'controls')
          )
            return null
          const open = q !== '' || !closed.has(group)
          return (
            <section key={group}>
              <button
                type="button"
                aria-expanded={open}
                className="flex h-6 w-full items-center gap-1.5 px-2 text-moss hover:text-mist"
                onClick={() =>
                  setClosed((c) => {
                    const n = new Set(c)
                    if (!n.delete(group)) n.add(group)
                    return n
                  })
                }
              >
                {open ? <ChevronDown size={13} strokeWidth={1.5} /> : <ChevronRight size={13} strokeWidth={1.5} />}
                {GROUP_NAMES[group]}
                <span className="ml-auto pr-2">{list.length}</span>
              </button>
              {open &&
                (group === 'objects' && !q ? byParent(list as ObjectDoc[]) : list.map((e) => ({ e, depth: 0 }))).map(({ e, depth }) => (
                  <Row key={e.id} element={e} group={group} depth={depth} />
                ))}
              {open && !list.length && (
                <p className="px-8 py-0.5 text-moss">
                  {group === 'systems'
                    ? 'None yet: add one with +.'
                    : group === 'objects'
                      ? 'None yet: drop a file into the View.'
                      : 'None.'}
                </p>
              )}
            </section>
          )
        })}
        {q && !GROUPS.some((g) => (shot[g] as ElementDoc[]).some((e) => e.name.toLowerCase().includes(q))) && (
          <p className="px-4 py-2 text-moss">Nothing is called “{query}”.</p>
        )}
      </div>
    </nav>
  )
}
/** Children behind their parent, one step further in. Whatever a broken document says, everything is listed once. */
function byParent(list: ObjectDoc[]): { e: ElementDoc; depth: number }[] {
  const out: { e: ElementDoc; depth: number }[] = []
  const taken = new Set<string>()
  const take = (o: ObjectDoc, depth: number) => {
    if (taken.has(o.id)) return
    taken.add(o.id)
    out.push({ e: o, depth })
    for (const c of list) if (c.parent === o.id) take(c, depth + 1)
  }
  for (const o of list) if (!o.parent || !list.some((p) => p.id === o.parent)) take(o, 0)
  for (const o of list) take(o, 0)
  return out
}
