import type { ForcePlan } from '../../engine'

// The same numbers as in the native references.
export const gravity: ForcePlan = { id: 'gravity', encode: (w) => w.gravity([0, -9.81, 0]) }
/** exp(−0.5 dt) as a halving time. */
export const drag: ForcePlan = { id: 'drag', encode: (w) => w.drag(0.6931471805599453 / 0.5) }
export const turbulence: ForcePlan = { id: 'turbulence', encode: (w, at) => w.turbulence({ carry: false, strength: 1, eddy: 1, octaves: 3, phase: at.t0, responseS: 0.1 }, 17) }
