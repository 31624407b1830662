'use client'
import { ChevronDown, Power, Trash2 } from 'lucide-react'
import { useState } from 'react'
import { actOf } from '../../acts'
import type { ActDoc, Shot } from '../../shot'
import { bindsOf } from '../fields/bind'
import { ParamRow } from '../fields/ParamRow'
import { edit } from '../store'
import { cx, IconButton } from '../ui'
import { AddAct } from './AddAct'
import { Sentence } from './Sentence'

/** Where, when and on whom a force acts: its limits, each a sentence that opens. */
export function Limits({ act, find }: { act: ActDoc; find: (s: Shot) => ActDoc | undefined }) {
  const title = actOf(act.kind).title
  const limits = act.limits ?? []
  return (
    <div className="mt-2 border-bark border-t pt-1">
      <div className="flex h-6 items-center justify-between text-moss">
        {limits.length ? 'Limited' : 'Acts always, everywhere'}
        <AddAct
          name={`Limit ${title}`}
          sorts={['limit']}
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
          <Limit key={l.id} limit={l} find={(s) => find(s)?.limits} />
        ))}
      </div>
    </div>
  )
}
function Limit({ limit: l, find }: { limit: ActDoc; find: (s: Shot) => ActDoc[] | undefined }) {
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
    <section aria-label={`Limit: ${spec.title}`} className="rounded-md bg-fern px-2 py-0.5">
      <div className={cx('flex items-start gap-1', l.muted && 'opacity-55')}>
        <span className={cx('min-w-0 flex-1 py-0.5 text-moss [&_b]:text-mist', l.muted && 'line-through')}>
          <Sentence act={l} binds={binds} />
        </span>
        <IconButton
          name={l.muted ? `Switch the limit ${spec.title} on` : `Switch the limit ${spec.title} off`}
          className="size-5!"
          onClick={() => change(`limit ${spec.title} ${l.muted ? 'on' : 'off'}`, (list, at) => void (list[at].muted = !list[at].muted))}
        >
          <Power size={12} strokeWidth={1.5} />
        </IconButton>
        <IconButton
          name={`Take the limit ${spec.title} away`}
          className="size-5!"
          onClick={() => change(`removal of the limit ${spec.title}`, (list, at) => void list.splice(at, 1))}
        >
          <Trash2 size={12} strokeWidth={1.5} />
        </IconButton>
        <IconButton name={`${open ? 'Close' : 'Open'} the limit ${spec.title}`} className="size-5!" onClick={() => setOpen(!open)}>
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
    </section>
  )
}
