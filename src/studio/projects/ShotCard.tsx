'use client'
import Link from 'next/link'
import { type MouseEvent, useCallback, useEffect, useRef } from 'react'
import type { ShotHead } from '../api'
import { clockTime } from '../units'
import { lookAhead, lookAway } from '../workers'
import { MoreMenu } from './MoreMenu'

/** Who only passes over a card means nothing by it. */
const DWELL_MS = 120

const when = (iso: string): string => {
  const d = new Date(iso)
  const today = new Date().toDateString() === d.toDateString()
  return today ? `today ${clockTime(d)}` : d.toLocaleDateString('en-GB', { day: 'numeric', month: 'short' })
}
/** A shot among those of its project: its picture leads to it. */
export function ShotCard({ shot: s, remove, copy }: { shot: ShotHead; remove: () => void; copy: () => void }) {
  const dwelling = useRef<ReturnType<typeof setTimeout> | null>(null)
  const forget = useCallback(() => {
    if (dwelling.current) clearTimeout(dwelling.current)
    dwelling.current = null
  }, [])
  const dwell = () => {
    forget()
    dwelling.current = setTimeout(() => lookAhead(s.id), DWELL_MS)
  }
  const leave = () => {
    forget()
    lookAway(s.id)
  }
  const open = (e: MouseEvent) => {
    forget()
    // In another tab it is opened with workers of its own.
    if (!(e.ctrlKey || e.metaKey || e.shiftKey)) lookAhead(s.id, true)
  }
  useEffect(() => forget, [forget])
  return (
    <article className="group relative rounded-md bg-pine p-1 hover:bg-fern">
      <Link
        href={`/shot/${s.id}`}
        className="block"
        onPointerEnter={dwell}
        onPointerLeave={leave}
        onFocus={dwell}
        onBlur={leave}
        onClick={open}
      >
        <div className="grid aspect-video w-full place-items-center overflow-hidden bg-black">
          {s.picture ? (
            <img src={`/api/shots/${s.id}/picture?r=${s.revision}`} alt="" className="h-full w-full object-cover" />
          ) : (
            <span className="text-moss">No picture yet: open it once</span>
          )}
        </div>
        <div className="flex justify-between gap-2 px-2 pt-2 pr-8">
          <b className="truncate font-semibold text-lead">{s.name}</b>
        </div>
        <div className="flex justify-between px-2 pb-2 text-moss">
          <span>
            {s.seconds.toFixed(1)} s, {Number(s.rate.toFixed(3))} frames/s
          </span>
          <span>{when(s.changed)}</span>
        </div>
      </Link>
      <div className="absolute right-1 bottom-7">
        <MoreMenu
          pack={`/api/shots/${s.id}/package`}
          {...(s.baked ? { baked: `/api/shots/${s.id}/package?bakes` } : {})}
          name={s.name}
          copy={copy}
          remove={remove}
        />
      </div>
    </article>
  )
}
