import { f32, i32, u32 } from '../memory'
import { defineOp } from './define'
import { type Falloff, falloffIndex } from './falloff'
import { FULL } from './share'
import type { OpWriter } from './writer'

export const vortexOp = defineOp({
  name: 'vortex',
  code: 7,
  group: 'force',
  kernel: 'fields',
  places: true,
  words: {
    centre: f32(3),
    axis: f32(3),
    /** 1 / reach. */
    perReach: f32(),
    falloff: i32(),
    carry: u32(),
    around: f32(),
    towards: f32(),
    along: f32(),
    response: f32(),
    /** The radius that is held, or below zero. */
    held: f32(),
  },
})
/** Around an axis (unit). Speeds in m/s with carry, accelerations in m/s² without; reach in m or Infinity; `held`: a radius in m, or null. */
export function encodeVortex(
  w: OpWriter,
  p: {
    centre: readonly [number, number, number]
    axis: readonly [number, number, number]
    reach: number
    falloff: Falloff
    carry: boolean
    around: number
    towards: number
    along: number
    responseS: number
    held: number | null
  },
  seed = 0,
  share = FULL,
): void {
  const { centre, axis, around, towards, along } = p
  const falloff = falloffIndex(p.falloff)
  const words = {
    centre,
    axis,
    perReach: 1 / p.reach,
    falloff,
    carry: p.carry ? 1 : 0,
    around,
    towards,
    along,
    response: p.responseS,
    held: p.held ?? -1,
  }
  w.write(vortexOp, words, seed, share)
}
