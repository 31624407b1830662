'use client'
import { actOf } from '../../acts'
import type { ObjectDoc, Shot } from '../../shot'
import { edit } from '../store'
import { AddAct } from './AddAct'
import { ActCard } from './Card'
import { Empty, Group } from './Column'

/** The steps that change an object's geometry, in their order. */
export function Reshape({ object: o, find }: { object: ObjectDoc; find: (s: Shot) => ObjectDoc | undefined }) {
  return (
    <Group over name="Reshape" tools={<AddAct name="Add a reshape step" sorts={['reshape']} onAdd={(act) => edit(`a new ${actOf(act.kind).title}`, (s) => void find(s)?.reshape.push(act))} />}>
      {o.reshape.map((a) => (
        <div key={a.id} data-below={actOf(a.kind).title}>
          <ActCard act={a} list={(s) => find(s)?.reshape} />
        </div>
      ))}
      {!o.reshape.length && <Empty>As it was made. Twist, bend or roughen it with +.</Empty>}
    </Group>
  )
}
