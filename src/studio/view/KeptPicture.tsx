'use client'
import { useEffect, useRef, useState } from 'react'
import { setStudio, useShot, useStudio } from '../store'
import { fetchPicture, isAsOpened, isWhole, keepSoon, noteKnown, pictureName } from './keptPicture'

/**
 * The exact picture of an earlier opening at this size, over the canvas until the stage has drawn its own, or somebody does something that
 * shows another one. Keeps one where there is none.
 */
export function KeptPicture({ over }: { over: { left: number; top: number; width: number; height: number } }) {
  const shot = useShot((s) => s)
  const bakes = useStudio((s) => s.bakes)
  const build = useStudio((s) => s.build)
  const software = useStudio((s) => s.software)
  const asOpened = useStudio(isAsOpened)
  const whole = useStudio(isWhole)
  const kept = useStudio((s) => s.kept)
  const began = useRef(performance.now())
  const [width, height] = [Math.round(over.width * devicePixelRatio), Math.round(over.height * devicePixelRatio)]
  /** Of the picture; null until it is known what draws it. */
  const [name, setName] = useState<string | null>(null)
  useEffect(() => {
    if (!build) return
    let gone = false
    void pictureName(shot, bakes, { build, software }, [width, height]).then((n) => !gone && setName(n))
    return () => {
      gone = true
      setName(null)
    }
  }, [shot, bakes, build, software, width, height])
  /** The stage has been asked for something else, or is done: what is kept is not looked for any more. */
  const [past, setPast] = useState(false)
  useEffect(() => {
    if (whole || !asOpened) setPast(true)
  }, [whole, asOpened])
  useEffect(() => {
    if (past || !name) return
    const stop = new AbortController()
    let url: string | null = null
    const look = async () => {
      const found = await fetchPicture(name, stop.signal)
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
  }, [past, name])
  useEffect(() => {
    if (whole && asOpened && name) return keepSoon(name, began.current)
  }, [whole, asOpened, name])
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
