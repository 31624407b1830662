'use client'
import { ChevronDown } from 'lucide-react'
import type { ReactNode } from 'react'
import type { Params, Shot } from '../../shot'
import { type Bind, bindsOf } from '../fields/bind'
import { ParamRow } from '../fields/ParamRow'
import { setStudio, useStudio } from '../store'
import { OpenCard } from './Card'

/** A card over parameters of an element that are not an act: closed a sentence, open its rows. */
export function ParamCard({
  id,
  title,
  sentence,
  params,
  record,
  owner,
  find,
  names,
  children,
}: {
  id: string
  title: string
  sentence: ReactNode
  params: Params
  record: Record<string, unknown>
  owner: string
  find: (s: Shot) => Record<string, unknown> | undefined
  names?: string[]
  children?: ReactNode
}) {
  const open = useStudio((s) => s.open === id)
  const chosen = names ? Object.fromEntries(names.map((n) => [n, params[n]])) : params
  const binds: Record<string, Bind> = bindsOf(chosen, record, owner, find)
  if (!open)
    return (
      <button
        type="button"
        className="flex w-full items-start gap-2 rounded-md bg-fern px-2 py-1 text-left text-moss hover:bg-[oklch(0.29_0.017_165)] [&_b]:font-semibold [&_b]:text-mist"
        onClick={() => setStudio({ open: id })}
      >
        <span className="flex-1">{sentence}</span>
        <ChevronDown size={13} strokeWidth={1.5} className="mt-0.5 -rotate-90" />
      </button>
    )
  return (
    <OpenCard title={title}>
      <div className="grid grid-cols-1 gap-y-1">
        {Object.entries(binds).map(([n, b]) => (
          <ParamRow key={n} bind={b} />
        ))}
        {children}
      </div>
    </OpenCard>
  )
}
