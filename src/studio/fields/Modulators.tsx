'use client'
import { ChevronDown, Plus, Power, PowerOff, X } from 'lucide-react'
import { useState } from 'react'
import { actOf, actOfSort, CONSTANTS, FUNCTIONS, readerOf, readFormula } from '../../acts'
import type { ModulatorDoc, ValueRef } from '../../shot'
import { useShot } from '../store'
import { cx, IconButton, Select, Tip } from '../ui'
import { showWithUnit } from '../units'
import type { Bind } from './bind'
import { FieldRow } from './FieldRow'
import { useFps } from './fps'
import { changeModulator, dropModulator, modulatorBinds, modulatorsAt, type Site, siteName, sitesOf } from './modulation'
import { refText, ValuePicker } from './ValuePicker'

const MODES = [
  { value: 'add', label: 'added' },
  { value: 'multiply', label: 'multiplied' },
  { value: 'replace', label: 'instead' },
]
/** The modulators of a value, in their order, each a line that opens. */
export function Modulators({ bind }: { bind: Bind }) {
  const sites = sitesOf(bind).filter((s) => modulatorsAt(s).length)
  if (!sites.length) return null
  return (
    <div className="mb-1 ml-3 flex flex-col gap-1 border-twig border-l pl-2" role="group" aria-label={`Modulators of ${bind.param.label}`}>
      {sites.flatMap((site) => modulatorsAt(site).map((m) => <Line key={m.id} site={site} m={m} />))}
    </div>
  )
}
function Line({ site, m }: { site: Site; m: ModulatorDoc }) {
  const act = actOfSort(m.kind, 'modulator')
  const [open, setOpen] = useState(() => act.opens?.(readerOf(m)) ?? false)
  const binds = modulatorBinds(site, m)
  return (
    <div className="rounded-md bg-night/50">
      <div className="flex min-h-6 items-center gap-1 pl-1">
        <button
          type="button"
          aria-expanded={open}
          aria-label={`${act.title} of ${siteName(site)}`}
          className="flex min-w-0 flex-1 items-center gap-1 text-left"
          onClick={() => setOpen(!open)}
        >
          <ChevronDown size={12} strokeWidth={1.5} className={cx('shrink-0 text-moss', !open && '-rotate-90')} />
          {site.component !== undefined && <span className="text-moss">{'XYZ'[site.component]}</span>}
          <Words m={m} binds={binds} />
        </button>
        <span className="shrink-0 pr-0.5">
          <Select
            inline
            label={`How ${act.title} counts`}
            value={m.mode}
            options={MODES}
            onChange={(mode) => changeModulator(site, m.id, `how ${act.title.toLowerCase()} counts`, { mode }, null)}
          />
        </span>
        <IconButton
          name={m.muted ? 'Switch it on' : 'Mute it'}
          className="size-5!"
          onClick={() => changeModulator(site, m.id, `${act.title.toLowerCase()} ${m.muted ? 'on' : 'off'}`, { muted: !m.muted }, null)}
        >
          {m.muted ? <PowerOff size={12} strokeWidth={1.5} /> : <Power size={12} strokeWidth={1.5} />}
        </IconButton>
        <IconButton name="Take it away" className="size-5!" onClick={() => dropModulator(site, m.id)}>
          <X size={12} strokeWidth={1.5} />
        </IconButton>
      </div>
      {open && (
        <div className="grid grid-cols-1 gap-y-1 px-2 pb-1">
          {Object.entries(binds).map(([name, b]) =>
            b.param.type === 'text' ? (
              <FormulaRow key={name} bind={b} names={(m.names as { name: string }[]) ?? []} />
            ) : b.param.type === 'names' ? (
              <NamesRow key={name} bind={b} />
            ) : (
              <FieldRow key={name} bind={b} />
            ),
          )}
        </div>
      )}
    </div>
  )
}
/** Its sentence, with the values as text: closed it must stay one line. */
function Words({ m, binds }: { m: ModulatorDoc; binds: Record<string, Bind> }) {
  const fps = useFps()
  const shot = useShot((s) => s)
  const text = actOf(m.kind)
    .sentence(readerOf(m))
    .map((part) => {
      if (typeof part === 'string') return part
      const b = binds[part.param]
      return b.param.type === 'number'
        ? showWithUnit(b.value as number, b.param, fps)
        : b.param.type === 'value'
          ? refText(shot, b.value as ValueRef | null)
          : String(b.value)
    })
    .join('')
  return (
    <span className={cx('min-w-0 truncate', m.muted && 'text-moss line-through')} title={text}>
      {text}
    </span>
  )
}
function FormulaRow({ bind: b, names }: { bind: Bind; names: { name: string }[] }) {
  const [typed, setTyped] = useState<string | null>(null)
  const text = typed ?? String(b.value)
  const read = readFormula(
    text,
    names.map((n) => n.name),
  )
  const keep = () => {
    if (typed !== null && typed !== b.value) b.write('formula', typed, null)
    setTyped(null)
  }
  return (
    <div>
      <div className="flex items-center gap-2">
        <Tip
          side="left"
          text={
            <span className="block max-h-72 overflow-hidden">
              {[...Object.entries(CONSTANTS).map(([k, v]) => `${k}: ${v}`), ...Object.values(FUNCTIONS).map((f) => f.help)].map((l) => (
                <span key={l} className="block">
                  {l}
                </span>
              ))}
            </span>
          }
        >
          <span className="w-[68px] shrink-0 text-moss">{b.param.label}</span>
        </Tip>
        <input
          aria-label="Formula"
          aria-invalid={!read.ok}
          spellCheck={false}
          value={text}
          onChange={(e) => setTyped(e.target.value)}
          onBlur={keep}
          onKeyDown={(e) => {
            e.stopPropagation()
            if (e.key === 'Enter') keep()
            if (e.key === 'Escape') setTyped(null)
          }}
          className={cx('h-6 min-w-0 flex-1 rounded-md border bg-night px-2', read.ok ? 'border-twig' : 'border-berry')}
        />
      </div>
      {!read.ok && (
        <p role="alert" className="pt-0.5 pl-[76px] text-berry">
          At sign {read.at + 1}: {read.message}
        </p>
      )}
    </div>
  )
}
type Named = ValueRef & { name: string }
function NamesRow({ bind: b }: { bind: Bind }) {
  const list = b.value as Named[]
  const put = (next: Named[]) => b.write('names', next, null)
  const free = () => {
    for (let i = 0; ; i++) {
      const name = 'abcdefghijklmnopqrstuvwxyz'[i % 26] + (i < 26 ? '' : Math.floor(i / 26))
      if (!list.some((n) => n.name === name)) return name
    }
  }
  return (
    <div className="grid grid-cols-1 gap-y-1">
      {list.map((n, i) => (
        <div key={n.name} className="flex items-start gap-2">
          <input
            aria-label={`Name ${i + 1}`}
            defaultValue={n.name}
            className="h-6 w-[68px] shrink-0 rounded-md border border-twig bg-night px-2"
            onKeyDown={(e) => {
              e.stopPropagation()
              if (e.key === 'Enter') e.currentTarget.blur()
            }}
            onBlur={(e) => {
              const name = e.target.value.trim().toLowerCase()
              if (/^[a-z][a-z0-9]{0,15}$/.test(name) && name !== n.name && !list.some((x) => x.name === name))
                put(list.map((x, k) => (k === i ? { ...x, name } : x)))
              else e.target.value = n.name
            }}
          />
          <ValuePicker label={n.name} value={n} onChange={(v) => v && put(list.map((x, k) => (k === i ? { ...v, name: x.name } : x)))} />
          <IconButton name={`Take ${n.name} away`} className="size-5!" onClick={() => put(list.filter((_, k) => k !== i))}>
            <X size={12} strokeWidth={1.5} />
          </IconButton>
        </div>
      ))}
      <AddName onPick={(v) => put([...list, { ...v, name: free() }])} />
    </div>
  )
}
function AddName({ onPick }: { onPick: (v: ValueRef) => void }) {
  const [open, setOpen] = useState(false)
  if (open)
    return (
      <ValuePicker
        label="New name"
        value={null}
        onChange={(v) => {
          if (v) onPick(v)
          setOpen(false)
        }}
      />
    )
  return (
    <button type="button" className="flex h-6 items-center gap-1 text-moss hover:text-mist" onClick={() => setOpen(true)}>
      <Plus size={12} strokeWidth={1.5} /> Name a value for the formula
    </button>
  )
}
