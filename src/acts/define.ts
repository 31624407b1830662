import type {
  BirthBatch,
  BirthParams,
  Bounds,
  ColumnName,
  ContactParams,
  Matrix,
  MeetParams,
  Mesh,
  OpWriter,
  Rebuilt,
  Share,
  StepTime,
} from '../engine'
import type { Changes, Params, ValueRef } from '../shot'
import type { Reader } from './reader'

/** Parts of an act's sentence: plain words, and values that are shown and edited in place. */
export type SentencePart = string | { param: string } | { text: string; param: string }
/** say`Gravity pulls at ${'strength'}` – an interpolated name is a parameter; `word(text, name)` shows other words for it. */
export function say(strings: TemplateStringsArray, ...values: (string | { text: string; param: string })[]): SentencePart[] {
  return strings.flatMap((s, i): SentencePart[] => {
    const v = values[i]
    return [...(s ? [s] : []), ...(v === undefined ? [] : [typeof v === 'string' ? { param: v } : v])]
  })
}
export const word = (text: string, param: string) => ({ text, param })

interface ActBase {
  kind: string
  title: string
  help: string
  params: Params
  /** What its parameters change, where they do not say it themselves. */
  changes: Changes
  /** Reads the constant or first value of each parameter. */
  sentence(p: Reader): SentencePart[]
  /** Columns it needs beyond the core. */
  columns?: ColumnName[]
  /** What of the shot it reads beside its own parameters: a change there is one of the simulation too. */
  reads?: readonly ('look' | 'camera')[]
  /** A particle may end by it. */
  endsLives?: boolean
}
export interface SourceAct extends ActBase {
  sort: 'source'
  /** `travelled`: metres that the source has gone until a time. */
  due(p: Reader, t0: number, t1: number, travelled: (t: number) => number): BirthBatch[]
  launch(p: Reader, t: number): Omit<BirthParams, 'source'>
  /** One whose window begins at the shot's first frame, or before, has been at it through a warm start. */
  runsWarm?: boolean
  /** Seconds: before this no particle of the act can exist. */
  starts(p: Reader): number
  /** Seconds: no birth after this, or Infinity. */
  ends(p: Reader): number
  /** Births per second at t, for the drawing under the ruler; a burst gives its whole count at once. */
  rate(p: Reader, t0: number, t1: number): number
}
/** What a force or a limit may ask of the shot, in the space in which the system simulates. */
export interface ForceSite {
  /** From an object's own space, or the shot's for null or one that is gone, to the simulation's. */
  from(object: string | null, t: number): Matrix
  /** The box of an object's shape in its own space; null without one. */
  box(object: string | null): Bounds | null
  /** The points of a path or line, xyz each, in the simulation's space; null for anything else. */
  line(object: string | null, t: number): Float32Array | null
  /** The place of an object among the plan's, or −1. */
  index(object: string | null): number
  /** The place of a system among the plan's, −1 for its own; null for one that is gone. */
  system(id: string | null): number | null
}
/** What the View draws and takes hold of, by the names of parameters. */
export interface ForceHandles {
  place?: string
  /** A direction from its place. */
  arrow?: string
  /** A distance from its place. */
  reach?: string
  /** The distance is one from the axis. */
  around?: boolean
  /** A box about its place, by its whole size. */
  box?: string
}
export interface ForceAct extends ActBase {
  sort: 'force'
  handles?: ForceHandles
  /** What is missing for it to act, for the artist; null when nothing is. */
  needs?(p: Reader): string | null
  encode(w: OpWriter, p: Reader, at: StepTime, seed: number, share: Share, site: ForceSite): void
}
/** Where, when or on whom a force acts. */
export interface LimitAct extends ActBase {
  sort: 'limit'
  needs?(p: Reader): string | null
  encode(w: OpWriter, p: Reader, at: StepTime, seed: number, site: ForceSite): void
}
export interface ContactAct extends ActBase {
  sort: 'contact'
  /** What happens where a particle meets a collider. */
  contact?(p: Reader, t: number): ContactParams
  /** How particles meet each other. */
  meet?(p: Reader, t: number): MeetParams
}
export interface LookAct extends ActBase {
  sort: 'look'
  /** Of acts with the same role in a system, the last one counts. */
  role: 'values' | 'draw' | 'blend'
}
export interface FinishAct extends ActBase {
  sort: 'finish'
}
/** What a modulator may ask of the shot. */
export interface ModulatorSite {
  /** Another value as a function of seconds; throws, with words for the artist, when there is none. */
  value(ref: ValueRef): (t: number) => number
  /** Frames from the first. */
  frame(t: number): number
}
export interface ModulatorAct extends ActBase {
  sort: 'modulator'
  /** The parameter that lets it run ahead, seconds: by it a companion moves alike but not the same. */
  ahead?: string
  /** Swings about zero: multiplied, it is a share of the value to each side, value × (1 + it). */
  swings?: boolean
  /** The other values that it reads. */
  refs(p: Reader): ValueRef[]
  /** The function of seconds and of the value before it. Throws, with words for the artist, when it cannot be made. */
  make(p: Reader, at: ModulatorSite, seed: number): (t: number, keyed: number) => number
}
/** A step that changes an object's geometry; it has one of both. */
export interface ReshapeAct extends ActBase {
  sort: 'reshape'
  /** Other triangles, once, from the shape at the shot's first frame. */
  rebuild?(p: Reader, mesh: Mesh): Rebuilt
  /**
   * Moves all points, xyz each, in place. `box` holds them as they come to this step; `normals` gives directions away from the surface
   * there.
   */
  move?(p: Reader, t: number, points: Float32Array, box: Bounds, seed: number, normals: () => Float32Array): void
}
/** Where the amounts of a region are asked for: vertices as they stand at a time. */
export interface RegionSite {
  t: number
  /** xyz per vertex, in the object's own space, after all reshape steps */
  places: Float32Array
  /** The same before any step that moves points: what is painted stays where it was painted. */
  rest: Float32Array
  box: Bounds
  normals(): Float32Array
  /** Linear red, green, blue per vertex, if the mesh has them. */
  colours: Float32Array | null
  /** Light of the mesh's own texture at a vertex, 0 to 1, if it has one. */
  brightness: ((vertex: number) => number) | null
  /** Own space to the shot. */
  world: Matrix
  /** From the shot to another object's own space, and the box of its shape; null when it is gone or flat. */
  other(id: string | null): { into: Matrix; box: Bounds | null } | null
}
export interface RegionAct extends ActBase {
  sort: 'region'
  /** The amount, 0 to 1, of one vertex; made once for each site. */
  amount(p: Reader, site: RegionSite, seed: number): (vertex: number) => number
  /** Whether the amounts hang on where the object or another one stands, beside its shape and the act's own values. */
  looksAround?(p: Reader): boolean
}
/** What an ending may ask of the shot. */
export interface EndingSite {
  object(id: string | null, t: number): { matrix: Matrix; box: Bounds } | null
  /** Planes around what the shot's camera sees, `wider` times the picture: x, y, z, d, inside where x·px + y·py + z·pz + d ≥ 0. */
  view(t: number, wider: number): number[][]
}
export interface EndingAct extends ActBase {
  sort: 'ending'
  /** Outside any of these lives end; null: there is nothing to leave. */
  planes?(p: Reader, t: number, site: EndingSite): number[][] | null
  /** Metres: drawn smaller than this, lives end. */
  below?(p: Reader, t: number): number
}
/** An arrangement of copies of an element. */
export interface CopiesAct extends ActBase {
  sort: 'copies'
  /**
   * Where each copy stands, from the element's own space; as many at every time. `within`: the part of its ± that a copy at a place has.
   */
  matrices(p: Reader, t: number, seed: number, within: (place: readonly number[]) => number): Matrix[]
}
export type Act =
  | LimitAct
  | CopiesAct
  | EndingAct
  | ReshapeAct
  | RegionAct
  | ModulatorAct
  | SourceAct
  | ForceAct
  | ContactAct
  | LookAct
  | FinishAct
export type Sort = Act['sort']

type Def<T extends Act> = Omit<T, 'sort' | 'changes'> & { changes?: Changes }
export const defineModulator = (
  a: Omit<ModulatorAct, 'sort' | 'changes' | 'refs'> & Partial<Pick<ModulatorAct, 'refs'>>,
): ModulatorAct => ({ sort: 'modulator', changes: 'simulation', refs: () => [], ...a })
export const defineSource = (a: Def<SourceAct>): SourceAct => ({ sort: 'source', changes: 'simulation', ...a })
export const defineForce = (a: Def<ForceAct>): ForceAct => ({ sort: 'force', changes: 'simulation', ...a })
export const defineLimit = (a: Def<LimitAct>): LimitAct => ({ sort: 'limit', changes: 'simulation', ...a })
export const defineContact = (a: Def<ContactAct>): ContactAct => ({ sort: 'contact', changes: 'simulation', ...a })
export const defineLook = (a: Def<LookAct>): LookAct => ({ sort: 'look', changes: 'look', ...a })
export const defineFinish = (a: Def<FinishAct>): FinishAct => ({ sort: 'finish', changes: 'picture', ...a })
export const defineReshape = (a: Def<ReshapeAct>): ReshapeAct => ({ sort: 'reshape', changes: 'simulation', ...a })
export const defineRegion = (a: Def<RegionAct>): RegionAct => ({ sort: 'region', changes: 'simulation', ...a })
export const defineEnding = (a: Def<EndingAct>): EndingAct => ({ sort: 'ending', changes: 'simulation', endsLives: true, ...a })
export const defineCopies = (a: Def<CopiesAct>): CopiesAct => ({ sort: 'copies', changes: 'simulation', ...a })
