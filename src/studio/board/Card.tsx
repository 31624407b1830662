'use client'
import { ArrowDown, ArrowUp, ChevronDown, Copy, Ellipsis, Power, RotateCcw, Trash2 } from 'lucide-react'
import { DropdownMenu } from 'radix-ui'
import { type KeyboardEvent, memo, type ReactNode, useEffect, useRef } from 'react'
import { actOf, overruledBy } from '../../acts'
import { type ActDoc, grouped, newSeed, type Params, sectionsOf } from '../../shot'
import { bindsOf } from '../fields/bind'
import { ParamRow } from '../fields/ParamRow'
import { edit, setStudio, useShot, useStudio } from '../store'
import { cx, IconButton, Menu, menuContent, menuItem, Tip } from '../ui'
import { copyOfAct } from './copyOfAct'
import { Conditions, Limits } from './Limits'
import { Sentence } from './Sentence'
import { TryTurn } from './TryTurn'

type ListOf = (shot: Parameters<Parameters<typeof edit>[1]>[0]) => ActDoc[] | undefined
let dragged: { id: string; list: ListOf } | null = null

/** Whether a parameter has an effect beside the choices of the act; one whose choice moves may. */
const counts = ({ when }: Params[string], act: ActDoc) =>
  !when || typeof act[when.param] !== 'string' || when.is.includes(act[when.param] as string)
/** Of a card that draws bodies how many faces they have, and how many of them the last picture drew. */
function useFaces(act: ActDoc, list: ListOf): string | null {
  const system = useShot((s) => {
    const acts = act.kind === 'solid' ? list(s) : undefined
    return acts && s.systems.find((x) => sectionsOf(x).some((q) => q.look === acts))?.id
  })
  // As words: the same ones draw nothing again.
  return useStudio((s) => {
    const faces = system ? s.drawn?.faces[system] : undefined
    if (!faces?.whole) return null
    const n = (v: number) => grouped(Math.round(v))
    return faces.whole === faces.drawn ? `${n(faces.whole)} faces.` : `${n(faces.whole)} faces, ${n(faces.drawn)} drawn.`
  })
}
/**
 * One act: closed a sentence, open its controls. Dragging reorders within its list. Rendered again only when the act changes: `list` finds by
 * id whatever it closed over.
 */
export const ActCard = memo(Act, (a, b) => a.act === b.act && a.wide === b.wide && a.fixed === b.fixed)
function Act({
  act,
  list,
  wide,
  fixed,
}: {
  act: ActDoc
  list: ListOf
  wide?: boolean /** Belongs to its element for good: cannot be copied, moved or removed here. */
  fixed?: boolean
}) {
  const open = useStudio((s) => s.open === act.id)
  const spec = actOf(act.kind)
  const find = (shot: Parameters<ListOf>[0]) => list(shot)?.find((a) => a.id === act.id)
  const over = useShot((s) => overruledBy(spec.sort === 'look' ? (list(s) ?? []) : [], act.id)?.kind)
  const faces = useFaces(act, list)
  const note = over ? `${actOf(over).title} below decides instead.` : faces
  const binds = bindsOf(spec.params, act, spec.title, find)
  // Behind the sentence: limits of a force, conditions of a turn.
  const behind = act.when ? 'when' : 'limits'
  const limits = (act[behind] ?? []).filter((l) => !l.muted)
  const change = (label: string, recipe: (acts: ActDoc[], at: number) => void) =>
    edit(label, (shot) => {
      const acts = list(shot)
      const at = acts?.findIndex((a) => a.id === act.id) ?? -1
      if (acts && at >= 0) recipe(acts, at)
    })
  /** Alt with an arrow moves it within its list; the keyboard stays on it. */
  const move = (by: -1 | 1) => {
    change(`order of ${spec.title}`, (acts, at) => {
      if (at + by >= 0 && at + by < acts.length) acts.splice(at + by, 0, ...acts.splice(at, 1))
    })
    requestAnimationFrame(() => document.querySelector<HTMLElement>(`[data-card="${act.id}"] button`)?.focus())
  }
  const moveByKey = (e: KeyboardEvent) => {
    if (fixed || !e.altKey || (e.key !== 'ArrowUp' && e.key !== 'ArrowDown')) return
    e.preventDefault()
    move(e.key === 'ArrowUp' ? -1 : 1)
  }
  const mute = () => change(act.muted ? `${spec.title} on` : `${spec.title} off`, (acts, at) => void (acts[at].muted = !acts[at].muted))
  const menu = (
    <Menu>
      <DropdownMenu.Trigger asChild>
        <IconButton name={`More for ${spec.title}`}>
          <Ellipsis size={15} strokeWidth={1.5} />
        </IconButton>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content className={menuContent} align="end" collisionPadding={8}>
          <DropdownMenu.Item
            className={menuItem}
            onSelect={() => change(`copy of ${spec.title}`, (acts, at) => acts.splice(at + 1, 0, copyOfAct(act)))}
          >
            <Copy size={14} strokeWidth={1.5} /> Duplicate
          </DropdownMenu.Item>
          <DropdownMenu.Item className={menuItem} onSelect={() => move(-1)}>
            <ArrowUp size={14} strokeWidth={1.5} /> Move up <span className="ml-auto pl-4 text-moss">Alt ↑</span>
          </DropdownMenu.Item>
          <DropdownMenu.Item className={menuItem} onSelect={() => move(1)}>
            <ArrowDown size={14} strokeWidth={1.5} /> Move down <span className="ml-auto pl-4 text-moss">Alt ↓</span>
          </DropdownMenu.Item>
          <DropdownMenu.Item
            className={menuItem}
            onSelect={() => change(`another seed for ${spec.title}`, (acts, at) => void (acts[at].seed = newSeed()))}
          >
            <RotateCcw size={14} strokeWidth={1.5} /> Another seed
          </DropdownMenu.Item>
          <DropdownMenu.Item
            className={menuItem}
            onSelect={() => change(`removal of ${spec.title}`, (acts, at) => void acts.splice(at, 1))}
          >
            <Trash2 size={14} strokeWidth={1.5} /> Remove
          </DropdownMenu.Item>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </Menu>
  )
  if (!open)
    return (
      <div
        data-act={act.kind}
        data-card={act.id}
        onKeyDown={moveByKey}
        draggable={!fixed}
        onDragStart={(e) => {
          if ((e.target as HTMLElement).closest('input,button')) {
            e.preventDefault()
            return
          }
          dragged = { id: act.id, list }
          e.dataTransfer.effectAllowed = 'move'
        }}
        onDragOver={(e) => dragged && e.preventDefault()}
        onDrop={(e) => {
          e.preventDefault()
          const from = dragged?.id
          dragged = null
          if (!from || from === act.id) return
          change(`order of ${spec.title}`, (acts, at) => {
            const i = acts.findIndex((a) => a.id === from)
            if (i >= 0) acts.splice(at, 0, ...acts.splice(i, 1))
          })
        }}
        className={cx(
          'group relative rounded-md bg-fern px-2 py-1 leading-4 hover:bg-[oklch(0.29_0.017_165)]',
          (act.muted || over) && 'opacity-55',
        )}
      >
        <span className={cx('block pr-5 text-moss [&_b]:text-mist', act.muted && 'line-through')}>
          <Sentence act={act} binds={binds} />
          {limits.map((l) => (
            <span key={l.id}>
              {' '}
              <Sentence
                act={l}
                binds={bindsOf(actOf(l.kind).params, l, actOf(l.kind).title, (shot) => find(shot)?.[behind]?.find((x) => x.id === l.id))}
              />
            </span>
          ))}
          {note && <span className="block text-moss">{note}</span>}
        </span>
        <Tip text={`Open ${spec.title}`}>
          <button
            type="button"
            aria-label={`Open ${spec.title}`}
            className="absolute top-1 right-1 grid size-4 place-items-center rounded-md text-moss hover:bg-bark hover:text-mist"
            onClick={() => setStudio({ open: act.id })}
          >
            <ChevronDown size={13} strokeWidth={1.5} className="-rotate-90" />
          </button>
        </Tip>
      </div>
    )
  return (
    <OpenCard
      title={spec.title}
      muted={act.muted}
      card={act.id}
      onKey={moveByKey}
      tools={
        <>
          <IconButton name={act.muted ? `Switch ${spec.title} on` : `Switch ${spec.title} off`} on={!act.muted} onClick={mute}>
            <Power size={14} strokeWidth={1.5} />
          </IconButton>
          {!fixed && menu}
        </>
      }
    >
      {note && <p className="pb-1 text-moss">{note}</p>}
      <div className={cx('grid grid-flow-dense gap-x-6 gap-y-1', wide ? 'grid-cols-[repeat(auto-fit,minmax(250px,1fr))]' : 'grid-cols-1')}>
        {Object.entries(binds)
          .filter(([name]) => counts(spec.params[name], act))
          .map(([name, b]) => (
            <ParamRow key={name} bind={b} wide={wide} />
          ))}
      </div>
      {act.limits && <Limits act={act} find={find} />}
      {act.when && <Conditions act={act} find={find} />}
      {spec.sort === 'turn' && <TryTurn turn={act.id} />}
    </OpenCard>
  )
}
/** The frame of an open card: corner ticks, a head that closes it. */
export function OpenCard({
  title,
  children,
  tools,
  muted,
  card,
  onKey,
}: {
  title: string
  children: ReactNode
  tools?: ReactNode
  muted?: boolean
  card?: string
  /** Keys on its head. */
  onKey?: (e: KeyboardEvent) => void
}) {
  // Opened low in a column, it comes into sight.
  const box = useRef<HTMLElement>(null)
  useEffect(() => {
    // In braces: newer browsers answer with a promise, which is no clean-up.
    void box.current?.scrollIntoView({ block: 'nearest' })
  }, [])
  return (
    <section ref={box} aria-label={title} data-card={card} className="ticks rounded-md bg-fern/60 px-2 pt-0.5 pb-2">
      <header className="flex h-7 items-center gap-1">
        <button
          type="button"
          aria-label={`Close ${title}`}
          className="flex min-w-0 flex-1 items-center gap-2 text-left font-semibold"
          onKeyDown={onKey}
          onClick={() => setStudio({ open: null })}
        >
          <ChevronDown size={14} strokeWidth={1.5} className="text-moss" />
          <span className={cx('truncate', muted && 'line-through opacity-60')}>{title}</span>
        </button>
        {tools}
      </header>
      {children}
    </section>
  )
}
