import { f32, u32 } from '../memory'
import { defineOp } from './define'
import type { OpWriter } from './writer'

export const limitPhaseOp = defineOp({
  name: 'limitPhase',
  code: 40,
  group: 'limit',
  kernel: 'limits',
  words: { phases: u32(), perBlend: f32() },
})
/** The forces up to the end of the limits act on particles in some phases, a bit each; they set in over `blend` seconds of the phase. */
export const encodeLimitPhase = (w: OpWriter, phases: number, blend: number): void =>
  void w.write(limitPhaseOp, { phases, perBlend: blend > 0 ? 1 / blend : 0 })
