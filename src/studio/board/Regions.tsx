'use client'
import { Brush, Eye, EyeOff, Trash2 } from 'lucide-react'
import { memo, useState } from 'react'
import { actOf, painted } from '../../acts'
import { newId, type ObjectDoc, type RegionDoc, type Shot } from '../../shot'
import { newAct } from '../create'
import { NumberField } from '../fields/NumberField'
import { edit, setStudio, studio, useShot, useStudio } from '../store'
import { Button, cx, IconButton, NameInput } from '../ui'
import { AddAct } from './AddAct'
import { ActCard } from './Card'
import { Column, Empty } from './Column'
import { Portrait } from './Portrait'
import { sameObject } from './same'

const MOST = 32
/** The regions of an object: named amounts over its surface, each by steps of its own. */
export const RegionsColumn = memo(Regions, sameObject('name', 'shape', 'reshape', 'copies', 'regions'))
function Regions({ object: o }: { object: ObjectDoc }) {
  const find = (s: Shot) => s.objects.find((x) => x.id === o.id)
  const shown = useStudio((s) => s.region)
  const chosen = o.regions.find((r) => r.id === shown?.id && shown.object === o.id) ?? null
  const add = (paint: boolean) => {
    const act = newAct(paint ? 'painted' : 'height')
    const region = { id: newId('region'), name: freeName(o, paint ? 'Painted' : 'Region'), acts: [act] }
    edit(`a new region of ${o.name}`, (s) => void find(s)?.regions.push(region))
    setStudio({ region: { object: o.id, id: region.id }, open: paint ? null : act.id, brush: paint ? act.id : null })
  }
  const full = o.regions.length >= MOST
  return (
    <Column
      title="Regions"
      side={o.regions.length ? `${o.regions.length}` : undefined}
      below={o.regions.flatMap((r) => [r.id, ...r.acts.map((a) => a.id)])}
      picture={
        <Portrait object={o} view="region" region={chosen?.id}>
          {chosen ? (
            <>
              {chosen.name}
              <br />
              is hatched in the View
            </>
          ) : o.regions.length ? (
            'none is shown'
          ) : (
            'all of it alike'
          )}
        </Portrait>
      }
    >
      <div className="flex flex-col gap-1.5">
        {o.regions.map((r) => (
          <Region key={r.id} object={o} region={r} find={find} />
        ))}
        {!o.regions.length && <Empty>A region says where births start, softly. Make one from a rule, or paint it in the View.</Empty>}
        <div className="flex gap-1.5 pt-0.5">
          <Button className="h-6! px-2! text-body!" disabled={full} onClick={() => add(false)}>
            New region
          </Button>
          <Button className="h-6! px-2! text-body!" disabled={full} onClick={() => add(true)}>
            <Brush size={13} strokeWidth={1.5} /> Paint one
          </Button>
        </div>
      </div>
    </Column>
  )
}
const freeName = (o: ObjectDoc, name: string): string => {
  let out = name
  for (let n = 2; o.regions.some((r) => r.name === out); n++) out = `${name} ${n}`
  return out
}
function Region({ object: o, region: r, find }: { object: ObjectDoc; region: RegionDoc; find: (s: Shot) => ObjectDoc | undefined }) {
  const on = useStudio((s) => s.region?.object === o.id && s.region.id === r.id)
  const brush = useStudio((s) => s.brush)
  const users = useShot((s) => s.systems).filter((s) => s.birth.some((a) => a.source === o.id && a.region === r.id))
  const [naming, setNaming] = useState(false)
  const region = (s: Shot) => find(s)?.regions.find((x) => x.id === r.id)
  const brushed = r.acts.find((a) => a.kind === painted.kind)
  const rename = (name: string | null) => {
    setNaming(false)
    if (name)
      edit(`name of ${name}`, (s) => {
        const x = region(s)
        if (x) x.name = name
      })
  }
  const remove = () => {
    edit(`removal of the region ${r.name}`, (s) => {
      const object = find(s)
      if (object) object.regions = object.regions.filter((x) => x.id !== r.id)
      // Births that followed it take all of the surface.
      for (const system of s.systems) for (const a of system.birth) if (a.source === o.id && a.region === r.id) a.region = ''
    })
    if (on) setStudio({ region: null, brush: null })
  }
  return (
    <section aria-label={`Region ${r.name}`} className={cx('rounded-md border', on ? 'border-twig' : 'border-bark')} data-below={r.name}>
      <header className="flex h-7 items-center gap-0.5 pr-1 pl-2">
        {naming ? (
          <NameInput label={`Name of ${r.name}`} value={r.name} onDone={rename} />
        ) : (
          <button
            type="button"
            className="min-w-0 flex-1 truncate text-left font-semibold"
            title={`${r.name}: double-click to rename`}
            onDoubleClick={() => setNaming(true)}
            onClick={() => setStudio({ region: { object: o.id, id: r.id } })}
          >
            {r.name}
          </button>
        )}
        {brushed && (
          <IconButton
            name={brush === brushed.id ? 'Put the brush away' : `Paint ${r.name} in the View`}
            on={brush === brushed.id}
            onClick={() => setStudio(brush === brushed.id ? { brush: null } : { region: { object: o.id, id: r.id }, brush: brushed.id })}
          >
            <Brush size={14} strokeWidth={1.5} />
          </IconButton>
        )}
        <IconButton
          name={on ? `Do not show ${r.name} in the View` : `Show ${r.name} in the View`}
          on={on}
          onClick={() => setStudio(on ? { region: null, brush: null } : { region: { object: o.id, id: r.id }, brush: null })}
        >
          {on ? <Eye size={14} strokeWidth={1.5} /> : <EyeOff size={14} strokeWidth={1.5} />}
        </IconButton>
        <AddAct
          name={`Add a step to ${r.name}`}
          sorts={['region']}
          onAdd={(act) => {
            edit(`a new ${actOf(act.kind).title}`, (s) => void region(s)?.acts.push(act))
            setStudio({ region: { object: o.id, id: r.id } })
          }}
        />
        <IconButton name={`Remove ${r.name}`} onClick={remove}>
          <Trash2 size={14} strokeWidth={1.5} />
        </IconButton>
      </header>
      <div className="flex flex-col gap-1 px-1 pb-1">
        {brush && brushed?.id === brush && <BrushSettings act={brush} list={(s) => region(s)?.acts} />}
        {r.acts.map((a) => (
          <ActCard key={a.id} act={a} list={(s) => region(s)?.acts} />
        ))}
        {!r.acts.length && <Empty>All of the surface. Add a step with +.</Empty>}
        <p className="px-1 text-moss">
          {users.length ? (
            <>
              Births of <b className="font-semibold text-mist">{users.map((s) => s.name).join(', ')}</b>.
            </>
          ) : (
            'No births follow it yet.'
          )}
        </p>
      </div>
    </section>
  )
}
function BrushSettings({ act, list }: { act: string; list: (s: Shot) => { id: string; dabs?: unknown }[] | undefined }) {
  const size = useStudio((s) => s.brushSize)
  const strength = useStudio((s) => s.brushStrength)
  const row = 'flex items-center gap-2 [&>span]:w-[68px] [&>span]:shrink-0 [&>span]:text-moss'
  return (
    <div className="ticks flex flex-col gap-1 rounded-md bg-fern/60 px-2 py-1.5">
      <p className="text-moss">Drag over the object in the View. With Shift it takes away.</p>
      <div className={row}>
        <span>Brush</span>
        <NumberField
          className="flex-1"
          label="Brush size"
          value={size}
          spec={{ unit: 'm', min: 0.001, max: 100, soft: [0.01, 1] }}
          fps={24}
          onChange={(v) => setStudio({ brushSize: v })}
        />
      </div>
      <div className={row}>
        <span>Strength</span>
        <NumberField
          className="flex-1"
          label="Brush strength"
          value={strength * 100}
          spec={{ unit: '%', min: 1, max: 100, soft: [0, 100] }}
          fps={24}
          onChange={(v) => setStudio({ brushStrength: v / 100 })}
        />
      </div>
      <Button
        className="h-6! w-fit px-2! text-body!"
        onClick={() => {
          edit('all strokes wiped away', (s) => {
            const a = list(s)?.find((x) => x.id === act)
            if (a) a.dabs = []
          })
          studio().session?.moving(false)
        }}
      >
        Wipe all away
      </Button>
    </div>
  )
}
