import * as z from 'zod'
import type { Vec3 } from './animated'
import { once } from './once'
import { MOST_CORNERS, type Outline } from './outline'
import type { Curve } from './ramp'

/** What a change of a parameter puts out of date: simulated frames, how particles are drawn, or only the picture. */
export type Changes = 'simulation' | 'look' | 'picture'

/** Units as stored. Angles are degrees in the document and radians inside the engine; '1' is a plain share or factor. */
export type Unit =
  | '°/s'
  | '%/s'
  | '°/m'
  | 'm'
  | 's'
  | 'm/s'
  | 'm/s²'
  | '1/s'
  | '1/m'
  | 'kg'
  | 'K'
  | 'K/s'
  | '°'
  | '1'
  | '%'
  | 'mm'
  | ''
  | '×'

interface Common {
  label: string
  help: string
  /** What else the trade calls it, for finding it. */
  synonyms?: readonly string[]
  changes?: Changes
  /** Only with one of these values of a neighbouring choice does it have an effect; cards show it then alone. */
  when?: { param: string; is: readonly string[] }
}
export interface NumberParam extends Common {
  type: 'number'
  unit: Unit
  default: number
  min?: number
  max?: number
  /** The range a drag covers comfortably; typing may go beyond it up to min and max. */
  soft?: readonly [number, number]
  integer?: boolean
  animated?: boolean
  /** May be `{ value, vary }`: value ± vary per particle, evenly, from the element's seed. */
  varied?: boolean
  /** Its integral over time is what counts (the renewal of noise), so keys on it never jump. */
  integrated?: boolean
  /** A moment of the shot: stored in seconds, shown in frames. */
  moment?: boolean
  /** The unit, where it depends on the choice of a neighbouring parameter. */
  unitBy?: { param: string; units: Readonly<Record<string, Unit>> }
  /** May be null; this says what null means. */
  empty?: string
  /** It may be empty, but begins with its default. */
  given?: boolean
}
export interface VectorParam extends Common {
  type: 'vector'
  unit: Unit
  default: readonly [number, number, number]
  animated?: boolean
  min?: number
}
export interface ColourParam extends Common {
  type: 'colour'
  default: readonly [number, number, number]
  animated?: boolean
}
export interface SwitchParam extends Common {
  type: 'switch'
  default: boolean
  animated?: boolean
}
export interface ChoiceParam<V extends string = string> extends Common {
  type: 'choice'
  default: NoInfer<V>
  options: readonly { value: V; label: string; help?: string }[]
  animated?: boolean
}
export interface RefParam extends Common {
  type: 'ref'
  /** 'source': an object, or a system whose particles are meant. */
  to: 'object' | 'look' | 'system' | 'source' | 'gas' | 'camera' | 'stuck' | 'mask' | 'layer'
  default: string | null
  /** What null means. */
  empty: string
  /** When its target is removed, its act is muted: null would mean something else than nothing. */
  gone?: 'mute'
}
export interface PartParam extends Common {
  type: 'part'
  /** The parameter that names the object this is a part of. */
  of: string
  default: string
}
/** Where a value is: an element and what of it, as `place.0`, `acts.ID.rate`, `world.1`, or `distance` to another element. */
export interface ValueRef {
  element: string
  value: string
  to?: string
}
export interface ValueParam extends Common {
  type: 'value'
  default: null
  /** What of the shot it may be: values of the shapes of objects, also those that cannot be keyed. */
  only?: 'shape'
}
/** Values of the shot under short names of the artist's own. */
export interface NamesParam extends Common {
  type: 'names'
  default: readonly []
}
export interface TextParam extends Common {
  type: 'text'
  default: string
  /** It names a grid of the file of an object, by the parameter that names that one, with so many numbers a voxel; empty: it is found. */
  grid?: { of: string; channels: 1 | 3 }
}
/** A part of an object's surface by the amounts of one of its regions: the id of the region. */
export interface RegionParam extends Common {
  type: 'region'
  /** The parameter that names the object whose region it is; null: of the object whose act it is. */
  of: string | null
  default: string
}
/** Another phase of the same system: its id, or nothing. */
export interface PhaseParam extends Common {
  type: 'phase'
  default: string
}
/** Touches of a brush: place, radius and strength. */
export interface DabsParam extends Common {
  type: 'dabs'
  default: readonly []
}
/** Several elements, in order, each once. */
export interface RefsParam extends Common {
  type: 'refs'
  to: 'object' | 'system'
  default: readonly string[]
  /** What an empty list means. */
  empty: string
}
/** Points of a path, in order, metres in the object's own space. */
export interface PointsParam extends Common {
  type: 'points'
  default: readonly Vec3[]
}
/** A closed line in the picture of a camera. */
export interface OutlineParam extends Common {
  type: 'outline'
  default: Readonly<Outline>
  animated?: boolean
}
/** A number over a share from 0 to 1. */
export interface CurveParam extends Common {
  type: 'curve'
  unit: '%' | '×'
  /** Its highest value, as stored: 1 is 100 %. */
  max: number
  /** What the share is of, at 0 and at 1. */
  from: string
  to: string
  default: Readonly<Curve>
}
/** A font: the id of one that is shipped, or the hash of an asset. */
export interface FontParam extends Common {
  type: 'font'
  default: string
}
export type Param =
  | RefsParam
  | PointsParam
  | OutlineParam
  | CurveParam
  | FontParam
  | RegionParam
  | PhaseParam
  | DabsParam
  | ValueParam
  | NamesParam
  | TextParam
  | NumberParam
  | VectorParam
  | ColourParam
  | SwitchParam
  | ChoiceParam
  | RefParam
  | PartParam
export type Params = Record<string, Param>
export type ParamOf<T extends Param['type']> = Extract<Param, { type: T }>

type Of<T extends Param> = Omit<T, 'type'>
export const number = (p: Of<NumberParam>): NumberParam => ({ type: 'number', ...p })
export const vector = (p: Of<VectorParam>): VectorParam => ({ type: 'vector', ...p })
export const colour = (p: Of<ColourParam>): ColourParam => ({ type: 'colour', ...p })
export const toggle = (p: Of<SwitchParam>): SwitchParam => ({ type: 'switch', ...p })
export const choice = <const V extends string>(p: Of<ChoiceParam<V>>): ChoiceParam<V> => ({ type: 'choice', ...p })
export const ref = (p: Of<RefParam>): RefParam => ({ type: 'ref', ...p })
export const part = (p: Of<PartParam>): PartParam => ({ type: 'part', ...p })
export const curve = (p: Of<CurveParam>): CurveParam => ({ type: 'curve', ...p })

export const value = (p: Of<ValueParam>): ValueParam => ({ type: 'value', ...p })
export const names = (p: Of<NamesParam>): NamesParam => ({ type: 'names', ...p })
export const text = (p: Of<TextParam>): TextParam => ({ type: 'text', ...p })

type NumberBounds = Pick<NumberParam, 'min' | 'max' | 'integer'>
const numberSchemas = new Map<string, z.ZodNumber>()
/**
 * JSON has no NaN or infinity, so a number here is always finite; the message is what a person reads after the path. The same schema for
 * the same bounds: schemas are dear to make, and what repeats is written once in the JSON Schema.
 */
export function numberSchema(p: NumberBounds): z.ZodNumber {
  const key = `${p.min} ${p.max} ${p.integer}`
  const made = numberSchemas.get(key) ?? newNumberSchema(p)
  numberSchemas.set(key, made)
  return made
}
function newNumberSchema(p: NumberBounds): z.ZodNumber {
  let s = z.number({ error: 'must be a number' })
  if (p.integer) s = s.int({ error: 'must be a whole number' })
  if (p.min !== undefined) s = s.min(p.min, { error: `must be at least ${p.min}` })
  if (p.max !== undefined) s = s.max(p.max, { error: `must be at most ${p.max}` })
  return s
}

/** Schemas that are made when a document is first checked: a page that only shows one needs none. */
const parts = once(() => {
  const plainNumber = z.number({ error: 'must be a number' })
  const share = plainNumber.min(0, { error: 'must be at least 0' }).max(1, { error: 'must be at most 1' })
  const channel = z.number({ error: 'must be a number' }).min(0, { error: 'must be at least 0' })
  return {
    plainNumber,
    share,
    ease: z.enum(['hold', 'linear', 'smooth', 'curve'], { error: 'must be hold, linear, smooth or curve' }).default('smooth'),
    time: z.number({ error: 'must be a time in seconds' }),
    bend: z
      .tuple([share, plainNumber, share, plainNumber], { error: 'must be four numbers: share of time and offset of both handles' })
      .optional(),
    loop: z.enum(['hold', 'repeat', 'mirror', 'onward'], { error: 'must be hold, repeat, mirror or onward' }).optional(),
    flag: z.boolean({ error: 'must be true or false' }),
    reference: z.string({ error: 'must be an element id' }),
    colour: z.tuple([channel, channel, channel], { error: 'must be three numbers: linear red, green, blue' }),
    value: z.strictObject({
      element: z.string({ error: 'must be an element id' }),
      value: z.string({ error: 'must say which value' }),
      to: z.string({ error: 'must be an element id' }).optional(),
    }),
  }
})
const keyed = (v: z.ZodType, modulators: z.ZodType | undefined) => {
  const { time, ease, bend, loop } = parts()
  return z.strictObject({
    keys: z.array(z.strictObject({ t: time, v, ease, bend })).min(1, { error: 'needs at least one key' }),
    loop,
    ...(modulators ? { modulators: z.array(modulators).optional() } : {}),
  })
}
const animatedSchemas = new WeakMap<z.ZodType, Map<z.ZodType | undefined, z.ZodType>>()
/** Modulators move numbers and colours; switches and choices have keys alone. */
function animated(v: z.ZodType, can?: boolean, modulators?: z.ZodType): z.ZodType {
  if (!can) return v
  const known = animatedSchemas.get(v) ?? new Map<z.ZodType | undefined, z.ZodType>()
  animatedSchemas.set(v, known)
  const made =
    known.get(modulators) ??
    z.union([
      v,
      keyed(v, modulators),
      ...(modulators
        ? [z.strictObject({ value: v, modulators: z.array(modulators).min(1, { error: 'needs at least one modulator' }) })]
        : []),
    ])
  known.set(modulators, made)
  return made
}
export const colourSchema = () => parts().colour
const curveSchemas = new Map<number, z.ZodType<Curve>>()
/** A curve whose values go up to `max`; the same schema for the same one. */
export function curveSchema(max: number): z.ZodType<Curve> {
  const made =
    curveSchemas.get(max) ??
    z.strictObject({
      points: z
        .array(z.strictObject({ at: parts().share, v: numberSchema({ min: 0, max }) }), { error: 'must be a list of points' })
        .min(1, { error: 'needs at least one point' })
        .max(MOST_CURVE_POINTS, { error: `must be at most ${MOST_CURVE_POINTS} points` }),
      smooth: parts().flag.optional(),
      steps: parts().flag.optional(),
    })
  curveSchemas.set(max, made)
  return made
}
/** Points that one curve may have. */
export const MOST_CURVE_POINTS = 64
/** Points that one path may have. */
export const MOST_POINTS = 500
/** Touches that one painting may have. */
export const MOST_DABS = 20000

/** `modulators`: the schema of what may move a value; the registry of acts has it. */
export function paramSchema(p: Param, modulators?: z.ZodType): z.ZodType {
  const { plainNumber: number } = parts()
  switch (p.type) {
    case 'number': {
      const plain = numberSchema(p)
      let s: z.ZodType = animated(plain, p.animated, modulators)
      if (p.varied) s = z.union([s, z.strictObject({ value: animated(plain, p.animated, modulators), vary: numberSchema({ min: 0 }) })])
      return (p.empty === undefined ? s : s.nullable()).default(defaultOf(p) as number)
    }
    case 'vector': {
      const c = animated(numberSchema({ min: p.min }), p.animated, modulators)
      return z.tuple([c, c, c], { error: 'must be three numbers' }).default([p.default[0], p.default[1], p.default[2]])
    }
    case 'colour':
      return animated(parts().colour, p.animated, modulators).default([...p.default])
    case 'switch':
      return animated(parts().flag, p.animated).default(p.default)
    case 'choice':
      return animated(
        z.enum(p.options.map((o) => o.value) as [string, ...string[]], { error: `must be ${p.options.map((o) => o.value).join(' or ')}` }),
        p.animated,
      ).default(p.default)
    case 'ref':
      return parts().reference.nullable().default(p.default)
    case 'value':
      return parts().value.nullable().default(null)
    case 'names':
      return z
        .array(
          z.strictObject({
            name: z
              .string()
              .regex(/^[a-z][a-z0-9]{0,15}$/, { error: 'must be a small letter followed by up to 15 small letters or digits' }),
            ...parts().value.shape,
          }),
          { error: 'must be a list of names' },
        )
        .max(32)
        .default([])
    case 'text':
      return z.string({ error: 'must be text' }).max(2000, { error: 'must be at most 2000 characters' }).default(p.default)
    case 'part':
      return z.string({ error: 'must be the name of a part' }).default(p.default)
    case 'font':
      return z
        .string({ error: 'must be the id of a font' })
        .regex(/^[a-z0-9-]{1,64}$/, { error: 'must be the id of a font that is shipped, or the hash of an asset' })
        .default(p.default)
    case 'region':
      return z.string({ error: 'must be the id of a region' }).max(64).default(p.default)
    case 'phase':
      return z.string({ error: 'must be the id of a phase' }).max(64).default(p.default)
    case 'refs':
      return z.array(parts().reference, { error: 'must be a list of element ids' }).max(64, { error: 'must be at most 64' }).default([])
    case 'points':
      return z
        .array(z.tuple([number, number, number], { error: 'must be three numbers' }), { error: 'must be a list of points' })
        .min(2, { error: 'needs at least two points' })
        .max(MOST_POINTS, { error: `must be at most ${MOST_POINTS} points` })
        .default(p.default.map((q): [number, number, number] => [q[0], q[1], q[2]]))
    case 'outline':
      return animated(
        z
          .array(z.tuple([number, number, parts().share], { error: 'must be three numbers: across, up, and how round' }), {
            error: 'must be a list of corners',
          })
          .min(3, { error: 'needs at least three corners' })
          .max(MOST_CORNERS, { error: `must be at most ${MOST_CORNERS} corners` }),
        p.animated,
      ).default(p.default.map((q): [number, number, number] => [q[0], q[1], q[2]]))
    case 'curve':
      return curveSchema(p.max).default(() => structuredClone(p.default))
    case 'dabs':
      return z
        .array(
          z.tuple([number, number, number, number.positive({ error: 'must be above 0' }), number], {
            error: 'must be five numbers: place, radius, strength',
          }),
          { error: 'must be a list of touches' },
        )
        .max(MOST_DABS, { error: `must be at most ${MOST_DABS} touches` })
        .default([])
  }
}
export const shapeOf = (params: Params, modulators?: z.ZodType): Record<string, z.ZodType> =>
  Object.fromEntries(Object.entries(params).map(([k, p]) => [k, paramSchema(p, modulators)]))

/** The default of a parameter, as the document stores it. */
export const defaultOf = (p: Param): unknown =>
  p.type === 'number' && p.empty !== undefined && !p.given ? null : typeof p.default === 'object' ? structuredClone(p.default) : p.default
