'use client'
import { Anchor, Box, PanelLeftClose, PanelLeftOpen, Camera, Check, ChevronDown, ChevronRight, Lightbulb, LogOut, Power, PowerOff, Search, Shield, SlidersHorizontal, Sparkles, SunDim, Type, Ungroup, Wind } from 'lucide-react'
import { ContextMenu } from 'radix-ui'
import { memo, useEffect, useState } from 'react'
import { type ElementDoc, GROUPS, type Group, type ObjectDoc } from '../../shot'
import { GROUP_NAMES, makeSource, muteElement, removeElement, renameElement, setParent } from '../commands'
import { duplicateElement } from '../duplicate'
import { frameSelection } from '../view/frame'
import { edit, select, shotNow, useShot, useStudio } from '../store'
import { cx, IconButton, menuContent, menuItem, Tip } from '../ui'
import { AddMenu } from './AddMenu'

const ICONS: Record<Group, typeof Box> = { objects: Box, systems: Sparkles, forces: Wind, lights: Lightbulb, cameras: Camera, controls: SlidersHorizontal, layers: SunDim }

const iconOf = (group: Group, e: ElementDoc): typeof Box => {
  const kind = group === 'objects' ? (e as ObjectDoc).shape.kind : ''
  return kind === 'anchor' ? Anchor : kind === 'text' ? Type : kind === 'group' ? Ungroup : ICONS[group]
}
/** Below this width of the window the list folds into a rail, and the View gets the room. */
const NARROW = '(max-width: 1100px)'
function useNarrow(): boolean {
  const [narrow, setNarrow] = useState(() => matchMedia(NARROW).matches)
  useEffect(() => {
    const m = matchMedia(NARROW)
    const look = () => setNarrow(m.matches)
    m.addEventListener('change', look)
    return () => m.removeEventListener('change', look)
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
    <nav aria-label="Elements" className="flex w-10 shrink-0 flex-col items-center gap-0.5 overflow-y-auto border-bark border-r bg-pine py-2">
      <IconButton name="Open the list of elements" onClick={open}>
        <PanelLeftOpen size={15} strokeWidth={1.5} />
      </IconButton>
      <AddMenu />
      {GROUPS.map((group) => (
        <div key={group} className="flex flex-col items-center gap-0.5 border-bark border-t pt-1 empty:hidden">
          {(shot[group] as ElementDoc[]).map((e) => {
            const Icon = iconOf(group, e)
            return (
              <IconButton key={e.id} name={`${e.name}${e.muted ? ', muted' : ''}`} data-element={e.id} on={selected === e.id} className={cx(selected === e.id && 'ticks', e.muted && 'opacity-50')} onClick={() => select(e.id)}>
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
    <nav aria-label="Elements" className={cx('flex w-[216px] shrink-0 flex-col border-bark border-r bg-pine', close && 'absolute top-0 bottom-0 left-0 z-30 shadow-xl')}>
      <div className="flex items-center gap-1 p-2 pl-3">
        <label className="flex h-6 min-w-0 flex-1 items-center gap-2 rounded-[3px] border border-twig bg-night px-2 focus-within:outline-2 focus-within:outline-mist">
          <Search size={13} strokeWidth={1.5} className="shrink-0 text-moss" />
          <input value={query} onChange={(e) => setQuery(e.target.value)} placeholder="Find an element" aria-label="Find an element" className="w-full min-w-0 bg-transparent outline-none placeholder:text-moss" />
        </label>
        <AddMenu />
        {close && (
          <IconButton name="Fold the list" onClick={close}>
            <PanelLeftClose size={15} strokeWidth={1.5} />
          </IconButton>
        )}
      </div>
      <div className="min-h-0 flex-1 overflow-y-auto pb-2">
        {GROUPS.map((group) => {
          const list = (shot[group] as ElementDoc[]).filter((e) => !q || e.name.toLowerCase().includes(q))
          if (!list.length && (q || group === 'forces' || group === 'controls')) return null
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
              {open && (group === 'objects' && !q ? byParent(list as ObjectDoc[]) : list.map((e) => ({ e, depth: 0 }))).map(({ e, depth }) => <Row key={e.id} element={e} group={group} depth={depth} />)}
              {open && !list.length && <p className="px-8 py-0.5 text-moss">{group === 'systems' ? 'None yet: add one with +.' : group === 'objects' ? 'None yet: drop a file into the View.' : 'None.'}</p>}
            </section>
          )
        })}
        {q && !GROUPS.some((g) => (shot[g] as ElementDoc[]).some((e) => e.name.toLowerCase().includes(q))) && <p className="px-4 py-2 text-moss">Nothing is called “{query}”.</p>}
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
/** Drawn anew only when its element changes: the document shares what a change leaves alone. */
const Row = memo(function Row({ element: e, group, depth }: { element: ElementDoc; group: Group; depth: number }) {
  const selected = useStudio((s) => s.selected === e.id)
  const alive = useStudio((s) => s.stats[e.id]?.alive)
  const warning = useStudio((s) => s.status?.notices.find((n) => n.element === e.id)?.message ?? s.status?.problems.find((p) => p.element === e.id)?.message)
  const [renaming, setRenaming] = useState(false)
  const object = group === 'objects' ? (e as ObjectDoc) : null
  const Icon = iconOf(group, e)
  return (
    <ContextMenu.Root>
      <ContextMenu.Trigger asChild>
        <div
          role="treeitem"
          aria-selected={selected}
          tabIndex={0}
          data-element={e.id}
          onClick={() => select(e.id)}
          onContextMenu={() => select(e.id)}
          onDoubleClick={() => setRenaming(true)}
          onKeyDown={(k) => {
            if (k.target !== k.currentTarget) return
            if (k.key === 'Enter') select(e.id)
            if (k.key === 'F2') setRenaming(true)
          }}
          style={depth ? { paddingLeft: 16 + Math.min(depth, 6) * 12 } : undefined}
          className={cx('group mx-1 flex h-6 items-center gap-2 rounded-[3px] border pr-2 pl-4', selected ? 'border-bark bg-fern font-semibold' : 'border-transparent hover:bg-fern/60')}
        >
          <Icon size={14} strokeWidth={1.5} className="shrink-0 text-moss" />
          {renaming ? (
            <input
              // biome-ignore lint/a11y/noAutofocus: the person just asked to type here
              autoFocus
              defaultValue={e.name}
              aria-label={`Name of ${e.name}`}
              className="w-full min-w-0 rounded-[2px] bg-night px-1 outline-none"
              onFocus={(ev) => ev.target.select()}
              onBlur={(ev) => {
                renameElement(e.id, ev.target.value)
                setRenaming(false)
              }}
              onKeyDown={(k) => {
                k.stopPropagation()
                if (k.key === 'Enter') k.currentTarget.blur()
                if (k.key === 'Escape') setRenaming(false)
              }}
            />
          ) : (
            <span className={cx('min-w-0 flex-1 truncate', e.muted && 'text-moss line-through')} title={e.name}>
              {e.name}
            </span>
          )}
          {warning && (
            <Tip text={warning} side="right">
              <span role="img" aria-label={warning} className="grid size-4 shrink-0 place-items-center rounded-full border border-amber font-semibold text-[10px] text-amber">
                !
              </span>
            </Tip>
          )}
          {object?.roles.source && (
            <Tip text="Source: births start on it">
              <LogOut size={13} strokeWidth={1.5} className="shrink-0 text-moss" />
            </Tip>
          )}
          {object?.roles.collider && (
            <Tip text="Collider: stops particles">
              <Shield size={13} strokeWidth={1.5} className="shrink-0 text-moss" />
            </Tip>
          )}
          {group === 'systems' && alive !== undefined && !e.muted && <span className={cx('live', !selected && 'text-moss')}>{alive.toLocaleString('en-US')}</span>}
          {group !== 'cameras' && (
            <button type="button" aria-label={e.muted ? `Switch ${e.name} on` : `Mute ${e.name}`} className={cx('shrink-0 text-moss hover:text-mist', !e.muted && 'hidden group-hover:block group-focus-within:block')} onClick={(ev) => { ev.stopPropagation(); muteElement(e.id) }}>
              {e.muted ? <PowerOff size={13} strokeWidth={1.5} /> : <Power size={13} strokeWidth={1.5} />}
            </button>
          )}
        </div>
      </ContextMenu.Trigger>
      <ContextMenu.Portal>
        <ContextMenu.Content className={menuContent} collisionPadding={8}>
          {object && (
            <>
              <ContextMenu.Item className={menuItem} onSelect={() => makeSource(e.id)}>
                Make it the source
              </ContextMenu.Item>
              <ContextMenu.Item className={menuItem} onSelect={() => edit(`${e.name}, ${object.seen === false ? 'seen' : 'hidden'}`, (s) => { const o = s.objects.find((x) => x.id === e.id); if (o) o.seen = object.seen === false })}>
                {object.seen === false ? 'Let the camera see it' : 'Hide it from the camera'}
              </ContextMenu.Item>
              <ContextMenu.Item className={menuItem} onSelect={() => edit(`${e.name} as a collider`, (s) => { const o = s.objects.find((x) => x.id === e.id); if (o) o.roles.collider = !o.roles.collider })}>
                {object.roles.collider ? 'Let particles pass' : 'Make it a collider'}
              </ContextMenu.Item>
              <ContextMenu.Sub>
                <ContextMenu.SubTrigger className={cx(menuItem, 'justify-between data-[state=open]:bg-fern')}>
                  Goes along with <ChevronRight size={12} strokeWidth={1.5} />
                </ContextMenu.SubTrigger>
                <ContextMenu.Portal>
                  <ContextMenu.SubContent className={cx(menuContent, 'max-h-80 overflow-auto')} collisionPadding={8}>
                    {[{ id: null, name: 'nothing' }, ...shotNow().objects.filter((o) => o.id !== e.id)].map((o) => (
                      <ContextMenu.Item key={o.id ?? ''} className={menuItem} onSelect={() => setParent(e.id, o.id)}>
                        {o.name} {object.parent === o.id && <Check size={12} strokeWidth={1.5} className="ml-auto" />}
                      </ContextMenu.Item>
                    ))}
                  </ContextMenu.SubContent>
                </ContextMenu.Portal>
              </ContextMenu.Sub>
              <ContextMenu.Separator className="my-1 h-px bg-bark" />
            </>
          )}
          <ContextMenu.Item className={menuItem} onSelect={frameSelection}>
            Frame <span className="ml-auto text-moss">F</span>
          </ContextMenu.Item>
          <ContextMenu.Item className={menuItem} onSelect={() => muteElement(e.id)}>
            {e.muted ? 'Switch on' : 'Mute'} <span className="ml-auto text-moss">M</span>
          </ContextMenu.Item>
          <ContextMenu.Item className={menuItem} onSelect={() => setTimeout(() => setRenaming(true), 0)}>
            Rename
          </ContextMenu.Item>
          <ContextMenu.Item className={menuItem} onSelect={() => duplicateElement(e.id)}>
            Duplicate <span className="ml-auto text-moss">D</span>
          </ContextMenu.Item>
          <ContextMenu.Item className={menuItem} onSelect={() => duplicateElement(e.id, 'same')}>
            Duplicate with its seeds
          </ContextMenu.Item>
          {(group === 'objects' || group === 'lights' || group === 'cameras') && (
            <ContextMenu.Item className={menuItem} onSelect={() => duplicateElement(e.id, 'companion')}>
              Duplicate as a companion
            </ContextMenu.Item>
          )}
          <ContextMenu.Item className={menuItem} onSelect={() => removeElement(e.id)}>
            Remove <span className="ml-auto text-moss">Delete</span>
          </ContextMenu.Item>
        </ContextMenu.Content>
      </ContextMenu.Portal>
    </ContextMenu.Root>
  )
})
