import type { DrawContext } from './drawer'

/** The depths of all that are drawn together are cut into slabs: as many as there are this many particles, within bounds. */
const PARTICLES_A_SLAB = 150
const FEWEST_SLABS = 16
const MOST_SLABS = 128

/** What can be drawn from the farthest to the nearest, piece by piece. */
export interface Sliced {
  /** Makes ready; view depths in m between which its particles lie, and how many there are; null: nothing is drawn. */
  open(c: DrawContext): { near: number; far: number; count: number } | null
  /** Draws what is left of it that lies beyond a view depth. */
  beyond(c: DrawContext, depth: number): void
}
/**
 * Draws particles of several systems that hide each other: slab by slab from the farthest on, in each slab one system after the other. Within a slab
 * the order of systems is that of the list.
 */
export function drawTogether(all: readonly Sliced[], c: DrawContext): void {
  const opened = all.flatMap((d) => {
    const range = d.open(c)
    return range ? [{ d, range }] : []
  })
  const count = opened.reduce((sum, o) => sum + o.range.count, 0)
  const far = Math.max(...opened.map((o) => o.range.far))
  const near = Math.min(...opened.map((o) => o.range.near))
  const slabs = opened.length < 2 ? 1 : Math.min(MOST_SLABS, Math.max(FEWEST_SLABS, Math.ceil(count / PARTICLES_A_SLAB)))
  for (let k = 1; k <= slabs; k++) {
    const depth = k === slabs ? Number.NEGATIVE_INFINITY : far + ((near - far) * k) / slabs
    for (const { d } of opened) d.beyond(c, depth)
  }
}
