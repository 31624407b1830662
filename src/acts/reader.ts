import {
  type ActDoc,
  type Animated,
  type AnimatedVec3,
  type ChoiceParam,
  type ColourParam,
  type Curve,
  type CurveParam,
  integral,
  isVaried,
  type NumberParam,
  type Param,
  type Params,
  type SwitchParam,
  sampleColour,
  sampleNumber,
  sampleStep,
  sampleVec3,
  type Varied,
  type Vec3,
  type VectorParam,
  valueOf,
  varyOf,
} from '../shot'

/** The names of the parameters of a type; any name where the declarations are not known. */
type NamesOf<P extends Params, T extends Param> = {
  [K in keyof P & string]: P[K] extends T ? K : T extends P[K] ? K : never
}[keyof P & string]
type Numbers<P extends Params> = NamesOf<P, NumberParam>
type Texts<P extends Params> = NamesOf<P, Extract<Param, { type: 'ref' | 'part' | 'region' | 'phase' | 'font' | 'text' }>>
type Choices<P extends Params> = NamesOf<P, ChoiceParam>
type ValuesOf<P extends Params, K extends keyof P> = P[K] extends { options: readonly { value: infer V extends string }[] } ? V : string

/** How far something that renews itself has come. */
export interface Phase {
  at: number
  /** In a loop, after how many renewals the first comes again, and after how many seconds; else 0. */
  period: number
  seconds: number
}
/** Of acts of shots that loop, seconds until they begin again. */
const loops = new WeakMap<object, number>()
/** Says of an act whether its shot loops; before it is read. */
export const tieLoop = (doc: object, seconds: number | null): void => void (seconds ? loops.set(doc, seconds) : loops.delete(doc))
/** What helpers over a shared group of parameters ask of a reader: those of every act that has them fit. */
export interface Reads<P extends Params> {
  number(name: Numbers<P>, t?: number): number
  optional(name: Numbers<P>, t?: number): number | null
  vary(name: Numbers<P>): number
  integral(name: Numbers<P>, t: number): number
  looped(name: Numbers<P>, t: number): Phase
  vector(name: NamesOf<P, VectorParam>, t?: number): Vec3
  choice(name: Choices<P>, t?: number): string
  text(name: Texts<P>): string | null
  curve(name: NamesOf<P, CurveParam>): Curve
}
/**
 * Reads an act's stored parameters at a time, in seconds. Its names are those of the declaration, so a misspelt one does not compile. The
 * document has been checked, so a missing one is our own mistake.
 */
export class Reader<P extends Params = Params> {
  constructor(private doc: Record<string, unknown>) {}
  raw(name: keyof P & string): unknown {
    if (!(name in this.doc)) throw new Error(`no parameter ${name}`)
    return this.doc[name]
  }
  number(name: Numbers<P>, t = 0): number {
    return sampleNumber(valueOf(this.raw(name) as Varied), t)
  }
  /** Null where the parameter may be empty and is. */
  optional(name: Numbers<P>, t = 0): number | null {
    return this.raw(name) === null ? null : this.number(name, t)
  }
  vary(name: Numbers<P>): number {
    const v = this.raw(name)
    return isVaried(v) ? varyOf(v) : 0
  }
  integral(name: Numbers<P>, t: number): number {
    return integral(valueOf(this.raw(name) as Varied), t)
  }
  /** How far a rate has gone by t, in whole periods where the shot loops. */
  looped(name: Numbers<P>, t: number): Phase {
    const at = this.integral(name, t)
    const seconds = loops.get(this.doc) ?? 0
    const until = seconds ? this.integral(name, seconds) : 0
    if (!until) return { at, period: 0, seconds }
    const period = Math.max(2, Math.round(Math.abs(until)))
    return { at: (at / until) * period, period, seconds }
  }
  vector(name: NamesOf<P, VectorParam>, t = 0): Vec3 {
    return sampleVec3(this.raw(name) as AnimatedVec3, t)
  }
  colour(name: NamesOf<P, ColourParam>, t = 0): Vec3 {
    return sampleColour(this.raw(name) as Animated<Vec3>, t)
  }
  choice<K extends Choices<P>>(name: K, t = 0): ValuesOf<P, K> {
    return sampleStep(this.raw(name) as Animated<string>, t) as ValuesOf<P, K>
  }
  on(name: NamesOf<P, SwitchParam>, t = 0): boolean {
    return sampleStep(this.raw(name) as Animated<boolean>, t)
  }
  /** An id or a name; null or empty where there is none. */
  text(name: Texts<P>): string | null {
    return this.raw(name) as string | null
  }
  curve(name: NamesOf<P, CurveParam>): Curve {
    return this.raw(name) as Curve
  }
  /** What is stored as it is: a list, a reference to a value. */
  stored<T>(name: NamesOf<P, Extract<Param, { type: 'refs' | 'points' | 'dabs' | 'value' | 'names' }>>): T {
    return this.raw(name) as T
  }
}
/** Of an act whose declaration is not known here. */
export const readerOf = (doc: ActDoc): Reader => new Reader(doc)
/** Of one that is. */
export const readAs = <P extends Params>(act: { params: P }, doc: ActDoc | Record<string, unknown>): Reader<P> => {
  void act
  return new Reader<P>(doc as Record<string, unknown>)
}
