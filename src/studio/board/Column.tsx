'use client'
import { ChevronDown } from 'lucide-react'
import { type ReactNode, useEffect, useRef, useState } from 'react'
import { useStudio } from '../store'
import { cx } from '../ui'

/** One column of the board: a head and cards. When cards lie below its edge, it says which. */
export function Column({
  title,
  side,
  tools,
  children,
  className,
  below,
  picture,
  label,
}: {
  /** Over the head. */ picture?: ReactNode
  title: ReactNode
  side?: ReactNode
  tools?: ReactNode
  children: ReactNode
  className?: string
  below?: string[]
  /** Its name, where the title is more than text. */
  label?: string
}) {
  const beside = useStudio((s) => s.beside)
  const body = useRef<HTMLDivElement>(null)
  const [hidden, setHidden] = useState<string[]>([])
  // biome-ignore lint/correctness/useExhaustiveDependencies: another list of parts is another set of children
  useEffect(() => {
    const el = body.current
    if (!el) return
    const measure = () => {
      const bottom = el.scrollTop + el.clientHeight
      const out = [...el.querySelectorAll<HTMLElement>('[data-below]')]
        .filter((c) => c.offsetTop + Math.min(20, c.offsetHeight) > bottom)
        .map((c) => c.dataset.below ?? '')
      setHidden((old) => (old.join() === out.join() ? old : out))
    }
    // It tells the first sizes too, when the page has been laid out; to ask for them here would lay out all of it once more.
    const o = new ResizeObserver(measure)
    o.observe(el)
    for (const c of el.children) o.observe(c)
    el.addEventListener('scroll', measure)
    return () => {
      o.disconnect()
      el.removeEventListener('scroll', measure)
    }
  }, [below?.join()])
  const head = (
    <header className="flex h-8 shrink-0 items-center gap-2 px-3">
      <h3 className="font-semibold">{title}</h3>
      {side && <span className="live truncate text-moss">{side}</span>}
      <span className="flex-1" />
      {tools}
    </header>
  )
  // Beside the View the columns lie one under another and the board scrolls as a whole.
  if (beside)
    return (
      <section aria-label={label} className="border-bark border-b pb-1.5">
        {picture}
        {head}
        <div className="px-2">{children}</div>
      </section>
    )
  return (
    <section aria-label={label} className={cx('flex min-h-0 min-w-0 flex-col border-bark border-r last:border-r-0', className)}>
      {picture}
      {head}
      <div ref={body} className="relative min-h-0 flex-1 overflow-y-auto px-2 pb-2">
        {children}
        {hidden.length > 0 && (
          <button
            type="button"
            className="sticky -bottom-2 flex h-8 w-full items-center gap-1.5 bg-pine px-1 pb-1 text-left text-moss hover:text-mist"
            onClick={() => body.current?.scrollBy({ top: 120, behavior: 'smooth' })}
          >
            <ChevronDown size={13} strokeWidth={1.5} /> below: <span className="truncate text-mist">{hidden.join(', ')}</span>
          </button>
        )}
      </div>
    </section>
  )
}
/** The columns of a board: side by side, or one under another when the board stands beside the View. */
export function Columns({ count, children }: { count: 2 | 3 | 4 | 5; children: ReactNode }) {
  const beside = useStudio((s) => s.beside)
  return (
    <div
      className={cx(
        'min-h-0 flex-1',
        beside ? 'overflow-y-auto' : cx('grid', { 2: 'grid-cols-2', 3: 'grid-cols-3', 4: 'grid-cols-4', 5: 'grid-cols-5' }[count]),
      )}
    >
      {children}
    </div>
  )
}
/** A label at the left of a column's cards, as Movement or Contact. */
export function Group({
  name,
  children,
  tools,
  over,
  className,
}: {
  className?: string
  name: string
  children: ReactNode
  tools?: ReactNode /** The label stands over its cards: for narrow columns. */
  over?: boolean
}) {
  if (over)
    return (
      <div className="mb-1.5 flex flex-col gap-1">
        <div className="flex h-6 items-center justify-between pl-1 text-moss">
          {name}
          {tools}
        </div>
        {children}
      </div>
    )
  return (
    <div className={cx('mb-1 flex gap-2', className)}>
      <span className="w-[68px] shrink-0 pt-1 pl-1 text-moss">{name}</span>
      <div className="flex min-w-0 flex-1 flex-col gap-1">{children}</div>
      {tools}
    </div>
  )
}
export const Empty = ({ children }: { children: ReactNode }) => (
  <p className="rounded-md border border-bark border-dashed px-2 py-1 text-moss">{children}</p>
)
