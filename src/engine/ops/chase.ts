import { f32, u32 } from '../memory'
import { defineOp } from './define'
import { finite } from './falloff'
import { FULL } from './share'
import type { OpWriter } from './writer'

/** How a chase finds its targets: on a surface the nearest, one kept by the seed, its listed places in turn, or its middle; of particles the nearest or in turn. */
export type Target = { object: number; pick: 'nearest' | 'kept' | 'inTurn' | 'middle' } | { system: number; pick: 'nearest' | 'inTurn' }
const MODE = { nearest: 0, kept: 1, inTurn: 2, middle: 4 } as const
const OF_PARTICLES = 3
export const chaseOp = defineOp({
  name: 'chase',
  code: 18,
  group: 'force',
  kernel: 'targets',
  words: {
    mode: u32(),
    /** Record of the object, or columns of the targets and the bytes from one to the next. */
    target: u32(),
    stride: u32(),
    speed: f32(),
    slow: f32(),
    response: f32(),
    maxAcceleration: f32(),
    reach: f32(),
    perSecond: f32(),
  },
})
/** After a target: speed m/s, arriving from `arrive` m on, response s, largest acceleration m/s², reach m or Infinity. */
export function encodeChase(
  w: OpWriter,
  target: Target,
  p: { speed: number; arrive: number; responseS: number; maxAcceleration: number; reach: number; dt: number },
  seed: number,
  share = FULL,
): void {
  // Slower than four responses it cannot swing past its target: the damped oscillator x″ = −(x/T + x′)/τ is at least critically damped for T ≥ 4τ.
  const slow = Math.max(p.arrive / Math.max(p.speed, 1e-9), 4 * p.responseS, p.dt)
  const words = {
    mode: 'object' in target ? MODE[target.pick] : OF_PARTICLES,
    target: 0,
    stride: 0,
    speed: p.speed,
    slow,
    response: p.responseS,
    maxAcceleration: Math.min(p.maxAcceleration, 1e12),
    reach: finite(p.reach),
    perSecond: 1 / p.dt,
  }
  const at = w.wordOf(w.write(chaseOp, words, seed, share), chaseOp, 'target')
  if ('object' in target) {
    w.surfaces.push({ at, object: target.object, pick: target.pick })
    return
  }
  const radius = Math.min(p.reach, 1e6)
  const kind = target.pick === 'nearest' ? 'nearest' : 'ordered'
  w.passes.push({ kind, system: target.system, radius, words: [radius * radius], columns: 7, at })
}
