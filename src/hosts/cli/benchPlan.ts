import {
  encodeCarry,
  encodeChase,
  encodeDrag,
  encodeEndLimits,
  encodeFlock,
  encodeGravity,
  encodeLimitPhase,
  encodeStay,
  encodeTurbulence,
  encodeTurn,
  encodeTurnsOf,
  encodeVortex,
  encodeWhenChance,
  encodeWhenJoined,
  encodeWhenTime,
  encodeWind,
  type ForcePlan,
  identity,
  NO_EFFECT,
  OpWriter,
  type TurnPlan,
} from '../../engine'

// The same numbers as in the native references.
export const gravity: ForcePlan = { id: 'gravity', encode: (w) => encodeGravity(w, [0, -9.81, 0]) }
/** exp(−0.5 dt) as a halving time. */
export const drag: ForcePlan = { id: 'drag', encode: (w) => encodeDrag(w, 0.6931471805599453 / 0.5) }
export const turbulence: ForcePlan = {
  id: 'turbulence',
  encode: (w, at) => encodeTurbulence(w, { carry: false, strength: 1, eddy: 1, octaves: 3, phase: at.t0, responseS: 0.1 }, 17),
}
/** The same eddies in a velocity volume of 32 cells, filled again in every step, over the places where the particles are. */
export const volume: ForcePlan = {
  id: 'volume',
  encode: (w, at) => {
    const flow = new OpWriter()
    turbulence.encode(flow, at)
    const [into, out] = [identity(), identity()]
    for (const a of [3, 7, 11]) [into[a], out[a]] = [-5, 5]
    encodeCarry(w, {
      flow,
      half: [5.5, 5.5, 5.5],
      cell: 11 / 32,
      soft: 0.1,
      pushes: true,
      responseS: 1,
      max: [1e12, 1e12, 1e12],
      into,
      out,
    })
  },
}
/** A force of one phase alone. */
export const inPhase = (force: ForcePlan, k: number): ForcePlan => ({
  id: `${force.id} ${k}`,
  encode(w, at) {
    encodeLimitPhase(w, 1 << k, 0)
    force.encode(w, at)
    encodeEndLimits(w)
  },
})
/** Five phases in a circle, each with two conditions that hold for a few in a hundred in every step. */
export const circle: TurnPlan[] = Array.from({ length: 5 }, (_, k) => ({
  id: `turn ${k}`,
  encode(w) {
    encodeTurnsOf(w, k)
    encodeWhenTime(w, { row: 0, not: false, narrows: true }, 0.005, 0.005, 7 + k)
    encodeWhenChance(w, { row: 1, not: false, narrows: true }, 0.05, 17 + k)
    encodeWhenJoined(w, { row: 0, not: false, narrows: true }, 2, false)
    return encodeTurn(w, { row: 0, from: k, to: (k + 1) % 5 }, { ...NO_EFFECT, push: [0, 0.1, 0], scatter: 0.1 }, 27 + k)
  },
}))
export const wind: ForcePlan = {
  id: 'wind',
  encode: (w, at) =>
    encodeWind(
      w,
      {
        direction: [1, 0, 0],
        speed: 3,
        gust: 1.2,
        stray: 0.5,
        eddy: 1.5,
        octaves: 2,
        phase: at.t0 * 0.3,
        travelled: [at.t0 * 3, 0, 0],
        responseS: 0.5,
      },
      5,
    ),
}
export const vortex: ForcePlan = {
  id: 'vortex',
  encode: (w) =>
    encodeVortex(w, {
      centre: [5, 0, 5],
      axis: [0, 1, 0],
      reach: 8,
      falloff: 'smooth',
      carry: false,
      around: 8,
      towards: 4,
      along: 2,
      responseS: 0.1,
      held: null,
    }),
}
/** The radius within which each of so many points in a cube of one metre has about 30 neighbours, as in the native reference. */
export const thirty = (count: number): number => Math.cbrt((30 * 3) / (4 * Math.PI * count))
export const flockOf = (count: number): ForcePlan => ({
  id: 'flock',
  encode: (w, at) =>
    encodeFlock(w, { radius: thirty(count), room: thirty(count) / 2, cosView: -2, apart: 1, align: 2, together: 1, dt: at.dt }),
})
export const chase: ForcePlan = {
  id: 'chase',
  encode: (w, at) =>
    encodeChase(
      w,
      { object: 0, pick: 'nearest' },
      { speed: 2, arrive: 0.4, responseS: 0.05, maxAcceleration: 60, reach: Number.POSITIVE_INFINITY, dt: at.dt },
      3,
    ),
}
export const stay: ForcePlan = { id: 'stay', encode: (w, at) => encodeStay(w, { object: 0, spring: 400, friction: 20, dt: at.dt }) }
