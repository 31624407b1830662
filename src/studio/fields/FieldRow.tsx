'use client'
import { ChevronRight, Crosshair, Plus, X } from 'lucide-react'
import { ContextMenu } from 'radix-ui'
import { memo } from 'react'
import { actsOfSort } from '../../acts'
import { grouped, isVaried, moves, type ValueRef } from '../../shot'
import { useStudio } from '../store'
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
import { CurveField } from './CurveField'
import { useFps } from './fps'
import { addModulator, siteName, sitesOf } from './modulation'
import { NumberField } from './NumberField'
import { OutlineField } from './OutlineField'
import {
  FontField,
  GridField,
  PartField,
  PhaseField,
  pickInView,
  RefsField,
  RegionField,
  refStored,
  refValue,
  useRefOptions,
} from './pickers'
import { ColourField, SwitchField } from './plainFields'
import { ShapeValuePicker, ValuePicker } from './ValuePicker'

/** Label, field and key mark of one parameter. Right click: keys, copy and paste, the default. */
export const FieldRow = memo(
  Parameter,
  // A bind is made with every drawing; what it reads and writes is the same while its value is.
  (a, b) =>
    a.bind.value === b.bind.value &&
    a.bind.param === b.bind.param &&
    a.wide === b.wide &&
    ((a.bind.param.type !== 'part' && a.bind.param.type !== 'region' && a.bind.param.type !== 'text') || a.bind.owner === b.bind.owner),
)
function Parameter({ bind: b, wide }: { bind: Bind; wide?: boolean }) {
  useStudio((s) => moves(b.value) && s.playhead)
  const keyed = canKey(b) && keysOf(b).length > 0
  const here = keyed && hasKeyAt(b, timeNow())
  const sites = sitesOf(b)
  const three = b.param.type === 'vector'
  const curve = b.param.type === 'curve'
  const tall = (three && !wide) || curve
  return (
    <ContextMenu.Root>
      <ContextMenu.Trigger asChild>
        {/* Three numbers need the whole width: all columns of a wide card, and in a narrow one their label over them. */}
        <div
          className={cx(
            'flex min-h-6 items-center gap-2',
            tall && 'flex-wrap gap-y-0.5',
            three && wide && 'col-span-full',
            curve && wide && 'max-w-72',
          )}
        >
          <Tip text={b.param.help} side="left">
            <span
              className={cx(
                'shrink-0 truncate text-moss',
                tall ? 'basis-full pt-0.5' : 'w-[68px]',
                // The longest fit just so.
                b.param.label.length > 10 && 'tracking-tight',
              )}
              onDoubleClick={() => toDefault(b)}
            >
              {b.param.label}
            </span>
          </Tip>
          <div className={cx('flex min-w-0 flex-1 items-center gap-1.5', wide && (three || curve ? 'max-w-80' : 'max-w-56'))}>
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
    case 'value': {
      const Picker = p.only === 'shape' ? ShapeValuePicker : ValuePicker
      return <Picker label={p.label} value={b.value as ValueRef | null} onChange={(v) => b.write(p.label.toLowerCase(), v, null)} />
    }
    case 'outline':
      return <OutlineField bind={b} />
    case 'names':
    case 'points':
      return null
    case 'text':
      return p.grid ? <GridField bind={b} {...p.grid} /> : null
    case 'curve':
      return <CurveField bind={b} param={p} />
    case 'font':
      return <FontField bind={b} />
    case 'region':
      return <RegionField bind={b} of={p.of} />
    case 'phase':
      return <PhaseField bind={b} />
    case 'dabs': {
      const n = (b.value as unknown[]).length
      return <span className="text-moss">{n === 0 ? 'nothing painted yet' : `${grouped(n)} ${n === 1 ? 'touch' : 'touches'}`}</span>
    }
    case 'part':
      return <PartField bind={b} of={p.of} />
  }
}
