'use client'
import { type PointerEvent, useEffect, useRef, useState } from 'react'
import { type Region, valueOr } from '../../protocol'
import { useStudio } from '../store'

/** Pixels across of the small picture that the part is drawn on. */
const WIDTH = 240
const even = (n: number): number => Math.round(n / 2) * 2

/** The part of the picture that is rendered: all of it, or a rectangle that is drawn on the present frame. */
export function RegionRow({
  size,
  region,
  onChange,
}: {
  size: { width: number; height: number }
  region: Region | null
  onChange: (region: Region | null) => void
}) {
  const session = useStudio((s) => s.session)
  const [open, setOpen] = useState(region !== null)
  const [url, setUrl] = useState<string | null>(null)
  const from = useRef<[number, number] | null>(null)
  const height = Math.round((WIDTH * size.height) / size.width)
  useEffect(() => {
    if (!open || !session) return
    let made: string | null = null
    let gone = false
    void session.ask({ what: 'picture', width: WIDTH * 2, height: height * 2 }).then((settled) => {
      const jpeg = valueOr(settled, null)
      if (!jpeg || gone) return
      made = URL.createObjectURL(jpeg)
      setUrl(made)
    })
    return () => {
      gone = true
      if (made) URL.revokeObjectURL(made)
    }
  }, [open, session, height])
  const k = size.width / WIDTH
  const at = (e: PointerEvent): [number, number] => {
    const r = e.currentTarget.getBoundingClientRect()
    return [Math.min(WIDTH, Math.max(0, e.clientX - r.left)), Math.min(height, Math.max(0, e.clientY - r.top))]
  }
  const draw = (e: PointerEvent) => {
    if (!from.current) return
    const [x, y] = at(e)
    const [left, right] = [from.current[0], x].sort((a, b) => a - b).map((v) => Math.min(size.width, even(v * k)))
    const [top, bottom] = [from.current[1], y].sort((a, b) => a - b).map((v) => Math.min(size.height, even(v * k)))
    if (right - left >= 16 && bottom - top >= 16) onChange({ left, top, width: right - left, height: bottom - top })
  }
  const button = (name: string, on: boolean, act: () => void) => (
    <button
      type="button"
      aria-pressed={on}
      className={`h-6 shrink-0 whitespace-nowrap rounded-md border px-2 ${on ? 'border-mist bg-fern' : 'border-twig text-moss hover:text-mist'}`}
      onClick={act}
    >
      {name}
    </button>
  )
  return (
    <div className="flex items-start gap-2">
      <span className="w-24 shrink-0 pt-1 text-moss">Part</span>
      <div className="flex flex-col gap-1.5">
        <div className="flex items-center gap-2">
          {button('All of it', !open, () => {
            setOpen(false)
            onChange(null)
          })}
          {button('A rectangle', open, () => setOpen(true))}
          {open && (
            <span className="live whitespace-nowrap text-moss">
              {region ? `${region.width} × ${region.height} at ${region.left}, ${region.top}` : 'draw it below'}
            </span>
          )}
        </div>
        {open && (
          <div
            role="img"
            aria-label="Part of the picture"
            className="relative cursor-crosshair touch-none select-none overflow-hidden bg-night bg-cover"
            style={{ width: WIDTH, height, backgroundImage: url ? `url(${url})` : undefined }}
            onPointerDown={(e) => {
              e.currentTarget.setPointerCapture(e.pointerId)
              from.current = at(e)
            }}
            onPointerMove={draw}
            onPointerUp={(e) => {
              draw(e)
              from.current = null
            }}
          >
            {region && (
              <div
                className="pointer-events-none absolute border border-ember shadow-[0_0_0_999px_rgba(10,14,12,0.6)]"
                style={{ left: region.left / k, top: region.top / k, width: region.width / k, height: region.height / k }}
              />
            )}
          </div>
        )}
      </div>
    </div>
  )
}
