import type { Part, PartOf } from '../engine'
import type { Drawer } from './drawer'
import { PointsDrawer } from './points'

/** What draws each kind of part of an element; null is drawn by the objects themselves. */
const DRAWERS: { [K in Part['kind']]: ((element: string) => Drawer<PartOf<K>>) | null } = {
  points: (element) => new PointsDrawer(element),
  place: null,
}
export const drawerOf = (part: Part): Drawer | null => (DRAWERS[part.kind]?.(part.element) as Drawer | undefined) ?? null
