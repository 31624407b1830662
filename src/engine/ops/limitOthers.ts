import { f32, u32 } from '../memory'
import { defineOp } from './define'
import type { OpWriter } from './writer'

export const limitOthersOp = defineOp({
  name: 'limitOthers',
  code: 53,
  group: 'limit',
  kernel: 'limits',
  words: {
    /** How many each has; 0: there are no others. */
    counts: u32(),
    least: f32(),
    outside: u32(),
  },
})
/**
 * They act on those who have at least so many particles of a system (its place among the plan's; −1 its own, null none) within `radius` m
 * as the substep begins.
 */
export function encodeLimitOthers(w: OpWriter, p: { system: number | null; radius: number; least: number; outside: boolean }): void {
  const start = w.write(limitOthersOp, { counts: 0, least: p.least, outside: p.outside ? 1 : 0 })
  if (p.system === null) return
  const at = w.wordOf(start, limitOthersOp, 'counts')
  w.passes.push({ kind: 'counting', system: p.system, radius: p.radius, words: [p.radius * p.radius], columns: 1, at, optional: true })
}
