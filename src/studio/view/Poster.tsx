'use client'
import { useEffect, useState } from 'react'
import { cx } from '../ui'

/** The last stored picture of a shot, shown until its first frame is drawn; nothing where there is none yet. */
export function Poster({ id, className, onMissing }: { id: string; className?: string; onMissing?: () => void }) {
  const [missing, setMissing] = useState(false)
  useEffect(() => {
    if (missing) onMissing?.()
  }, [missing, onMissing])
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
