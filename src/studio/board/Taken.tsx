'use client'
import type { MeshShape, ObjectDoc, Shot } from '../../shot'
import { NumberField } from '../fields/NumberField'
import { edit, useStudio } from '../store'
import { Select } from '../ui'
import { show } from '../units'

const UNITS = [
  { value: '1', label: 'metres' },
  { value: '0.01', label: 'centimetres' },
  { value: '0.001', label: 'millimetres' },
  { value: '0.0254', label: 'inches' },
  { value: '0.3048', label: 'feet' },
]
/** How a file's numbers are taken: its unit and its upward axis. The size above says what comes out. */
export function Taken({ object: o, find }: { object: ObjectDoc; find: (s: Shot) => ObjectDoc | undefined }) {
  const s = o.shape as MeshShape
  const units = UNITS.some((u) => Number(u.value) === s.unit) ? UNITS : [...UNITS, { value: String(s.unit), label: `${show(s.unit)} m` }]
  const facts = useStudio((d) => d.facts[s.asset])
  const moves = s.poses.length > 0 || (facts?.lengthS ?? 0) > 0
  const set = (label: string, recipe: (x: MeshShape) => void, gesture: string | null = null) =>
    edit(
      `${label} of ${o.name}`,
      (d) => {
        const x = find(d)?.shape as MeshShape | undefined
        if (x) recipe(x)
      },
      gesture,
    )
  const row = 'flex items-center gap-2 [&>span:first-child]:w-[68px] [&>span:first-child]:shrink-0 [&>span:first-child]:text-moss'
  return (
    <div className="grid grid-cols-1 gap-y-1 px-1 pt-1">
      <div className={row}>
        <span>File unit</span>
        <Select
          label="File unit"
          value={String(s.unit)}
          options={units}
          onChange={(v) => edit(`file unit of ${o.name}`, (d) => void ((find(d)?.shape as MeshShape).unit = Number(v)))}
        />
      </div>
      <div className={row}>
        <span>Upwards</span>
        <Select
          label="Upwards in the file"
          value={s.up}
          options={[
            { value: 'y', label: 'its Y axis' },
            { value: 'z', label: 'its Z axis' },
          ]}
          onChange={(v) => edit(`upward axis of ${o.name}`, (d) => void ((find(d)?.shape as MeshShape).up = v as 'y' | 'z'))}
        />
      </div>
      {moves && (
        <>
          <p className="px-1 pt-1 text-moss">
            {s.poses.length > 0 ? (
              <>
                Moves by <b className="font-semibold text-mist">{s.poses.length + 1}</b> files.
              </>
            ) : (
              <>
                Moves by itself for <b className="font-semibold text-mist">{show(facts?.lengthS ?? 0)} s</b>.
              </>
            )}
          </p>
          {s.poses.length > 0 && (
            <div className={row}>
              <span>Files a second</span>
              <NumberField
                className="flex-1"
                label="Files a second"
                value={s.rate}
                spec={{ unit: '1/s', min: 0.01, max: 1000, soft: [1, 60] }}
                fps={24}
                onChange={(v, g) => set('files a second', (x) => void (x.rate = v), g)}
              />
            </div>
          )}
          <div className={row}>
            <span>Begins at</span>
            <NumberField
              className="flex-1"
              label="Begins at"
              value={s.start}
              spec={{ unit: 's', min: -3600, max: 36000, soft: [0, 10] }}
              fps={24}
              onChange={(v, g) => set('beginning', (x) => void (x.start = v), g)}
            />
          </div>
          <div className={row}>
            <span>Speed</span>
            <NumberField
              className="flex-1"
              label="Speed of its motion"
              value={s.speed}
              spec={{ unit: '×', min: 0.001, max: 1000, soft: [0, 4] }}
              fps={24}
              onChange={(v, g) => set('speed', (x) => void (x.speed = v), g)}
            />
          </div>
          <div className={row}>
            <span>Afterwards</span>
            <Select
              label="Afterwards"
              value={s.after}
              options={[
                { value: 'hold', label: 'stays as it is' },
                { value: 'repeat', label: 'begins again' },
              ]}
              onChange={(v) => set('end of the motion', (x) => void (x.after = v as MeshShape['after']))}
            />
          </div>
        </>
      )}
    </div>
  )
}
