'use client'
import { useEffect, useRef, useState } from 'react'
import { setStudio, useShot, useStudio } from '../store'
import { fetchPicture, isAsOpened, isWhole, keepSoon, nameNow, noteKnown } from './keptPicture'

/**
 * The exact picture of an earlier opening at this size, over the canvas until the stage has drawn its own, or somebody does something that
 * shows another one. Keeps one where there is none.
 */
export function KeptPicture({ over }: { over: { left: number; top: number; width: number; height: number } }) {
  const shot = useShot((s) => s)
  const bakes = useStudio((s) => s.bakes)
  const build = useStudio((s) => s.build)
  const asOpened = useStudio(isAsOpened)
  const whole = useStudio(isWhole)
  const kept = useStudio((s) => s.kept)
  const began = useRef(performance.now())
  const [width, height] = [Math.round(over.width * devicePixelRatio), Math.round(over.height * devicePixelRatio)]
  /** The stage has been asked for something else: what is kept is not looked for any more. */
  const [past, setPast] = useState(false)
  useEffect(() => {
    if (whole || !asOpened) setPast(true)
  }, [whole, asOpened])
  // biome-ignore lint/correctness/useExhaustiveDependencies: the name is that of this shot, of these bakes and of this build
  useEffect(() => {
    if (past) return
    const stop = new AbortController()
    let url: string | null = null
    const look = async () => {
      const name = await nameNow([width, height])
      const found = name && !stop.signal.aborted && (await fetchPicture(name, stop.signal))
      if (!found || stop.signal.aborted) return
      noteKnown(name)
      url = URL.createObjectURL(found)
      setStudio({ kept: url })
    }
    void look().catch(() => {})
    return () => {
      stop.abort()
      if (!url) return
      URL.revokeObjectURL(url)
      setStudio({ kept: null })
    }
  }, [past, shot, bakes, build, width, height])
  // biome-ignore lint/correctness/useExhaustiveDependencies: as above
  useEffect(() => {
    if (!whole || !asOpened) return
    let stop = () => {}
    let gone = false
    void nameNow([width, height])?.then((name) => {
      if (!gone) stop = keepSoon(name, began.current)
    })
    return () => {
      gone = true
      stop()
    }
  }, [whole, asOpened, shot, bakes, build, width, height])
  if (!kept || past) return null
  return (
    <img
      src={kept}
      alt="The shot as it opens"
      data-testid="kept"
      className="pointer-events-none absolute"
      style={over}
      onLoad={() => performance.mark('ember-kept')}
    />
  )
}
