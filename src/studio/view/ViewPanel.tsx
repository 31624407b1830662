'use client'
import { Camera, ChevronDown, CircleCheck, Eye, Gauge, Maximize2, Minimize2 } from 'lucide-react'
import { DropdownMenu } from 'radix-ui'
import { type PointerEvent, useEffect, useLayoutEffect, useRef, useState, type WheelEvent } from 'react'
import { findElement } from '../../shot'
import { importFiles } from '../importing'
import { orbit, pan, zoom } from '../../stage/camera'
import { drawn, forgetStale, shownFrame, stale, taken, tellStatus, touched } from '../player'
import { Session, type SessionEvents } from '../session'
import { edit, select, setStudio, studio, useShot, useStudio } from '../store'
import { IconButton, menuContent, menuItem } from '../ui'
import { frameSelection, poseNow } from './frame'
import { BrushLayer } from './BrushLayer'
import { Handles } from './Handles'

const PAD = 4

/** The picture: the stage's canvas, the labels in its neutral surround, the handles over it. */
export function ViewPanel({ connect }: { connect: (s: Session | null) => void }) {
  const size = useShot((s) => s.size)
  const holder = useRef<HTMLDivElement>(null)
  const canvasBox = useRef<HTMLDivElement>(null)
  const [area, setArea] = useState({ width: 0, height: 0 })
  const pose = useStudio((s) => s.pose)
  const session = useStudio((s) => s.session)
  const overlays = useStudio((s) => s.overlays)
  const gesture = useRef<{ kind: 'orbit' | 'pan'; x: number; y: number; moved: boolean } | null>(null)
  const [dropping, setDropping] = useState(false)

  useLayoutEffect(() => {
    const el = holder.current
    if (!el) return
    const o = new ResizeObserver(() => setArea({ width: el.clientWidth, height: el.clientHeight }))
    o.observe(el)
    return () => o.disconnect()
  }, [])
  const aspect = size.width / size.height
  const fit = Math.max(0.001, Math.min((area.width - PAD * 2) / size.width, (area.height - PAD * 2) / size.height))
  const w = Math.round(size.width * fit)
  const h = Math.round(size.height * fit)

  // A canvas can be handed to a worker once only, so every session gets a fresh one.
  useEffect(() => {
    const box = canvasBox.current
    if (!box) return
    const canvas = document.createElement('canvas')
    canvas.className = 'h-full w-full block'
    canvas.dataset.testid = 'stage'
    box.append(canvas)
    forgetStale()
    const made = new Session(canvas.transferControlToOffscreen(), handlers)
    connect(made)
    return () => {
      connect(null)
      made.dispose()
      canvas.remove()
    }
  }, [])
  useEffect(() => {
    if (session && w > 1 && h > 1) session.view(pose, Math.round(w * devicePixelRatio), Math.round(h * devicePixelRatio))
  }, [session, pose, w, h])

  const region = useStudio((s) => s.region)
  const brush = useStudio((s) => s.brush)
  useEffect(() => {
    session?.region(region?.object ?? null, region?.id ?? null)
  }, [session, region])

  const down = (e: PointerEvent) => {
    if ((e.target as Element).closest('[data-handle]')) return
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
    const p = poseNow()
    setStudio({ pose: g.kind === 'orbit' ? orbit(p, (-dx / w) * Math.PI * 1.6, (dy / h) * Math.PI * 0.9) : pan(p, (dx / w) * 2, (dy / w) * 2) })
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
    if (Math.abs(x) <= 1 && Math.abs(y) <= 1) select((await session?.pick(x, y)) ?? null)
  }
  const wheel = (e: WheelEvent) => setStudio({ pose: zoom(poseNow(), Math.exp(Math.max(-120, Math.min(120, e.deltaY)) * 0.0012)) })

  return (
    <section
      ref={holder}
      aria-label="View"
      className="relative min-h-0 flex-1 touch-none overflow-hidden bg-surround select-none"
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
      <div ref={canvasBox} className="absolute bg-black" style={{ left: Math.round((area.width - w) / 2), top: Math.round((area.height - h) / 2), width: w, height: h }} />
      {overlays && !brush && w > 1 && <Handles left={Math.round((area.width - w) / 2)} top={Math.round((area.height - h) / 2)} width={w} height={h} aspect={aspect} />}
      {w > 1 && <BrushLayer left={Math.round((area.width - w) / 2)} top={Math.round((area.height - h) / 2)} width={w} height={h} />}
      <CameraLabel fit={fit} />
      <div className="absolute top-2 right-2 flex gap-1">
        <IconButton name="Handles and labels" keys="H" on={overlays} onClick={() => setStudio({ overlays: !overlays })}>
          <Eye size={15} strokeWidth={1.5} />
        </IconButton>
        <ViewOnly />
      </div>
      {overlays && (
        <div className="pointer-events-none absolute bottom-2 left-3 text-moss leading-5">
          {size.width} × {size.height}
          <br />
          <Rate /> frames/s
        </div>
      )}
      <RehearsalLabel />
      <QualityLabel room={Math.max(132, (area.width - w) / 2 - 20)} />
      <Lost />
      {dropping && <div className="pointer-events-none absolute inset-2 grid place-items-center rounded-[3px] border border-mist border-dashed bg-night/70 text-[14px]">Drop a GLB, OBJ, PLY, STL or SVG file, or a font, to bring it in</div>}
    </section>
  )
}
const handlers = {
  asked: (n: number) => setStudio({ asked: n }),
  touched,
  sim: (m: Parameters<SessionEvents['sim']>[0]) => {
    switch (m.type) {
      case 'ready':
        studio().session?.mayStop(m.memory)
        setStudio({ threads: { count: m.threads, why: m.why } })
        break
      case 'status':
        tellStatus(m.status)
        break
      case 'shown':
        shownFrame(m)
        break
      case 'stale':
        stale(m.serial)
        break
      case 'taken':
        taken(m.change)
        break
      case 'assets':
        setStudio({ facts: { ...studio().facts, ...Object.fromEntries(m.facts) } })
        break
      case 'failed':
        setStudio({ failure: m.message })
    }
  },
  stage: (m: Parameters<SessionEvents['stage']>[0]) => {
    if (m.type === 'drawn') drawn(m)
    else if (m.type === 'ready') setStudio({ software: m.software })
    else if (m.type === 'context') setStudio({ contextLost: m.lost })
    else if (m.type === 'failed') setStudio({ failure: m.message })
  },
}
/** What the View shows otherwise than the shot says, with a way back. */
function RehearsalLabel() {
  const boost = useStudio((s) => s.boost)
  const solo = useStudio((s) => s.solo)
  const alone = useShot((s) => [...solo].flatMap((id) => findElement(s, id)?.element.name ?? []).join(', '))
  if (boost === 1 && !solo.size) return null
  return (
    <div className="absolute top-14 left-3 flex max-w-48 flex-col items-start gap-1 text-amber leading-5" data-handle="rehearsal">
      {boost !== 1 && <span>Births × {boost}</span>}
      {alone && <span className="line-clamp-2">Alone: {alone}</span>}
      <button type="button" className="rounded-[3px] border border-twig px-1.5 text-mist hover:bg-fern" onClick={() => setStudio({ boost: 1, solo: new Set() })}>
        As the shot is
      </button>
    </div>
  )
}
function Rate() {
  const rate = useShot((s) => s.rate)
  return <>{Number((rate.num / rate.den).toFixed(3))}</>
}
function ViewOnly() {
  const on = useStudio((s) => s.viewOnly)
  return (
    <IconButton name="Only the View" keys="V" on={on} onClick={() => setStudio({ viewOnly: !on })}>
      {on ? <Minimize2 size={15} strokeWidth={1.5} /> : <Maximize2 size={15} strokeWidth={1.5} />}
    </IconButton>
  )
}
function CameraLabel({ fit }: { fit: number }) {
  const pose = useStudio((s) => s.pose)
  const cameras = useShot((s) => s.cameras)
  const camera = useShot((s) => s.camera)
  const name = cameras.find((c) => c.id === camera)?.name ?? 'Camera'
  const put = () => {
    const p = poseNow()
    edit(`${name} stands where the View is`, (s) => {
      const c = s.cameras.find((x) => x.id === s.camera)
      if (c) {
        c.place = [...p.place]
        c.aim = [...p.aim]
      }
    })
    setStudio({ pose: null })
  }
  return (
    <div className="absolute top-2 left-2">
      <DropdownMenu.Root>
        <DropdownMenu.Trigger className="flex h-6 items-center gap-2 rounded-[3px] px-1.5 font-semibold hover:bg-fern">
          <Camera size={15} strokeWidth={1.5} className="text-moss" /> {pose ? 'Free view' : name} <ChevronDown size={13} strokeWidth={1.5} className="text-moss" />
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content className={menuContent} align="start">
            <DropdownMenu.Item className={menuItem} onSelect={() => setStudio({ pose: null })}>
              Through {name} <span className="ml-auto pl-4 text-moss">C</span>
            </DropdownMenu.Item>
            <DropdownMenu.Item className={menuItem} onSelect={() => setStudio({ pose: poseNow() })}>
              Free view
            </DropdownMenu.Item>
            <DropdownMenu.Item className={menuItem} onSelect={frameSelection}>
              Frame the selection <span className="ml-auto pl-4 text-moss">F</span>
            </DropdownMenu.Item>
            <DropdownMenu.Item className={menuItem} disabled={!pose} onSelect={put}>
              Put {name} here
            </DropdownMenu.Item>
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      <span className="block pl-8 text-moss">Fit, {Math.round(fit * 100)} %</span>
    </div>
  )
}
const SCALE_WORDS: [number, string][] = [[0.76, 'three quarters size'], [0.51, 'half size'], [0.38, 'three eighths size'], [0.26, 'quarter size']]
/** `room`: pixels beside the picture, so that the label stays in the surround where it can. */
function QualityLabel({ room }: { room: number }) {
  const drawn = useStudio((s) => s.drawn)
  const waits = useStudio((s) => s.drawn !== null && s.drawn.asked < s.asked)
  const status = useStudio((s) => s.status)
  const playhead = useStudio((s) => s.playhead)
  const threads = useStudio((s) => s.threads)
  const hatched = useStudio((s) => s.region !== null)
  const rehearsal = useStudio((s) => s.boost !== 1 || s.solo.size > 0)
  if (!drawn || !status) return <div className="absolute right-3 bottom-2 text-moss">Starting …</div>
  const exact = drawn.scale === 1 && drawn.share === 1
  const behind = !drawn.ready || waits || drawn.frame !== playhead
  const ready = [...status.beads].filter((b) => b === 'r').length
  const scale = drawn.scale === 1 ? 'view size' : (SCALE_WORDS.findLast(([s]) => drawn.scale <= s)?.[1] ?? `${Math.round(drawn.scale * 100)} % size`)
  return (
    <output aria-label="Quality" data-testid="quality" data-ms={Math.round(drawn.ms)} data-frame={drawn.frame} data-ready={drawn.ready} data-scale={drawn.scale} data-share={drawn.share} style={{ maxWidth: room }} className="live pointer-events-none absolute right-3 bottom-2 block text-balance rounded-[3px] bg-surround/70 text-right leading-5">
      {behind && (status.computing !== null || !drawn.ready || waits) ? (
        <span className="block">
          {status.computing !== null ? `catching up ${ready}/${status.beads.length}` : 'drawing'}
          {!drawn.ready && <span className="block text-amber">{drawn.sketch ? 'from here on, not exact' : 'shown: from before the change'}</span>}
        </span>
      ) : null}
      {exact && !behind ? (
        <span className="inline-flex items-center gap-1.5 text-mist">
          <CircleCheck size={13} strokeWidth={1.5} className="text-moss" /> {rehearsal ? 'Sharp, but not the whole shot' : 'As rendered'}
          {hatched && ', with the region'}
        </span>
      ) : (
        <>
          <span className="inline-flex items-center gap-1.5">
            <Gauge size={14} strokeWidth={1.5} className="text-moss" /> Preview
          </span>
          <span className="block text-moss">
            {drawn.share < 1 && drawn.alive > 0 && (
              <>
                {Math.round(drawn.share * 100)} % of {drawn.alive.toLocaleString('en-US')} shown,
                <br />
                brightness not exact,{' '}
              </>
            )}
            {scale}
          </span>
        </>
      )}
      {threads?.why && <span className="block text-amber">{threads.why}</span>}
    </output>
  )
}
function Lost() {
  const lost = useStudio((s) => s.contextLost)
  const failure = useStudio((s) => s.failure)
  if (!lost && !failure) return null
  return (
    <div role="alert" className="absolute inset-x-0 top-1/2 mx-auto w-fit max-w-md -translate-y-1/2 rounded-[3px] border border-amber bg-night px-3 py-2">
      {failure ?? 'The graphics driver took the picture away; it is being drawn anew.'}
    </div>
  )
}
