'use client'
import { Pipette } from 'lucide-react'
import { useState } from 'react'
import { fromHex, toHex, type Vec3 } from '../../shot'
import { toast } from '../toast'
import { cx, IconButton } from '../ui'
import { COLOUR_HELP, parseColour, showColour } from './colours'

/** What the browser lends to pick a colour off the screen; not all do. */
interface EyeDropperLike {
  open(): Promise<{ sRGBHex: string }>
}
/** A swatch, and the colour in words: hexadecimal, sRGB, linear, HSL or kelvin. */
export function ColourField({
  label,
  value,
  onChange,
  narrow,
}: {
  label: string
  value: Vec3
  /** Where there is no room for picking one off the screen. */
  narrow?: boolean
  onChange: (c: Vec3, gesture: string | null) => void
}) {
  const [typed, setTyped] = useState<string | null>(null)
  const scale = Math.max(1, ...value)
  const take = (text: string) => {
    setTyped(null)
    if (text.trim() === showColour(value)) return
    const c = parseColour(text)
    if (c) onChange(c, null)
    else toast(`“${text.trim()}” is no colour. ${COLOUR_HELP}`, true)
  }
  const Dropper = (globalThis as { EyeDropper?: new () => EyeDropperLike }).EyeDropper
  const pick = async () => {
    if (!Dropper) return
    try {
      const c = fromHex((await new Dropper().open()).sRGBHex)
      if (c) onChange(c.map((v) => v * scale) as Vec3, null)
    } catch {
      // Left with Escape.
    }
  }
  return (
    <span className="flex h-6 w-full min-w-0 items-center gap-0.5">
      <input
        type="color"
        aria-label={label}
        value={toHex(value.map((v) => v / scale) as Vec3)}
        onChange={(e) => {
          const c = fromHex(e.target.value)
          if (c) onChange(c.map((v) => v * scale) as Vec3, `colour-${label}`)
        }}
        className="h-6 w-7 shrink-0 rounded-md border border-twig bg-night p-0.5"
      />
      <input
        type="text"
        aria-label={`${label} in words`}
        title={COLOUR_HELP}
        value={typed ?? showColour(value)}
        spellCheck={false}
        onFocus={(e) => e.target.select()}
        onChange={(e) => setTyped(e.target.value)}
        onBlur={(e) => take(e.target.value)}
        onKeyDown={(e) => {
          e.stopPropagation()
          if (e.key === 'Enter') e.currentTarget.blur()
          if (e.key === 'Escape') setTyped(null)
        }}
        className="h-6 w-full min-w-0 rounded-md border border-transparent bg-transparent px-0.5 text-mist outline-none hover:border-twig focus:border-twig focus:bg-night"
      />
      {Dropper && !narrow && (
        <IconButton name={`${label} off the screen`} onClick={() => void pick()}>
          <Pipette size={13} strokeWidth={1.5} />
        </IconButton>
      )}
    </span>
  )
}
export function SwitchField({ label, on, onChange }: { label: string; on: boolean; onChange: (on: boolean) => void }) {
  return (
    <button
      type="button"
      role="switch"
      aria-checked={on}
      aria-label={label}
      onClick={() => onChange(!on)}
      className="flex h-6 items-center gap-2"
    >
      <span className={cx('relative h-3.5 w-6 rounded-full border', on ? 'border-mist bg-mist' : 'border-twig')}>
        <span className={cx('absolute top-[1px] size-2.5 rounded-full', on ? 'right-[1px] bg-night' : 'left-[1px] bg-twig')} />
      </span>
      <span className="text-mist">{on ? 'yes' : 'no'}</span>
    </button>
  )
}
