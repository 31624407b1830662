import { hasColumn, hash3, type Matrix, multiplyQuaternions, type PointsPart, pointColumn, spunBy, unit } from '../engine'
import type { SolidDrawing } from './drawing'
import { type Draw, partLooks, reliefsOf } from './look'
import { drawnPlaces } from './reliefs'

/** Floats of an instance: three rows of four from its body to the shot, and its colour with what of that it gives by itself. */
export const INSTANCE_FLOATS = 16
/** Channels of the hash: which body a particle has, and how it lies without a spin. */
const WHICH = 23
const LIES = 24

interface Body {
  /** Against the weights of the others. */
  weight: number
  /** The longest side of it, m. */
  longest: number
}
export interface Instances {
  count: number
  data: Float32Array
  /** Of each the number of its particle in the part. */
  of: number[]
}
type Q = [number, number, number, number]

/** A way to lie of its own, evenly over all (Shoemake 1992). */
function anyWay(seed: number, id: number): Q {
  const a = unit(hash3(seed, id, LIES))
  const [b, c] = [1, 2].map((k) => 2 * Math.PI * unit(hash3(seed, id, LIES + k)))
  return [Math.sqrt(1 - a) * Math.sin(b), Math.sqrt(1 - a) * Math.cos(b), Math.sqrt(a) * Math.sin(c), Math.sqrt(a) * Math.cos(c)]
}
/** Y to a direction by the shortest turn. */
function towards(x: number, y: number, z: number): Q {
  const l = Math.hypot(x, y, z)
  if (!(l > 0)) return [0, 0, 0, 1]
  const w = 1 + y / l
  // Straight down: half a turn about X.
  if (w < 1e-6) return [1, 0, 0, 0]
  const n = 1 / Math.hypot(z / l, x / l, w)
  return [(z / l) * n, 0, (-x / l) * n, w * n]
}
/** By so many degrees more about its own Y. */
function turnedAbout(q: Q, degrees: number): Q {
  const [s, c] = [Math.sin((degrees * Math.PI) / 360), Math.cos((degrees * Math.PI) / 360)]
  return multiplyQuaternions(q, [0, s, 0, c])
}
/**
 * The particles of a part as instances of bodies, for each copy of their system: of `bodies` each has one by its weight, or the next one in turn. `draws` are those of all phases,
 * `phases` those that are drawn so; `share`: part of them that is shown, 0 to 1. What would fade shrinks: a body cannot be seen through.
 */
export function solidInstances(
  part: PointsPart,
  o: {
    draws: readonly Draw[]
    blends: readonly number[]
    phases: readonly number[]
    solid: SolidDrawing
    bodies: readonly Body[]
    matrices: readonly Matrix[]
    share: number
    /** Seconds that they have gone on since the frame. */
    ahead?: number
  },
): Instances[] {
  const { solid, bodies } = o
  const out = bodies.map((): Instances => ({ count: 0, data: new Float32Array(INSTANCE_FLOATS * 64), of: [] }))
  const all = bodies.reduce((sum, b) => sum + b.weight, 0)
  const [vx, vy, vz, seeds, phase, ids] = (['vx', 'vy', 'vz', 'seed', 'phase', 'id'] as const).map((n) => pointColumn(part, n))
  const at = drawnPlaces(part, reliefsOf(o.draws))
  const turns = solid.lies === 'spin' && hasColumn(part, 'qx') ? (['qx', 'qy', 'qz', 'qw'] as const).map((n) => pointColumn(part, n)) : null
  const shown = new Set(o.phases)
  const { ahead = 0 } = o
  const spins = turns && ahead && hasColumn(part, 'wx') ? (['wx', 'wy', 'wz'] as const).map((n) => pointColumn(part, n)) : null
  const lying = (i: number): Q => {
    if (solid.lies === 'upright') return [0, 0, 0, 1]
    if (solid.lies === 'motion') return towards(vx[i], vy[i], vz[i])
    if (!turns) return anyWay(solid.seed, seeds[i])
    const q = turns.map((c) => c[i]) as Q
    return spins ? spunBy(q, [spins[0][i], spins[1][i], spins[2][i]], ahead) : q
  }
  const gone = (i: number) => [at.x[i] + vx[i] * ahead, at.y[i] + vy[i] * ahead, at.z[i] + vz[i] * ahead]
  for (const m of o.matrices) {
    const look = partLooks(part, o.draws, o.blends, m)
    for (let i = 0; i < part.count; i++) {
      if (!shown.has(phase[i]) || (o.share < 1 && unit(hash3(0, seeds[i], 21)) >= o.share)) continue
      const { size, opacity, colour, turn, stretch } = look(i)
      let left = unit(hash3(solid.seed, seeds[i], WHICH)) * all
      const which = solid.inTurn ? ids[i] % bodies.length : bodies.findIndex((b) => (left -= b.weight) < 0)
      const body = bodies[which]
      if (!body) continue
      const base = o.draws[phase[i]]?.size ?? 1
      const scale = (solid.own ? (base > 0 ? size / base : 1) : size / Math.max(body.longest, 1e-9)) * opacity
      if (!(scale > 0)) continue
      const to = out[which]
      if ((to.count + 1) * INSTANCE_FLOATS > to.data.length) {
        const more = new Float32Array(to.data.length * 2)
        more.set(to.data)
        to.data = more
      }
      const long = scale * stretch + (solid.stretch * Math.hypot(vx[i], vy[i], vz[i])) / Math.max(body.longest, 1e-9)
      const q = turn ? turnedAbout(lying(i), turn) : lying(i)
      write(to.data, to.count++ * INSTANCE_FLOATS, m, gone(i), q, [scale, long, scale])
      to.data.set([...colour, solid.shine], to.count * INSTANCE_FLOATS - 4)
      to.of.push(i)
    }
  }
  return out
}
/** m · translation · rotation · scale, three rows of four. */
function write(out: Float32Array, at: number, m: Matrix, p: readonly number[], [x, y, z, w]: Q, s: readonly number[]): void {
  const columns = [
    [1 - 2 * (y * y + z * z), 2 * (x * y + z * w), 2 * (x * z - y * w)],
    [2 * (x * y - z * w), 1 - 2 * (x * x + z * z), 2 * (y * z + x * w)],
    [2 * (x * z + y * w), 2 * (y * z - x * w), 1 - 2 * (x * x + y * y)],
  ]
  for (let r = 0; r < 3; r++) {
    const [a, b, c, d] = [m[r * 4], m[r * 4 + 1], m[r * 4 + 2], m[r * 4 + 3]]
    for (let k = 0; k < 3; k++) out[at + r * 4 + k] = (a * columns[k][0] + b * columns[k][1] + c * columns[k][2]) * s[k]
    out[at + r * 4 + 3] = a * p[0] + b * p[1] + c * p[2] + d
  }
}
