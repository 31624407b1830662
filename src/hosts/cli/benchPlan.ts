import type { ForcePlan } from '../../engine'

// The same numbers as in the native references.
export const gravity: ForcePlan = { id: 'gravity', encode: (w) => w.gravity([0, -9.81, 0]) }
/** exp(−0.5 dt) as a halving time. */
export const drag: ForcePlan = { id: 'drag', encode: (w) => w.drag(0.6931471805599453 / 0.5) }
export const turbulence: ForcePlan = { id: 'turbulence', encode: (w, at) => w.turbulence({ carry: false, strength: 1, eddy: 1, octaves: 3, phase: at.t0, responseS: 0.1 }, 17) }
export const wind: ForcePlan = { id: 'wind', encode: (w, at) => w.wind({ direction: [1, 0, 0], speed: 3, gust: 1.2, stray: 0.5, eddy: 1.5, octaves: 2, phase: at.t0 * 0.3, travelled: [at.t0 * 3, 0, 0], responseS: 0.5 }, 5) }
export const vortex: ForcePlan = { id: 'vortex', encode: (w) => w.vortex({ centre: [5, 0, 5], axis: [0, 1, 0], reach: 8, falloff: 'smooth', carry: false, around: 8, towards: 4, along: 2, responseS: 0.1, held: null }) }
