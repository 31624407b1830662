'use client'
import { X } from 'lucide-react'
import type { LightDoc, LightShare, Shot } from '../../shot'
import { useFps } from '../fields/fps'
import { NumberField } from '../fields/NumberField'
import { SwitchField } from '../fields/plainFields'
import { edit } from '../store'
import { IconButton, Select } from '../ui'
import { Column, Empty } from './Column'

const NONE = '—choose—'
/** What can be lit, and what can shade. */
const litIn = (shot: Shot) => [
  ...shot.objects.filter((o) => o.shape.kind !== 'anchor' && o.shape.kind !== 'group'),
  ...shot.systems,
  ...shot.gases,
]

/** Whom a light reaches otherwise than all: how much of it they get, and whether they throw a shadow in it. */
export function LightSharesColumn({ light: l, shot }: { light: LightDoc; shot: Shot }) {
  const fps = useFps()
  const shares = l.shares ?? []
  const change = (label: string, next: (list: LightShare[]) => LightShare[], gesture: string | null = null) =>
    edit(
      label,
      (s) => {
        const x = s.lights.find((y) => y.id === l.id)
        if (x) x.shares = next(x.shares ?? [])
      },
      gesture,
    )
  const put = (of: string, to: Partial<LightShare>, gesture: string | null = null) =>
    change(`what ${l.name} reaches`, (list) => list.map((s) => (s.of === of ? { ...s, ...to } : s)), gesture)
  const left = litIn(shot).filter((e) => !shares.some((s) => s.of === e.id))
  const isObject = (id: string) => shot.objects.some((o) => o.id === id)
  return (
    <Column title="Reaches" side={shares.length ? `all, but ${shares.length}` : 'everything'}>
      <div className="flex flex-col gap-1">
        {shares.map((s) => {
          const name = litIn(shot).find((e) => e.id === s.of)?.name ?? s.of
          return (
            <div key={s.of} className="flex items-center gap-2 px-1">
              <span className="min-w-0 flex-1 truncate" title={name}>
                {name}
              </span>
              <NumberField
                className="w-20"
                label={`Share of ${name}`}
                value={s.share}
                spec={{ unit: '%', min: 0, max: 10000, soft: [0, 100] }}
                fps={fps}
                onChange={(v, g) => put(s.of, { share: v }, g)}
              />
              {isObject(s.of) && l.shadow && (
                <>
                  <span className="text-moss">shades</span>
                  <SwitchField label={`${name} shades`} on={s.shadow} onChange={(shadow) => put(s.of, { shadow })} />
                </>
              )}
              <IconButton
                name={`${name} as all others`}
                className="size-5!"
                onClick={() => change(`${name} as all others`, (list) => list.filter((x) => x.of !== s.of))}
              >
                <X size={12} strokeWidth={1.5} />
              </IconButton>
            </div>
          )
        })}
        {!shares.length && <Empty>Everything gets all of it. What should get less, none, or throw no shadow in it, is named here.</Empty>}
        {left.length > 0 && (
          <span className="flex items-center gap-2 px-1">
            <span className="text-moss">Otherwise</span>
            <span className="w-44">
              <Select
                label="Otherwise for"
                value={NONE}
                options={[{ value: NONE, label: 'choose what …' }, ...left.map((e) => ({ value: e.id, label: e.name }))]}
                onChange={(of) => of !== NONE && change(`what ${l.name} reaches`, (list) => [...list, { of, share: 0, shadow: true }])}
              />
            </span>
          </span>
        )}
      </div>
    </Column>
  )
}
