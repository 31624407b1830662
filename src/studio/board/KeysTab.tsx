'use client'
import { Trash2 } from 'lucide-react'
import { actOf, actOfSort, readerOf } from '../../acts'
import { frameAt, isKeyed, type Key } from '../../shot'
import { dropKeyNow, keysOf } from '../fields/bind'
import { keyedValues } from '../keyed'
import { select, setPlayhead, useShot, useStudio } from '../store'
import { cx, Drop, IconButton, Select } from '../ui'
import { show } from '../units'

const EASES = [
  { value: 'smooth', label: 'smooth' },
  { value: 'linear', label: 'straight' },
  { value: 'hold', label: 'hold' },
]
/** Every keyed value and every birth window of the shot, as a list. */
export function KeysTab() {
  const shot = useShot((s) => s)
  const selected = useStudio((s) => s.selected)
  const beside = useStudio((s) => s.beside)
  const values = keyedValues(shot)
  const windows = shot.systems.flatMap((s) => s.birth.map((a) => ({ system: s, act: a })))
  return (
    <div className={cx('grid min-h-0 flex-1', beside ? 'grid-rows-2' : 'grid-cols-[1fr_320px]')}>
      <div className="min-h-0 overflow-y-auto border-bark border-r p-2">
        <h3 className="flex h-7 items-center px-1 font-semibold">Keyed values</h3>
        {!values.length && <p className="px-1 text-moss">No value has keys yet. Set one with the dot beside a value; moving the playhead and changing the value sets the next.</p>}
        {values.map((v) => {
          const keys = [...new Map(keysOf(v.bind).map((k) => [k.t, k])).values()].sort((a, b) => a.t - b.t)
          return (
            <div key={`${v.element}-${v.name}`} className={cx('mb-1 flex items-start gap-2 rounded-[3px] px-2 py-1', v.element === selected ? 'bg-fern' : 'bg-fern/50')}>
              <button type="button" className="w-48 shrink-0 truncate pt-0.5 text-left" onClick={() => select(v.element)} title={`${v.elementName}: ${v.name}`}>
                {v.elementName}, <span className="text-moss">{v.name}</span>
              </button>
              <div className="flex min-w-0 flex-1 flex-wrap gap-1">
                {keys.map((k) => (
                  <KeyChip key={k.t} k={k} value={v} frame={frameAt(shot, k.t)} />
                ))}
              </div>
            </div>
          )
        })}
      </div>
      <div className="min-h-0 overflow-y-auto p-2">
        <h3 className="flex h-7 items-center px-1 font-semibold">Birth windows</h3>
        {windows.map(({ system, act }) => {
          const source = actOfSort(act.kind, 'source')
          const p = readerOf(act)
          const end = source.ends(p)
          return (
            <button key={act.id} type="button" className="flex h-6 w-full items-center justify-between gap-2 rounded-[3px] px-2 hover:bg-fern" onClick={() => select(system.id)}>
              <span className="truncate">
                {system.name}, <span className="text-moss">{actOf(act.kind).title.toLowerCase()}</span>
              </span>
              <span className="shrink-0 text-moss">
                {show(frameAt(shot, source.starts(p)))} to {Number.isFinite(end) ? show(frameAt(shot, end)) : shot.range.last} f
              </span>
            </button>
          )
        })}
        {!windows.length && <p className="px-1 text-moss">Nothing is born yet.</p>}
      </div>
    </div>
  )
}
function KeyChip({ k, value, frame }: { k: Key<unknown>; value: ReturnType<typeof keyedValues>[number]; frame: number }) {
  const b = value.bind
  const setEase = (ease: string) => {
    const change = (a: unknown): unknown => (isKeyed<unknown>(a) ? { ...a, keys: a.keys.map((x) => (Math.abs(x.t - k.t) < 1e-6 ? { ...x, ease } : x)) } : a)
    const v = b.value as { value?: unknown }
    b.write(`ease of ${b.param.label.toLowerCase()}`, b.param.type === 'vector' ? (b.value as unknown[]).map(change) : v && typeof v === 'object' && 'vary' in v ? { ...v, value: change(v.value) } : change(v), null)
  }
  const text = typeof k.v === 'number' ? show(k.v) : Array.isArray(k.v) ? k.v.map((x) => show(x as number)).join(', ') : String(k.v)
  return (
    <span className="flex h-6 items-center gap-1 rounded-[3px] border border-bark bg-night pr-0.5 pl-1.5">
      <button type="button" className="flex items-center gap-1 hover:text-mist" onClick={() => setPlayhead(frame)} aria-label={`Go to the key at ${show(frame)} f`}>
        <Drop size={10} /> {show(frame)} f <span className="text-moss">{b.param.type === 'vector' ? '' : text}</span>
      </button>
      <Select inline label={`Ease of the key at ${show(frame)} f`} value={k.ease} options={EASES} onChange={setEase} />
      <IconButton name="Remove this key" className="size-5!" onClick={() => dropKeyNow(b, k.t)}>
        <Trash2 size={12} strokeWidth={1.5} />
      </IconButton>
    </span>
  )
}
