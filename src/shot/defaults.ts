import type { Vec3 } from './animated'
import { type ColourParam, defaultOf, type NumberParam, type Param, type Params, type VectorParam } from './params'

/** What the document stores where nothing is set: that of its type, for any value of it may take its place. */
type Default<P extends Param> = P extends NumberParam
  ? P extends { empty: string }
    ? number | null
    : number
  : P extends VectorParam | ColourParam
    ? Vec3
    : P['default']
/** The default of every parameter, as the document stores it. */
export function defaultsOf<P extends Params>(params: P): { [K in keyof P]: Default<P[K]> } {
  return Object.fromEntries(Object.entries(params).map(([k, p]) => [k, defaultOf(p)])) as { [K in keyof P]: Default<P[K]> }
}
