import {
  type ActDoc,
  type Animated,
  type AnimatedVec3,
  integral,
  isVaried,
  sampleColour,
  sampleNumber,
  sampleStep,
  sampleVec3,
  type Varied,
  type Vec3,
  valueOf,
  varyOf,
} from '../shot'

/** Reads an act's stored parameters at a time, in seconds. The document has been checked, so a missing name is our own mistake. */
export class Reader {
  constructor(private doc: Record<string, unknown>) {}
  raw(name: string): unknown {
    if (!(name in this.doc)) throw new Error(`no parameter ${name}`)
    return this.doc[name]
  }
  number(name: string, t = 0): number {
    return sampleNumber(valueOf(this.raw(name) as Varied), t)
  }
  /** Null where the parameter may be empty and is. */
  optional(name: string, t = 0): number | null {
    return this.raw(name) === null ? null : this.number(name, t)
  }
  vary(name: string): number {
    const v = this.raw(name)
    return isVaried(v) ? varyOf(v) : 0
  }
  integral(name: string, t: number): number {
    return integral(valueOf(this.raw(name) as Varied), t)
  }
  vector(name: string, t = 0): Vec3 {
    return sampleVec3(this.raw(name) as AnimatedVec3, t)
  }
  colour(name: string, t = 0): Vec3 {
    return sampleColour(this.raw(name) as Animated<Vec3>, t)
  }
  choice(name: string, t = 0): string {
    return sampleStep(this.raw(name) as Animated<string>, t)
  }
  on(name: string, t = 0): boolean {
    return sampleStep(this.raw(name) as Animated<boolean>, t)
  }
  text(name: string): string | null {
    return this.raw(name) as string | null
  }
}
export const readerOf = (doc: ActDoc): Reader => new Reader(doc)
