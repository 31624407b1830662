'use client'
import type { PointerEvent } from 'react'
import { cx } from '../ui'

/** What a strip edits: a list at its left, or over it where it stands beside the View. */
export function StripTabs<T extends string>({
  label,
  tabs,
  now,
  beside,
  onPick,
}: {
  label: string
  tabs: readonly { id: T; name: string; says: string }[]
  now: T
  beside: boolean
  onPick: (id: T) => void
}) {
  return (
    <div
      role="tablist"
      aria-label={label}
      className={cx('px-2', beside ? 'grid gap-0.5' : 'flex w-[248px] shrink-0 flex-col justify-center gap-0.5 py-1')}
    >
      {tabs.map((t) => (
        <button
          key={t.id}
          type="button"
          role="tab"
          aria-selected={now === t.id}
          onClick={() => onPick(t.id)}
          className={cx(
            'flex h-6 items-center justify-between rounded-md px-2',
            now === t.id ? 'border border-bark bg-fern font-semibold text-mist' : 'text-moss hover:text-mist',
          )}
        >
          {t.name}
          <span className={now === t.id ? 'font-normal' : ''}>{t.says}</span>
        </button>
      ))}
    </div>
  )
}
/** The picked stop has the focus once one was added or removed: Delete is then about stops, and not about the selected element. */
export function focusPicked(strip: Element | null): void {
  requestAnimationFrame(() => strip?.querySelector<HTMLElement>('[data-stop=picked]')?.focus())
}
/** A stop on a strip, px from its left and top. Its parent gets the pointer, so that a drag goes on outside of it. */
export function StripStop(p: {
  name: string
  x: number
  y: number
  fill: string
  picked: boolean
  onTake: () => void
  onRemove: () => void
}) {
  const take = (e: PointerEvent<HTMLButtonElement>) => {
    e.stopPropagation()
    e.currentTarget.parentElement?.setPointerCapture(e.pointerId)
    p.onTake()
  }
  return (
    <button
      type="button"
      data-stop={p.picked ? 'picked' : ''}
      aria-label={p.name}
      className={cx('absolute grid size-5 -translate-x-1/2 -translate-y-1/2 place-items-center', p.picked && 'ticks')}
      style={{ left: p.x, top: p.y }}
      onPointerDown={take}
      onKeyDown={(e) => {
        if (e.key !== 'Delete' && e.key !== 'Backspace') return
        const strip = e.currentTarget.parentElement
        p.onRemove()
        focusPicked(strip)
      }}
    >
      <span className="size-[11px] rounded-full border border-mist" style={{ background: p.fill }} />
    </button>
  )
}
