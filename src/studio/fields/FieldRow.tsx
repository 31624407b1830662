'use client'
import { ChevronRight, Crosshair, Plus, X } from 'lucide-react'
import { ContextMenu } from 'radix-ui'
import { memo } from 'react'
import { actsOfSort, FONTS } from '../../acts'
import { fromHex, isVaried, moves, type Param, type RefsParam, toHex, type ValueRef, type Vec3 } from '../../shot'
import { meshFacts } from '../facts'
import { setStudio, useShot, useStudio } from '../store'
import { cx, Drop, menuContent, menuItem, Select, Tip } from '../ui'
import {
  type Bind,
  canKey,
  canPaste,
  colourNow,
  copyValue,
  dropKeyNow,
  freezeNow,
  hasKeyAt,
  keysOf,
  numberNow,
  pasteValue,
  setKeyNow,
  stepNow,
  timeNow,
  toDefault,
  writeNow,
  writeVary,
} from './bind'
import { useFps } from './fps'
import { addModulator, siteName, sitesOf } from './modulation'
import { NumberField } from './NumberField'
import { ValuePicker } from './ValuePicker'

const NONE = '—none—'

/** What a reference can lead to, with the words for none. */
export function useRefOptions(param: Param) {
  const list = useShot((s) =>
    param.type !== 'ref' ? null : param.to === 'look' ? s.shared.looks : param.to === 'system' ? s.systems : s.objects,
  )
  const systems = useShot((s) => (param.type === 'ref' && param.to === 'source' ? s.systems : null))
  if (param.type !== 'ref' || !list) return []
  return [
    ...list.map((e) => ({ value: e.id, label: e.name })),
    ...(systems ?? []).map((e) => ({ value: e.id, label: `particles of ${e.name}` })),
    { value: NONE, label: param.empty },
  ]
}
export const refValue = (v: unknown): string => (typeof v === 'string' ? v : NONE)
export const refStored = (v: string): string | null => (v === NONE ? null : v)

/** Label, field and key mark of one parameter. Right click: keys, copy and paste, the default. */
export const FieldRow = memo(
  Parameter,
  // A bind is made with every drawing; what it reads and writes is the same while its value is.
  (a, b) =>
    a.bind.value === b.bind.value &&
    a.bind.param === b.bind.param &&
    a.wide === b.wide &&
    ((a.bind.param.type !== 'part' && a.bind.param.type !== 'region') || a.bind.owner === b.bind.owner),
)
function Parameter({ bind: b, wide }: { bind: Bind; wide?: boolean }) {
  useStudio((s) => moves(b.value) && s.playhead)
  const keyed = canKey(b) && keysOf(b).length > 0
  const here = keyed && hasKeyAt(b, timeNow())
  const sites = sitesOf(b)
  const three = b.param.type === 'vector'
  const tall = three && !wide
  return (
    <ContextMenu.Root>
      <ContextMenu.Trigger asChild>
        {/* Three numbers need the whole width: all columns of a wide card, and in a narrow one their label over them. */}
        <div className={cx('flex min-h-6 items-center gap-2', tall && 'flex-wrap gap-y-0.5', three && wide && 'col-span-full')}>
          <Tip text={b.param.help} side="left">
            <span className={cx('shrink-0 truncate text-moss', tall ? 'basis-full pt-0.5' : 'w-[68px]')} onDoubleClick={() => toDefault(b)}>
              {b.param.label}
            </span>
          </Tip>
          <div className={cx('flex min-w-0 flex-1 items-center gap-1.5', wide && (three ? 'max-w-80' : 'max-w-56'))}>
            <Field bind={b} />
          </div>
          {canKey(b) ? (
            <Tip text={here ? 'Take this key away' : keyed ? 'Set a key here; this value has keys' : 'Set a key here'}>
              <button
                type="button"
                aria-label={`${here ? 'Remove' : 'Set'} key of ${b.param.label}`}
                className={cx('grid size-4 shrink-0 place-items-center rounded-md hover:bg-bark', keyed ? 'text-mist' : 'text-moss')}
                onClick={() => (here ? dropKeyNow(b) : setKeyNow(b))}
              >
                {keyed ? <Drop filled={here} /> : <span className="size-1 rounded-full bg-current opacity-70" />}
              </button>
            </Tip>
          ) : (
            <span className="size-4 shrink-0" />
          )}
        </div>
      </ContextMenu.Trigger>
      <ContextMenu.Portal>
        <ContextMenu.Content className={menuContent} collisionPadding={8}>
          {canKey(b) && (
            <>
              <ContextMenu.Item className={menuItem} onSelect={() => setKeyNow(b)}>
                Set key here
              </ContextMenu.Item>
              <ContextMenu.Item className={menuItem} disabled={!here} onSelect={() => dropKeyNow(b)}>
                Take this key away
              </ContextMenu.Item>
              <ContextMenu.Item className={menuItem} disabled={!keyed} onSelect={() => freezeNow(b)}>
                Take all keys away
              </ContextMenu.Item>
              <ContextMenu.Separator className="my-1 h-px bg-bark" />
            </>
          )}
          {sites.map((site) => (
            <ContextMenu.Sub key={siteName(site)}>
              <ContextMenu.SubTrigger className={cx(menuItem, 'justify-between data-[state=open]:bg-fern')}>
                Add modulator{site.component !== undefined && ` to ${'XYZ'[site.component]}`} <ChevronRight size={12} strokeWidth={1.5} />
              </ContextMenu.SubTrigger>
              <ContextMenu.Portal>
                <ContextMenu.SubContent className={menuContent} collisionPadding={8}>
                  {actsOfSort('modulator').map((a) => (
                    <ContextMenu.Item
                      key={a.kind}
                      className="block min-h-6 max-w-64 px-3 py-1 outline-none data-[highlighted]:bg-fern"
                      onSelect={() => addModulator(site, a.kind)}
                    >
                      {a.title}
                      <span className="block text-moss">{a.help}</span>
                    </ContextMenu.Item>
                  ))}
                </ContextMenu.SubContent>
              </ContextMenu.Portal>
            </ContextMenu.Sub>
          ))}
          {sites.length > 0 && <ContextMenu.Separator className="my-1 h-px bg-bark" />}
          <ContextMenu.Item className={menuItem} onSelect={() => copyValue(b)}>
            Copy value
          </ContextMenu.Item>
          <ContextMenu.Item className={menuItem} disabled={!canPaste(b)} onSelect={() => pasteValue(b)}>
            Paste value
          </ContextMenu.Item>
          <ContextMenu.Item className={menuItem} onSelect={() => toDefault(b)}>
            Back to default
          </ContextMenu.Item>
        </ContextMenu.Content>
      </ContextMenu.Portal>
    </ContextMenu.Root>
  )
}

function Field({ bind: b }: { bind: Bind }) {
  const fps = useFps()
  const refs = useRefOptions(b.param)
  const p = b.param
  switch (p.type) {
    case 'number': {
      if (b.value === null)
        return (
          <button
            type="button"
            className="flex h-6 w-full items-center justify-between rounded-md border border-bark border-dashed px-2 text-moss hover:text-mist"
            onClick={() => b.write(p.label.toLowerCase(), p.default, null)}
          >
            {p.empty}
            <Plus size={13} strokeWidth={1.5} />
          </button>
        )
      const vary = isVaried(b.value) ? b.value.vary : 0
      return (
        <>
          <NumberField className="flex-1" label={p.label} value={numberNow(b)} spec={p} fps={fps} onChange={(v, g) => writeNow(b, v, g)} />
          {p.varied && (
            <>
              <span className="text-moss">±</span>
              <NumberField
                className="flex-1"
                label={`${p.label}, plus or minus`}
                value={vary}
                spec={{ ...p, min: 0, max: undefined, soft: [0, ((p.soft?.[1] ?? 1) - (p.soft?.[0] ?? 0)) / 2] }}
                fps={fps}
                onChange={(v, g) => writeVary(b, v, g)}
              />
            </>
          )}
          {p.empty !== undefined && (
            <Tip text={`Empty: ${p.empty}`}>
              <button
                type="button"
                aria-label={`${p.label}: ${p.empty}`}
                className="grid size-5 shrink-0 place-items-center rounded-md text-moss hover:bg-bark hover:text-mist"
                onClick={() => b.write(p.label.toLowerCase(), null, null)}
              >
                <X size={12} strokeWidth={1.5} />
              </button>
            </Tip>
          )}
        </>
      )
    }
    case 'vector':
      return (
        <>
          {(['X', 'Y', 'Z'] as const).map((axis, i) => (
            <span key={axis} className="relative min-w-0 flex-1">
              <span className="pointer-events-none absolute top-1 left-1.5 z-10 text-moss">{axis}</span>
              <NumberField
                className="w-full pr-1! pl-5!"
                label={`${p.label} ${axis}`}
                value={numberNow(b, i)}
                bare
                spec={{ unit: p.unit, min: p.min, soft: p.unit === '°' ? [-180, 180] : p.unit === '×' ? [0, 4] : [-3, 3] }}
                fps={fps}
                onChange={(v, g) => writeNow(b, v, g, i)}
              />
            </span>
          ))}
          {p.unit && <span className="min-w-3 shrink-0 text-moss">{p.unit}</span>}
        </>
      )
    case 'colour': {
      return <ColourField label={p.label} value={colourNow(b)} onChange={(c, g) => writeNow(b, c, g)} />
    }
    case 'switch': {
      const on = stepNow<boolean>(b)
      return <SwitchField label={p.label} on={on} onChange={(v) => writeNow(b, v, null)} />
    }
    case 'choice':
      return <Select label={p.label} value={stepNow<string>(b)} options={[...p.options]} onChange={(v) => writeNow(b, v, null)} />
    case 'ref':
      return (
        <>
          <Select
            label={p.label}
            value={refValue(b.value)}
            options={refs}
            onChange={(v) => b.write(p.label.toLowerCase(), refStored(v), null)}
          />
          {(p.to === 'source' || p.to === 'object') && (
            <Tip text={`Pick ${p.label.toLowerCase()} in the View`}>
              <button
                type="button"
                aria-label={`Pick ${p.label.toLowerCase()} in the View`}
                className="grid size-6 shrink-0 place-items-center rounded-md text-moss hover:bg-bark hover:text-mist"
                onClick={() => pickInView(b, refs)}
              >
                <Crosshair size={13} strokeWidth={1.5} />
              </button>
            </Tip>
          )}
        </>
      )
    case 'refs':
      return <RefsField bind={b} />
    case 'value':
      return <ValuePicker label={p.label} value={b.value as ValueRef | null} onChange={(v) => b.write(p.label.toLowerCase(), v, null)} />
    case 'names':
    case 'points':
    case 'text':
      return null
    case 'font':
      return <FontField bind={b} />
    case 'region':
      return <RegionField bind={b} of={p.of} />
    case 'phase':
      return <PhaseField bind={b} />
    case 'dabs': {
      const n = (b.value as unknown[]).length
      return (
        <span className="text-moss">
          {n === 0 ? 'nothing painted yet' : `${n.toLocaleString('en-US')} ${n === 1 ? 'touch' : 'touches'}`}
        </span>
      )
    }
    case 'part':
      return <PartField bind={b} of={p.of} />
  }
}
/** Several elements: each named, taken out by its cross; the list adds one. */
function RefsField({ bind: b }: { bind: Bind }) {
  const p = b.param as RefsParam
  const list = useShot((s) => (p.to === 'system' ? s.systems : s.objects) as { id: string; name: string }[])
  const now = b.value as string[]
  const others = list.filter((e) => !now.includes(e.id))
  const write = (next: string[]) => b.write(p.label.toLowerCase(), next, null)
  return (
    <div className="flex min-w-0 flex-1 flex-wrap items-center gap-1">
      {now.map((id) => {
        const name = list.find((e) => e.id === id)?.name ?? 'one that is gone'
        return (
          <span key={id} className="flex h-6 min-w-0 items-center gap-1 rounded-md bg-bark pl-2">
            <span className="truncate">{name}</span>
            <button
              type="button"
              aria-label={`${p.label}: without ${name}`}
              className="grid size-5 shrink-0 place-items-center rounded-md text-moss hover:text-mist"
              onClick={() => write(now.filter((x) => x !== id))}
            >
              <X size={12} strokeWidth={1.5} />
            </button>
          </span>
        )
      })}
      {others.length > 0 && (
        <Select
          label={p.label}
          value={NONE}
          options={[{ value: NONE, label: now.length ? 'add …' : p.empty }, ...others.map((e) => ({ value: e.id, label: e.name }))]}
          onChange={(v) => v !== NONE && write([...now, v])}
        />
      )}
    </div>
  )
}
/** The named parts of the object that a neighbouring parameter refers to. */
function PartField({ bind: b, of }: { bind: Bind; of: string }) {
  const objects = useShot((s) => s.objects)
  useStudio((s) => s.facts)
  const object = objects.find((o) => o.id === b.owner[of])
  const parts = object ? (meshFacts(object)?.parts.map((p) => p.name) ?? []) : []
  const now = String(b.value ?? '')
  const options = [
    { value: NONE, label: 'all of it' },
    ...[...new Set([...parts, ...(now ? [now] : [])])].map((n) => ({ value: n, label: n })),
  ]
  return (
    <Select
      label={b.param.label}
      value={now || NONE}
      disabled={!parts.length && !now}
      options={options}
      onChange={(v) => b.write('part', refStored(v) ?? '', null)}
    />
  )
}
/** The next click in the View gives the reference. */
function pickInView(b: Bind, refs: { value: string; label: string }[]): void {
  const label = b.param.label.toLowerCase()
  setStudio({
    picking: {
      words: `Click the ${label} in the View`,
      take(id) {
        if (!refs.some((r) => r.value === id)) return `that cannot be the ${label}`
        b.write(label, id, null)
        return null
      },
    },
  })
}
/** Fonts that are shipped, and those of the shot's files. */
function FontField({ bind: b }: { bind: Bind }) {
  const assets = useShot((s) => s.assets)
  const own = assets.filter((a) => FONT_NAME.test(a.name))
  return (
    <Select
      label={b.param.label}
      value={String(b.value)}
      options={[
        ...FONTS.map((f) => ({ value: f.id, label: f.name })),
        ...own.map((a) => ({ value: a.hash, label: a.name.replace(FONT_NAME, '') })),
      ]}
      onChange={(v) => b.write('font', v, null)}
    />
  )
}
const FONT_NAME = /\.(ttf|otf|woff)$/i
/** The regions of the object that a neighbouring parameter refers to. */
function RegionField({ bind: b, of }: { bind: Bind; of: string }) {
  const objects = useShot((s) => s.objects)
  const regions = objects.find((o) => o.id === b.owner[of])?.regions ?? []
  const now = String(b.value ?? '')
  const options = [
    { value: NONE, label: 'all of it' },
    ...regions.map((r) => ({ value: r.id, label: r.name })),
    ...(now && !regions.some((r) => r.id === now) ? [{ value: now, label: 'one that is gone' }] : []),
  ]
  return (
    <Select
      label={b.param.label}
      value={now || NONE}
      disabled={!regions.length && !now}
      options={options}
      onChange={(v) => b.write('region', refStored(v) ?? '', null)}
    />
  )
}
/** The phases of the system whose turn an act is, for a choice. */
export function usePhaseOptions(act: unknown, now: string): { value: string; label: string }[] {
  const systems = useShot((s) => s.systems)
  const phases = systems.find((s) => s.phases.some((p) => p.turns.some((t) => t.id === act)))?.phases ?? []
  return [
    ...(now ? [] : [{ value: NONE, label: 'no phase yet' }]),
    ...phases.map((p) => ({ value: p.id, label: p.name })),
    ...(now && !phases.some((p) => p.id === now) ? [{ value: now, label: 'one that is gone' }] : []),
  ]
}
function PhaseField({ bind: b }: { bind: Bind }) {
  const now = String(b.value ?? '')
  return (
    <Select
      label={b.param.label}
      value={now || NONE}
      options={usePhaseOptions(b.owner.id, now)}
      onChange={(v) => b.write('phase', refStored(v) ?? '', null)}
    />
  )
}
export function ColourField({
  label,
  value,
  onChange,
  bare,
}: {
  label: string
  value: Vec3
  onChange: (c: Vec3, gesture: string | null) => void /** Only the swatch. */
  bare?: boolean
}) {
  const scale = Math.max(1, ...value)
  return (
    <span className="flex h-6 w-full min-w-0 items-center gap-1.5">
      <input
        type="color"
        aria-label={label}
        value={toHex(value.map((v) => v / scale) as Vec3)}
        onChange={(e) => {
          const c = fromHex(e.target.value)
          if (c) onChange(c.map((v) => v * scale) as Vec3, `colour-${label}`)
        }}
        className={cx('h-6 shrink-0 rounded-md border border-twig bg-night p-0.5', bare ? 'w-full' : 'w-12')}
      />
      {!bare && (
        <span className="truncate text-moss">
          {toHex(value.map((v) => v / scale) as Vec3)}
          {scale > 1 && ` × ${scale.toFixed(1)}`}
        </span>
      )}
    </span>
  )
}
export function SwitchField({ label, on, onChange }: { label: string; on: boolean; onChange: (on: boolean) => void }) {
  return (
    <button
      type="button"
      role="switch"
      aria-checked={on}
      aria-label={label}
      onClick={() => onChange(!on)}
      className="flex h-6 items-center gap-2"
    >
      <span className={cx('relative h-3.5 w-6 rounded-full border', on ? 'border-mist bg-mist' : 'border-twig')}>
        <span className={cx('absolute top-[1px] size-2.5 rounded-full', on ? 'right-[1px] bg-night' : 'left-[1px] bg-twig')} />
      </span>
      <span className="text-mist">{on ? 'yes' : 'no'}</span>
    </button>
  )
}
