'use client'
import { memo, type PointerEvent, useEffect, useRef, useState } from 'react'
import { type GasFacts, valueOr } from '../../protocol'
import { type Curve, GAS_TONES, type GasDoc, type GasTone, grouped, sampleCurve, sampleRamp, toHex, type Vec3 } from '../../shot'
import { PLAIN_2D } from '../canvas'
import { NumberField } from '../fields/NumberField'
import { ColourField } from '../fields/plainFields'
import { GAS_GRID_WORDS, gridsOf } from '../gasGrids'
import { edit, setStudio, useShot, useStudio } from '../store'
import { cx } from '../ui'
import { show } from '../units'
import { useSize } from '../useSize'
import { StopsMenu } from './StopsMenu'
import { focusPicked, StripStop, StripTabs } from './stripParts'

/** Pixels from the top: where the curve stands at its highest and at zero, and the middle of the ramp. */
const CURVE_TOP = 12
const CURVE_HEIGHT = 44
const RAMP_Y = 64
const highest = (c: Curve): number => Math.max(1, ...c.points.map((p) => p.v))
const grid = (v: number): number => Math.round(v * 1000) / 1000

/** The values that a gas holds in the frame that is shown. */
export function useGasFacts(gas: GasDoc): GasFacts | null {
  const session = useStudio((s) => s.session)
  const playhead = useStudio((s) => s.playhead)
  const serial = useStudio((s) => s.drawn?.serial)
  const playing = useStudio((s) => s.playing)
  const [facts, setFacts] = useState<GasFacts | null>(null)
  const tops = GAS_TONES.map((t) => gas.tones[t].top).join()
  // biome-ignore lint/correctness/useExhaustiveDependencies: asked again when the frame on screen, or where the tones end, is another
  useEffect(() => {
    if (!session || playing) return
    const stop = new AbortController()
    const tops = Object.fromEntries(GAS_TONES.map((t) => [t, gas.tones[t].top])) as Record<GasTone, number>
    const q = { what: 'gas', gas: gas.id, frame: playhead, tops } as const
    void session.inquire(q, stop.signal).then((a) => {
      if (a.state !== 'cancelled') setFacts(valueOr(a, null))
    })
    return () => stop.abort()
  }, [session, gas.id, playhead, serial, playing, tops])
  return facts
}

/** How much of a gas holds each value now, with the curve and the ramp that its look takes from it. */
export const GasStrip = memo(Strip, (a, b) => a.gas.id === b.gas.id && a.gas.tones === b.gas.tones && a.facts === b.facts)
function Strip({ gas, facts }: { gas: GasDoc; facts: GasFacts | null }) {
  const beside = useStudio((s) => s.beside)
  const name = useShot((s) => s.gases.find((g) => g.id === gas.id)?.name ?? '')
  const grids = useShot((s) => {
    const g = s.gases.find((x) => x.id === gas.id)
    return g ? gridsOf(g).join() : ''
  })
  const tabs = GAS_TONES.filter((t) => grids.split(',').includes(t))
  const asked = useStudio((s) => s.tone)
  // A dye that nothing brings any more has no tab.
  const which = tabs.includes(asked) ? asked : 'density'
  const setWhich = (tone: GasTone) => setStudio({ tone })
  const [picked, setPicked] = useState<{ of: 'curve' | 'ramp'; index: number }>({ of: 'curve', index: 1 })
  const box = useRef<HTMLDivElement>(null)
  const canvas = useRef<HTMLCanvasElement>(null)
  const drag = useRef<{ of: 'curve' | 'ramp'; index: number; gesture: string } | null>(null)
  const { width } = useSize(box)
  const tone = gas.tones[which]
  const counts = facts?.grids[which].counts
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new width empties the canvas
  useEffect(() => {
    if (canvas.current) paintCounts(canvas.current, counts ?? [], (x) => sampleRamp(tone.colour, x))
  }, [counts, tone.colour, width])

  const change = (label: string, recipe: (t: GasDoc['tones'][GasTone]) => void, gesture: string | null = null) =>
    edit(
      label,
      (s) => {
        const g = s.gases.find((x) => x.id === gas.id)
        if (g) recipe(g.tones[which])
      },
      gesture,
    )
  const tall = highest(tone.curve)
  const isSteep = !!facts && steepest(tone.curve) * (facts.grids[which].most / tone.top) > EDGE_VOXELS * tall
  const yOf = (v: number) => CURVE_TOP + CURVE_HEIGHT * (1 - Math.min(1, v / tall))
  const at = (e: PointerEvent) => {
    const r = (box.current as HTMLDivElement).getBoundingClientRect()
    const y = e.clientY - r.top
    return {
      x: grid(Math.min(1, Math.max(0, (e.clientX - r.left) / r.width))),
      v: grid(tall * Math.min(1, Math.max(0, 1 - (y - CURVE_TOP) / CURVE_HEIGHT))),
      of: y > CURVE_TOP + CURVE_HEIGHT + 2 ? ('ramp' as const) : ('curve' as const),
    }
  }
  const add = (e: PointerEvent) => {
    if (e.button !== 0 || (e.target as HTMLElement).closest('[data-stop]')) return
    const p = at(e)
    if (p.of === 'ramp') {
      change('a stop of the ramp', (t) => void t.colour.stops.push({ at: p.x, colour: sampleRamp(tone.colour, p.x) }))
      setPicked({ of: 'ramp', index: tone.colour.stops.length })
    } else {
      change('a point of the curve', (t) => void t.curve.points.push({ at: p.x, v: p.v }))
      setPicked({ of: 'curve', index: tone.curve.points.length })
    }
    focusPicked(e.currentTarget)
  }
  const move = (e: PointerEvent) => {
    const d = drag.current
    if (!d) return
    const p = at(e)
    change(
      d.of === 'ramp' ? 'a stop of the ramp' : 'a point of the curve',
      (t) => {
        if (d.of === 'ramp') t.colour.stops[d.index].at = p.x
        else setPoint(t.curve, d.index, p.x, p.v)
      },
      d.gesture,
    )
  }
  const remove = (of: 'curve' | 'ramp', index: number) => {
    const list = of === 'ramp' ? tone.colour.stops : tone.curve.points
    if (list.length < 2 || (of === 'curve' && isFixed(tone.curve, index))) return
    change('one less', (t) => void (of === 'ramp' ? t.colour.stops : t.curve.points).splice(index, 1))
    setPicked({ of, index: 0 })
  }
  const stop = picked.of === 'ramp' ? tone.colour.stops[picked.index] : tone.curve.points[picked.index]
  const handle = (of: 'curve' | 'ramp', index: number, x: number, y: number, fill: string, says: string) => (
    <StripStop
      key={`${of}${index}`}
      name={`${says} ${index + 1} at ${show(x * tone.top)}${GAS_GRID_WORDS[which].unit}`}
      x={x * width}
      y={y}
      fill={fill}
      picked={picked.of === of && picked.index === index}
      onTake={() => {
        setPicked({ of, index })
        drag.current = { of, index, gesture: `tone-${performance.now()}` }
      }}
      onRemove={() => remove(of, index)}
    />
  )
  return (
    <div className={cx('shrink-0 border-bark border-b', beside ? 'pt-1.5 pb-2' : 'flex h-[92px]')}>
      <StripTabs
        label="Which grid of the gas"
        tabs={tabs.map((id) => ({
          id,
          name: GAS_GRID_WORDS[id].name,
          says: facts ? `0 to ${show(facts.grids[id].most)}${GAS_GRID_WORDS[id].unit}` : '',
        }))}
        now={which}
        beside={beside}
        onPick={setWhich}
      />
      <div className={cx('relative min-w-0 px-5', beside ? 'h-[92px]' : 'flex-1')}>
        <div
          ref={box}
          className="relative h-full select-none"
          onPointerDown={add}
          onPointerMove={move}
          onPointerUp={() => void (drag.current = null)}
        >
          <canvas ref={canvas} width={Math.max(2, width)} height={72} className="absolute top-0 left-0 h-[72px] w-full" />
          <svg
            className="pointer-events-none absolute inset-0 h-full w-full overflow-visible"
            role="img"
            aria-label={`How much of ${name} holds each value of ${GAS_GRID_WORDS[which].name.toLowerCase()}`}
          >
            <polyline
              fill="none"
              className="stroke-mist"
              points={Array.from({ length: 101 }, (_, i) => `${(i / 100) * width},${yOf(sampleCurve(tone.curve, i / 100))}`).join(' ')}
            />
            {[0, 0.25, 0.5, 0.75, 1].map((x) => (
              <text
                key={x}
                x={x * width}
                y={86}
                textAnchor={x === 0 ? 'start' : x === 1 ? 'end' : 'middle'}
                className="fill-moss text-caption"
              >
                {show(x * tone.top)}
                {x === 1 ? GAS_GRID_WORDS[which].unit : ''}
              </text>
            ))}
          </svg>
          {tone.curve.points.map((p, i) => handle('curve', i, p.at, yOf(p.v), 'var(--color-night)', 'Point'))}
          {tone.colour.stops.map((s, i) => handle('ramp', i, s.at, RAMP_Y, toHex(s.colour), 'Colour'))}
        </div>
      </div>
      <div className={cx('flex flex-col justify-center gap-1 px-3', !beside && 'w-[252px] shrink-0')}>
        {isSteep ? (
          <span
            className="live truncate text-amber text-caption"
            title="Edges of smoke are about four voxels wide: a curve that rises within less shows their steps."
          >
            Steeper than its voxels
          </span>
        ) : (
          <span className="live truncate text-caption text-moss">
            {facts ? `${grouped(facts.voxels)} voxels in use` : 'Not computed yet'}
          </span>
        )}
        <div className="flex items-center gap-1.5">
          <span className="w-9 shrink-0 text-moss">Top</span>
          <NumberField
            className="flex-1"
            label="Top of the values"
            value={tone.top}
            spec={{ unit: which === 'temperature' ? 'K' : '', min: 1e-6, max: 1e6, soft: [0, which === 'temperature' ? 2500 : 4] }}
            fps={24}
            onChange={(v, g) => change('top of the values', (t) => void (t.top = v), g)}
          />
        </div>
        {stop && (
          <div className="flex items-center gap-1.5">
            {picked.of === 'ramp' ? (
              <StopsMenu name="ramp" value={tone.colour} onChange={(v, label) => change(label, (t) => void (t.colour = v))} />
            ) : (
              <StopsMenu name="curve" keepsFirst value={tone.curve} onChange={(v, label) => change(label, (t) => void (t.curve = v))} />
            )}
            <NumberField
              className="flex-1"
              label="Stop at"
              value={stop.at * tone.top}
              spec={{ unit: which === 'temperature' ? 'K' : '', min: 0, max: tone.top, soft: [0, tone.top] }}
              fps={24}
              onChange={(v, g) =>
                change(
                  'where a stop is',
                  (t) => {
                    const x = Math.min(1, v / t.top)
                    if (picked.of === 'ramp') t.colour.stops[picked.index].at = x
                    else setPoint(t.curve, picked.index, x, t.curve.points[picked.index].v)
                  },
                  g,
                )
              }
            />
            {picked.of === 'ramp' ? (
              <span className="w-[116px] shrink-0">
                <ColourField
                  narrow
                  label="Stop colour"
                  value={tone.colour.stops[picked.index].colour}
                  onChange={(c, g) => change('colour of a stop', (t) => void (t.colour.stops[picked.index].colour = c), g)}
                />
              </span>
            ) : (
              <NumberField
                className="flex-1"
                label="Stop value"
                value={tone.curve.points[picked.index].v}
                spec={{ unit: '×', min: 0, max: 1000, soft: [0, 2] }}
                fps={24}
                onChange={(v, g) =>
                  change('a point of the curve', (t) => setPoint(t.curve, picked.index, t.curve.points[picked.index].at, v), g)
                }
              />
            )}
          </div>
        )}
      </div>
    </div>
  )
}
/** Within so many voxels a gas goes from nothing to its most, where it has an edge. */
const EDGE_VOXELS = 4
/** The most that a curve rises or falls, over the whole width. */
function steepest(c: Curve): number {
  const points = [...c.points].sort((a, b) => a.at - b.at)
  return Math.max(0, ...points.slice(1).map((p, i) => Math.abs(p.v - points[i].v) / Math.max(1e-4, p.at - points[i].at)))
}
/** Nothing stays nothing: the point at zero does not move. */
const isFixed = (c: Curve, index: number): boolean => index === c.points.findIndex((p) => p.at === 0 && p.v === 0)
function setPoint(c: Curve, index: number, at: number, v: number): void {
  if (isFixed(c, index)) return
  c.points[index] = { at: Math.max(0.001, at), v }
}
/** Bars, by the logarithm of how many voxels hold a value, and the ramp under them. */
function paintCounts(canvas: HTMLCanvasElement, counts: readonly number[], colour: (x: number) => Vec3): void {
  const g = canvas.getContext('2d', PLAIN_2D)
  if (!g) return
  const { width, height } = canvas
  g.clearRect(0, 0, width, height)
  const most = Math.log1p(Math.max(1, ...counts))
  g.fillStyle = 'rgba(168, 176, 152, 0.5)'
  counts.forEach((n, i) => {
    const tall = (CURVE_HEIGHT * Math.log1p(n)) / most
    const x = Math.round((i / counts.length) * width)
    const wide = Math.max(1, Math.round(((i + 1) / counts.length) * width) - x - 1)
    g.fillRect(x, CURVE_TOP + CURVE_HEIGHT - tall, wide, tall)
  })
  for (let x = 0; x < width; x++) {
    g.fillStyle = toHex(colour(x / Math.max(1, width - 1)))
    g.fillRect(x, RAMP_Y - 5, 1, 10)
  }
}
