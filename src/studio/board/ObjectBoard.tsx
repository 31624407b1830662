'use client'
import { isLine } from '../../acts'
import type { ObjectDoc } from '../../shot'
import { meshFacts } from '../facts'
import { useStudio } from '../store'
import { Columns } from './Column'
import { MaterialColumn } from './MaterialColumn'
import { PlaceColumn } from './PlaceColumn'
import { RegionsColumn } from './Regions'
import { RoleColumn } from './RoleColumn'
import { ShapeColumn } from './ShapeColumn'

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
