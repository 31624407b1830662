'use client'
import { useEffect } from 'react'
import { valueOr } from '../../protocol'
import { setStudio, useStudio } from '../store'

/** Keeps what is known of the picked particle up to date with the playhead and the run. */
export function useKnown(): void {
  const session = useStudio((s) => s.session)
  const particle = useStudio((s) => s.particle)
  const playhead = useStudio((s) => s.playhead)
  const serial = useStudio((s) => s.drawn?.serial)
  const beads = useStudio((s) => s.status?.beads)
  const playing = useStudio((s) => s.playing)
  // biome-ignore lint/correctness/useExhaustiveDependencies: another picture or other frames may hold other values
  useEffect(() => {
    if (!session || !particle) {
      setStudio({ known: null })
      return
    }
    if (playing) return
    const stop = new AbortController()
    void session.inquire({ what: 'particle', ...particle, frame: playhead }, stop.signal).then((a) => {
      if (a.state !== 'cancelled') setStudio({ known: valueOr(a, null) })
    })
    return () => stop.abort()
  }, [session, particle, playhead, serial, beads, playing])
}
