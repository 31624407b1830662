'use client'
import { Camera, Check, ChevronDown, CircleCheck, Gauge, Maximize2, Minimize2, Wind } from 'lucide-react'
import { DropdownMenu } from 'radix-ui'
import { useEffect, useState } from 'react'
import type { Drawn, Pose, SimStatus } from '../../protocol'
import { findElement, grouped, lacksDetail, type Vec3 } from '../../shot'
import { shownOf } from '../../stage/adapt'
import { fromSide } from '../../stage/camera'
import { isBaked } from '../bakes'
import { edit, setStudio, useShot, useStudio } from '../store'
import { IconButton, Menu, menuContent, menuItem } from '../ui'
import { frameSelection, poseNow } from './frame'

/** What the next click is for. */
export function PickingLabel() {
  const picking = useStudio((s) => s.picking)
  const choosing = useStudio((s) => s.choosing)
  const measure = useStudio((s) => s.measure?.length ?? 2)
  if (!picking && !choosing && measure > 1) return null
  return (
    <div
      className="absolute inset-x-0 top-2 mx-auto flex w-fit items-center gap-3 rounded-md border border-mist bg-night px-3 py-1"
      data-handle="picking"
    >
      {picking?.words ??
        (choosing ? 'Click a particle' : measure ? 'Click where the distance ends' : 'Click an object where the distance begins')}
      <button
        type="button"
        className="text-moss hover:text-mist"
        onClick={() => setStudio({ picking: null, choosing: false, measure: null })}
      >
        Leave it
      </button>
    </div>
  )
}
/** What the View shows otherwise than the shot says, with a way back. */
export function RehearsalLabel() {
  const boost = useStudio((s) => s.boost)
  const solo = useStudio((s) => s.solo)
  const marks = useStudio((s) => s.marks)
  const alone = useShot((s) => [...solo].flatMap((id) => findElement(s, id)?.element.name ?? []).join(', '))
  if (boost === 1 && !solo.size && !marks) return null
  return (
    <div className="absolute top-14 left-3 flex max-w-48 flex-col items-start gap-1 text-amber leading-5" data-handle="rehearsal">
      {boost !== 1 && <span>Births × {boost}</span>}
      {marks && <span>Marked: what the screen cuts off; point for values</span>}
      {alone && <span className="line-clamp-2">Alone: {alone}</span>}
      <button
        type="button"
        className="rounded-md border border-twig px-1.5 text-mist hover:bg-fern"
        onClick={() => setStudio({ boost: 1, solo: new Set(), marks: false })}
      >
        As the shot is
      </button>
    </div>
  )
}
export function Rate() {
  const rate = useShot((s) => s.rate)
  return <>{Number((rate.num / rate.den).toFixed(3))}</>
}
export function ViewOnly() {
  const on = useStudio((s) => s.viewOnly)
  return (
    <IconButton name="Only the View" keys="V" on={on} onClick={() => setStudio({ viewOnly: !on })}>
      {on ? <Minimize2 size={15} strokeWidth={1.5} /> : <Maximize2 size={15} strokeWidth={1.5} />}
    </IconButton>
  )
}
const FIELDS = [
  [null, 'Off'],
  ['plane', 'Arrows on a plane'],
  ['box', 'Arrows in a box'],
  ['trails', 'Short trails'],
  ['slice', 'Slice by strength'],
] as const
/** How the field of forces is shown: of the selected force alone, or of all that reach a system. */
export function FieldButton() {
  const field = useStudio((s) => s.field)
  const selected = useStudio((s) => s.selected)
  const isGas = useShot((s) => s.gases.some((g) => g.id === selected))
  const labels = FIELDS.map(([f, label]) => [f, isGas && f === 'slice' ? 'Slice by what it holds' : label] as const)
  const what = isGas ? 'flow of the gas' : 'field of forces'
  const name = field
    ? `${isGas ? 'Flow of the gas' : 'Field of forces'}: ${labels.find(([f]) => f === field)?.[1].toLowerCase()}`
    : `Show the ${what}`
  return (
    <Menu>
      <DropdownMenu.Trigger asChild>
        <IconButton name={name} on={!!field}>
          <Wind size={15} strokeWidth={1.5} />
        </IconButton>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content className={menuContent} align="end" collisionPadding={8}>
          {labels.map(([f, label]) => (
            <DropdownMenu.Item key={label} className={menuItem} onSelect={() => setStudio({ field: f })}>
              <Check size={13} strokeWidth={1.5} className={f === field ? 'text-mist' : 'invisible'} /> {label}
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </Menu>
  )
}
/** Sides that a place is looked at from: where the View stands then, from what it looks at. */
export const SIDES: [string, Vec3][] = [
  ['From the front', [0, 0, 1]],
  ['From the right', [1, 0, 0]],
  ['From above', [0, 1, 0]],
]
export function CameraLabel({ fit }: { fit: number }) {
  const pose = useStudio((s) => s.pose)
  const safe = useStudio((s) => s.safe)
  const second = useStudio((s) => s.second !== null)
  const [away, setAway] = useState<Pose | null>(null)
  useEffect(() => {
    if (pose) setAway(pose)
  }, [pose])
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
        // As it looks now, whatever it aimed at.
        if (c.aimsAt) c.aimsAt = null
      }
    })
    setStudio({ pose: null })
  }
  return (
    <div className="absolute top-2 left-2">
      <Menu>
        <DropdownMenu.Trigger className="flex h-6 items-center gap-2 rounded-md px-1.5 font-semibold hover:bg-fern">
          <Camera size={15} strokeWidth={1.5} className="text-moss" /> {pose ? 'Free view' : name}{' '}
          <ChevronDown size={13} strokeWidth={1.5} className="text-moss" />
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content className={menuContent} align="start">
            <DropdownMenu.Item className={menuItem} onSelect={() => setStudio({ pose: null })}>
              Through {name} <span className="ml-auto pl-4 text-moss">C</span>
            </DropdownMenu.Item>
            <DropdownMenu.Item className={menuItem} onSelect={() => setStudio({ pose: poseNow() })}>
              Free view
            </DropdownMenu.Item>
            {SIDES.map(([label, way]) => (
              <DropdownMenu.Item key={label} className={menuItem} onSelect={() => setStudio({ pose: fromSide(poseNow(), way) })}>
                {label}
              </DropdownMenu.Item>
            ))}
            <DropdownMenu.CheckboxItem
              className={menuItem}
              checked={second}
              onCheckedChange={(on) => setStudio({ second: on ? { pose: pose ? null : fromSide(poseNow(), SIDES[0][1]) } : null })}
            >
              Another view beside it
              <DropdownMenu.ItemIndicator className="ml-auto pl-4">
                <Check size={13} strokeWidth={1.5} />
              </DropdownMenu.ItemIndicator>
            </DropdownMenu.CheckboxItem>
            <DropdownMenu.Item className={menuItem} onSelect={() => setStudio({ measure: [], picking: null, choosing: false })}>
              Measure a distance
            </DropdownMenu.Item>
            <DropdownMenu.CheckboxItem className={menuItem} checked={safe} onCheckedChange={(on) => setStudio({ safe: on })}>
              Safe frame
              <DropdownMenu.ItemIndicator className="ml-auto pl-4">
                <Check size={13} strokeWidth={1.5} />
              </DropdownMenu.ItemIndicator>
            </DropdownMenu.CheckboxItem>
            <DropdownMenu.Item className={menuItem} disabled={!away || !!pose} onSelect={() => setStudio({ pose: away })}>
              Where the View was
            </DropdownMenu.Item>
            <DropdownMenu.Item className={menuItem} onSelect={frameSelection}>
              Frame the selection <span className="ml-auto pl-4 text-moss">F</span>
            </DropdownMenu.Item>
            <DropdownMenu.Item className={menuItem} disabled={!pose} onSelect={put}>
              Put {name} here
            </DropdownMenu.Item>
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </Menu>
      {!second && <span className="block pl-8 text-moss">Fit, {Math.round(fit * 100)} %</span>}
    </div>
  )
}
const SCALE_WORDS: [number, string][] = [
  [0.76, 'three quarters size'],
  [0.51, 'half size'],
  [0.38, 'three eighths size'],
  [0.26, 'quarter size'],
]
/** How far the way to the first picture is. */
function openingWords({ warm, computing, beads }: SimStatus): string {
  if (warm) return `warm start, ${warm.done.toFixed(1)} of ${warm.of.toFixed(1)} s`
  if (computing === null) return 'drawing …'
  return `catching up ${[...beads].filter((b) => b === 'r').length}/${beads.length}`
}
/** `room`: pixels beside the picture, so that the label stays in the surround where it can. */
export function QualityLabel({ room }: { room: number }) {
  const drawn = useStudio((s) => s.drawn)
  const waits = useStudio((s) => s.drawn !== null && s.drawn.revision < s.revision)
  const status = useStudio((s) => s.status)
  const playhead = useStudio((s) => s.playhead)
  const threads = useStudio((s) => s.threads)
  const hatched = useStudio((s) => s.region !== null)
  const rehearsal = useStudio((s) => s.boost !== 1 || s.solo.size > 0)
  const coarse = useShot(lacksDetail)
  const bakes = useStudio((s) => s.bakes)
  const kept = useStudio((s) => s.kept !== null)
  const seen = kept ? playhead : drawn?.frame
  const plain = coarse && !(seen !== undefined && status && isBaked(bakes, status.bakes, seen))
  if (kept)
    return (
      <output
        aria-label="Opening"
        style={{ maxWidth: room }}
        className="pointer-events-none absolute right-3 bottom-2 block text-balance rounded-md bg-surround/70 text-right leading-5"
      >
        <span className="inline-flex items-center gap-1.5 text-mist">
          <CircleCheck size={13} strokeWidth={1.5} className="text-moss" /> As rendered
          {plain && ', without detail'}
        </span>
        <span className="block text-moss">kept from before; {status ? openingWords(status) : 'starting …'}</span>
      </output>
    )
  if (!drawn || !status)
    return (
      <output
        aria-label="Opening"
        className="pointer-events-none absolute right-3 bottom-2 block rounded-md bg-surround/70 text-right text-moss leading-5"
      >
        {status ? openingWords(status) : 'Starting …'}
      </output>
    )
  const exact = drawn.scale === 1 && drawn.share === 1
  const thinned = thinning(drawn)
  const behind = !drawn.ready || waits || drawn.frame !== playhead
  const gathers = !!drawn.lens && drawn.lens.done < drawn.lens.of && !waits
  const ready = [...status.beads].filter((b) => b === 'r').length
  const scale =
    drawn.scale === 1 ? 'view size' : (SCALE_WORDS.findLast(([s]) => drawn.scale <= s)?.[1] ?? `${Math.round(drawn.scale * 100)} % size`)
  return (
    <output
      aria-label="Quality"
      data-testid="quality"
      data-ms={Math.round(drawn.ms)}
      data-frame={drawn.frame}
      data-ready={drawn.ready}
      data-scale={drawn.scale}
      data-share={drawn.share}
      style={{ maxWidth: room }}
      className="live pointer-events-none absolute right-3 bottom-2 block text-balance rounded-md bg-surround/70 text-right leading-5"
    >
      {drawn.lens && drawn.lens.done < drawn.lens.of && drawn.frame === playhead && (
        <span className="block text-moss">
          through the lens {drawn.lens.done}/{drawn.lens.of}
        </span>
      )}
      {behind && !gathers && (status.computing !== null || !drawn.ready || waits) ? (
        <span className="block">
          {status.computing !== null ? `catching up ${ready}/${status.beads.length}` : 'drawing'}
          {!drawn.ready && (
            <span className="block text-amber">{drawn.sketch ? 'from here on, not exact' : 'shown: from before the change'}</span>
          )}
        </span>
      ) : null}
      {exact && !behind ? (
        <span className="inline-flex items-center gap-1.5 text-mist">
          <CircleCheck size={13} strokeWidth={1.5} className="text-moss" /> {rehearsal ? 'Sharp, but not the whole shot' : 'As rendered'}
          {plain && ', without detail'}
          {hatched && ', with the region'}
        </span>
      ) : (
        <>
          <span className="inline-flex items-center gap-1.5">
            <Gauge size={14} strokeWidth={1.5} className="text-moss" /> Preview
          </span>
          <span className="block text-moss">
            {thinned && (
              <>
                {Math.round(thinned.share * 100)} % of {thinned.of} shown,
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
export function Lost() {
  const lost = useStudio((s) => s.contextLost)
  const failure = useStudio((s) => s.failure)
  if (!lost && !failure) return null
  return (
    <div
      role="alert"
      className="absolute inset-x-0 top-1/2 mx-auto w-fit max-w-md -translate-y-1/2 rounded-md border border-amber bg-night px-3 py-2"
    >
      {failure ?? 'The graphics driver took the picture away; it is being drawn again.'}
    </div>
  )
}
/** What of how much is shown: of the particles, or where these are all there of the lines that they leave. */
function thinning({ share, alive, lines }: Drawn): { share: number; of: string } | null {
  const shown = shownOf(share, alive)
  if (alive > 0 && shown < 1) return { share: shown, of: grouped(alive) }
  return lines > 0 && share < 1 ? { share, of: `${grouped(lines)} lines` } : null
}
