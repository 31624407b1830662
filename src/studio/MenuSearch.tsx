'use client'
import { Search } from 'lucide-react'
import { type ReactNode, useEffect, useRef } from 'react'

/** The search at the top of a menu: what is typed filters it, Enter takes the first, the arrow goes into the list. */
export function MenuSearch({
  query,
  onQuery,
  onFirst,
  label,
}: {
  query: string
  onQuery: (q: string) => void
  onFirst: () => void
  label: string
}) {
  const input = useRef<HTMLInputElement>(null)
  // The menu takes the keyboard when it opens.
  useEffect(() => {
    const timer = setTimeout(() => input.current?.focus(), 0)
    return () => clearTimeout(timer)
  }, [])
  return (
    <div className="sticky top-0 z-10 flex h-7 items-center gap-2 border-bark border-b bg-pine px-3">
      <Search size={13} strokeWidth={1.5} className="text-moss" />
      <input
        ref={input}
        value={query}
        aria-label={label}
        placeholder="Find"
        className="w-full bg-transparent outline-none placeholder:text-moss"
        onChange={(e) => onQuery(e.target.value)}
        onKeyDown={(e) => {
          if (e.key === 'Escape' || e.key === 'Tab') return
          e.stopPropagation()
          if (e.key === 'Enter') onFirst()
          if (e.key === 'ArrowDown') e.currentTarget.closest('[role=menu]')?.querySelector<HTMLElement>('[role=menuitem]')?.focus()
        }}
      />
    </div>
  )
}
export const NothingFound = ({ children }: { children: ReactNode }) => <p className="px-3 py-1 text-moss">{children}</p>
