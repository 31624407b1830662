'use client'
import { ChevronDown, Power, Trash2 } from 'lucide-react'
import { useState } from 'react'
import { type Act, actOf } from '../../acts'
import type { ActDoc, Shot } from '../../shot'
import { bindsOf } from '../fields/bind'
import { ParamRow } from '../fields/ParamRow'
import { edit, useShot } from '../store'
import { cx, IconButton } from '../ui'
import { AddAct } from './AddAct'
import { Sentence } from './Sentence'

const ofPlaces = (a: Act): boolean => a.sort === 'limit' && !!a.ofPlaces
/** Where, when and on whom a force acts: its limits, each a sentence that opens. */
export function Limits({ act, find }: { act: ActDoc; find: (s: Shot) => ActDoc | undefined }) {
  const title = actOf(act.kind).title
  // A gas has no particles that could be asked for.
  const ofGas = useShot((s) => s.gases.some((g) => g.motion.some((m) => m.id === act.id)))
  const limits = act.limits ?? []
  return (
    <div className="mt-2 border-bark border-t pt-1">
      <div className="flex h-6 items-center justify-between text-moss">
        {limits.length ? 'Limited' : 'Acts always, everywhere'}
        <AddAct
          name={`Limit ${title}`}
          sorts={['limit']}
          fits={ofGas ? ofPlaces : undefined}
          keepOpen
          onAdd={(l) =>
            edit(`a limit of ${title}`, (s) => {
              const a = find(s)
              if (a) a.limits = [...(a.limits ?? []), l]
            })
          }
        />
      </div>
      <div className="flex flex-col gap-1">
        {limits.map((l) => (
          <Row key={l.id} what="limit" limit={l} find={(s) => find(s)?.limits} />
        ))}
      </div>
    </div>
  )
}
/** What a turn or a group waits for; groups hold others. Limits are conditions too: true where they let at least half through. */
export function Conditions({ act, find }: { act: ActDoc; find: (s: Shot) => ActDoc | undefined }) {
  const title = actOf(act.kind).title
  const when = act.when ?? []
  return (
    <div className="mt-1 border-bark border-t pt-1">
      <div className="flex h-6 items-center justify-between text-moss">
        {when.length ? 'Waits for' : act.join === 'any' ? 'Waits for nothing that could come' : 'Waits for nothing: at once'}
        <AddAct
          name={`Condition of ${title}`}
          sorts={['condition', 'limit']}
          keepOpen
          onAdd={(c) =>
            edit(`a condition of ${title}`, (s) => {
              const a = find(s)
              if (a) a.when = [...(a.when ?? []), c]
            })
          }
        />
      </div>
      <div className="flex flex-col gap-1">
        {when.map((c) => (
          <Row key={c.id} what="condition" limit={c} find={(s) => find(s)?.when} />
        ))}
      </div>
    </div>
  )
}
function Row({ limit: l, find, what }: { limit: ActDoc; find: (s: Shot) => ActDoc[] | undefined; what: 'limit' | 'condition' }) {
  const [open, setOpen] = useState(false)
  const spec = actOf(l.kind)
  const binds = bindsOf(spec.params, l, spec.title, (s) => find(s)?.find((x) => x.id === l.id))
  const change = (label: string, recipe: (list: ActDoc[], at: number) => void) =>
    edit(label, (s) => {
      const list = find(s)
      const at = list?.findIndex((x) => x.id === l.id) ?? -1
      if (list && at >= 0) recipe(list, at)
    })
  return (
    <section aria-label={`${what === 'limit' ? 'Limit' : 'Condition'}: ${spec.title}`} className="rounded-md bg-fern px-2 py-0.5">
      <div className={cx('flex items-start gap-1', l.muted && 'opacity-55')}>
        <span className={cx('min-w-0 flex-1 py-0.5 text-moss [&_b]:text-mist', l.muted && 'line-through')}>
          <Sentence act={l} binds={binds} />
        </span>
        <IconButton
          name={l.muted ? `Switch the ${what} ${spec.title} on` : `Switch the ${what} ${spec.title} off`}
          className="size-5!"
          onClick={() => change(`${what} ${spec.title} ${l.muted ? 'on' : 'off'}`, (list, at) => void (list[at].muted = !list[at].muted))}
        >
          <Power size={12} strokeWidth={1.5} />
        </IconButton>
        <IconButton
          name={`Take the ${what} ${spec.title} away`}
          className="size-5!"
          onClick={() => change(`removal of the ${what} ${spec.title}`, (list, at) => void list.splice(at, 1))}
        >
          <Trash2 size={12} strokeWidth={1.5} />
        </IconButton>
        <IconButton name={`${open ? 'Close' : 'Open'} the ${what} ${spec.title}`} className="size-5!" onClick={() => setOpen(!open)}>
          <ChevronDown size={13} strokeWidth={1.5} className={open ? '' : '-rotate-90'} />
        </IconButton>
      </div>
      {open && (
        <div className="grid grid-cols-1 gap-y-1 py-1">
          {Object.entries(binds).map(([n, b]) => (
            <ParamRow key={n} bind={b} wide />
          ))}
        </div>
      )}
      {l.when && <Conditions act={l} find={(s) => find(s)?.find((x) => x.id === l.id)} />}
    </section>
  )
}
