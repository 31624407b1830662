'use client'
import { Eye } from 'lucide-react'
import { type PointerEvent, useEffect, useRef, useState, type WheelEvent } from 'react'
import { valueOr, whyUnanswered } from '../../protocol'
import { axesOf } from '../../stage/camera'
import { importFiles } from '../importing'
import { changeSent, changeTaken, frameShown, framesStale, pictureDrawn, resetRun, statusReported } from '../playback'
import { Session, type SessionEvents } from '../session'
import { select, setStudio, shotNow, studio, useShot, useStudio } from '../store'
import { toast } from '../toast'
import { IconButton } from '../ui'
import { useSize } from '../useSize'
import { BrushLayer } from './BrushLayer'
import { DrawLayer } from './DrawLayer'
import { FieldLayer } from './FieldLayer'
import { dragged, poseNow, wheeled } from './frame'
import { GasLayer } from './GasLayer'
import { Handles } from './Handles'
import { KeptPicture } from './KeptPicture'
import { CameraLabel, FieldButton, Lost, PickingLabel, QualityLabel, Rate, RehearsalLabel, ViewOnly } from './labels'
import { MaskLayer } from './MaskLayer'
import { MeasureLayer, SafeFrame } from './MeasureLayer'
import { NextStep } from './NextStep'
import { ParticleLayer } from './ParticleLayer'
import { Poster } from './Poster'
import { SecondView } from './SecondView'
import { TrialLayer } from './TrialLayer'
import { ValuesLabel } from './ValuesLabel'

const PAD = 4
/** Where there is no picture of before and the first frame takes longer than this, the objects are shown without it. */
const OBJECTS_AFTER_MS = 1000

/** The picture: the stage's canvas, the labels in its neutral surround, the handles over it. */
export function ViewPanel({ connect }: { connect: (s: Session | null) => void }) {
  const size = useShot((s) => s.size)
  const holder = useRef<HTMLDivElement>(null)
  const canvasBox = useRef<HTMLDivElement>(null)
  const area = useSize(holder)
  const pose = useStudio((s) => s.pose)
  const session = useStudio((s) => s.session)
  const overlays = useStudio((s) => s.overlays)
  const second = useStudio((s) => s.second !== null)
  const marks = useStudio((s) => s.marks)
  const marked = useRef(false)
  useEffect(() => {
    if (session && marks !== marked.current) session.marks(marks)
    marked.current = marks
  }, [session, marks])
  const gesture = useRef<{ kind: 'orbit' | 'pan'; x: number; y: number; moved: boolean } | null>(null)
  const [dropping, setDropping] = useState(false)

  const aspect = size.width / size.height
  const fit = Math.max(0.001, Math.min((area.width - PAD * 2) / size.width, (area.height - PAD * 2) / size.height))
  const w = Math.round(size.width * fit)
  const h = Math.round(size.height * fit)

  useEffect(() => {
    const box = canvasBox.current
    if (!box) return
    resetRun()
    const made = new Session(handlers)
    const { canvas } = made
    canvas.className = 'h-full w-full block'
    canvas.dataset.testid = 'stage'
    box.append(canvas)
    connect(made)
    return () => {
      connect(null)
      made.dispose()
      canvas.remove()
    }
  }, [connect])
  useEffect(() => {
    if (session && w > 1 && h > 1) session.view(pose, Math.round(w * devicePixelRatio), Math.round(h * devicePixelRatio))
  }, [session, pose, w, h])

  const region = useStudio((s) => s.region)
  const brush = useStudio((s) => s.brush)
  const drawing = useStudio((s) => s.drawing)
  const drawn = useStudio((s) => s.drawn !== null)
  const failed = useStudio((s) => s.failure !== null)
  const id = useStudio((s) => s.id)
  const posterless = useStudio((s) => s.posterless)
  useEffect(() => {
    if (!session || !posterless || drawn) return
    const timer = setTimeout(() => session.objectsFirst(), OBJECTS_AFTER_MS)
    return () => clearTimeout(timer)
  }, [session, posterless, drawn])
  /** Where the picture lies in the panel. */
  const over = { left: Math.round((area.width - w) / 2), top: Math.round((area.height - h) / 2), width: w, height: h }
  useEffect(() => {
    session?.region(region?.object ?? null, region?.id ?? null)
  }, [session, region])

  const down = (e: PointerEvent) => {
    // A menu of a button lies elsewhere in the page, and its events come here all the same.
    if (!e.currentTarget.contains(e.target as Node)) return
    // A button takes its click itself; captured, it would go to the View.
    if ((e.button === 0 && (e.target as Element).closest('[data-handle]')) || (e.target as Element).closest('button')) return
    e.currentTarget.setPointerCapture(e.pointerId)
    gesture.current = { kind: e.button === 1 || e.shiftKey || e.button === 2 ? 'pan' : 'orbit', x: e.clientX, y: e.clientY, moved: false }
  }
  const move = (e: PointerEvent) => {
    const g = gesture.current
    if (!g) return
    const dx = e.clientX - g.x
    const dy = e.clientY - g.y
    if (!g.moved && Math.hypot(dx, dy) < 4) return
    if (!g.moved) session?.moving(true)
    g.moved = true
    g.x = e.clientX
    g.y = e.clientY
    setStudio({ pose: dragged(poseNow(), g.kind, dx, dy, w, h) })
  }
  const up = async (e: PointerEvent) => {
    const g = gesture.current
    gesture.current = null
    if (!g) return
    if (g.moved) {
      if (!studio().playing) session?.moving(false)
      return
    }
    if (e.button !== 0) return
    const r = (canvasBox.current as HTMLDivElement).getBoundingClientRect()
    const x = ((e.clientX - r.left) / r.width) * 2 - 1
    const y = 1 - ((e.clientY - r.top) / r.height) * 2
    if (Math.abs(x) > 1 || Math.abs(y) > 1) return
    if (studio().choosing) {
      const p = poseNow()
      const found = await session?.inquire({
        what: 'pick',
        frame: studio().playhead,
        eye: { place: p.place, lens: p.lens, ...axesOf(p) },
        aspect,
        x: x + (p.shift?.[0] ?? 0),
        y: y + (p.shift?.[1] ?? 0),
        within: 24 / w,
        systems: shotNow().systems.map((s) => s.id),
      })
      const particle = found && valueOr(found, null)
      if (particle) setStudio({ particle, choosing: false, tab: 'particle', folded: false })
      else toast((found && whyUnanswered(found)) ?? 'No particle is near enough; click closer to one.', true)
      return
    }
    const settled = await session?.ask({ what: 'pick', x, y })
    const hit = settled ? valueOr(settled, null) : null
    const { measure } = studio()
    if (measure && measure.length < 2) {
      const met = hit && (await session?.ask({ what: 'brush', element: hit, x, y }))
      const at = met ? valueOr(met, null)?.at : null
      if (at) setStudio({ measure: [...measure, at] })
      else toast('There is no object here to measure from; click one, or press Esc.', true)
      return
    }
    const { picking } = studio()
    if (!picking) {
      select(hit)
      return
    }
    const wrong = hit ? picking.take(hit) : 'there is nothing here'
    if (wrong) toast(`${wrong[0].toUpperCase()}${wrong.slice(1)}; click another place, or press Esc.`, true)
    else setStudio({ picking: null })
  }
  const wheel = (e: WheelEvent) => e.currentTarget.contains(e.target as Node) && setStudio({ pose: wheeled(poseNow(), e.deltaY) })

  const view = (
    <section
      ref={holder}
      aria-label="View"
      className="relative min-h-0 min-w-0 flex-1 touch-none overflow-hidden bg-surround select-none"
      onPointerDown={down}
      onPointerMove={move}
      onPointerUp={(e) => void up(e)}
      onPointerCancel={() => void (gesture.current = null)}
      onWheel={wheel}
      onContextMenu={(e) => e.preventDefault()}
      onDragOver={(e) => {
        if (!e.dataTransfer.types.includes('Files')) return
        e.preventDefault()
        setDropping(true)
      }}
      onDragLeave={() => setDropping(false)}
      onDrop={(e) => {
        e.preventDefault()
        setDropping(false)
        void importFiles([...e.dataTransfer.files])
      }}
    >
      <div
        ref={canvasBox}
        className="absolute bg-black"
        style={{ left: Math.round((area.width - w) / 2), top: Math.round((area.height - h) / 2), width: w, height: h }}
      />
      {!drawn && !failed && (
        <div className="pointer-events-none absolute overflow-hidden" style={over}>
          <Poster id={id} onMissing={() => setStudio({ posterless: true })} />
        </div>
      )}
      {w > 1 && <KeptPicture over={over} />}
      {overlays && !brush && !drawing && w > 1 && <Handles {...over} aspect={aspect} />}
      {w > 1 && <FieldLayer {...over} />}
      {w > 1 && <GasLayer {...over} />}
      {w > 1 && <ParticleLayer {...over} />}
      {w > 1 && <TrialLayer {...over} />}
      {w > 1 && <BrushLayer {...over} />}
      {w > 1 && <DrawLayer {...over} />}
      {w > 1 && <MaskLayer {...over} aspect={aspect} />}
      {w > 1 && <SafeFrame {...over} />}
      {w > 1 && <MeasureLayer {...over} aspect={aspect} />}
      <ValuesLabel />
      <CameraLabel fit={fit} />
      <div className="absolute top-2 right-2 flex gap-1">
        <IconButton name="Handles and labels" keys="H" on={overlays} onClick={() => setStudio({ overlays: !overlays })}>
          <Eye size={15} strokeWidth={1.5} />
        </IconButton>
        <FieldButton />
        <ViewOnly />
      </div>
      {overlays && !second && (
        <div className="pointer-events-none absolute bottom-2 left-3 text-moss leading-5">
          {size.width} × {size.height}
          <br />
          <Rate /> frames/s
        </div>
      )}
      <NextStep />
      <PickingLabel />
      <RehearsalLabel />
      <QualityLabel room={Math.max(132, (area.width - w) / 2 - 20, (area.height - h) / 2 > 28 ? area.width / 2 : 0)} />
      <Lost />
      {dropping && (
        <div className="pointer-events-none absolute inset-2 grid place-items-center rounded-md border border-mist border-dashed bg-night/70 text-subtitle">
          Drop a mesh, a drawing, a picture, a video, light all around (HDR, EXR), a font or a table of a camera, to bring it in
        </div>
      )}
    </section>
  )
  return (
    <div className="flex min-h-0 flex-1">
      {view}
      {second && session && <SecondView session={session} />}
    </div>
  )
}
const handlers: SessionEvents = {
  revised: (revision) => setStudio({ revision }),
  touched: changeSent,
  sim(m) {
    switch (m.type) {
      case 'ready':
        studio().session?.mayStop(m.memory)
        setStudio({ threads: { count: m.threads, why: m.why } })
        return
      case 'status':
        return statusReported(m.status)
      case 'shown':
        return frameShown(m)
      case 'stale':
        return framesStale(m.serial)
      case 'beside':
        setStudio({ bakeBeside: m })
        return
      case 'taken':
        return changeTaken(m.change)
      case 'assets':
        setStudio({ facts: { ...studio().facts, ...Object.fromEntries(m.facts) } })
        return
      case 'failed':
        setStudio({ failure: m.message })
    }
  },
  stage(m) {
    switch (m.type) {
      case 'drawn':
        return pictureDrawn(m)
      case 'ready':
        return setStudio({ software: m.software, build: m.build })
      case 'context':
        return setStudio({ contextLost: m.lost })
      case 'failed':
        return setStudio({ failure: m.message })
    }
  },
}
