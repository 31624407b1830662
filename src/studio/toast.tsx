'use client'
import { Toaster as Sonner, toast as sonner } from 'sonner'
import { cx } from './ui'

const SHOWN_MS = 5000
const PROBLEM_MS = 12000

/** Says something for a moment at the bottom of the page; a problem stays longer and is read out at once. */
export function toast(text: string, problem = false): void {
  sonner.custom(
    (id) => (
      <div
        role={problem ? 'alert' : 'status'}
        className={cx(
          'flex max-w-[min(640px,90vw)] items-center gap-3 rounded-md border bg-night px-3 py-2 font-sans text-body text-mist leading-4 shadow-xl',
          problem ? 'border-berry' : 'border-bark',
        )}
      >
        {text}
        <button type="button" className="shrink-0 text-moss hover:text-mist" onClick={() => sonner.dismiss(id)}>
          Close
        </button>
      </div>
    ),
    { duration: problem ? PROBLEM_MS : SHOWN_MS },
  )
}
/** Where toasts appear: one at a time, over the board's tabs. */
export const Toaster = () => (
  <Sonner
    position="bottom-center"
    offset={36}
    visibleToasts={1}
    gap={4}
    toastOptions={{ unstyled: true, className: 'w-max left-1/2 -translate-x-1/2' }}
  />
)
