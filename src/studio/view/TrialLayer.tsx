'use client'
import { useEffect } from 'react'
import { valueOr } from '../../protocol'
import { grouped } from '../../shot'
import { setStudio, useShot, useStudio } from '../store'
import { onScreen } from './MoveHandle'
import { type Box, useScreen } from './ParticleLayer'

/** Half a mark, px: a few are easily missed. */
const markOf = (count: number): number => (count <= 100 ? 7 : 4)

/** The turn that is tried out, while its card is open. */
export const useTrial = (): string | null => useStudio((s) => (s.trial && s.trial === s.open ? s.trial : null))

/** Marks those who would take the turn that is tried out, and keeps that up to date with the playhead and the run. */
export function TrialLayer(box: Box) {
  const session = useStudio((s) => s.session)
  const playhead = useStudio((s) => s.playhead)
  const serial = useStudio((s) => s.drawn?.serial)
  const playing = useStudio((s) => s.playing)
  const fits = useStudio((s) => s.fits)
  const turn = useTrial()
  const system = useShot((s) => s.systems.find((x) => x.phases.some((p) => p.turns.some((a) => a.id === turn)))?.id)
  const screen = useScreen(box)
  // biome-ignore lint/correctness/useExhaustiveDependencies: another picture may hold others
  useEffect(() => {
    if (!session || !turn || !system) {
      setStudio({ fits: null })
      return
    }
    if (playing) return
    const stop = new AbortController()
    void session.inquire({ what: 'fits', system, turn, frame: playhead }, stop.signal).then((a) => {
      if (a.state !== 'cancelled') setStudio({ fits: valueOr(a, null) })
    })
    return () => stop.abort()
  }, [session, turn, system, playhead, serial, playing])
  if (!turn || !fits || fits.frame !== playhead || playing) return null
  const marks: string[] = []
  const r = markOf(fits.count)
  for (let i = 0; i < fits.places.length; i += 3) {
    const p = onScreen(screen, [fits.places[i], fits.places[i + 1], fits.places[i + 2]])
    if (p) marks.push(`M${(p.x - r).toFixed(1)} ${p.y.toFixed(1)}l${r}-${r} ${r} ${r}-${r} ${r}z`)
  }
  const d = marks.join('')
  return (
    <svg
      className="pointer-events-none absolute overflow-hidden"
      style={box}
      role="img"
      aria-label={`${grouped(fits.count)} particles that would turn`}
      data-testid="fits"
    >
      <path d={d} fill="none" stroke="black" strokeOpacity={0.8} strokeWidth={4.5} />
      <path d={d} fill="none" className="stroke-mist" strokeWidth={2} />
    </svg>
  )
}
