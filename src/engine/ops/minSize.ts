import { ALL_PHASES, f32, i32, u32 } from '../memory'
import { defineOp } from './define'
import { FULL } from './share'
import type { OpWriter } from './writer'

/** The factor over life follows, in even samples. */
export const minSizeOp = defineOp({
  name: 'minSize',
  code: 6,
  group: 'other',
  kernel: 'endings',
  tail: true,
  words: { min: f32(), size: f32(), vary: f32(), samples: i32(), phases: u32() },
})
/** Lives end that are drawn smaller than `min`: metres, the look's size with its ± and seed, and its factor over life. */
export const encodeMinSize = (
  w: OpWriter,
  min: number,
  size: number,
  vary: number,
  seed: number,
  curve: Float32Array,
  phases = ALL_PHASES,
): void => void w.write(minSizeOp, { min, size, vary, samples: curve.length, phases }, seed, FULL, curve)
