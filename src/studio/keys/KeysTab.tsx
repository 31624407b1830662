'use client'
import { AudioWaveform, ChevronLeft, ChevronRight, Maximize, Trash2 } from 'lucide-react'
import { type KeyboardEvent, useEffect, useState } from 'react'
import { actOf, actOfSort, readerOf } from '../../acts'
import { type Ease, frameAt, type Key, type Loop, timeOf } from '../../shot'
import { useFps } from '../fields/fps'
import { NumberField } from '../fields/NumberField'
import { ColourField, SwitchField } from '../fields/plainFields'
import { select, setPlayhead, shotNow, studio, useShot, useStudio } from '../store'
import { RULER_LEFT } from '../time/TimeBar'
import { toast } from '../toast'
import { cx, Drop, IconButton, Select } from '../ui'
import { show } from '../units'
import { Graph, rangeOf } from './Graph'
import {
  type Clip,
  changeKeys,
  copyKeys,
  dropKeys,
  isChosen,
  moveKeys,
  pasteKeys,
  SAME,
  type Track,
  tracksOf,
  writeKeys,
  writeLoop,
} from './tracks'

/** Width of the column beside the graph: the graph's frames stand under those of the ruler. */
const COLUMN_PX = 188

const EASES: { value: Ease; label: string }[] = [
  { value: 'hold', label: 'hold' },
  { value: 'linear', label: 'straight' },
  { value: 'smooth', label: 'smooth' },
  { value: 'curve', label: 'by handles' },
]
const LOOPS = [
  { value: 'hold', label: 'the last value holds' },
  { value: 'repeat', label: 'they repeat' },
  { value: 'mirror', label: 'there and back' },
  { value: 'onward', label: 'repeat from where they end' },
]
let clip: Clip | null = null

/** Every value that moves, and the keys of one of them as a curve over the frames of the ruler. */
export function KeysTab() {
  const shot = useShot((s) => s)
  const selected = useStudio((s) => s.selected)
  const beside = useStudio((s) => s.beside)
  const [wanted, setWanted] = useState<string | null>(null)
  const [chosen, setChosen] = useState<number[]>([])
  const [range, setRange] = useState<{ low: number; high: number } | null>(null)
  const tracks = tracksOf(shot)
  const track = tracks.find((t) => t.id === wanted) ?? tracks.find((t) => t.element === selected) ?? tracks[0]
  // biome-ignore lint/correctness/useExhaustiveDependencies: keys that were chosen belong to the track before
  useEffect(() => {
    setChosen([])
    setRange(null)
  }, [track?.id])

  const keyDown = (e: KeyboardEvent) => {
    if (!track || (e.target as HTMLElement).closest('input')) return
    const frame = shot.rate.den / shot.rate.num
    const arrows: Record<string, [number, number]> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }
    const command = e.ctrlKey || e.metaKey
    if (e.key in arrows && chosen.length && (e.target as HTMLElement).closest('[data-graph]')) {
      const [dx, dy] = arrows[e.key]
      const r = range ?? (track.kind === 'number' ? rangeOf(track, 0, timeOf(shot, shot.range.last)) : { low: 0, high: 1 })
      const m = moveKeys(
        track.keys,
        chosen,
        dx * frame * (e.shiftKey ? 10 : 1),
        track.kind === 'number' ? (dy * (r.high - r.low)) / (e.shiftKey ? 20 : 200) : 0,
        0,
      )
      writeKeys(track, `keys of ${track.bind.param.label.toLowerCase()}`, m.keys, `arrow-${track.id}`)
      setChosen(m.chosen)
    } else if ((e.key === 'Delete' || e.key === 'Backspace') && chosen.length) {
      writeKeys(track, `${chosen.length} keys less`, dropKeys(track.keys, chosen), null)
      setChosen([])
    } else if (command && e.key === 'a') setChosen(track.keys.map((k) => k.t))
    else if (command && e.key === 'c' && chosen.length) {
      clip = copyKeys(track, chosen)
      toast(`${clip.keys.length} ${clip.keys.length === 1 ? 'key' : 'keys'} copied; paste puts the first at the playhead`)
    } else if (command && e.key === 'v' && clip) {
      if (clip.kind !== track.kind) toast('These keys hold another kind of value; choose a value of their kind.', true)
      else {
        const m = pasteKeys(track.keys, clip, timeOf(shotNow(), studio().playhead))
        writeKeys(track, `${clip.keys.length} keys, pasted`, m.keys, null)
        setChosen(m.chosen)
      }
    } else return
    e.preventDefault()
    e.stopPropagation()
  }
  const list = (
    <div className={cx('flex min-h-0 flex-col border-bark', beside ? 'max-h-48 border-b' : 'w-[216px] shrink-0 border-r')}>
      <h3 className="flex h-8 shrink-0 items-center px-3 font-semibold">Values that move</h3>
      <div className="min-h-0 flex-1 overflow-y-auto px-1 pb-1">
        {!tracks.length && (
          <p className="px-2 text-moss">None yet. Set a key with the dot beside a value, or right-click the value and add a modulator.</p>
        )}
        {tracks.map((t) => (
          <button
            key={t.id}
            type="button"
            aria-current={t.id === track?.id}
            title={t.name}
            onClick={() => {
              setWanted(t.id)
              select(t.element)
            }}
            className={cx(
              'flex h-6 w-full items-center gap-2 rounded-md border px-2 text-left',
              t.id === track?.id ? 'border-bark bg-fern font-semibold' : 'border-transparent hover:bg-fern/60',
            )}
          >
            {t.keys.length ? <Drop size={12} /> : <AudioWaveform size={12} strokeWidth={1.5} className="shrink-0" />}
            <span className="min-w-0 flex-1 truncate">{t.name}</span>
            <span className="shrink-0 font-normal text-moss">
              {t.keys.length
                ? t.keys.length
                : t.modulators.length === 1
                  ? actOf(t.modulators[0]).title.toLowerCase()
                  : `${t.modulators.length} mod.`}
            </span>
          </button>
        ))}
        <Windows />
      </div>
    </div>
  )
  if (!track) return <div className="flex min-h-0 flex-1">{list}</div>
  const panel = <KeyPanel track={track} chosen={chosen} choose={setChosen} />
  const graph = (
    <div className="flex min-h-0 min-w-0 flex-1 flex-col">
      <div className="flex h-8 shrink-0 items-center gap-2 pr-2" style={{ paddingLeft: beside ? 12 : 52 }}>
        <b className="truncate font-semibold">{track.name}</b>
        <span className="min-w-0 truncate text-moss">
          {track.modulators.length
            ? `${track.modulators.map((m) => actOf(m).title.toLowerCase()).join(', ')} on top of ${track.keys.length ? 'the dashed keys' : 'a constant'}`
            : track.bind.param.help}
        </span>
        <span className="flex-1" />
        <IconButton name="Show all values" onClick={() => setRange(null)}>
          <Maximize size={14} strokeWidth={1.5} />
        </IconButton>
      </div>
      <Graph
        track={track}
        chosen={chosen}
        choose={setChosen}
        range={range}
        setRange={setRange}
        left={beside ? 56 : RULER_LEFT - COLUMN_PX}
      />
    </div>
  )
  return (
    <div className={cx('flex min-h-0 flex-1', beside && 'flex-col')} onKeyDown={keyDown}>
      {list}
      {panel}
      {graph}
    </div>
  )
}
/** The chosen key in numbers. Its width and that of the list end where the ruler begins. */
function KeyPanel({ track, chosen, choose }: { track: Track; chosen: number[]; choose: (t: number[]) => void }) {
  const shot = useShot((s) => s)
  const fps = useFps()
  const i = track.keys.findIndex((k) => isChosen(chosen, k.t))
  const k = track.keys[i] as Key<unknown> | undefined
  const go = (n: number) => {
    const to = track.keys[n]
    if (!to) return
    choose([to.t])
    setPlayhead(frameAt(shot, to.t))
  }
  const change = (label: string, f: (k: Key<unknown>) => Key<unknown>, gesture: string | null = null) =>
    writeKeys(track, label, changeKeys(track.keys, chosen, f), gesture)
  const p = track.bind.param
  const spec = {
    unit: 'unit' in p ? p.unit : '',
    min: p.type === 'number' ? p.min : undefined,
    max: p.type === 'number' ? p.max : undefined,
    soft: p.type === 'number' ? p.soft : undefined,
    integer: p.type === 'number' ? p.integer : undefined,
  } as const
  const next = track.keys[i + 1]
  const row = 'flex h-6 items-center gap-2 [&>span:first-child]:w-14 [&>span:first-child]:shrink-0 [&>span:first-child]:text-moss'
  return (
    <div style={{ width: COLUMN_PX }} className="flex shrink-0 flex-col gap-1 overflow-y-auto px-3 pb-2">
      <div className="flex h-8 shrink-0 items-center">
        <b className="flex-1 font-semibold">
          {chosen.length > 1
            ? `${chosen.length} keys`
            : k
              ? `Key ${i + 1} of ${track.keys.length}`
              : track.keys.length
                ? `${track.keys.length} ${track.keys.length === 1 ? 'key' : 'keys'}`
                : 'No keys'}
        </b>
        <IconButton
          name="Key before"
          onClick={() => go(k ? i - 1 : track.keys.findLastIndex((x) => x.t < timeOf(shot, studio().playhead) - SAME))}
        >
          <ChevronLeft size={14} strokeWidth={1.5} />
        </IconButton>
        <IconButton
          name="Next key"
          onClick={() => go(k ? i + 1 : track.keys.findIndex((x) => x.t > timeOf(shot, studio().playhead) + SAME))}
        >
          <ChevronRight size={14} strokeWidth={1.5} />
        </IconButton>
      </div>
      {!k && (
        <p className="text-moss">
          {track.keys.length
            ? 'Choose a key, or drag a box around several. Double-click sets one.'
            : track.kind === 'number'
              ? 'Double-click in the graph sets a key.'
              : 'Set a key with the dot beside the value.'}
        </p>
      )}
      {k && (
        <>
          {chosen.length === 1 && (
            <>
              <div className={row}>
                <span>Frame</span>
                <NumberField
                  className="flex-1"
                  label="Frame of the key"
                  value={k.t}
                  spec={{ unit: 's', moment: true, min: 0 }}
                  fps={fps}
                  onChange={(t, g) => {
                    const m = moveKeys(track.keys, chosen, t - k.t, 0, 0)
                    writeKeys(track, 'frame of a key', m.keys, g)
                    choose(m.chosen)
                  }}
                />
              </div>
              <div className={row}>
                <span>Value</span>
                {typeof k.v === 'number' ? (
                  <NumberField
                    className="flex-1"
                    label="Value of the key"
                    value={k.v}
                    spec={spec}
                    fps={fps}
                    onChange={(v, g) => change('value of a key', (x) => ({ ...x, v }), g)}
                  />
                ) : typeof k.v === 'boolean' ? (
                  <SwitchField label="Value of the key" on={k.v} onChange={(v) => change('value of a key', (x) => ({ ...x, v }))} />
                ) : Array.isArray(k.v) ? (
                  <ColourField
                    label="Value of the key"
                    value={k.v as never}
                    onChange={(v, g) => change('value of a key', (x) => ({ ...x, v }), g)}
                  />
                ) : (
                  <Select
                    label="Value of the key"
                    value={String(k.v)}
                    options={p.type === 'choice' ? [...p.options] : []}
                    onChange={(v) => change('value of a key', (x) => ({ ...x, v }))}
                  />
                )}
              </div>
            </>
          )}
          {track.kind !== 'step' && (
            <div className={row}>
              <span>Ease</span>
              <Select
                label="Ease of the key"
                value={k.ease}
                options={track.kind === 'colour' ? EASES.slice(0, 3) : EASES}
                onChange={(ease) => change('ease of keys', (x) => ({ ...x, ease: ease as Ease }))}
              />
            </div>
          )}
          {track.kind === 'number' && k.ease === 'curve' && next && chosen.length === 1 && (
            <Slopes
              k={k as Key<number>}
              next={next as Key<number>}
              change={(bend, g) => change('bend of a key', (x) => ({ ...x, bend }), g)}
              unit={show(0) && spec.unit}
              fps={fps}
            />
          )}
          <button
            type="button"
            className="flex h-6 items-center gap-2 text-moss hover:text-mist"
            onClick={() => {
              writeKeys(track, `${chosen.length} ${chosen.length > 1 ? 'keys' : 'key'} less`, dropKeys(track.keys, chosen), null)
              choose([])
            }}
          >
            <Trash2 size={13} strokeWidth={1.5} /> Take {chosen.length > 1 ? 'them' : 'it'} away
          </button>
        </>
      )}
      {track.keys.length > 1 && (
        <div className="mt-auto pt-1">
          <span className="text-moss">After the last key</span>
          <Select label="After the last key" value={track.loop} options={LOOPS} onChange={(l) => writeLoop(track, l as Loop)} />
        </div>
      )}
    </div>
  )
}
/** The handles of a bent segment as slopes: value per second as it leaves this key and reaches the next. */
function Slopes({
  k,
  next,
  change,
  fps,
}: {
  k: Key<number>
  next: Key<number>
  change: (bend: [number, number, number, number], gesture: string | null) => void
  unit: string
  fps: number
}) {
  const [x1, d1, x2, d2] = k.bend ?? [1 / 3, 0, 2 / 3, 0]
  const span = next.t - k.t
  const a = Math.max(1e-3, x1) * span,
    b = Math.max(1e-3, 1 - x2) * span
  const row = 'flex h-6 items-center gap-2 [&>span:first-child]:w-14 [&>span:first-child]:shrink-0 [&>span:first-child]:text-moss'
  return (
    <>
      <div className={row}>
        <span>Slope out</span>
        <NumberField
          className="flex-1"
          label="Slope out of the key, per second"
          value={d1 / a}
          spec={{ unit: '' }}
          fps={fps}
          onChange={(s, g) => change([x1, s * a, x2, d2], g)}
        />
      </div>
      <div className={row}>
        <span>Slope in</span>
        <NumberField
          className="flex-1"
          label="Slope into the next key, per second"
          value={-d2 / b}
          spec={{ unit: '' }}
          fps={fps}
          onChange={(s, g) => change([x1, d1, x2, -s * b], g)}
        />
      </div>
    </>
  )
}
function Windows() {
  const shot = useShot((s) => s)
  const windows = shot.systems.flatMap((s) => s.birth.map((a) => ({ system: s, act: a })))
  if (!windows.length) return null
  return (
    <>
      <h3 className="flex h-8 items-center px-2 font-semibold">Birth windows</h3>
      {windows.map(({ system, act }) => {
        const source = actOfSort(act.kind, 'source')
        const p = readerOf(act)
        const end = source.ends(p)
        return (
          <button
            key={act.id}
            type="button"
            className="flex h-6 w-full items-center justify-between gap-2 rounded-md px-2 hover:bg-fern"
            title={`${system.name}, ${actOf(act.kind).title.toLowerCase()}`}
            onClick={() => select(system.id)}
          >
            <span className="truncate">
              {system.name}, <span className="text-moss">{actOf(act.kind).title.toLowerCase()}</span>
            </span>
            <span className="shrink-0 text-moss">
              {show(frameAt(shot, source.starts(p)))} to {Number.isFinite(end) ? show(frameAt(shot, end)) : shot.range.last} f
            </span>
          </button>
        )
      })}
    </>
  )
}
