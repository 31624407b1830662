'use client'
import { fromHex, toHex, type Vec3 } from '../../shot'
import { cx } from '../ui'

export function ColourField({
  label,
  value,
  onChange,
  bare,
}: {
  label: string
  value: Vec3
  onChange: (c: Vec3, gesture: string | null) => void /** Only the swatch. */
  bare?: boolean
}) {
  const scale = Math.max(1, ...value)
  return (
    <span className="flex h-6 w-full min-w-0 items-center gap-1.5">
      <input
        type="color"
        aria-label={label}
        value={toHex(value.map((v) => v / scale) as Vec3)}
        onChange={(e) => {
          const c = fromHex(e.target.value)
          if (c) onChange(c.map((v) => v * scale) as Vec3, `colour-${label}`)
        }}
        className={cx('h-6 shrink-0 rounded-md border border-twig bg-night p-0.5', bare ? 'w-full' : 'w-12')}
      />
      {!bare && (
        <span className="truncate text-moss">
          {toHex(value.map((v) => v / scale) as Vec3)}
          {scale > 1 && ` × ${scale.toFixed(1)}`}
        </span>
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
