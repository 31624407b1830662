'use client'
import { Crosshair } from 'lucide-react'
import { grouped } from '../../shot'
import { setStudio, useStudio } from '../store'
import { Button } from '../ui'

/** Marks in the View who would take a turn now, and says how many. */
export function TryTurn({ turn }: { turn: string }) {
  const on = useStudio((s) => s.trial === turn)
  const fits = useStudio((s) => (s.trial === turn ? s.fits : null))
  const playing = useStudio((s) => s.playing)
  return (
    <div className="mt-1 flex flex-wrap items-center gap-2 border-bark border-t pt-1.5">
      <Button className="h-6! px-2!" aria-pressed={on} onClick={() => setStudio({ trial: on ? null : turn, fits: null })}>
        <Crosshair size={14} strokeWidth={1.5} /> {on ? 'Stop trying' : 'Try it'}
      </Button>
      <span className="text-moss" data-testid="tried">
        {!on
          ? 'Marks in the View who would take it next.'
          : playing
            ? 'Stop playing to see who would take it.'
            : fits
              ? `${grouped(fits.count)} of ${grouped(fits.alive)} would take it in the next frame, were it the only turn.`
              : 'Trying …'}
      </span>
    </div>
  )
}
