'use client'
import { type PointerEvent, useState } from 'react'
import type { Job } from '../api'
import { useJobs } from '../board/RendersTab'
import { setStudio, useStudio } from '../store'
import { Select } from '../ui'
import { Modal } from './Modal'

const nameOf = (j: Job) => `${new Date(j.created).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' })}, ${j.done} f`
const pictureOf = (j: Job, frame: number) => `/api/jobs/${j.id}/files/${String(frame).padStart(4, '0')}.png`

/** Two renders of a shot over each other, parted by a line that is dragged. */
export function CompareDialog() {
  const compared = useStudio((s) => s.compared)
  const close = () => setStudio({ compared: null })
  return (
    <Modal open={compared !== null} onClose={close} title="Compare renders" width="w-[860px]">
      {compared !== null && <Wipe first={compared} />}
    </Modal>
  )
}
function Wipe({ first }: { first: string }) {
  const id = useStudio((s) => s.id)
  const { jobs, problem } = useJobs(id)
  const [other, setOther] = useState<string | null>(null)
  const [frame, setFrame] = useState<number | null>(null)
  const [at, setAt] = useState(0.5)
  const a = jobs.find((j) => j.id === first)
  const shared = (j: Job) => a?.frames.filter((f) => j.frames.includes(f)) ?? []
  const others = jobs.filter((j) => j.id !== first && shared(j).length > 0)
  const b = others.find((j) => j.id === other) ?? others[0]
  if (problem) return <p className="text-amber">The list cannot be read: {problem}.</p>
  if (!a) return <p className="text-moss">Reading the renders …</p>
  if (!b) return <p className="text-moss">No other render of this shot has a frame that this one has. Render it again, and compare then.</p>
  const frames = shared(b)
  const now = frame !== null && frames.includes(frame) ? frame : frames[Math.floor(frames.length / 2)]
  const drag = (e: PointerEvent) => {
    if (e.type === 'pointermove' && e.buttons === 0) return
    const r = e.currentTarget.getBoundingClientRect()
    setAt(Math.min(1, Math.max(0, (e.clientX - r.left) / r.width)))
  }
  return (
    <div className="flex flex-col gap-2">
      <div className="flex items-center gap-2">
        <span className="min-w-0 flex-1 truncate">Left: {nameOf(a)}</span>
        <span className="text-moss">Right:</span>
        <span className="w-72 shrink-0">
          <Select
            label="The other render"
            value={b.id}
            options={others.map((j) => ({ value: j.id, label: nameOf(j) }))}
            onChange={setOther}
          />
        </span>
      </div>
      <div
        className="relative touch-none select-none overflow-hidden bg-black"
        style={{ aspectRatio: `${a.settings.width} / ${a.settings.height}` }}
        onPointerDown={(e) => {
          e.currentTarget.setPointerCapture(e.pointerId)
          drag(e)
        }}
        onPointerMove={drag}
      >
        <img
          src={pictureOf(b, now)}
          alt={`Frame ${now} of the other render`}
          draggable={false}
          className="absolute inset-0 h-full w-full"
        />
        <img
          src={pictureOf(a, now)}
          alt={`Frame ${now} of this render`}
          draggable={false}
          className="absolute inset-0 h-full w-full"
          style={{ clipPath: `inset(0 ${(1 - at) * 100}% 0 0)` }}
        />
        <div className="absolute inset-y-0 w-px bg-mist" style={{ left: `${at * 100}%` }} />
        <input
          type="range"
          aria-label="Where the renders meet"
          min={0}
          max={100}
          value={Math.round(at * 100)}
          className="sr-only"
          onChange={(e) => setAt(Number(e.target.value) / 100)}
        />
      </div>
      <label className="flex items-center gap-2">
        <span className="w-24 text-moss">Frame {now}</span>
        <input
          type="range"
          aria-label="Frame"
          className="flex-1 accent-[var(--color-mist)]"
          min={0}
          max={frames.length - 1}
          value={frames.indexOf(now)}
          onChange={(e) => setFrame(frames[Number(e.target.value)])}
        />
        <span className="text-moss">{frames.length} f in both</span>
      </label>
    </div>
  )
}
