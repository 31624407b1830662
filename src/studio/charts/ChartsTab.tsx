'use client'
import { useEffect, useMemo, useState } from 'react'
import { actOf } from '../../acts'
import { type Histogram, type Series, type Spread, type Times, valueOr, whyUnanswered } from '../../protocol'
import { actsOf, grouped, type Shot } from '../../shot'
import { Empty } from '../board/Column'
import { pause } from '../playback'
import { setPlayhead, shotNow, studio, useShot, useStudio } from '../store'
import { toast } from '../toast'
import { Button, Select } from '../ui'
import { show } from '../units'
import { Chart } from './Chart'
import { axis, INK, TINTS } from './ink'

const WHAT = [
  { value: 'alive', label: 'alive' },
  { value: 'born', label: 'born in each frame' },
  { value: 'died', label: 'died in each frame' },
  { value: 'contacts', label: 'contacts in each frame' },
  { value: 'ms', label: 'time for each frame' },
] as const
type What = (typeof WHAT)[number]['value']

/** Numbers of the run over its frames, how they are spread now, and what each act costs. */
export function ChartsTab() {
  const [what, setWhat] = useState<What>('alive')
  const session = useStudio((s) => s.session)
  const beads = useStudio((s) => s.status?.beads)
  const [series, setSeries] = useState<Series | null>(null)
  // biome-ignore lint/correctness/useExhaustiveDependencies: a change of the beads says that there are other frames
  useEffect(() => {
    const stop = new AbortController()
    void session?.inquire({ what: 'series' }, stop.signal).then((a) => a.state === 'answered' && setSeries(a.value))
    return () => stop.abort()
  }, [session, beads])
  return (
    <div
      className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_248px_248px] gap-x-3 overflow-y-auto p-2 max-[900px]:grid-cols-1"
      data-testid="charts"
    >
      <Frames series={series} what={what} setWhat={setWhat} />
      <Now />
      <Cost series={series} />
    </div>
  )
}
const Heading = ({ children, side }: { children: React.ReactNode; side?: React.ReactNode }) => (
  <h3 className="flex h-6 items-center justify-between gap-2 font-semibold">
    {children} <span className="truncate font-normal text-moss">{side}</span>
  </h3>
)
function Frames({ series, what, setWhat }: { series: Series | null; what: What; setWhat: (w: What) => void }) {
  const systems = useShot((s) => s.systems)
  const range = useShot((s) => s.range)
  const playhead = useStudio((s) => s.playhead)
  const option = useMemo(() => {
    const frames = series?.frames ?? []
    const line = (name: string, i: number, of: (f: (typeof frames)[number]) => number) => ({
      type: 'line',
      name,
      showSymbol: frames.length < 3,
      symbol: 'circle',
      symbolSize: 4,
      lineStyle: { width: 1.5, color: TINTS[i % TINTS.length] },
      itemStyle: { color: TINTS[i % TINTS.length] },
      data: frames.map((f) => [f.frame, of(f)]),
      ...(i
        ? {}
        : {
            markLine: {
              silent: true,
              symbol: 'none',
              animation: false,
              label: { show: false },
              lineStyle: { color: INK.ember, type: 'solid', width: 1.5 },
              data: [{ xAxis: playhead }],
            },
          }),
    })
    return {
      grid: { left: 56, right: 12, top: 10, bottom: 22 },
      xAxis: axis({
        type: 'value',
        min: range.first,
        max: range.last,
        minInterval: 1,
        splitLine: { show: false },
        axisLabel: { color: INK.text, fontSize: 11, formatter: '{value} f' },
      }),
      yAxis: axis({
        type: 'value',
        min: 0,
        axisLabel: {
          color: INK.text,
          fontSize: 11,
          formatter: (v: number) => (what === 'ms' ? `${show(v)} ms` : grouped(v)),
        },
      }),
      series:
        what === 'ms'
          ? [line('time', 0, (f) => Number(f.ms.toFixed(2)))]
          : systems.map((s, i) => line(s.name, i, (f) => f.stats[s.id]?.[what] ?? 0)),
    }
  }, [series, what, systems, range, playhead])
  const seek = (x: number) => {
    pause()
    setPlayhead(Math.round(x))
  }
  const here = series?.frames.find((f) => f.frame === playhead)
  return (
    <section aria-label="Over the frames" className="flex min-h-44 min-w-0 flex-col">
      <div className="flex h-6 items-center gap-3">
        <div className="w-44">
          <Select label="What the chart shows" value={what} options={[...WHAT]} onChange={(v) => setWhat(v as What)} />
        </div>
        <span className="flex min-w-0 flex-1 gap-3 overflow-hidden whitespace-nowrap text-moss">
          {what !== 'ms' &&
            systems.slice(0, 6).map((s, i) => (
              <span key={s.id} className="inline-flex items-center gap-1.5">
                <span className="inline-block h-0.5 w-3" style={{ background: TINTS[i % TINTS.length] }} /> {s.name}{' '}
                <b className="font-semibold text-mist">{grouped(here?.stats[s.id]?.[what] ?? 0)}</b>
              </span>
            ))}
          {what === 'ms' && here && (
            <span>
              <b className="font-semibold text-mist">{show(here.ms)} ms</b> for this frame
            </span>
          )}
        </span>
        <span className="whitespace-nowrap text-moss">A click goes to its frame</span>
      </div>
      <Chart
        label={`${WHAT.find((w) => w.value === what)?.label} over the frames`}
        option={option}
        onPoint={seek}
        className="min-h-36 flex-1"
      />
    </section>
  )
}
/** How speeds, ages and sizes are spread over the living at the playhead. */
function Now() {
  const session = useStudio((s) => s.session)
  const playhead = useStudio((s) => s.playhead)
  const serial = useStudio((s) => s.drawn?.serial)
  const playing = useStudio((s) => s.playing)
  const selected = useStudio((s) => s.selected)
  const systems = useShot((s) => s.systems)
  const system = systems.find((s) => s.id === selected) ?? systems[0]
  const [spread, setSpread] = useState<Spread | null>(null)
  // biome-ignore lint/correctness/useExhaustiveDependencies: another picture of the same frame holds other particles
  useEffect(() => {
    if (!session || !system || playing) return
    const stop = new AbortController()
    void session.inquire({ what: 'spread', system: system.id, frame: playhead }, stop.signal).then((a) => {
      if (a.state !== 'cancelled') setSpread(valueOr(a, null))
    })
    return () => stop.abort()
  }, [session, system, playhead, serial, playing])
  if (!system)
    return (
      <section>
        <Heading>Spread now</Heading>
        <Empty>No system yet.</Empty>
      </section>
    )
  return (
    <section aria-label="Spread at the playhead" className="flex min-h-44 flex-col">
      <Heading side={`${system.name}, ${grouped(spread?.alive ?? 0)} alive`}>Spread now</Heading>
      {spread?.alive ? (
        <>
          <Bars name="Speed" unit="m/s" h={spread.speed} />
          <Bars name="Age" unit="s" h={spread.age} />
          <Bars name="Size" unit="mm" h={spread.size} times={1000} />
        </>
      ) : (
        <Empty>Nobody lives in this frame.</Empty>
      )}
    </section>
  )
}
function Bars({ name, unit, h, times = 1 }: { name: string; unit: string; h: Histogram; times?: number }) {
  const option = useMemo(() => {
    const step = (h.to - h.from) / Math.max(1, h.counts.length)
    const middle = (i: number) => (h.from + (i + 0.5) * step) * times
    return {
      grid: { left: 2, right: 2, top: 2, bottom: 1 },
      xAxis: axis({
        type: 'category',
        data: h.counts.map((_, i) => `${show(middle(i))} ${unit}`),
        axisLabel: { show: false },
        splitLine: { show: false },
      }),
      yAxis: axis({ type: 'value', min: 0, axisLabel: { show: false }, splitLine: { show: false }, axisLine: { show: false } }),
      series: [{ type: 'bar', name, data: h.counts, barCategoryGap: '10%', itemStyle: { color: '#8fa08d' } }],
    }
  }, [h, name, unit, times])
  return (
    <div className="flex min-h-12 flex-1 flex-col">
      <Chart label={`${name}, from ${show(h.from * times)} to ${show(h.to * times)} ${unit}`} option={option} className="min-h-6 flex-1" />
      <span className="flex justify-between text-moss">
        <span>{show(h.from * times)}</span>{' '}
        <span className="text-mist">
          {name}, {unit}
        </span>{' '}
        <span>{show(h.to * times)}</span>
      </span>
    </div>
  )
}
const nameOf = (shot: Shot, system: string, act: string): string => {
  if (!act) return 'Moving and contact'
  const own = shot.systems.find((s) => s.id === system)
  const found = (own ? actsOf(own).find((a) => a.id === act) : undefined) ?? shot.forces.find((f) => f.act.id === act)?.act
  return shot.forces.find((f) => f.act.id === act)?.name ?? (found ? actOf(found.kind).title : act)
}
/** What the run keeps in memory, and what each act takes of a frame, measured when it is asked for. */
function Cost({ series }: { series: Series | null }) {
  const session = useStudio((s) => s.session)
  const playhead = useStudio((s) => s.playhead)
  const [times, setTimes] = useState<Times | null>(null)
  const [busy, setBusy] = useState(false)
  const measure = async () => {
    setBusy(true)
    const a = await session?.inquire({ what: 'times', frame: studio().playhead })
    setBusy(false)
    if (a?.state === 'answered') setTimes(a.value)
    else if (a && whyUnanswered(a)) toast(`Not measured: ${whyUnanswered(a)}.`, true)
  }
  const MB = (b: number) => `${(b / 1048576).toLocaleString('en-US', { maximumFractionDigits: 0 })} MB`
  const rows = times?.systems.flatMap((s) => s.acts.map((a) => ({ ...a, system: s.system }))).sort((a, b) => b.ms - a.ms) ?? []
  const maximum = Math.max(...rows.map((r) => r.ms), 1e-9)
  const shot = shotNow()
  const many = (times?.systems.length ?? 0) > 1
  return (
    <section aria-label="Cost" className="flex min-h-44 flex-col overflow-y-auto">
      <Heading side={times ? `frame ${times.frame}` : ''}>Cost by act</Heading>
      <div className="flex flex-col gap-1">
        {rows.map((r) => (
          <div key={`${r.system} ${r.id}`} className="grid grid-cols-[1fr_64px] items-center gap-x-2">
            <span className="truncate">
              {nameOf(shot, r.system, r.id)}
              {many && <span className="text-moss"> {shot.systems.find((s) => s.id === r.system)?.name}</span>}
            </span>
            <span className="text-right">{r.ms < 0.005 ? '< 0.01' : r.ms.toFixed(2)} ms</span>
            <span className="col-span-2 h-0.5 bg-fern">
              <span className="block h-full bg-moss" style={{ width: `${(r.ms / maximum) * 100}%` }} />
            </span>
          </div>
        ))}
      </div>
      <Button className="my-1 h-6! w-fit px-2!" disabled={busy} onClick={() => void measure()}>
        {busy ? 'Measuring …' : times ? `Measure frame ${playhead}` : 'Measure what each act takes'}
      </Button>
      <p className="mt-auto text-moss">
        {series ? (
          <>
            Frames kept: <b className="font-semibold text-mist">{MB(series.historyBytes)}</b>. The run:{' '}
            <b className="font-semibold text-mist">{MB(series.worldBytes)}</b>.
          </>
        ) : (
          ''
        )}
      </p>
    </section>
  )
}
