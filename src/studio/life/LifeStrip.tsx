'use client'
import { memo, type PointerEvent, useEffect, useMemo, useRef, useState } from 'react'
import { actOf, SYSTEM_PARAMS } from '../../acts'
import {
  actsIn,
  type Curve,
  grouped,
  type LookDoc,
  type Ramp,
  type Shot,
  type SystemDoc,
  sampleCurve,
  sampleRamp,
  timeOf,
  toHex,
  type Vec3,
  varyOf,
} from '../../shot'
import { newLook, newTrailLook } from '../create'
import { bindsOf, numberNow, writeNow, writeVary } from '../fields/bind'
import { useFps } from '../fields/fps'
import { NumberField } from '../fields/NumberField'
import { ColourField } from '../fields/plainFields'
import { edit, shotNow, useShot, useStudio } from '../store'
import { Button, cx } from '../ui'
import { show } from '../units'
import { useSize } from '../useSize'
import { paintSpecks, paintStrip } from './paint'
import { StopsMenu } from './StopsMenu'
import { focusPicked, StripStop, StripTabs } from './stripParts'
import { giveLook, subjectOf } from './subject'

type Channel = 'colour' | 'size' | 'opacity'
const CHANNELS: { id: Channel; name: string }[] = [
  { id: 'colour', name: 'Colour' },
  { id: 'size', name: 'Size' },
  { id: 'opacity', name: 'Opacity' },
]
interface Stop {
  at: number
  v?: number
  colour?: Vec3
}
const stopsOf = (l: LookDoc, c: Channel): Stop[] => (c === 'colour' ? l.colour.stops : l[c].points)
/** What is pasted may come from where more is allowed. */
const limited = (v: Ramp | Curve, channel: Channel): Ramp | Curve =>
  channel === 'opacity' && 'points' in v ? { ...v, points: v.points.map((p) => ({ ...p, v: Math.min(1, p.v) })) } : v
/** The factor on the size that stands at the top of the strip. */
const TOP_SIZE = 1.5

/** The life of a system's particles: the streak, its stops, and a speck for each living one. */
export const LifeStrip = memo(Strip)
const systemOf = (s: Shot, id: string) => s.systems.find((x) => x.id === id)
function Strip({ id }: { id: string }) {
  // Only what the strip shows: dragging a force must not draw it again.
  const lives = useShot((s) => systemOf(s, id)?.life)
  const whole = useShot((s) => systemOf(s, id)?.whole.look)
  const offspring = useShot((s) => systemOf(s, id)?.whole.offspring)
  const phases = useShot((s) => systemOf(s, id)?.phases)
  const name = useShot((s) => systemOf(s, id)?.name)
  const looks = useShot((s) => s.shared.looks)
  // biome-ignore lint/correctness/useExhaustiveDependencies: only a change of these makes another system for the strip
  const system = useMemo(() => systemOf(shotNow(), id) as SystemDoc, [id, lives, whole, offspring, phases, name])
  const open = useStudio((s) => (actsIn(system, 'offspring').some((a) => a.id === s.open) ? s.open : null))
  const moves = useMemo(() => JSON.stringify([lives, whole, offspring, phases]).includes('"keys"'), [lives, whole, offspring, phases])
  const playhead = useStudio((s) => (moves ? s.playhead : s.line.now.range.first))
  const shot = shotNow()
  const fps = useFps()
  const beside = useStudio((s) => s.beside)
  const [channel, setChannel] = useState<Channel>('colour')
  const [picked, setPicked] = useState(0)
  const strip = useRef<HTMLCanvasElement>(null)
  const box = useRef<HTMLDivElement>(null)
  const { width } = useSize(box)
  const drag = useRef<{ index: number; gesture: string } | null>(null)

  const t = timeOf(shot, playhead)
  // biome-ignore lint/correctness/useExhaustiveDependencies: a change of a look is another list of them
  const subject = useMemo(() => subjectOf(shot, system, open, t, fps), [shot, system, open, t, fps, looks])
  const { draw, look, scale, unit, act } = subject
  // biome-ignore lint/correctness/useExhaustiveDependencies: what the strip shows of the drawing, which is made for each call; a new width empties the canvas
  useEffect(() => {
    if (strip.current) paintStrip(strip.current, draw)
  }, [draw.look, draw.opacity, draw.brightness, width])

  const stops = look ? stopsOf(look, channel) : []
  const index = Math.min(picked, stops.length - 1)
  const stop = stops[index]
  const change = (label: string, recipe: (l: LookDoc) => void, gesture: string | null = null) =>
    edit(
      label,
      (s) => {
        const l = s.shared.looks.find((x) => x.id === look?.id)
        if (l) recipe(l)
      },
      gesture,
    )
  const at = (e: PointerEvent) => {
    const r = (box.current as HTMLDivElement).getBoundingClientRect()
    return { x: Math.min(1, Math.max(0, (e.clientX - r.left) / r.width)), y: Math.min(1, Math.max(0, 1 - (e.clientY - r.top - 12) / 48)) }
  }
  const add = (e: PointerEvent) => {
    if (!look || e.button !== 0 || (e.target as HTMLElement).closest('[data-stop]')) return
    const { x } = at(e)
    const n = stops.length
    change(`stop of ${channel}`, (l) => {
      if (channel === 'colour') l.colour.stops.push({ at: x, colour: sampleRamp(look.colour, x) })
      else l[channel].points.push({ at: x, v: sampleCurve(look[channel], x) })
    })
    setPicked(n)
    focusPicked(e.currentTarget)
  }
  const moveStop = (e: PointerEvent) => {
    const d = drag.current
    if (!d) return
    const { x, y } = at(e)
    change(
      `stop of ${channel}`,
      (l) => {
        const s = stopsOf(l, channel)[d.index]
        if (!s) return
        s.at = Math.round(x * 1000) / 1000
        if (channel !== 'colour') s.v = Math.round(y * (channel === 'size' ? TOP_SIZE : 1) * 1000) / 1000
      },
      d.gesture,
    )
  }
  const remove = (i: number) => {
    if (stops.length <= 1) return
    change(`removal of a stop of ${channel}`, (l) => void stopsOf(l, channel).splice(i, 1))
    setPicked(Math.max(0, i - 1))
  }
  const users = useShot((s) => (look ? s.systems.filter((x) => actsIn(x, 'look', 'offspring').some((a) => a.look === look.id)).length : 0))
  const says: Record<Channel, string> = {
    colour: `${draw.look.colour.stops.length} ${draw.look.colour.stops.length === 1 ? 'stop' : 'stops'}`,
    size: subject.size,
    opacity: `${Math.round(sampleCurve(draw.look.opacity, 0) * draw.opacity * 100)} % to ${Math.round(sampleCurve(draw.look.opacity, 1) * draw.opacity * 100)} %`,
  }
  const life = bindsOf(
    SYSTEM_PARAMS,
    system as unknown as Record<string, unknown>,
    system.name,
    (s) => s.systems.find((x) => x.id === system.id) as unknown as Record<string, unknown>,
  ).life
  const ticks = niceTicks(scale)
  return (
    <div className={cx('shrink-0 border-bark border-b', beside ? 'pt-1.5 pb-2' : 'flex h-[84px]')}>
      <StripTabs
        label="What the strip edits"
        tabs={CHANNELS.map((c) => ({ ...c, says: says[c.id] }))}
        now={channel}
        beside={beside}
        onPick={setChannel}
      />
      <div className={cx('relative min-w-0 px-5', beside ? 'h-[86px]' : 'flex-1')}>
        <div
          ref={box}
          className="relative h-full select-none"
          onPointerDown={add}
          onPointerMove={moveStop}
          onPointerUp={() => void (drag.current = null)}
        >
          {!act && <Specks id={id} width={width} />}
          <canvas ref={strip} width={Math.max(2, width)} height={44} className="absolute top-[15px] left-0 h-[44px] w-full" />
          <svg
            className="pointer-events-none absolute inset-0 h-full w-full overflow-visible"
            role="img"
            aria-label={
              act
                ? `Along a ${actOf(act.kind).title} of ${system.name}, ${show(scale)} ${unit}`
                : `Life of ${system.name}, ${show(scale)} s`
            }
          >
            <line x1={0} x2={width} y1={64.5} y2={64.5} className="stroke-bark" />
            {ticks.map((s) => (
              <g key={s}>
                <line x1={(s / scale) * width} x2={(s / scale) * width} y1={64} y2={68} className="stroke-bark" />
                <text
                  x={(s / scale) * width}
                  y={80}
                  textAnchor={s === 0 ? 'start' : s / scale > 0.98 ? 'end' : 'middle'}
                  className="fill-moss text-caption"
                >
                  {show(s)}
                  {s === 0 || s / scale > 0.98 ? ` ${unit}` : ''}
                </text>
              </g>
            ))}
            {channel !== 'colour' && look && <polyline fill="none" className="stroke-mist" points={curvePoints(look, channel, width)} />}
          </svg>
          {stops.map((s, i) => {
            const y = channel === 'colour' ? 64.5 : 12 + 48 * (1 - Math.min(1, (s.v ?? 0) / (channel === 'size' ? TOP_SIZE : 1)))
            return (
              <StripStop
                key={i}
                name={`${channel} stop ${i + 1} at ${show(s.at * scale)} ${unit}`}
                x={s.at * width}
                y={y}
                fill={channel === 'colour' ? toHex(s.colour ?? [0, 0, 0]) : 'var(--color-night)'}
                picked={i === index}
                onTake={() => {
                  setPicked(i)
                  drag.current = { index: i, gesture: `stop-${performance.now()}` }
                }}
                onRemove={() => remove(i)}
              />
            )
          })}
          {!look && (
            <div className="absolute inset-0 grid place-items-center">
              <Button
                onClick={() =>
                  edit('a look', (s) => {
                    const made = act ? newTrailLook(`${system.name}, ${actOf(act.kind).title}`) : newLook(system.name)
                    s.shared.looks.push(made)
                    giveLook(s, system.id, act?.id ?? null, made.id)
                  })
                }
              >
                Make a look
              </Button>
            </div>
          )}
        </div>
      </div>
      <div className={cx('flex flex-col justify-center gap-1 px-3', !beside && 'w-[252px] shrink-0')}>
        <span className="live truncate text-caption text-moss">
          {act ? subject.caption : users > 1 ? `${look?.name}: shared by ${users} systems` : <AliveNote id={id} />}
        </span>
        <div className="flex items-center gap-1.5">
          <span className="w-9 shrink-0 text-moss">Life</span>
          <NumberField
            className="flex-1"
            label="Life"
            value={numberNow(life)}
            spec={life.param as never}
            fps={fps}
            onChange={(v, g) => writeNow(life, v, g)}
          />
          <span className="text-moss">±</span>
          <NumberField
            className="flex-1"
            label="Life, plus or minus"
            value={varyOf(system.life)}
            spec={{ unit: 's', min: 0, soft: [0, 3] }}
            fps={fps}
            onChange={(v, g) => writeVary(life, v, g)}
          />
        </div>
        {stop && look && (
          <div className="flex items-center gap-1.5">
            <StopsMenu
              name={channel === 'colour' ? 'colours' : channel}
              value={look[channel] as Ramp | Curve}
              onChange={(v, label) => change(label, (l) => void Object.assign(l, { [channel]: limited(v, channel) }))}
            />
            <NumberField
              className="flex-1"
              label="Stop at"
              value={stop.at * scale}
              spec={{ unit, min: 0, max: scale, soft: [0, scale] }}
              fps={fps}
              onChange={(v, g) => change(`stop of ${channel}`, (l) => void (stopsOf(l, channel)[index].at = Math.min(1, v / scale)), g)}
            />
            {channel === 'colour' ? (
              <span className="w-[116px] shrink-0">
                <ColourField
                  narrow
                  label="Stop colour"
                  value={look.colour.stops[index].colour}
                  onChange={(c, g) => change('colour of a stop', (l) => void (l.colour.stops[index].colour = c), g)}
                />
              </span>
            ) : (
              <NumberField
                className="flex-1"
                label="Stop value"
                value={(stop.v ?? 0) * 100}
                spec={{ unit: '%', min: 0, max: channel === 'opacity' ? 100 : 100000, soft: [0, 100] }}
                fps={fps}
                onChange={(v, g) => change(`stop of ${channel}`, (l) => void (l[channel].points[index].v = v / 100), g)}
              />
            )}
          </div>
        )}
      </div>
    </div>
  )
}
/** A speck for each living particle, at its place in life. */
function Specks({ id, width }: { id: string; width: number }) {
  const ages = useStudio((s) => s.ages[id])
  const canvas = useRef<HTMLCanvasElement>(null)
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new width empties the canvas
  useEffect(() => {
    if (canvas.current) paintSpecks(canvas.current, ages)
  }, [ages, width])
  return (
    <canvas ref={canvas} width={Math.max(2, width)} height={10} className="pointer-events-none absolute top-1 left-0 h-[10px] w-full" />
  )
}
function AliveNote({ id }: { id: string }) {
  const alive = useStudio((s) => s.stats[id]?.alive ?? 0)
  return (
    <>
      {grouped(alive)} alive, one speck {alive > 600 ? `for ${Math.ceil(alive / 600)}` : 'each'}
    </>
  )
}
function niceTicks(total: number): number[] {
  const raw = total / 6
  const base = 10 ** Math.floor(Math.log10(raw))
  const step = [1, 2, 5, 10].map((k) => k * base).find((s) => s >= raw) ?? raw
  const out: number[] = []
  for (let s = 0; s < total * 0.94; s += step) out.push(Number(s.toPrecision(6)))
  return [...out, total]
}
function curvePoints(l: LookDoc, c: 'size' | 'opacity', width: number): string {
  return Array.from(
    { length: 101 },
    (_, i) => `${(i / 100) * width},${12 + 48 * (1 - Math.min(1, sampleCurve(l[c], i / 100) / (c === 'size' ? TOP_SIZE : 1)))}`,
  ).join(' ')
}
