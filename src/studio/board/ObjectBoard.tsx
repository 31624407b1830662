'use client'
import { memo, useMemo } from 'react'
import { BODY_PARAMS, isLine, MATERIAL_PARAMS, OBJECT_PARAMS, OUTLINE_PARAMS, primitiveOf, TEXT_PARAMS } from '../../acts'
import type { AssetFacts } from '../../protocol'
import {
  actsIn,
  type BodyDoc,
  defaultsOf,
  frameAt,
  isKeyed,
  type ObjectDoc,
  type Params,
  type Shot,
  sampleColour,
  sampleNumber,
  sampleVec3,
  type TextShapeDoc,
  toHex,
  type Vec3,
} from '../../shot'
import { setParent } from '../commands'
import { meshFacts } from '../facts'
import { bindsOf } from '../fields/bind'
import { SwitchField } from '../fields/FieldRow'
import { ParamRow } from '../fields/ParamRow'
import { PointsField } from '../fields/PointsField'
import { edit, useShot, useStudio } from '../store'
import { Select } from '../ui'
import { show } from '../units'
import { Column, Columns, Empty, Group } from './Column'
import { ParamCard } from './ParamCard'
import { Portrait } from './Portrait'
import { RegionsColumn } from './Regions'
import { Copies, Reshape } from './Reshape'
import { sameObject } from './same'
import { Taken } from './Taken'
import { rec, useT } from './time'

const xyz = (v: Vec3) => v.map((x) => show(x)).join(', ')

/** An object by its columns: shape, regions, place, material, role. Each is rendered again only for what it shows. */
export function ObjectBoard({ object: o }: { object: ObjectDoc }) {
  useStudio((s) => s.facts)
  const facts = meshFacts(o)
  return (
    <Columns count={isLine(o.shape) ? 3 : 5}>
      <ShapeColumn object={o} facts={facts} />
      {facts && !isLine(o.shape) && <RegionsColumn object={o} />}
      <PlaceColumn object={o} />
      {!isLine(o.shape) && <MaterialColumn object={o} />}
      <RoleColumn object={o} />
    </Columns>
  )
}
const finder =
  (id: string) =>
  (s: Shot): ObjectDoc | undefined =>
    s.objects.find((x) => x.id === id)
const ShapeColumn = memo(
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
                  ? `, ${facts.triangles.toLocaleString('en-US')} triangles, ${facts.closed ? 'closed' : 'open: both of its sides stop particles'}.`
                  : ', being read.'}
              </>
            ) : o.shape.kind === 'plane' ? (
              <>
                <b>Plane</b> of {show(o.shape.size)} m{o.shape.endless ? '; as a collider it goes on for ever' : ''}.
              </>
            ) : o.shape.kind === 'outline' ? (
              <>
                <b>{asset ?? 'Drawing'}</b>
                {facts ? `, ${facts.triangles.toLocaleString('en-US')} triangles${facts.closed ? ', closed' : ''}.` : ', being built.'}
              </>
            ) : o.shape.kind === 'text' ? (
              <>
                <b>Text</b>
                {facts ? `, ${facts.triangles.toLocaleString('en-US')} triangles${facts.closed ? ', closed' : ''}.` : ', being made.'}
              </>
            ) : isLine(o.shape) ? (
              <>
                <b>{primitive?.title}</b>: births start along it. Only the View shows it.
              </>
            ) : primitive ? (
              <>
                <b>{primitive.title}</b>, {facts?.triangles.toLocaleString('en-US')} triangles
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
const PlaceColumn = memo(
  function PlaceColumn({ object: o }: { object: ObjectDoc }) {
    const t = useT(o)
    const find = finder(o.id)
    const parent = useShot((s) => s.objects.find((x) => x.id === o.parent)?.name)
    return (
      <Column
        title="Place"
        side="in the shot"
        picture={
          <Portrait object={o} view="place">
            from above
            {sampleVec3(o.rotate, t)[1] !== 0 && (
              <>
                <br />
                rotated {show(sampleVec3(o.rotate, t)[1])}°
              </>
            )}
          </Portrait>
        }
      >
        <div className="flex flex-col gap-1">
          <ParamCard
            id={`${o.id}-place`}
            title="Stands here"
            owner={o.name}
            params={OBJECT_PARAMS}
            names={['place', 'rotate', 'scale']}
            record={rec(o)}
            find={(s) => rec(find(s))}
            sentence={
              <>
                Stands at <b>{xyz(sampleVec3(o.place, t))}</b> m
                {parent && (
                  <>
                    {' '}
                    from <b>{parent}</b>
                  </>
                )}
                , rotated <b>{xyz(sampleVec3(o.rotate, t))}</b>°, scaled <b>{xyz(sampleVec3(o.scale, t))}</b>.
              </>
            }
          />
          <div className="flex items-center gap-2 px-2 text-moss">
            <span className="shrink-0">Parent</span>
            <ParentSelect id={o.id} parent={o.parent} />
          </div>
          <ParamCard
            id={`${o.id}-seen`}
            title="Seen"
            owner={o.name}
            params={OBJECT_PARAMS}
            names={['seen']}
            record={rec(o)}
            find={(s) => rec(find(s))}
            sentence={
              isKeyed(o.seen) ? (
                <>
                  Seen <b>by keys</b>.
                </>
              ) : o.seen ? (
                <>
                  The camera <b>sees</b> it.
                </>
              ) : (
                <>
                  The camera <b>does not see</b> it; its roles go on.
                </>
              )
            }
          />
        </div>
      </Column>
    )
  },
  sameObject('name', 'shape', 'place', 'rotate', 'scale', 'parent', 'seen'),
)
/** Only the names of the others matter here; they come as one text, so that nothing else renders it again. */
function ParentSelect({ id, parent }: { id: string; parent: string | null }) {
  const names = useShot((s) =>
    s.objects
      .filter((x) => x.id !== id)
      .map((x) => `${x.id}\n${x.name}`)
      .join('\n\n'),
  )
  const options = useMemo(
    () => [
      { value: '', label: 'nothing' },
      ...(names ? names.split('\n\n') : []).map((n) => ({ value: n.slice(0, n.indexOf('\n')), label: n.slice(n.indexOf('\n') + 1) })),
    ],
    [names],
  )
  return <Select label="Parent" value={parent ?? ''} options={options} onChange={(to) => setParent(id, to || null)} />
}
const MaterialColumn = memo(
  function MaterialColumn({ object: o }: { object: ObjectDoc }) {
    const t = useT(o)
    const find = finder(o.id)
    const playhead = useStudio((s) => s.playhead)
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
                Surface <b>{toHex(sampleColour(o.material.colour, t))}</b>, roughness <b>{show(sampleNumber(o.material.roughness, t))}</b>,
                metal <b>{show(sampleNumber(o.material.metal, t))}</b>.
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
const RoleColumn = memo(
  function RoleColumn({ object: o }: { object: ObjectDoc }) {
    const find = finder(o.id)
    const systems = useShot((s) => s.systems)
    const t = useT(o)
    const born = systems.filter((s) => s.birth.some((a) => a.source === o.id))
    const bornNow = useStudio((s) => born.reduce((n, x) => n + (s.stats[x.id]?.born ?? 0), 0))
    const role = (name: 'source' | 'collider', on: boolean) =>
      edit(`${o.name} ${on ? 'is' : 'is no longer'} a ${name}`, (s) => void ((find(s) as ObjectDoc).roles[name] = on))
    return (
      <Column
        title="Role"
        picture={
          <Portrait object={o} view="role">
            {bornNow > 0 ? (
              <>
                {bornNow.toLocaleString('en-US')} births
                <br />
                in this frame
              </>
            ) : born.length ? (
              'no birth in this frame'
            ) : o.roles.collider ? (
              'stops particles'
            ) : o.body ? (
              'moved by forces'
            ) : (
              'only to be seen'
            )}
          </Portrait>
        }
        side={isLine(o.shape) ? '' : `${Number(o.roles.source) + Number(o.roles.collider) + Number(!!o.body)} of 3 in use`}
      >
        <Group name="Source">
          <div className="flex items-center gap-2">
            <SwitchField label="Source" on={o.roles.source} onChange={(on) => role('source', on)} />
          </div>
          {born.map((s) => (
            <p key={s.id} className="rounded-md bg-fern px-2 py-1 text-moss">
              Births of <b className="font-semibold text-mist">{s.name}</b>.
            </p>
          ))}
          {o.roles.source && !born.length && <SourceFor object={o} />}
        </Group>
        {!isLine(o.shape) && (
          <Group name="Collider">
            <SwitchField label="Collider" on={o.roles.collider} onChange={(on) => role('collider', on)} />
            {o.roles.collider && (
              <p className="rounded-md bg-fern px-2 py-1 text-moss">
                Stops{' '}
                {systems
                  .filter((s) => actsIn(s, 'contact').some((a) => !a.with || a.with === o.id))
                  .map((s) => s.name)
                  .join(', ') || 'nothing yet'}
                .
              </p>
            )}
          </Group>
        )}
        {!isLine(o.shape) && o.roles.collider && (
          <ParamCard
            id={`${o.id}-collider`}
            title="As a collider"
            owner={o.name}
            params={OBJECT_PARAMS}
            names={o.metBy === 'grid' ? ['sides', 'thickness', 'metBy', 'cells'] : ['sides', 'thickness', 'metBy']}
            record={rec(o)}
            find={(s) => rec(find(s))}
            sentence={
              <>
                Stops particles <b>{SIDES[o.sides]}</b>
                {o.metBy === 'grid' && (
                  <>
                    , by <b>a grid of {o.cells} cells</b>
                  </>
                )}
                {o.thickness !== 0 && (
                  <>
                    , thicker by <b>{show(sampleNumber(o.thickness, t) * 1000)} mm</b>
                  </>
                )}
                .
              </>
            }
          />
        )}
        {!isLine(o.shape) && <Thrown object={o} />}
      </Column>
    )
  },
  sameObject('name', 'shape', 'roles', 'sides', 'thickness', 'metBy', 'cells', 'body'),
)
/** Whether the simulation moves it, and how it is let go. */
function Thrown({ object: o }: { object: ObjectDoc }) {
  const find = finder(o.id)
  const frames = useShot((s) => (o.body ? Math.round(frameAt(s, o.body.at)) : 0))
  const felt = useShot((s) =>
    s.forces
      .filter((f) => !f.muted && (f.reaches === 'all' || f.reaches.includes(o.id)))
      .map((f) => f.name)
      .join(', '),
  )
  const b = o.body
  return (
    <>
      <Group name="Thrown">
        <SwitchField
          label="Thrown"
          on={!!b}
          onChange={(on) =>
            edit(on ? `${o.name} is thrown` : `${o.name} keeps to its keys`, (s) => {
              const x = find(s)
              if (x) x.body = on ? (defaultsOf(BODY_PARAMS) as unknown as BodyDoc) : null
            })
          }
        />
      </Group>
      {b && (
        <>
          <ParamCard
            id={`${o.id}-body`}
            title="Thrown"
            owner={o.name}
            params={BODY_PARAMS}
            record={rec(b)}
            find={(s) => rec(find(s)?.body)}
            sentence={
              <>
                Let go at <b>{frames} f</b>
                {b.velocity.some((v) => v !== 0) && (
                  <>
                    {' '}
                    with <b>{xyz(b.velocity)}</b> m/s
                  </>
                )}
                {b.spin.some((v) => v !== 0) && (
                  <>
                    , spinning <b>{xyz(b.spin)}</b> °/s
                  </>
                )}
                , bounces <b>{show(b.restitution)} %</b>, friction <b>{show(b.friction)}</b>.
              </>
            }
          />
          <p className="rounded-md bg-fern px-2 py-1 text-moss">
            {felt ? (
              <>
                Pushed by <b className="font-semibold text-mist">{felt}</b>.
              </>
            ) : (
              'No force of the shot reaches it: add one with + in the list.'
            )}
          </p>
        </>
      )}
    </>
  )
}
const SIDES = { auto: 'as it is made', front: 'from outside', both: 'from both sides' }
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
function SourceFor({ object }: { object: ObjectDoc }) {
  const systems = useShot((s) => s.systems)
  if (!systems.length) return <Empty>No system to feed yet; add one with + in the list.</Empty>
  return (
    <Select
      label="Feed a system"
      value=""
      options={[{ value: '', label: 'Feed a system…' }, ...systems.map((s) => ({ value: s.id, label: s.name }))]}
      onChange={(id) =>
        edit(`${object.name} feeds a system`, (s) => {
          for (const a of s.systems.find((x) => x.id === id)?.birth ?? []) {
            a.source = object.id
            a.part = ''
            a.region = ''
          }
        })
      }
    />
  )
}
