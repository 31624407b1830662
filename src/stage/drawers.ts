import type { Part, PartOf } from '../engine'
import type { Drawer } from './drawer'
import { PointsDrawer } from './points'
import { StripsDrawer } from './strips'
import { VolumesDrawer } from './volumes'

/** What draws each kind of part of an element; null is drawn by the objects themselves. */
const DRAWERS: { [K in Part['kind']]: ((element: string) => Drawer<PartOf<K>>) | null } = {
  points: (element) => new PointsDrawer(element),
  place: null,
  strips: (element) => new StripsDrawer(element),
  volume: (element) => new VolumesDrawer(element),
}
export const drawerOf = (part: Part): Drawer | null => (DRAWERS[part.kind]?.(part.element) as Drawer | undefined) ?? null
