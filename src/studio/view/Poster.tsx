'use client'
import { useEffect, useState } from 'react'
import { cx } from '../ui'

/** Shots that have no picture yet: the page that loads asks first, and the View need not ask again. */
const without = new Set<string>()
/** A shot has been given one. */
export const notePicture = (id: string): void => void without.delete(id)

/** The last stored picture of a shot, shown until its first frame is drawn; nothing where there is none yet. */
export function Poster({ id, className, onMissing }: { id: string; className?: string; onMissing?: () => void }) {
  const [missing, setMissing] = useState(without.has(id))
  useEffect(() => {
    if (!missing) return
    without.add(id)
    onMissing?.()
  }, [missing, onMissing, id])
  if (missing || !id) return null
  return (
    <img
      src={`/api/shots/${id}/picture`}
      alt="The shot when it was last open"
      data-testid="poster"
      className={cx('pointer-events-none absolute inset-0 h-full w-full object-contain', className)}
      onError={() => setMissing(true)}
      // It may have failed before React took the page over.
      ref={(image) => {
        if (image?.complete && !image.naturalWidth) setMissing(true)
      }}
    />
  )
}
