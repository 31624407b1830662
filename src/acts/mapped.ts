import { hash3, type Matrix, type Part, unit } from '../engine'
import { type LookDoc, type Shot, sampleVec3, type Vec3 } from '../shot'
import type { MappingDrawing } from './drawing'
import { lookTable, sampleLook, sampleTable } from './lookTables'
import { placedMatrix, posedIn } from './places'

/** A mapping at a moment, with what it refers to. */
export interface Mapping extends Omit<MappingDrawing, 'look' | 'object' | 'by'> {
  by: Exclude<MappingDrawing['by'], 'object' | 'camera'> | 'distance'
  /** Whose colours it goes along; null: white. */
  ramp: LookDoc | null
  /** What a distance is to, in the shot. */
  place: Vec3
}
/** So many of them a particle may have. */
export const MOST_MAPPINGS = 16
/** The channel of the hash that gives each particle a number of its own. */
const RANDOM = 22

/** Finds what a mapping refers to: the middle of an object, the shot's camera, a look. `parts`: where a frame has what was thrown. */
export function resolveMapping(shot: Shot, m: MappingDrawing, t: number, parts: readonly Part[]): Mapping {
  const { look, object, by, ...rest } = m
  return {
    ...rest,
    by: by === 'object' || by === 'camera' ? 'distance' : by,
    ramp: shot.shared.looks.find((l) => l.id === look) ?? null,
    place: by === 'camera' ? cameraPlace(shot, t) : by === 'object' ? middleOf(shot, object, t, parts) : [0, 0, 0],
  }
}
function cameraPlace(shot: Shot, t: number): Vec3 {
  return sampleVec3((shot.cameras.find((c) => c.id === shot.camera) ?? shot.cameras[0]).place, t)
}
function middleOf(shot: Shot, id: string | null, t: number, parts: readonly Part[]): Vec3 {
  const object = shot.objects.find((o) => o.id === id)
  if (!object) return [0, 0, 0]
  const m = placedMatrix(object, t, posedIn(parts))
  return [m[3], m[7], m[11]]
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
}
/** What of a particle mappings change. */
export interface Mappable {
  size: number
  brightness: number
  opacity: number
  colour: Vec3
}
function attribute(m: Mapping, p: MappedParticle, matrix: Matrix): number {
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
    case 'x':
      return along(0)
    case 'y':
      return along(1)
    case 'z':
      return along(2)
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
/** Changes what a particle looks like by its mappings, in their order. `matrix`: of the system into the shot. The GPU does the same in stage/shaders. */
export function applyMappings(mappings: readonly Mapping[], p: MappedParticle, matrix: Matrix, look: Mappable): Mappable {
  for (const m of mappings) {
    const share = Math.min(1, Math.max(0, (attribute(m, p, matrix) - m.from) * perRange(m)))
    const at = sampleTable(m.curve, share)
    if (m.of === 'colour') {
      const ramp = m.ramp ? sampleLook(lookTable(m.ramp), at) : [1, 1, 1]
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
  }
}
