import type { Mark } from '../../shot'

/** Marks are distinguished by their colour and by their name in the tip. */
export const MARK_COLOURS: Record<Mark, string> = {
  clover: 'oklch(0.74 0.13 150)',
  heather: 'oklch(0.72 0.12 320)',
  gorse: 'oklch(0.86 0.14 100)',
  sloe: 'oklch(0.66 0.12 265)',
  rowan: 'oklch(0.68 0.16 40)',
  birch: 'oklch(0.9 0.02 90)',
}
