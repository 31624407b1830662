import type { Bounds } from '../../engine'
import { choice } from '../../shot'

export const axisParam = (label: string, help: string) =>
  choice({
    label,
    default: 'y',
    options: [
      { value: 'x', label: 'X' },
      { value: 'y', label: 'Y' },
      { value: 'z', label: 'Z' },
    ],
    help,
  })
/** Number of an axis, and those of the two across it, right-handed. */
export function axes(name: string): [number, number, number] {
  const a = name === 'x' ? 0 : name === 'y' ? 1 : 2
  return [a, (a + 1) % 3, (a + 2) % 3]
}
export const length = (box: Bounds, a: number): number => box.max[a] - box.min[a]
/** 0 at the lower end of the box to 1 at its upper end. */
export const along = (box: Bounds, a: number, v: number): number => (length(box, a) > 1e-12 ? (v - box.min[a]) / length(box, a) : 0)
export const middle = (box: Bounds, a: number): number => (box.min[a] + box.max[a]) / 2
