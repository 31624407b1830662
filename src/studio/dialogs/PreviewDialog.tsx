'use client'
import { useEffect, useState } from 'react'
import { messageOf } from '../api'
import { pause } from '../playback'
import { makePreview, type Preview } from '../previewMovie'
import { setStudio, shotNow, useStudio } from '../store'
import { Button } from '../ui'
import { Modal } from './Modal'

/** A movie of the frames that are ready, made while one looks, to be looked at and kept or not. */
export function PreviewDialog() {
  const open = useStudio((s) => s.dialog === 'preview')
  return (
    <Modal open={open} onClose={() => setStudio({ dialog: null })} title={`Preview of ${open ? shotNow().name : ''}`} width="w-[720px]">
      {open && <Making />}
    </Modal>
  )
}
function Making() {
  const [progress, setProgress] = useState<[number, number] | null>(null)
  const [made, setMade] = useState<(Preview & { url: string }) | null>(null)
  const [problem, setProblem] = useState<string | null>(null)
  const [again, setAgain] = useState(0)
  useEffect(() => {
    void again
    const stop = new AbortController()
    let url: string | null = null
    setProblem(null)
    setMade(null)
    pause()
    makePreview((done, of) => setProgress([done, of]), stop.signal).then(
      (p) => {
        if (stop.signal.aborted) return
        url = URL.createObjectURL(p.movie)
        setMade({ ...p, url })
      },
      (error) => !stop.signal.aborted && setProblem(messageOf(error)),
    )
    return () => {
      stop.abort()
      if (url) URL.revokeObjectURL(url)
    }
  }, [again])
  if (problem)
    return (
      <div className="flex items-center gap-3">
        <p role="alert" className="text-berry">
          {problem}
        </p>
        <Button onClick={() => setAgain((n) => n + 1)}>Try again</Button>
      </div>
    )
  if (!made) {
    const [done, of] = progress ?? [0, 1]
    return (
      <div className="flex flex-col gap-2">
        <p className="text-moss">{done < of ? `Drawing ${done + 1} of ${of} f, as the View does.` : 'Making the movie.'}</p>
        <div className="h-[3px] bg-night">
          <div className="h-full bg-ember" style={{ width: `${(done / of) * 100}%` }} />
        </div>
      </div>
    )
  }
  return (
    <div className="flex flex-col gap-2">
      <video
        src={made.url}
        controls
        autoPlay
        loop
        muted
        className="w-full bg-black"
        style={{ aspectRatio: `${made.width} / ${made.height}` }}
      />
      <div className="flex items-center gap-3">
        <span className="text-moss">
          {made.frames} f, {made.width} × {made.height}, {(made.movie.size / 1048576).toFixed(1)} MB. It is not kept.
        </span>
        <span className="flex-1" />
        <a
          href={made.url}
          download={`${shotNow().name} preview.mp4`}
          className="flex h-7 items-center rounded-md border border-twig px-3 hover:bg-fern"
        >
          Save the MP4
        </a>
      </div>
    </div>
  )
}
