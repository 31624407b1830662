import { z } from 'zod'

/** What a change of a parameter puts out of date: simulated frames, how particles are drawn, or only the picture. */
export type Changes = 'simulation' | 'look' | 'picture'

/** Units as stored. Angles are degrees in the document and radians inside the engine; '1' is a plain share or factor. */
export type Unit = 'm' | 's' | 'm/s' | 'm/s²' | '1/s' | '°' | '1' | '%' | 'mm' | '' | '×'

interface Common {
  label: string
  help: string
  changes?: Changes
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
  /** May be null; this says what null means. */
  empty?: string
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
export interface ChoiceParam extends Common {
  type: 'choice'
  default: string
  options: readonly { value: string; label: string; help?: string }[]
  animated?: boolean
}
export interface RefParam extends Common {
  type: 'ref'
  to: 'object' | 'look' | 'system'
  default: string | null
  /** What null means. */
  empty: string
}
export interface PartParam extends Common {
  type: 'part'
  /** The parameter that names the object this is a part of. */
  of: string
  default: string
}
export type Param = NumberParam | VectorParam | ColourParam | SwitchParam | ChoiceParam | RefParam | PartParam
export type Params = Record<string, Param>

type Of<T extends Param> = Omit<T, 'type'>
export const number = (p: Of<NumberParam>): NumberParam => ({ type: 'number', ...p })
export const vector = (p: Of<VectorParam>): VectorParam => ({ type: 'vector', ...p })
export const colour = (p: Of<ColourParam>): ColourParam => ({ type: 'colour', ...p })
export const toggle = (p: Of<SwitchParam>): SwitchParam => ({ type: 'switch', ...p })
export const choice = (p: Of<ChoiceParam>): ChoiceParam => ({ type: 'choice', ...p })
export const ref = (p: Of<RefParam>): RefParam => ({ type: 'ref', ...p })
export const part = (p: Of<PartParam>): PartParam => ({ type: 'part', ...p })

/** JSON has no NaN or infinity, so a number here is always finite; the message is what a person reads after the path. */
export function numberSchema(p: Pick<NumberParam, 'min' | 'max' | 'integer'>) {
  let s = z.number({ error: 'must be a number' })
  if (p.integer) s = s.int({ error: 'must be a whole number' })
  if (p.min !== undefined) s = s.min(p.min, { error: `must be at least ${p.min}` })
  if (p.max !== undefined) s = s.max(p.max, { error: `must be at most ${p.max}` })
  return s
}

const ease = z.enum(['hold', 'linear', 'smooth'], { error: 'must be hold, linear or smooth' })
const modulators = z.array(z.never({ error: 'modulators come with a later version of the document' })).optional()
const keyed = <T extends z.ZodType>(v: T) =>
  z.strictObject({
    keys: z.array(z.strictObject({ t: z.number({ error: 'must be a time in seconds' }), v, ease: ease.default('smooth') })).min(1, { error: 'needs at least one key' }),
    modulators,
  })
const animated = <T extends z.ZodType>(v: T, can?: boolean) => (can ? z.union([v, keyed(v)]) : v)
const channel = z.number({ error: 'must be a number' }).min(0, { error: 'must be at least 0' })
export const colourSchema = z.tuple([channel, channel, channel], { error: 'must be three numbers: linear red, green, blue' })

export function paramSchema(p: Param): z.ZodType {
  switch (p.type) {
    case 'number': {
      const plain = numberSchema(p)
      let s: z.ZodType = animated(plain, p.animated)
      if (p.varied) s = z.union([s, z.strictObject({ value: animated(plain, p.animated), vary: numberSchema({ min: 0 }) })])
      return (p.empty === undefined ? s : s.nullable()).default(p.empty === undefined ? p.default : null)
    }
    case 'vector': {
      const c = animated(numberSchema({ min: p.min }), p.animated)
      return z.tuple([c, c, c], { error: 'must be three numbers' }).default([...p.default] as never)
    }
    case 'colour':
      return animated(colourSchema, p.animated).default([...p.default] as never)
    case 'switch':
      return animated(z.boolean({ error: 'must be true or false' }), p.animated).default(p.default)
    case 'choice':
      return animated(z.enum(p.options.map((o) => o.value) as [string, ...string[]], { error: `must be ${p.options.map((o) => o.value).join(' or ')}` }), p.animated).default(p.default)
    case 'ref':
      return z.string({ error: 'must be an element id' }).nullable().default(p.default)
    case 'part':
      return z.string({ error: 'must be the name of a part' }).default(p.default)
  }
}
export const shapeOf = (params: Params): Record<string, z.ZodType> => Object.fromEntries(Object.entries(params).map(([k, p]) => [k, paramSchema(p)]))

/** The default of every parameter, as the document stores it. */
export function defaultsOf(params: Params): Record<string, unknown> {
  return Object.fromEntries(
    Object.entries(params).map(([k, p]) => [k, p.type === 'number' && p.empty !== undefined ? null : Array.isArray(p.default) ? [...p.default] : p.default]),
  )
}
