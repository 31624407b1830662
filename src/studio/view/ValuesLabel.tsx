'use client'
import { useEffect, useState } from 'react'
import { type PixelLight, valueOr } from '../../protocol'
import { useStudio } from '../store'

/** Asked again at most so often while the pointer moves, ms. */
const EVERY_MS = 90
const number = (v: number): string => (Math.abs(v) >= 100 ? v.toFixed(0) : v.toFixed(Math.abs(v) >= 10 ? 1 : 3))
const channels = (light: number[]): string => light.slice(0, 3).map(number).join(' ')
/** Stops over or under white of its brightest channel. */
const stops = (light: number[]): string => {
  const most = Math.max(light[0], light[1], light[2])
  if (most <= 0) return 'black'
  const s = Math.log2(most)
  return `${s >= 0 ? '+' : '−'}${Math.abs(s).toFixed(1)} stops`
}
/** Linear light under the pointer, while what the screen cuts off is marked. */
export function ValuesLabel() {
  const on = useStudio((s) => s.marks)
  const playing = useStudio((s) => s.playing)
  const session = useStudio((s) => s.session)
  const [light, setLight] = useState<PixelLight | null>(null)
  useEffect(() => {
    setLight(null)
    if (!on || !session || playing) return
    const stop = new AbortController()
    let asked = 0
    let coming: ReturnType<typeof setTimeout> | null = null
    let at: [number, number] | null = null
    const ask = async () => {
      coming = null
      asked = performance.now()
      if (!at) return
      const settled = await session.ask({ what: 'values', x: at[0], y: at[1] }, stop.signal)
      if (!stop.signal.aborted) setLight(valueOr(settled, null))
    }
    const move = (e: globalThis.PointerEvent) => {
      const r = document.querySelector('[data-testid="stage"]')?.getBoundingClientRect()
      if (!r) return
      const [x, y] = [((e.clientX - r.left) / r.width) * 2 - 1, 1 - ((e.clientY - r.top) / r.height) * 2]
      const inside = Math.abs(x) <= 1 && Math.abs(y) <= 1
      at = inside ? [x, y] : null
      if (!inside) setLight(null)
      else coming ??= setTimeout(() => void ask(), Math.max(0, asked + EVERY_MS - performance.now()))
    }
    window.addEventListener('pointermove', move)
    return () => {
      stop.abort()
      if (coming) clearTimeout(coming)
      window.removeEventListener('pointermove', move)
    }
  }, [on, playing, session])
  if (!on || !light) return null
  return (
    <div
      className="live pointer-events-none absolute bottom-12 left-3 rounded-md bg-night/85 px-2 py-1 text-caption leading-5"
      role="status"
      aria-label="Light under the pointer"
    >
      <div>
        <span className="text-moss">light</span> {channels(light.after)}, {stops(light.after)}
      </div>
      <div className="text-moss">before finishes {channels(light.before)}</div>
    </div>
  )
}
