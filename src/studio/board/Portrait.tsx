'use client'
import { type ReactNode, useEffect, useRef } from 'react'
import type { PortraitView } from '../../protocol'
import type { ObjectDoc } from '../../shot'
import { PLAIN_2D } from '../canvas'
import { useShot, useStudio } from '../store'
import { useSize } from '../useSize'

const HEIGHT = 76
/** Drawn again this long after the last change: the View comes first. */
const AFTER_MS = 220

/** A small picture of the object as its column sees it, with a few words beside. */
export function Portrait({
  object: o,
  view,
  region,
  children,
}: {
  object: ObjectDoc
  view: PortraitView /** Of the view of a region. */
  region?: string
  children: ReactNode
}) {
  const canvas = useRef<HTMLCanvasElement>(null)
  const { width } = useSize(canvas)
  const session = useStudio((s) => s.session)
  const playing = useStudio((s) => s.playing)
  /** The View's first picture comes before it: drawing one of them took 0.8 s without a GPU. */
  const isOpen = useStudio((s) => s.drawn !== null || s.failure !== null)
  const playhead = useStudio((s) => s.playhead)
  const facts = useStudio((s) => s.facts)
  const systems = useShot((s) => s.systems)
  // biome-ignore lint/correctness/useExhaustiveDependencies: facts, playhead and systems are what the picture is made of elsewhere
  useEffect(() => {
    const c = canvas.current
    if (!c || !session || !isOpen || playing || width < 8) return
    const stop = new AbortController()
    const timer = setTimeout(async () => {
      const [w, h] = [Math.round(width * devicePixelRatio), Math.round(HEIGHT * devicePixelRatio)]
      const asked = { what: 'portrait', element: o.id, view, region: region ?? null, width: w, height: h } as const
      const settled = await session.ask(asked, stop.signal)
      if (settled.state !== 'answered') return
      const image = settled.value
      c.width = w
      c.height = h
      if (image) c.getContext('2d', PLAIN_2D)?.drawImage(image, 0, 0)
      image?.close()
    }, AFTER_MS)
    return () => {
      stop.abort()
      clearTimeout(timer)
    }
    // The playhead matters to what is keyed and to the births; shape and place in their own space do not move.
  }, [
    session,
    isOpen,
    width,
    view,
    region,
    o,
    facts,
    playing,
    view === 'shape' || (view === 'region' && !region) ? null : playhead,
    view === 'role' ? systems : null,
  ])
  return (
    <div className="relative h-[84px] shrink-0 border-bark border-b bg-night px-3 py-1">
      <canvas ref={canvas} className="h-[76px] w-[62%]" aria-hidden="true" />
      <div className="absolute top-2 right-3 max-w-[40%] text-right text-caption text-moss leading-4">{children}</div>
    </div>
  )
}
