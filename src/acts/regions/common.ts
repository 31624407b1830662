import { apply, identity } from '../../engine'
import { choice, number, type Params } from '../../shot'
import type { RegionSite } from '../define'
import type { Reads } from '../reader'

/** How a step joins what the steps before it gave: a region begins with all of the surface, or with nothing before the first “also”. */
export const howParams = {
  how: choice({
    label: 'Takes',
    default: 'only',
    options: [
      { value: 'only', label: 'only here', help: 'What was taken so far, where this is too.' },
      { value: 'also', label: 'also here', help: 'What was taken so far, and this.' },
      { value: 'not', label: 'not here', help: 'What was taken so far, without this.' },
    ],
    help: 'How it joins the steps before it.',
  }),
} satisfies Params
export const HOW: Record<string, string> = { only: 'Only', also: 'Also', not: 'Not' }
export const softParam = number({
  label: 'Soft edge',
  unit: 'm',
  default: 0.05,
  min: 0,
  soft: [0, 1],
  animated: true,
  help: 'From nothing to all of it within this.',
})
export const spaceParam = choice({
  label: 'Space',
  default: 'own',
  options: [
    { value: 'own', label: 'its own' },
    { value: 'shot', label: 'the shot' },
  ],
  help: 'Whether it moves with the object or stays in the shot.',
})

/** 1 well inside (d negative), 0 outside, smooth over `soft` metres around the edge. */
export function edge(d: number, soft: number): number {
  const x = soft > 1e-9 ? 0.5 - d / soft : d <= 0 ? 1 : 0
  if (x <= 0) return 0
  if (x >= 1) return 1
  return x * x * (3 - 2 * x)
}
/** Places of vertices in the space that an act works in. */
export function placesIn(p: Reads<{ space: typeof spaceParam }>, site: RegionSite): (vertex: number) => readonly [number, number, number] {
  const m = p.choice('space', site.t) === 'shot' ? site.world : identity()
  return (v) => apply(m, site.places[v * 3], site.places[v * 3 + 1], site.places[v * 3 + 2])
}
export const inShot = (p: Reads<{ space: typeof spaceParam }>): boolean => p.choice('space') === 'shot'
