import type * as THREE from 'three'
import type { DrawContext } from './drawer'

/** What is drawn together is cut by depth into slabs of as many particles each: of about so many, within bounds. */
const PARTICLES_A_SLAB = 150
const FEWEST_SLABS = 16
const MOST_SLABS = 96
/** How often it is looked what is covered. */
const LOOKS = 16
/** Depths that are looked at to find where slabs end. */
const SAMPLES = 2048

/** What can be drawn from the nearest to the farthest, piece by piece. */
export interface Sliced {
  /** Makes ready; how many particles there are, and the view depth (m) of the n-th from the nearest on; null: nothing is drawn. */
  open(c: DrawContext): { count: number; depthAt(nth: number): number } | null
  /** Draws what is left of it that lies nearer than a view depth, under what is in the target, and leaves out what that covers. */
  before(c: DrawContext, depth: number, target: THREE.WebGLRenderTarget, covered: THREE.Texture | null): void
}
/**
 * Draws particles of several systems that hide each other: slab by slab from the nearest on, in each slab one system after the other, on a layer
 * that goes over the picture. What lies where the layer covers is left out: of a dense cloud most is never seen. Within a slab
 * the order of systems is that of the list.
 */
export function drawTogether(all: readonly Sliced[], c: DrawContext): void {
  const opened = all.flatMap((d) => {
    const range = d.open(c)
    return range ? [{ d, range }] : []
  })
  if (!opened.length) return
  const count = opened.reduce((sum, o) => sum + o.range.count, 0)
  const slabs = Math.min(MOST_SLABS, Math.max(FEWEST_SLABS, Math.ceil(count / PARTICLES_A_SLAB)))
  const ends = endsOf(
    opened.map((o) => o.range),
    count,
    slabs,
  )
  const target = c.layer(false)
  let looked = 0
  let covered: THREE.Texture | null = null
  for (let k = 1; k <= slabs; k++) {
    for (const { d } of opened) d.before(c, ends[k - 1], target, covered)
    if (k === slabs || (k * LOOKS) / slabs < looked + 1) continue
    looked++
    covered = c.lookWhatIsCovered()
  }
  c.compose('normal', false)
}
/** The view depths at which slabs end; the last has no end. */
function endsOf(ranges: readonly { count: number; depthAt(nth: number): number }[], count: number, slabs: number): number[] {
  const depths: number[] = []
  for (const r of ranges) {
    const n = Math.max(1, Math.round((SAMPLES * r.count) / count))
    for (let k = 0; k < n; k++) depths.push(r.depthAt(Math.floor(((k + 0.5) * r.count) / n)))
  }
  depths.sort((a, b) => a - b)
  return Array.from({ length: slabs }, (_, k) =>
    k === slabs - 1 ? Number.POSITIVE_INFINITY : depths[Math.floor(((k + 1) * depths.length) / slabs)],
  )
}
