import { number, ref, type Vec3 } from '../../shot'
import type { FinishView } from '../finishing'

/** Where the middle of what a card does lies in the picture. */
export const centreParams = {
  follows: ref({
    label: 'Middle at',
    to: 'stuck',
    default: null,
    empty: 'a place in the picture',
    help: 'An object, a system or a light whose middle it follows.',
  }),
  x: number({
    label: 'Across',
    unit: '%',
    default: 50,
    soft: [0, 100],
    animated: true,
    help: 'Its middle from the left, of the picture’s width; of an element, as far beside it from 50 % on.',
  }),
  y: number({
    label: 'Up',
    unit: '%',
    default: 50,
    soft: [0, 100],
    animated: true,
    help: 'Its middle from below, of the picture’s height; of an element, as far above it from 50 % on.',
  }),
}
interface Middle {
  number(name: 'x' | 'y', t: number): number
  text(name: 'follows'): string | null
}
/** In shares of the picture's width and height; null while the element that it follows is out of sight. */
export function centreOf(p: Middle, view: FinishView): [number, number] | null {
  const id = p.text('follows')
  const [x, y] = [p.number('x', view.t) / 100, p.number('y', view.t) / 100]
  if (!id) return [x, y]
  const seen = view.seen(id)
  return seen && [seen.x + x - 0.5, seen.y + y - 0.5]
}
export const isWhite = (c: Vec3): boolean => c.every((v) => v === 1)
