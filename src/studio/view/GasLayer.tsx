'use client'
import { useEffect, useRef, useState } from 'react'
import { gasMiddle } from '../../acts'
import type { Air } from '../../protocol'
import { type GasDoc, type GasTone, timeOf, type Vec3 } from '../../shot'
import { axesOf } from '../../stage/camera'
import { PLAIN_2D } from '../canvas'
import { GAS_GRID_WORDS, gridsOf } from '../gasGrids'
import { setStudio, useShot, useStudio } from '../store'
import { show } from '../units'
import { ACROSS, acrossView, heat, inside, Lines, STEPS, widthOf } from './FieldLayer'
import { along } from './MoveHandle'
import { type Box, useScreen } from './ParticleLayer'

/** Places of a slice along a row. */
const FINE = 120
type Shown = Air & { as: string; places: Vec3[] }

/** The selected gas: how it flows, as arrows or trails; or what it holds on a plane across the picture, with the value at the pointer. */
export function GasLayer(box: Box) {
  const selected = useStudio((s) => s.selected)
  const gas = useShot((s) => s.gases.find((g) => g.id === selected))
  const field = useStudio((s) => (s.overlays ? s.field : null))
  return gas && field ? <Layer box={box} gas={gas} field={field} /> : null
}
function Layer({ box, gas, field }: { box: Box; gas: GasDoc; field: 'plane' | 'box' | 'trails' | 'slice' }) {
  const session = useStudio((s) => s.session)
  const playhead = useStudio((s) => s.playhead)
  const serial = useStudio((s) => s.drawn?.serial)
  const playing = useStudio((s) => s.playing)
  const asked = useStudio((s) => s.tone)
  const tone = gridsOf(gas).includes(asked) ? asked : 'density'
  const sliceAt = useStudio((s) => s.sliceAt)
  const shot = useShot((s) => s)
  const screen = useScreen(box)
  const [shown, setShown] = useState<Shown | null>(null)
  const { pose, aspect } = screen
  const middle = gasMiddle(shot, gas, timeOf(shot, playhead))
  const half = gas.size.map((x) => x / 2) as Vec3
  const as = field === 'slice' ? `slice of ${tone}` : field
  const key = JSON.stringify([pose, aspect, middle, half, sliceAt])
  // biome-ignore lint/correctness/useExhaustiveDependencies: the serial stands for the shot as it was drawn, the key for places
  useEffect(() => {
    if (!session || playing) return
    const { forward } = axesOf(pose)
    const through = along(middle, forward, sliceAt * Math.hypot(...half))
    const [hx, hy, hz] = half
    const places =
      field === 'box'
        ? inside(Float64Array.from([hx, 0, 0, middle[0], 0, hy, 0, middle[1], 0, 0, hz, middle[2]]))
        : acrossView(pose, aspect, field === 'slice' ? FINE : ACROSS * 2, field === 'slice' ? through : middle)
    const stop = new AbortController()
    const more = field === 'slice' ? { grid: tone } : field === 'trails' ? { trails: { steps: STEPS, metres: widthOf(pose) / 60 } } : {}
    void session
      .inquire({ what: 'air', gas: gas.id, frame: playhead, places: Float32Array.from(places.flat()), ...more }, stop.signal)
      .then((a) => {
        if (a.state !== 'cancelled') setShown(a.state === 'answered' ? { ...a.value, as, places } : null)
      })
    return () => stop.abort()
  }, [session, field, as, gas.id, playhead, serial, playing, key])
  const now = shown?.as === as ? shown : null
  if (field === 'slice') return <Slice box={box} gas={gas} tone={tone} shown={now} />
  const a = now?.velocity
  const size = (i: number) => (a ? Math.hypot(a[i * 3], a[i * 3 + 1], a[i * 3 + 2]) : 0)
  const fastest = now ? now.places.reduce((m, _, i) => Math.max(m, size(i)), 1e-9) : 0
  const words = now ? `Velocity of ${gas.name}, up to ${show(Number(fastest.toPrecision(2)))} m/s` : `Velocity of ${gas.name} …`
  return (
    <svg
      className="pointer-events-none absolute overflow-hidden"
      style={box}
      role="img"
      aria-label={words}
      data-testid="flow"
      data-as={now?.as ?? ''}
    >
      {now && a && (
        <Lines shown={{ places: now.places, a, lines: now.lines }} screen={screen} box={box} strength={(i) => size(i) / fastest} />
      )}
      <Words x={10} y={box.height - 10}>
        {words}
      </Words>
    </svg>
  )
}
const Words = ({ x, y, children }: { x: number; y: number; children: string }) => (
  <text x={x} y={y} className="fill-mist text-label" stroke="black" strokeOpacity={0.75} strokeWidth={3} paintOrder="stroke">
    {children}
  </text>
)
/** A plane across the picture through the gas, by one of its grids. */
function Slice({ box, gas, tone, shown }: { box: Box; gas: GasDoc; tone: GasTone; shown: Shown | null }) {
  const canvas = useRef<HTMLCanvasElement>(null)
  const sliceAt = useStudio((s) => s.sliceAt)
  const [pointer, setPointer] = useState<{ x: number; y: number } | null>(null)
  const values = shown?.values
  const rows = values ? values.length / FINE : 1
  const { name, unit } = GAS_GRID_WORDS[tone]
  const most = values ? values.reduce((m, v) => Math.max(m, v), 0) : 0
  useEffect(() => {
    const c = canvas.current?.getContext('2d', PLAIN_2D)
    if (!c || !canvas.current) return
    canvas.current.width = FINE
    canvas.current.height = rows
    if (!values) return
    for (let i = 0; i < values.length; i++) {
      const share = values[i] / Math.max(most, 1e-9)
      if (share < 1e-3) continue
      c.globalAlpha = 0.2 + 0.65 * Math.sqrt(share)
      c.fillStyle = heat(share)
      c.fillRect(i % FINE, rows - 1 - Math.floor(i / FINE), 1, 1)
    }
  }, [values, rows, most])
  const { left, top, width, height } = box
  useEffect(() => {
    const follow = (e: PointerEvent) => {
      const r = canvas.current?.getBoundingClientRect()
      const inside = r && e.clientX >= r.left && e.clientX < r.right && e.clientY >= r.top && e.clientY < r.bottom
      setPointer(inside ? { x: (e.clientX - r.left) / r.width, y: (e.clientY - r.top) / r.height } : null)
    }
    window.addEventListener('pointermove', follow)
    return () => window.removeEventListener('pointermove', follow)
  }, [])
  const at = pointer && values ? Math.floor(pointer.x * FINE) + FINE * Math.floor((1 - pointer.y) * rows) : -1
  const value = values && at >= 0 && at < values.length ? values[at] : null
  const round = (v: number) => show(Number(v.toPrecision(3)))
  const words = `${name} of ${gas.name} on a plane, up to ${round(most)}${unit}`
  return (
    <>
      <canvas
        ref={canvas}
        className="pointer-events-none absolute"
        style={{ left, top, width, height }}
        role="img"
        aria-label={words}
        data-testid="gas-slice"
        data-as={shown?.as ?? ''}
      />
      <svg className="pointer-events-none absolute overflow-hidden" style={box} aria-hidden>
        {Array.from({ length: 24 }, (_, i) => (
          <rect key={i} x={10 + i * 6} y={height - 34} width={6.5} height={7} fill={heat((i + 0.5) / 24)} />
        ))}
        <Words x={10} y={height - 10}>
          {words}
        </Words>
        {pointer && value !== null && (
          <Words
            x={Math.min(width - 70, pointer.x * width + 14)}
            y={Math.max(14, pointer.y * height - 8)}
          >{`${round(value)}${unit}`}</Words>
        )}
      </svg>
      <label
        className="absolute flex items-center gap-2 rounded-md bg-surround/70 px-2 py-1 text-label text-mist"
        style={{ left: left + 164, top: top + height - 46 }}
      >
        Depth
        <input
          type="range"
          min={-1}
          max={1}
          step={0.02}
          value={sliceAt}
          aria-label="Depth of the slice"
          className="w-24 accent-ember"
          onChange={(e) => setStudio({ sliceAt: Number(e.target.value) })}
        />
      </label>
    </>
  )
}
