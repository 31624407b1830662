'use client'
import { SKY_PARAMS } from '../../acts'
import { defaultsOf, type SkyDoc } from '../../shot'
import { bindsOf } from '../fields/bind'
import { FieldRow } from '../fields/FieldRow'
import { SwitchField } from '../fields/plainFields'
import { edit, useShot } from '../store'

/** A sky by rule, instead of the plain background. What was set comes back when it is switched on again within the session. */
export function SkyRows({ row }: { row: (label: string, children: React.ReactNode) => React.ReactNode }) {
  const sky = useShot((s) => s.surroundings.sky)
  const binds = sky
    ? bindsOf(SKY_PARAMS, sky as unknown as Record<string, unknown>, 'Sky', (s) => s.surroundings.sky as unknown as Record<string, unknown>)
    : null
  return (
    <>
      {row(
        'Sky',
        <SwitchField
          label="Sky"
          on={!!sky}
          onChange={(on) => {
            if (sky) last = sky
            edit(on ? 'a sky' : 'no sky', (s) => {
              s.surroundings.sky = on ? structuredClone(last ?? defaultsOf(SKY_PARAMS)) : null
            })
          }}
        />,
      )}
      {binds && (
        <div className="flex flex-col gap-1 rounded-md bg-fern p-2">
          {Object.entries(binds).map(([name, b]) => (
            <FieldRow key={name} bind={b} />
          ))}
        </div>
      )}
    </>
  )
}
let last: SkyDoc | null = null
