'use client'
import { actOf, CONTROL_PARAMS, fullName, readers } from '../../acts'
import { type ControlDoc, type ForceDoc, sampleNumber, type Vec3 } from '../../shot'
import { bindsOf } from '../fields/bind'
import { useFps } from '../fields/fps'
import { NumberField } from '../fields/NumberField'
import { ParamRow } from '../fields/ParamRow'
import { SwitchField } from '../fields/plainFields'
import { edit, select, useShot } from '../store'
import { show } from '../units'
import { ActCard } from './Card'
import { Column, Columns, Empty } from './Column'
import { rec, useT } from './time'

const _xyz = (v: Vec3) => v.map((x) => show(x)).join(', ')

/** A value of the artist's own, and everything that follows it. */
export function ControlBoard({ control: c }: { control: ControlDoc }) {
  const t = useT(c)
  const shot = useShot((s) => s)
  const binds = bindsOf(CONTROL_PARAMS, rec(c), c.name, (s) => rec(s.controls.find((x) => x.id === c.id)))
  const followers = readers(shot, c.id)
  return (
    <Columns count={2}>
      <Column title="Value" side={`now ${show(sampleNumber(c.value, t))}${c.unit && ` ${c.unit}`}`}>
        <div className="grid grid-cols-1 gap-y-1 px-1">
          <ParamRow bind={binds.value} wide />
        </div>
        <label className="flex items-center gap-2 px-1 text-moss">
          <span className="w-[68px]">Unit</span>
          <input
            aria-label="Unit"
            maxLength={12}
            value={c.unit}
            placeholder="none"
            className="h-6 w-24 rounded-md border border-twig bg-night px-2 text-mist placeholder:text-moss"
            onKeyDown={(e) => e.stopPropagation()}
            onChange={(e) =>
              edit(
                `unit of ${c.name}`,
                (s) => {
                  const x = s.controls.find((y) => y.id === c.id)
                  if (x) x.unit = e.target.value
                },
                `unit-${c.id}`,
              )
            }
          />
        </label>
      </Column>
      <Column title="Followed by" side={`${followers.length}`}>
        {followers.map((v) => (
          <button
            key={v.record.element.id + v.path}
            type="button"
            className="flex min-h-6 w-full items-center rounded-md bg-fern px-2 py-1 text-left hover:bg-bark"
            onClick={() => select(v.record.element.id)}
          >
            {fullName(v)}
          </button>
        ))}
        {!followers.length && (
          <Empty>Nothing follows it yet. Right-click a value, add the modulator Follow or Expression, and pick {c.name}.</Empty>
        )}
      </Column>
    </Columns>
  )
}
export function ForceBoard({ force: f }: { force: ForceDoc }) {
  const systems = useShot((s) => s.systems)
  const thrown = useShot((s) =>
    s.objects
      .filter((o) => o.body)
      .map((o) => `${o.id}\n${o.name}`)
      .join('\n\n'),
  )
  const gases = useShot((s) => s.gases)
  const act = actOf(f.act.kind)
  // Not every force has something to say to a gas.
  const stirred = act.sort === 'force' && act.movesGas ? gases : []
  const bodies = thrown ? thrown.split('\n\n').map((x) => ({ id: x.slice(0, x.indexOf('\n')), name: x.slice(x.indexOf('\n') + 1) })) : []
  const fps = useFps()
  const find = (s: { forces: ForceDoc[] }) => s.forces.find((e) => e.id === f.id)
  const felt = [...systems, ...stirred, ...bodies].filter((s) => f.reaches === 'all' || f.reaches.includes(s.id)).length
  const reach = (id: string, on: boolean) =>
    edit(`whom ${f.name} reaches`, (d) => {
      const x = find(d)
      if (!x) return
      // Systems, gases, and objects that are thrown.
      const all = [...d.systems, ...d.gases, ...d.objects.filter((o) => o.body)].map((y) => y.id)
      const now = x.reaches === 'all' ? all : x.reaches
      const next = on ? [...new Set([...now, id])] : now.filter((y) => y !== id)
      x.reaches = all.every((y) => next.includes(y)) ? 'all' : next
    })
  const share = (id: string, v: number, gesture: string | null) =>
    edit(
      `share of ${f.name}`,
      (d) => {
        const x = find(d)
        if (x) x.shares = [...x.shares.filter((y) => y.system !== id), ...(v === 100 ? [] : [{ system: id, share: v }])]
      },
      gesture,
    )
  return (
    <Columns count={2}>
      <Column title="Force">
        <ActCard
          fixed
          wide
          act={f.act}
          list={(s) => {
            const x = find(s)
            return x ? [x.act] : undefined
          }}
        />
      </Column>
      <Column
        title="Reaches"
        side={f.reaches === 'all' ? 'every system, also those to come' : `${felt} of ${systems.length + stirred.length + bodies.length}`}
      >
        <div className="flex flex-col gap-1">
          {systems.map((s) => {
            const on = f.reaches === 'all' || f.reaches.includes(s.id)
            return (
              <div key={s.id} className="flex items-center gap-3 px-1">
                <span className="w-40 truncate">{s.name}</span>
                <span className="w-16">
                  <SwitchField label={`Reaches ${s.name}`} on={on} onChange={(v) => reach(s.id, v)} />
                </span>
                {on && (
                  <NumberField
                    className="w-24"
                    label={`Share of ${s.name}`}
                    value={f.shares.find((x) => x.system === s.id)?.share ?? 100}
                    spec={{ unit: '%', min: 0, max: 100, soft: [0, 100] }}
                    fps={fps}
                    onChange={(v, g) => share(s.id, v, g)}
                  />
                )}
              </div>
            )
          })}
          {stirred.map((g) => (
            <div key={g.id} className="flex items-center gap-3 px-1">
              <span className="w-40 truncate">{g.name}</span>
              <span className="w-16">
                <SwitchField
                  label={`Reaches ${g.name}`}
                  on={f.reaches === 'all' || f.reaches.includes(g.id)}
                  onChange={(v) => reach(g.id, v)}
                />
              </span>
              <span className="text-moss">gas</span>
            </div>
          ))}
          {bodies.map((o) => (
            <div key={o.id} className="flex items-center gap-3 px-1">
              <span className="w-40 truncate">{o.name}</span>
              <span className="w-16">
                <SwitchField
                  label={`Reaches ${o.name}`}
                  on={f.reaches === 'all' || f.reaches.includes(o.id)}
                  onChange={(v) => reach(o.id, v)}
                />
              </span>
              <span className="text-moss">thrown</span>
            </div>
          ))}
          {!systems.length && !bodies.length && !stirred.length && <Empty>No system yet. What is added later feels it too.</Empty>}
        </div>
      </Column>
    </Columns>
  )
}
