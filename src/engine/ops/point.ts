import { f32, i32, u32 } from '../memory'
import { defineOp } from './define'
import { type Falloff, falloffIndex } from './falloff'
import { FULL } from './share'
import type { OpWriter } from './writer'

export const pointOp = defineOp({
  name: 'point',
  code: 8,
  group: 'force',
  kernel: 'fields',
  words: {
    centre: f32(3),
    strength: f32(),
    perReach: f32(),
    falloff: i32(),
    square: u32(),
    /** Squared. */
    core: f32(),
    front: f32(),
    /** 1 / half its thickness; 0: there is no front. */
    perHalf: f32(),
  },
})
/** Towards a point at `strength` m/s², or away from it. `front`: the force works in a shell of that radius and half thickness alone, m. */
export function encodePoint(
  w: OpWriter,
  p: {
    centre: readonly [number, number, number]
    strength: number
    reach: number
    falloff: Falloff
    square: boolean
    core: number
    front: { radius: number; half: number } | null
  },
  seed = 0,
  share = FULL,
): void {
  const { centre, strength, front } = p
  const falloff = falloffIndex(p.falloff)
  const shell = { front: front?.radius ?? 0, perHalf: front ? 1 / front.half : 0 }
  w.write(
    pointOp,
    { centre, strength, perReach: 1 / p.reach, falloff, square: p.square ? 1 : 0, core: p.core * p.core, ...shell },
    seed,
    share,
  )
}
