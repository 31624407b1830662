'use client'
import { X } from 'lucide-react'
import { useShallow } from 'zustand/react/shallow'
import { FONTS } from '../../acts'
import type { Param, RefsParam, Shot } from '../../shot'
import { meshFacts } from '../facts'
import { setStudio, useShot, useStudio } from '../store'
import { Select } from '../ui'
import type { Bind } from './bind'

const NONE = '—none—'

/** Where what a reference leads to is found. */
const REFERS_TO: { [K in Extract<Param, { type: 'ref' }>['to']]: (s: Shot) => readonly { id: string; name: string }[] } = {
  object: (s) => s.objects,
  source: (s) => s.objects,
  system: (s) => s.systems,
  gas: (s) => s.gases,
  look: (s) => s.shared.looks,
  camera: (s) => s.cameras,
  mask: (s) => s.masks,
  layer: (s) => s.layers,
  stuck: (s) => [...s.objects, ...s.systems, ...s.lights.filter((l) => l.kind !== 'around')],
}
/** What a reference can lead to, with the words for none. */
export function useRefOptions(param: Param) {
  // Some lists are put together of several: the same elements are the same list.
  const list = useShot(useShallow((s: Shot) => (param.type === 'ref' ? REFERS_TO[param.to](s) : null)))
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

/** Several elements: each named, taken out by its cross; the list adds one. */
export function RefsField({ bind: b }: { bind: Bind }) {
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
export function PartField({ bind: b, of }: { bind: Bind; of: string }) {
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
/** A grid of the file of an object, by its name; none: it is found by what it is called. */
export function GridField({ bind: b, of, channels }: { bind: Bind; of: string; channels: 1 | 3 }) {
  const objects = useShot((s) => s.objects)
  const facts = useStudio((s) => s.facts)
  const shape = objects.find((o) => o.id === b.owner[of])?.shape
  const grids = (shape?.kind === 'mesh' ? facts[shape.asset]?.grids : undefined) ?? []
  const now = String(b.value ?? '')
  const names = grids.filter((g) => g.channels === channels && g.name).map((g) => g.name)
  return (
    <Select
      label={b.param.label}
      value={now || NONE}
      options={[
        { value: NONE, label: 'by its name' },
        ...[...new Set([...names, ...(now ? [now] : [])])].map((n) => ({ value: n, label: n })),
      ]}
      onChange={(v) => b.write(b.param.label.toLowerCase(), refStored(v) ?? '', null)}
    />
  )
}
/** The next click in the View gives the reference. */
export function pickInView(b: Bind, refs: { value: string; label: string }[]): void {
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
export function FontField({ bind: b }: { bind: Bind }) {
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
/** The regions of the object that a neighbouring parameter refers to, or of the one whose act it is. */
export function RegionField({ bind: b, of }: { bind: Bind; of: string | null }) {
  const objects = useShot((s) => s.objects)
  const regions = objects.find((o) => (of === null ? o.offspring.some((a) => a.id === b.owner.id) : o.id === b.owner[of]))?.regions ?? []
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
export function PhaseField({ bind: b }: { bind: Bind }) {
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
