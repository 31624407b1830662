'use client'
import { Check, ChevronDown } from 'lucide-react'
import { DropdownMenu, Select as RSelect, Tooltip as RTooltip } from 'radix-ui'
import { type ComponentProps, forwardRef, type ReactNode, useState } from 'react'
import { createPortal } from 'react-dom'

export const cx = (...names: (string | false | null | undefined)[]): string => names.filter(Boolean).join(' ')

export function Tip({ text, children, side }: { text: ReactNode; children: ReactNode; side?: 'top' | 'bottom' | 'left' | 'right' }) {
  return (
    <RTooltip.Root delayDuration={450}>
      <RTooltip.Trigger asChild>{children}</RTooltip.Trigger>
      <RTooltip.Portal>
        <RTooltip.Content
          side={side}
          sideOffset={5}
          collisionPadding={8}
          className="z-50 max-w-64 rounded-md border border-bark bg-night px-2 py-1 text-mist shadow-lg"
        >
          {text}
        </RTooltip.Content>
      </RTooltip.Portal>
    </RTooltip.Root>
  )
}
/** A 24 px square with an icon; its name is its tooltip and its accessible name. */
export const IconButton = forwardRef<HTMLButtonElement, ComponentProps<'button'> & { name: string; on?: boolean; keys?: string }>(
  function IconButton({ name, on, keys, className, children, ...rest }, ref) {
    return (
      <Tip text={keys ? `${name} (${keys})` : name}>
        <button
          ref={ref}
          type="button"
          aria-label={name}
          aria-pressed={on}
          className={cx(
            'grid size-6 shrink-0 place-items-center rounded-md text-moss hover:bg-fern hover:text-mist disabled:opacity-35',
            on && 'bg-fern text-mist',
            className,
          )}
          {...rest}
        >
          {children}
        </button>
      </Tip>
    )
  },
)
export const Button = forwardRef<HTMLButtonElement, ComponentProps<'button'> & { main?: boolean; danger?: boolean }>(function Button(
  { main, danger, className, ...rest },
  ref,
) {
  return (
    <button
      ref={ref}
      type="button"
      className={cx(
        'inline-flex h-7 items-center gap-2 whitespace-nowrap rounded-md border px-3 text-lead font-medium disabled:opacity-40',
        main ? 'border-ember bg-ember text-on-ember hover:brightness-110' : 'border-twig text-mist hover:bg-fern',
        danger && 'border-berry text-berry',
        className,
      )}
      {...rest}
    />
  )
})
export interface Option {
  value: string
  label: string
  help?: string
}
export function Select({
  value,
  options,
  onChange,
  label,
  inline,
  disabled,
}: {
  value: string
  options: Option[]
  onChange: (v: string) => void
  label: string
  inline?: boolean
  disabled?: boolean
}) {
  const now = options.find((o) => o.value === value)
  return (
    <RSelect.Root value={value} onValueChange={onChange} disabled={disabled}>
      <RSelect.Trigger
        aria-label={label}
        className={
          inline
            ? 'inline rounded-sm font-semibold text-mist underline decoration-twig decoration-1 underline-offset-3 hover:bg-bark'
            : 'flex h-6 w-full min-w-0 items-center justify-between gap-1 rounded-md border border-twig bg-night px-2 text-left text-mist hover:border-moss'
        }
      >
        <span className={inline ? '' : 'truncate'}>{now?.label ?? value}</span>
        {!inline && <ChevronDown size={13} strokeWidth={1.5} className="shrink-0 text-moss" />}
      </RSelect.Trigger>
      <RSelect.Portal>
        <RSelect.Content
          position="popper"
          sideOffset={3}
          collisionPadding={8}
          className="z-50 max-h-80 min-w-36 overflow-auto rounded-md border border-bark bg-pine py-1 shadow-xl"
        >
          <RSelect.Viewport>
            {options.map((o) => (
              <RSelect.Item
                key={o.value}
                value={o.value}
                className="flex min-h-6 items-center gap-2 px-2 py-0.5 text-mist outline-none data-[highlighted]:bg-fern"
              >
                <span className="w-4">
                  <RSelect.ItemIndicator>
                    <Check size={13} strokeWidth={1.5} />
                  </RSelect.ItemIndicator>
                </span>
                <RSelect.ItemText>{o.label}</RSelect.ItemText>
                {o.help && <span className="ml-auto pl-4 text-moss">{o.help}</span>}
              </RSelect.Item>
            ))}
          </RSelect.Viewport>
        </RSelect.Content>
      </RSelect.Portal>
    </RSelect.Root>
  )
}
/**
 * A menu. The page behind it stays as it is, under a sheet that takes the press which closes the menu: a modal one puts styles on the page that
 * are worked out again for every element (93 of 200 ms of an opening and a closing, measured).
 */
export function Menu({ open, onOpenChange, children }: { open?: boolean; onOpenChange?: (open: boolean) => void; children: ReactNode }) {
  const [own, setOwn] = useState(false)
  const isOpen = open ?? own
  const change = (o: boolean) => {
    setOwn(o)
    onOpenChange?.(o)
  }
  return (
    <DropdownMenu.Root modal={false} open={isOpen} onOpenChange={change}>
      {children}
      {isOpen && createPortal(<div className="fixed inset-0 z-40" />, document.body)}
    </DropdownMenu.Root>
  )
}
export const menuContent = 'z-50 min-w-44 rounded-md border border-bark bg-pine py-1 shadow-xl'
export const menuItem = 'flex h-6 items-center gap-2 px-3 text-mist outline-none data-[disabled]:opacity-40 data-[highlighted]:bg-fern'

/** Two small fox ears. */
export function Mark() {
  return (
    <svg
      width="18"
      height="16"
      viewBox="0 0 18 16"
      fill="none"
      stroke="currentColor"
      strokeWidth="1.6"
      strokeLinejoin="round"
      aria-hidden="true"
    >
      <path d="M1.5 14V2.2L7.4 8.2 1.5 14Z" />
      <path d="M16.5 14V2.2L10.6 8.2 16.5 14Z" />
    </svg>
  )
}
/** A key: a drop whose tip is the exact place. */
export function Drop({ filled, size = 12 }: { filled?: boolean; size?: number }) {
  return (
    <svg
      width={size}
      height={size}
      viewBox="0 0 12 12"
      fill={filled ? 'currentColor' : 'none'}
      stroke="currentColor"
      strokeWidth="1.2"
      aria-hidden="true"
    >
      <path d="M6 1C6 1 2.6 5 2.6 7.6a3.4 3.4 0 0 0 6.8 0C9.4 5 6 1 6 1Z" />
    </svg>
  )
}
/** A name being typed in place: Enter or leaving takes it when it says something else, Escape leaves it. */
export function NameInput({
  label,
  value,
  className,
  onDone,
}: {
  label: string
  value: string
  className?: string /** The new name, trimmed; null when nothing is to change. */
  onDone: (name: string | null) => void
}) {
  return (
    <input
      // biome-ignore lint/a11y/noAutofocus: the person just asked to type here
      autoFocus
      defaultValue={value}
      aria-label={label}
      className={cx('min-w-0 rounded-sm bg-night px-1 outline-none', className ?? 'flex-1')}
      onFocus={(e) => e.target.select()}
      onBlur={(e) => onDone(e.target.value.trim() && e.target.value.trim() !== value ? e.target.value.trim().slice(0, 200) : null)}
      onKeyDown={(e) => {
        e.stopPropagation()
        if (e.key === 'Enter') e.currentTarget.blur()
        if (e.key === 'Escape') onDone(null)
      }}
    />
  )
}
