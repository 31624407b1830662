'use client'
import { useEffect, useState } from 'react'
import type { Shot } from '../../shot'
import { addSystem, chooseFiles } from '../commands'
import { play } from '../playback'
import { useShot, useStudio } from '../store'

const BOX = 'absolute inset-x-0 top-[16%] mx-auto w-fit max-w-[80%] rounded-md bg-surround/80 px-4 py-3 text-center'
const BUTTON = 'rounded-md border border-twig bg-night px-2.5 py-1 hover:border-moss hover:bg-fern'

/** What to do next in a shot without particles; gone as soon as there is a system or a gas, or something grows on an object or follows it. */
export function NextStep() {
  const empty = useShot((s) => s.systems.length === 0 && s.gases.length === 0 && s.objects.every((o) => !o.offspring.length))
  const begins = useShot(beginsWithNothing)
  if (begins) return <Unborn />
  if (!empty) return null
  return (
    <div className={BOX} data-handle="next">
      <p className="mb-2 text-moss">No particles yet. Add a system, or import the object they should come from.</p>
      <p className="flex justify-center gap-2">
        <button type="button" className={BUTTON} onClick={() => addSystem()}>
          Add a system
        </button>
        <button type="button" className={BUTTON} onClick={chooseFiles}>
          Import a file …
        </button>
      </p>
    </div>
  )
}
/** Whether only particles and gases can be seen that begin with the shot itself: nothing was before it, grows, or comes from files. */
const beginsWithNothing = (s: Shot): boolean =>
  s.systems.length + s.gases.length > 0 &&
  s.warm === 0 &&
  s.objects.every((o) => !o.offspring.length) &&
  s.gases.every((g) => g.feeds.every((f) => f.kind !== 'fromFile'))

/** At the first frame of such a shot there is nothing to see: it says so, until somebody has gone on from there. */
function Unborn() {
  const first = useShot((s) => s.range.first)
  const [gone, setGone] = useState(false)
  const there = useStudio((s) => !s.playing && s.playhead === first && s.drawn?.frame === first && s.drawn.ready)
  const left = useStudio((s) => s.playing || s.playhead !== first)
  // Then the View has other words there, or is to have none.
  const busy = useStudio((s) => !!(s.picking || s.drawing || s.outlining || s.choosing) || !s.overlays)
  const alive = useStudio((s) => Object.values(s.stats).some((x) => x.alive > 0))
  useEffect(() => {
    if (left) setGone(true)
  }, [left])
  if (gone || !there || alive || busy) return null
  return (
    // At the edge, out of the way of handles.
    <p
      className="pointer-events-none absolute inset-x-0 top-1 mx-auto flex w-fit items-center gap-3 rounded-md bg-surround/80 py-1 pr-1 pl-3 text-moss"
      data-handle="next"
    >
      Nothing is born yet at {first} f.
      <button type="button" className={`pointer-events-auto text-mist ${BUTTON}`} onClick={play}>
        Play
      </button>
    </p>
  )
}
