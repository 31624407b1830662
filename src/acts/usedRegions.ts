import type { Shot } from '../shot'
import { recordsOf } from './walk'

/** Ids of the regions of an object that acts of systems, forces and gases follow, or its own; the others have no effect on the simulation. */
export const usedRegions = (shot: Shot, object: string): Set<string> => {
  const used = new Set<string>()
  for (const group of ['systems', 'forces', 'gases', 'objects'] as const)
    for (const [i, element] of shot[group].entries())
      for (const { params, record, sort } of recordsOf(group, element, i))
        for (const [name, p] of Object.entries(params))
          if (sort !== 'look' && p.type === 'region' && (p.of === null ? element.id : record[p.of]) === object && record[name])
            used.add(record[name] as string)
  return used
}
