'use client'
import { actOf } from '../../acts'
import type { ActDoc, ObjectDoc, Shot } from '../../shot'
import { edit } from '../store'
import { AddAct } from './AddAct'
import { ActCard } from './Card'
import { Empty, Group } from './Column'

/** The steps that change an object's geometry, in their order. */
export function Reshape({ object: o, find }: { object: ObjectDoc; find: (s: Shot) => ObjectDoc | undefined }) {
  return (
    <Group
      over
      name="Reshape"
      tools={
        <AddAct
          name="Add a reshape step"
          sorts={['reshape']}
          onAdd={(act) => edit(`a new ${actOf(act.kind).title}`, (s) => void find(s)?.reshape.push(act))}
        />
      }
    >
      {o.reshape.map((a) => (
        <div key={a.id} data-below={actOf(a.kind).title}>
          <ActCard act={a} list={(s) => find(s)?.reshape} />
        </div>
      ))}
      {!o.reshape.length && <Empty>As it was made. Twist, bend or roughen it with +.</Empty>}
    </Group>
  )
}
/** Arrangements of copies of an object or of a system's simulated whole. */
export function Copies({ of: acts, list }: { of: ActDoc[]; list: (s: Shot) => ActDoc[] | undefined }) {
  return (
    <Group
      over
      name="Copies"
      tools={
        <AddAct
          name="Add copies"
          sorts={['copies']}
          onAdd={(act) => edit(`new ${actOf(act.kind).title.toLowerCase()}`, (s) => void list(s)?.push(act))}
        />
      }
    >
      {acts.map((a) => (
        <div key={a.id} data-below={actOf(a.kind).title}>
          <ActCard act={a} list={list} />
        </div>
      ))}
      {!acts.length && <Empty>Stands once. A ring, a line or a grid with +.</Empty>}
    </Group>
  )
}
