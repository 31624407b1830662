'use client'
import { memo } from 'react'
import { type Act, actOf, BODY_PARAMS, isLine, OBJECT_PARAMS } from '../../acts'
import { actsIn, defaultsOf, frameAt, grouped, type ObjectDoc, sampleNumber } from '../../shot'
import { addSystem } from '../commands'
import { SwitchField } from '../fields/plainFields'
import { edit, useShot, useStudio } from '../store'
import { Select } from '../ui'
import { show } from '../units'
import { AddAct } from './AddAct'
import { ActCard } from './Card'
import { Column, Empty, Group } from './Column'
import { finder, xyz } from './objectOf'
import { ParamCard } from './ParamCard'
import { Portrait } from './Portrait'
import { sameObject } from './same'
import { rec, useT } from './time'

export const RoleColumn = memo(
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
                {grouped(bornNow)} births
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
          {!(o.shape.kind === 'plane' && o.shape.endless) && (
            <button
              type="button"
              className="mt-1 flex min-h-6 w-fit items-center rounded-md border border-twig px-2 py-0.5 text-left text-moss leading-4 hover:border-moss hover:text-mist"
              onClick={() => addSystem(o.id)}
            >
              New system from here
            </button>
          )}
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
        <Behind object={o} />
      </Column>
    )
  },
  sameObject('name', 'shape', 'roles', 'sides', 'thickness', 'metBy', 'cells', 'body', 'offspring'),
)
/** Acts that follow anything that moves: an object sheds no particles. */
const follows = (a: Act): boolean => a.sort === 'offspring' && !!(a.trail || a.growth)
/** Trails behind it. */
function Behind({ object: o }: { object: ObjectDoc }) {
  const find = finder(o.id)
  return (
    <Group
      over
      name="Offspring"
      tools={
        <AddAct
          name={`Add to what ${o.name} leaves behind`}
          sorts={['offspring']}
          fits={follows}
          onAdd={(act) => edit(`a new ${actOf(act.kind).title}`, (s) => void find(s)?.offspring.push(act))}
        />
      }
    >
      {o.offspring.map((a) => (
        <ActCard key={a.id} act={a} list={(s) => find(s)?.offspring} />
      ))}
      {!o.offspring.length && <Empty>Nothing: a trail or growth can be added with +.</Empty>}
    </Group>
  )
}
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
              if (x) x.body = on ? defaultsOf(BODY_PARAMS) : null
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
