'use client'
import { ArrowLeftRight, Camera, Check, ChevronDown, X } from 'lucide-react'
import { DropdownMenu } from 'radix-ui'
import { type PointerEvent, useEffect, useRef, type WheelEvent } from 'react'
import type { Pose } from '../../protocol'
import { grouped, timeOf } from '../../shot'
import { fromSide, shotPose } from '../../stage/camera'
import { bakedAt } from '../bakes'
import type { Session } from '../session'
import { setStudio, shotNow, studio, useShot, useStudio } from '../store'
import { IconButton, Menu, menuContent, menuItem } from '../ui'
import { useSize } from '../useSize'
import { dragged, poseNow, wheeled } from './frame'
import { SIDES } from './labels'

const PAD = 4
/** A bake is looked at from where the View looks: turned, both are. */
const set = (pose: Pose | null) => setStudio(studio().second?.bake ? { pose } : { second: { pose } })
/** From where the second view looks now. */
const own = (): Pose => {
  const { second, pose, playhead } = studio()
  return (second?.bake ? pose : second?.pose) ?? shotPose(shotNow(), timeOf(shotNow(), playhead))
}
/** The View and the one beside it change places. */
const swap = () => setStudio({ pose: studio().second?.pose ?? null, second: { pose: studio().pose } })

/**
 * Another view of the same frame, or the frame of a bake, beside the View: it is only looked at, and turned; a click brings another view to where
 * work is done.
 */
export function SecondView({ session }: { session: Session }) {
  const size = useShot((s) => s.size)
  const name = useShot((s) => s.cameras.find((c) => c.id === s.camera)?.name ?? 'Camera')
  const bake = useStudio((s) => s.second?.bake ?? null)
  const pose = useStudio((s) => (s.second?.bake ? s.pose : (s.second?.pose ?? null)))
  const holder = useRef<HTMLDivElement>(null)
  const box = useRef<HTMLDivElement>(null)
  const waiting = useRef<OffscreenCanvas | null>(null)
  const area = useSize(holder)
  const fit = Math.max(0.001, Math.min((area.width - PAD * 2) / size.width, (area.height - PAD * 2) / size.height))
  const [w, h] = [Math.round(size.width * fit), Math.round(size.height * fit)]
  useEffect(() => {
    const canvas = document.createElement('canvas')
    canvas.className = 'h-full w-full block'
    canvas.dataset.testid = 'second'
    box.current?.append(canvas)
    waiting.current = canvas.transferControlToOffscreen()
    return () => {
      session.second(null, null)
      canvas.remove()
    }
  }, [session])
  useEffect(() => {
    if (w < 2 || h < 2) return
    const [width, height] = [w, h].map((n) => Math.round(n * devicePixelRatio))
    session.second({ pose, width, height, baked: bake !== null }, waiting.current)
    waiting.current = null
  }, [session, pose, w, h, bake])
  useEffect(() => {
    session.beside(bake)
    return () => session.beside(null)
  }, [session, bake])

  const drag = useRef<{ pan: boolean; x: number; y: number; moved: boolean } | null>(null)
  const down = (e: PointerEvent) => {
    if ((e.target as Element).closest('button') || !e.currentTarget.contains(e.target as Node)) return
    e.currentTarget.setPointerCapture(e.pointerId)
    drag.current = { pan: e.button === 1 || e.button === 2 || e.shiftKey, x: e.clientX, y: e.clientY, moved: false }
  }
  const move = (e: PointerEvent) => {
    const d = drag.current
    if (!d) return
    const [dx, dy] = [e.clientX - d.x, e.clientY - d.y]
    if (!d.moved && Math.hypot(dx, dy) < 4) return
    if (!d.moved) session.moving(true)
    Object.assign(d, { moved: true, x: e.clientX, y: e.clientY })
    set(dragged(own(), d.pan ? 'pan' : 'orbit', dx, dy, w, h))
  }
  const up = (e: PointerEvent) => {
    const d = drag.current
    drag.current = null
    if (!d) return
    if (!d.moved) {
      if (e.button === 0 && !bake) swap()
    } else if (!studio().playing) session.moving(false)
  }
  return (
    <section
      ref={holder}
      aria-label="Second view"
      className="relative min-h-0 min-w-0 flex-1 touch-none select-none overflow-hidden border-night border-l-2 bg-surround"
      onPointerDown={down}
      onPointerMove={move}
      onPointerUp={up}
      onPointerCancel={() => void (drag.current = null)}
      onContextMenu={(e) => e.preventDefault()}
      onWheel={(e: WheelEvent) => e.currentTarget.contains(e.target as Node) && set(wheeled(own(), e.deltaY))}
    >
      <div
        ref={box}
        title={bake ? undefined : 'A click works here'}
        className="absolute bg-black"
        style={{ left: Math.round((area.width - w) / 2), top: Math.round((area.height - h) / 2), width: w, height: h }}
      />
      {bake ? <BakeLabel id={bake} /> : <PoseMenu pose={pose} name={name} />}
      <div className="absolute top-2 right-2 flex gap-1">
        {!bake && (
          <IconButton name="Change places with the View" onClick={swap}>
            <ArrowLeftRight size={15} strokeWidth={1.5} />
          </IconButton>
        )}
        <IconButton name="Close the second view" onClick={() => setStudio({ second: null })}>
          <X size={15} strokeWidth={1.5} />
        </IconButton>
      </div>
    </section>
  )
}
function PoseMenu({ pose, name }: { pose: Pose | null; name: string }) {
  return (
    <div className="absolute top-2 left-2">
      <Menu>
        <DropdownMenu.Trigger
          aria-label="What the second view shows"
          className="flex h-6 items-center gap-2 rounded-md px-1.5 font-semibold hover:bg-fern"
        >
          <Camera size={15} strokeWidth={1.5} className="text-moss" /> {pose ? 'Free view' : name}
          <ChevronDown size={13} strokeWidth={1.5} className="text-moss" />
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content className={menuContent} align="start">
            <DropdownMenu.Item className={menuItem} onSelect={() => set(null)}>
              <Check size={13} strokeWidth={1.5} className={pose ? 'invisible' : 'text-mist'} /> Through {name}
            </DropdownMenu.Item>
            {SIDES.map(([label, way]) => (
              <DropdownMenu.Item key={label} className={menuItem} onSelect={() => set(fromSide(own(), way))}>
                <Check size={13} strokeWidth={1.5} className="invisible" /> {label}
              </DropdownMenu.Item>
            ))}
            <DropdownMenu.Item className={menuItem} onSelect={() => set(poseNow())}>
              <Check size={13} strokeWidth={1.5} className="invisible" /> As the View looks
            </DropdownMenu.Item>
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </Menu>
    </div>
  )
}
/** Which bake it is, what it has, and what it lacks. */
function BakeLabel({ id }: { id: string }) {
  const bake = useStudio((s) => s.bakes.find((b) => b.id === id))
  const known = useStudio((s) => (s.bakeBeside?.bake === id ? s.bakeBeside : null))
  const playhead = useStudio((s) => s.playhead)
  useEffect(() => {
    // It was deleted.
    if (!bake) setStudio({ second: null })
  }, [bake])
  if (!bake) return null
  const lacks = !bake.frames.includes(playhead)
  const alive = known?.frame === playhead ? known.alive : null
  return (
    <>
      {lacks && (
        <div className="pointer-events-none absolute inset-0 grid place-items-center bg-surround text-moss">
          Frame {playhead} is not in this bake, which goes from {bake.frames[0]} to {bake.frames[bake.frames.length - 1]}.
        </div>
      )}
      <b className="pointer-events-none absolute top-2 left-3 font-semibold leading-6">Bake of {bakedAt(bake)}</b>
      <output
        aria-label="Bake beside the View"
        data-frame={known?.frame}
        className="pointer-events-none absolute bottom-2 left-3 block rounded-md bg-surround/70 text-moss leading-5"
      >
        {alive && alive.bake + alive.now > 0 && (
          <span className="block text-mist">
            {grouped(alive.bake)} particles, {grouped(alive.now)} now
          </span>
        )}
        {!lacks && 'Looks, objects and light are those of now'}
      </output>
    </>
  )
}
