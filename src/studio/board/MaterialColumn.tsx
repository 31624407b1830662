'use client'
import { memo } from 'react'
import { MATERIAL_PARAMS } from '../../acts'
import { type ObjectDoc, sampleColour, sampleNumber, toHex } from '../../shot'
import { SwitchField } from '../fields/plainFields'
import { edit, useStudio } from '../store'
import { show } from '../units'
import { Column } from './Column'
import { finder } from './objectOf'
import { ParamCard } from './ParamCard'
import { Portrait } from './Portrait'
import { sameObject } from './same'
import { rec, useT } from './time'

export const MaterialColumn = memo(
  function MaterialColumn({ object: o }: { object: ObjectDoc }) {
    const t = useT(o)
    const find = finder(o.id)
    const playhead = useStudio((s) => s.playhead)
    const clear = sampleNumber(o.material.clear ?? 0, t)
    const bumps = sampleNumber(o.material.bumps ?? 0, t)
    return (
      <Column
        title="Material"
        side="one for all faces"
        picture={
          <Portrait object={o} view="material">
            at {playhead} f
          </Portrait>
        }
      >
        <div className="flex flex-col gap-1">
          <ParamCard
            id={`${o.id}-surface`}
            title="Surface"
            owner={o.name}
            params={MATERIAL_PARAMS}
            record={rec(o.material)}
            find={(s) => rec(find(s)?.material)}
            sentence={
              <>
                {o.material.cutsOut && (
                  <>
                    <b>Cuts out</b> all that is behind it.{' '}
                  </>
                )}
                {o.material.catches && !o.material.cutsOut && (
                  <>
                    <b>Only catches</b> shadows and the light of fire.{' '}
                  </>
                )}
                Surface <b>{toHex(sampleColour(o.material.colour, t))}</b>, roughness <b>{show(sampleNumber(o.material.roughness, t))}</b>,
                metal <b>{show(sampleNumber(o.material.metal, t))}</b>
                {clear > 0 && (
                  <>
                    , <b>{show(clear)} %</b> clear
                  </>
                )}
                {bumps > 0 && (
                  <>
                    , bumps of <b>{show(bumps)}</b> m
                  </>
                )}
                .
              </>
            }
          />
          <div className="flex items-center gap-2 px-2 text-moss">
            Casts shadows
            <SwitchField
              label="Casts shadows"
              on={o.shadow}
              onChange={(on) => edit(`shadow of ${o.name}`, (s) => void ((find(s) as ObjectDoc).shadow = on))}
            />
          </div>
        </div>
      </Column>
    )
  },
  sameObject('name', 'shape', 'material', 'shadow'),
)
