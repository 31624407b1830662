'use client'
import { memo } from 'react'
import { isLine, OUTLINE_PARAMS, primitiveOf, TEXT_PARAMS } from '../../acts'
import type { AssetFacts } from '../../protocol'
import { grouped, type ObjectDoc, type Params, type Shot, sampleVec3, type TextShapeDoc } from '../../shot'
import { bindsOf } from '../fields/bind'
import { ParamRow } from '../fields/ParamRow'
import { PointsField } from '../fields/PointsField'
import { SwitchField } from '../fields/plainFields'
import { edit, useShot } from '../store'
import { show } from '../units'
import { Column, Group } from './Column'
import { finder } from './objectOf'
import { Portrait } from './Portrait'
import { Copies, Reshape } from './Reshape'
import { sameObject } from './same'
import { Taken } from './Taken'
import { rec, useT } from './time'

export const ShapeColumn = memo(
  function ShapeColumn({ object: o, facts }: { object: ObjectDoc; facts: AssetFacts | null }) {
    const t = useT(o)
    const find = finder(o.id)
    const asset = useShot((s) =>
      'asset' in o.shape ? s.assets.find((a) => a.hash === (o.shape as { asset: string }).asset)?.name : undefined,
    )
    const size = facts ? facts.bounds.max.map((v, i) => (v - facts.bounds.min[i]) * Math.abs(sampleVec3(o.scale, t)[i])) : null
    const primitive = primitiveOf(o.shape.kind)
    return (
      <Column
        title="Shape"
        picture={
          <Portrait object={o} view="shape">
            {size ? (
              <>
                {show(size[0])} × {show(size[1])}
                <br />× {show(size[2])} m
              </>
            ) : (
              'a place, nothing to see'
            )}
          </Portrait>
        }
      >
        <Group over name="Mesh">
          <div className="rounded-md bg-fern px-2 py-1 text-moss [&_b]:font-semibold [&_b]:text-mist">
            {o.shape.kind === 'mesh' ? (
              <>
                <b>{asset ?? 'missing file'}</b>
                {facts
                  ? `, ${grouped(facts.triangles)} triangles, ${facts.closed ? 'closed' : 'open: both of its sides stop particles'}.`
                  : ', being read.'}
              </>
            ) : o.shape.kind === 'plane' ? (
              <>
                <b>Plane</b> of {show(o.shape.size)} m{o.shape.endless ? '; as a collider it goes on for ever' : ''}.
              </>
            ) : o.shape.kind === 'outline' ? (
              <>
                <b>{asset ?? 'Drawing'}</b>
                {facts ? `, ${grouped(facts.triangles)} triangles${facts.closed ? ', closed' : ''}.` : ', being built.'}
              </>
            ) : o.shape.kind === 'text' ? (
              <>
                <b>Text</b>
                {facts ? `, ${grouped(facts.triangles)} triangles${facts.closed ? ', closed' : ''}.` : ', being made.'}
              </>
            ) : isLine(o.shape) ? (
              <>
                <b>{primitive?.title}</b>: births start along it. Only the View shows it.
              </>
            ) : primitive ? (
              <>
                <b>{primitive.title}</b>, {facts && grouped(facts.triangles)} triangles
                {facts?.closed ? ', closed' : ', open: both of its sides stop particles'}.
              </>
            ) : o.shape.kind === 'group' ? (
              <>
                <b>Group</b>: other objects are parented to it.
              </>
            ) : (
              <>
                <b>Anchor</b>: a place without geometry.
              </>
            )}
          </div>
          {o.shape.kind === 'mesh' && <Taken object={o} find={find} />}
          {o.shape.kind === 'text' && <Letters object={o} find={find} />}
          {o.shape.kind === 'outline' && <Numbers object={o} find={find} params={OUTLINE_PARAMS} />}
          {primitive && <Numbers object={o} find={find} params={primitive.params} />}
          {o.shape.kind === 'plane' && (
            <div className="flex items-center gap-2 px-2 text-moss">
              Endless
              <SwitchField
                label="Endless"
                on={o.shape.endless}
                onChange={(on) => edit(`${o.name}, endless`, (s) => void ((find(s) as { shape: { endless: boolean } }).shape.endless = on))}
              />
            </div>
          )}
        </Group>
        {facts && <Reshape object={o} find={find} />}
        {facts && <Copies of={o.copies} list={(s) => find(s)?.copies} />}
        {facts && facts.parts.length > 0 && (
          <Group over name="Parts">
            <p className="rounded-md bg-fern px-2 py-1 text-moss">
              {facts.parts
                .slice(0, 12)
                .map((p) => p.name)
                .join(', ')}
              {facts.parts.length > 12 && ` and ${facts.parts.length - 12} more`}. Births can start on one of them.
            </p>
          </Group>
        )}
      </Column>
    )
  },
  sameObject('name', 'shape', 'reshape', 'copies', 'scale'),
)
function Numbers({ object: o, find, params }: { object: ObjectDoc; find: (s: Shot) => ObjectDoc | undefined; params: Params }) {
  return (
    <div className="grid grid-cols-1 gap-y-1 px-1 pt-1">
      {Object.entries(bindsOf(params, rec(o.shape), o.name, (s) => rec(find(s)?.shape))).map(([n, b]) =>
        b.param.type === 'points' ? <PointsField key={n} bind={b} /> : <ParamRow key={n} bind={b} wide={params.points !== undefined} />,
      )}
    </div>
  )
}
/** The letters of a text object and how they are built. */
function Letters({ object: o, find }: { object: ObjectDoc; find: (s: Shot) => ObjectDoc | undefined }) {
  const { text: _, ...params } = TEXT_PARAMS
  const s = o.shape as TextShapeDoc
  return (
    <div className="grid grid-cols-1 gap-y-1 px-1 pt-1">
      <textarea
        aria-label="Text"
        rows={Math.min(4, s.text.split('\n').length)}
        maxLength={2000}
        value={s.text}
        spellCheck={false}
        onKeyDown={(e) => e.stopPropagation()}
        onChange={(e) => edit(`letters of ${o.name}`, (d) => void ((find(d)?.shape as TextShapeDoc).text = e.target.value), `text-${o.id}`)}
        className="min-h-6 w-full resize-y rounded-md border border-twig bg-night px-2 py-0.5"
      />
      {Object.entries(bindsOf(params, rec(o.shape), o.name, (d) => rec(find(d)?.shape))).map(([n, b]) => (
        <ParamRow key={n} bind={b} />
      ))}
    </div>
  )
}
/** An object that is a source but feeds nothing: choose the system. */
