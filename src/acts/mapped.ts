import { hash3, identity, invert, type Matrix, type Part, unit } from '../engine'
import { type LookDoc, type Shot, sampleVec3, type Vec3 } from '../shot'
import { askName } from './asks'
import { shotCamera } from './cameras'
import type { MappingDrawing } from './drawing'
import { lookTable, nearestSample, sampleLook, sampleTable } from './lookTables'
import { placedMatrix, posedIn } from './places'

/** A mapping at a moment, with what it refers to. */
export interface Mapping extends Pick<MappingDrawing, 'of' | 'from' | 'to' | 'curve' | 'joins' | 'low' | 'high' | 'amount' | 'seed'> {
  by: 'share' | 'age' | 'phase' | 'speed' | 'random' | 'along' | 'distance' | 'asked'
  /** Whose colours it goes along; null: white. */
  ramp: LookDoc | null
  /** In the shot: the place that a distance is to; or what an axis gives, as x·a + y·b + z·c + d. */
  place: readonly number[]
  /** The name of what is asked. */
  ask: string
}
/** So many of them a particle may have. */
export const MOST_MAPPINGS = 16
/** The channel of the hash that gives each particle a number of its own. */
const RANDOM = 22

/** Finds what a mapping refers to: the middle of an object, an axis of it, the shot's camera, a look. `parts`: where a frame has what was thrown. */
export function resolveMapping(shot: Shot, m: MappingDrawing, t: number, parts: readonly Part[]): Mapping {
  const { of, by, from, to, curve, joins, low, high, amount, seed, look } = m
  const ramp = shot.shared.looks.find((l) => l.id === look) ?? null
  const made = { of, from, to, curve, joins, low, high, amount, seed, ramp, place: [0, 0, 0, 0] as readonly number[], ask: '' }
  switch (by) {
    case 'x':
    case 'y':
    case 'z': {
      const into = invert(matrixOf(shot, m.object, t, parts)) ?? identity()
      const row = 4 * 'xyz'.indexOf(by)
      return { ...made, by: 'along', place: [...into.subarray(row, row + 4)] }
    }
    case 'camera':
      return { ...made, by: 'distance', place: cameraPlace(shot, t) }
    case 'object': {
      const o = matrixOf(shot, m.object, t, parts)
      return { ...made, by: 'distance', place: [o[3], o[7], o[11]] }
    }
    case 'share':
    case 'age':
    case 'phase':
    case 'speed':
    case 'random':
      return { ...made, by }
    default:
      return { ...made, by: 'asked', ask: askName(by, m) }
  }
}
const cameraPlace = (shot: Shot, t: number): Vec3 => sampleVec3(shotCamera(shot).place, t)
function matrixOf(shot: Shot, id: string | null, t: number, parts: readonly Part[]): Matrix {
  const object = shot.objects.find((o) => o.id === id)
  return object ? placedMatrix(object, t, posedIn(parts)) : identity()
}

/** What of a particle a mapping may go by: places in the space of the system. */
export interface MappedParticle {
  age: number
  life: number
  seed: number
  place: Vec3
  velocity: Vec3
  /** The age at which it came into its phase; birth where nothing turns. */
  phaseStart?: number
  /** What is asked of it, by its name; undefined where nobody has found it out. */
  asked?(name: string): number | undefined
}
/** What of a particle mappings change. */
export interface Mappable {
  size: number
  brightness: number
  opacity: number
  colour: Vec3
  /** 0 to 1 */
  softness: number
  /** ° */
  turn: number
  /** × */
  stretch: number
  /** Frames of a picture, on from its own. */
  picture: number
}
function attribute(m: Mapping, p: MappedParticle, matrix: Matrix): number | undefined {
  const along = (r: number) =>
    matrix[r * 4] * p.place[0] + matrix[r * 4 + 1] * p.place[1] + matrix[r * 4 + 2] * p.place[2] + matrix[r * 4 + 3]
  switch (m.by) {
    case 'share':
      return p.life > 0 ? p.age / p.life : 1
    case 'age':
      return p.age
    case 'phase':
      return p.age - (p.phaseStart ?? 0)
    case 'speed':
      return Math.hypot(...p.velocity)
    case 'random':
      return unit(hash3(m.seed, p.seed, RANDOM))
    case 'along':
      return m.place[0] * along(0) + m.place[1] * along(1) + m.place[2] * along(2) + m.place[3]
    case 'asked':
      return p.asked?.(m.ask)
    case 'distance':
      return Math.hypot(along(0) - m.place[0], along(1) - m.place[1], along(2) - m.place[2])
  }
}
/** One over the range; a range without width is a step. */
export const perRange = ({ from, to }: Pick<Mapping, 'from' | 'to'>): number => (to === from ? 1e30 : 1 / (to - from))
const join = (how: Mapping['joins'], old: number, by: number): number => (how === 'multiply' ? old * by : how === 'add' ? old + by : by)

/** Turned about grey by degrees (Rodrigues). */
function turnedHue([r, g, b]: Vec3, degrees: number): Vec3 {
  const [c, s] = [Math.cos((degrees * Math.PI) / 180), Math.sin((degrees * Math.PI) / 180)]
  const grey = ((r + g + b) / 3) * (1 - c)
  const w = s / Math.sqrt(3)
  return [r * c + (b - g) * w + grey, g * c + (r - b) * w + grey, b * c + (g - r) * w + grey].map((x) => Math.max(0, x)) as Vec3
}
/** Farther from the grey of the same light, or nearer to it. */
function saturated(colour: Vec3, by: number): Vec3 {
  const light = 0.2126 * colour[0] + 0.7152 * colour[1] + 0.0722 * colour[2]
  return colour.map((x) => Math.max(0, light + (x - light) * by)) as Vec3
}
/** The value that a mapping gives a particle between its low and its high; null where what it goes by is not known. */
export function mappedValue(m: Mapping, p: MappedParticle, matrix: Matrix): number | null {
  const by = attribute(m, p, matrix)
  if (by === undefined) return null
  const share = Math.min(1, Math.max(0, (by - m.from) * perRange(m)))
  return m.low + (m.high - m.low) * sampleTable(m.curve, share)
}
/** Changes what a particle looks like by its mappings, in their order. `matrix`: of the system into the shot. The GPU does the same in stage/shaders. */
export function applyMappings(mappings: readonly Mapping[], p: MappedParticle, matrix: Matrix, look: Mappable): Mappable {
  for (const m of mappings) {
    const by = attribute(m, p, matrix)
    // Nobody has found it out yet: as if there were no such card.
    if (by === undefined) continue
    const share = Math.min(1, Math.max(0, (by - m.from) * perRange(m)))
    const at = sampleTable(m.curve, share)
    if (m.of === 'colour') {
      // Out of steps each has one of the colours, and none between two.
      const ramp = m.ramp ? sampleLook(lookTable(m.ramp), m.ramp.colour.steps ? nearestSample(at) : at) : [1, 1, 1]
      look.colour = look.colour.map((c, k) => c + (join(m.joins, c, ramp[k]) - c) * m.amount) as Vec3
    } else if (m.of === 'hue') look.colour = turnedHue(look.colour, m.low + (m.high - m.low) * at)
    else if (m.of === 'saturation') look.colour = saturated(look.colour, join(m.joins, 1, m.low + (m.high - m.low) * at))
    else look[m.of] = join(m.joins, look[m.of], m.low + (m.high - m.low) * at)
  }
  return {
    ...look,
    size: Math.max(0, look.size),
    brightness: Math.max(0, look.brightness),
    opacity: Math.min(1, Math.max(0, look.opacity)),
    softness: Math.min(1, Math.max(0, look.softness)),
    stretch: Math.max(0, look.stretch),
  }
}
