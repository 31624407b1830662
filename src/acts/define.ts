import type {
  BirthBatch,
  BirthParams,
  Bounds,
  ColumnName,
  ContactParams,
  FeedParams,
  FogLook,
  GasDye,
  GasParams,
  GrowthParams,
  LinkPlan,
  Matrix,
  MeetParams,
  Mesh,
  OpWriter,
  PlanGrowth,
  Rebuilt,
  Share,
  ShedPlan,
  Slot,
  StepTime,
  TrailParams,
  TrailPlan,
  TurnEffect,
} from '../engine'
import type { Changes, Params, ValueRef, Vec3 } from '../shot'
import type { Drawing, MappingDrawing, ReliefDrawing, ShapeDrawing, StripDrawing, VolumeDrawing } from './drawing'
import type { FinishPass, FinishView, ToneDrawing } from './finishing'
import type { Reader } from './reader'

/** Parts of an act's sentence: plain words, and values that are shown and edited in place. */
export type SentencePart<N extends string = string> = string | { param: N } | { text: string; param: N }
/** say`Gravity pulls at ${'strength'}` – an interpolated name is a parameter; `word(text, name)` shows other words for it. */
export function say<const N extends string = never>(
  strings: TemplateStringsArray,
  ...values: (N | { text: string; param: N })[]
): SentencePart<N>[] {
  return strings.flatMap((s, i): SentencePart<N>[] => {
    const v = values[i]
    return [...(s ? [s] : []), ...(v === undefined ? [] : [typeof v === 'string' ? { param: v } : v])]
  })
}
export const word = <const N extends string>(text: string, param: N) => ({ text, param })

/** What of the shot an act may read beside its own parameters: of the looks of its system how large particles are, or their colours; the camera. */
export type Reading = 'look' | 'colour' | 'camera'

interface ActDef<P extends Params> {
  kind: string
  title: string
  help: string
  /** What else the trade calls it, for finding it. */
  synonyms?: readonly string[]
  params: P
  /** What its parameters change, where they do not say it themselves. */
  changes?: Changes
  /** Reads the constant or first value of each parameter. */
  sentence(p: Reader<NoInfer<P>>): SentencePart<keyof NoInfer<P> & string>[]
  /** Columns it needs beyond the core. */
  columns?: ColumnName[]
  /** What of the shot it reads beside its own parameters: a change there is one of the simulation too. */
  reads?: readonly Reading[] | ((p: Reader<NoInfer<P>>) => readonly Reading[])
  /** A particle may end by it. */
  endsLives?: boolean
}
export interface SourceDef<P extends Params = Params> extends ActDef<P> {
  /** `travelled`: metres that the source has gone until a time. */
  due(p: Reader<NoInfer<P>>, t0: number, t1: number, travelled: (t: number) => number): BirthBatch[]
  launch(p: Reader<NoInfer<P>>, t: number): Omit<BirthParams, 'source'>
  /** Which of its times go back to the beginning of a warm start: one that begins at the shot's first frame has been at it through that. */
  runsWarm?(p: Reader<NoInfer<P>>): readonly (keyof P & string)[]
  /** Seconds: before this no particle of the act can exist. */
  starts(p: Reader<NoInfer<P>>): number
  /** Seconds: no birth after this, or Infinity. */
  ends(p: Reader<NoInfer<P>>): number
  /** Births per second at t, for the drawing under the ruler; a burst gives its whole count at once. */
  rate(p: Reader<NoInfer<P>>, t0: number, t1: number): number
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
  /** The place of a gas among the plan's, of null the gas itself whose force it is; −1: there is none. */
  gas(id: string | null): number
  /** Planes around what the shot's camera sees, `wider` times the picture: inside where x·px + y·py + z·pz + d ≥ 0. */
  view(t: number, wider: number): number[][]
}
/** What an artist takes hold of in the View, by the names of parameters. Places and directions are in the space of the act's object. */
export type Handle<N extends string = string> =
  /** Three arms that move a place. */
  | { kind: 'place'; param: N }
  /** An arrow from a place, or from where the camera looks. */
  | { kind: 'direction'; param: N; at: N | null }
  /** A ring at a distance from a place; with an axis, the distance is one from it. */
  | { kind: 'reach'; param: N; at: N; axis?: N }
/** Lines in the View that show where an act works, in the space of its object. */
export type Outline =
  | { shape: 'box'; middle: Vec3; half: Vec3 }
  | { shape: 'ball'; middle: Vec3; radius: number }
  | { shape: 'line'; points: Vec3[] }
export interface ForceDef<P extends Params = Params> extends ActDef<P> {
  handles?: readonly Handle<keyof NoInfer<P> & string>[]
  outlines?(p: Reader<NoInfer<P>>, t: number): Outline[]
  /** What is missing for it to act, for the artist; null when nothing is. */
  needs?(p: Reader<NoInfer<P>>): string | null
  /** Gases feel it too. */
  movesGas?: boolean
  /** Drags against air at rest or in motion: it acts behind all that accelerate. */
  resists?(p: Reader<NoInfer<P>>): boolean
  /** Says what other forces go by: it acts before all of them. */
  leads?: boolean
  /** The largest factor by which it widens the contact radius; without a card that gives particles a radius it does nothing. */
  widens?(p: Reader<NoInfer<P>>, t: number): number
  encode(w: OpWriter, p: Reader<NoInfer<P>>, at: StepTime, seed: number, share: Share, site: ForceSite): void
}
/** Where, when or on whom a force acts. */
export interface LimitDef<P extends Params = Params> extends ActDef<P> {
  /** It asks where something is and how fast, not which particle it is: gases are limited by it as well. */
  ofPlaces?: boolean
  /** `box`: of the shape of the act's object; null without one. */
  outlines?(p: Reader<NoInfer<P>>, t: number, box: Bounds | null): Outline[]
  needs?(p: Reader<NoInfer<P>>): string | null
  encode(w: OpWriter, p: Reader<NoInfer<P>>, at: StepTime, seed: number, site: ForceSite): void
}
export interface ContactDef<P extends Params = Params> extends ActDef<P> {
  /** What happens where a particle meets a collider. */
  contact?(p: Reader<NoInfer<P>>, t: number): ContactParams
  /** How particles meet each other. */
  meet?(p: Reader<NoInfer<P>>, t: number): MeetParams
}
export interface LookDef<P extends Params = Params> extends ActDef<P> {
  /** Of acts with the same role in a system, the last one counts; all mappings and reliefs do, in their order. */
  role: 'values' | 'draw' | 'blend' | 'mapping' | 'relief'
  /** What of the drawing it decides, at a time in seconds. */
  drawing(p: Reader<NoInfer<P>>, t: number, seed: number): Partial<Drawing>
  mapping?(p: Reader<NoInfer<P>>, seed: number, t: number): MappingDrawing | MappingDrawing[]
  /** Of a body of an object, a value of its shape that each particle has of its own. */
  shape?(p: Reader<NoInfer<P>>, seed: number, t: number): ShapeDrawing
  /** Where particles are drawn instead of where they are. */
  relief?(p: Reader<NoInfer<P>>, seed: number, t: number): ReliefDrawing
}
/** Particles from particles, as an act says it. */
export interface Shedding extends Pick<ShedPlan, 'each' | 'rate' | 'count' | 'touch' | 'ages' | 'generations' | 'launch'> {
  to: { system: string | null } | { phase: string | null }
  /** Share of the colour of the one that sheds, 0 to 1. */
  colour: number
}
/** Growth as an act says it: lengths in metres of the shot. */
export interface Growing {
  params: Omit<GrowthParams, 'near'>
  /** They begin about the place of an object (null: the shot's middle). */
  near: { object: string | null; radius: number } | null
  lift: number
  /** Where particles of a system come so near (m). */
  from: { system: string | null; within: number; ahead: boolean } | null
  /** A region of the object, where its edge is, and how far lines reach by it, 0 to 1. */
  region: { id: string; edge: number; reach: number } | null
  progress: PlanGrowth['progress']
}
/** What particles leave behind. */
export interface OffspringDef<P extends Params = Params> extends ActDef<P> {
  /** How far back a trail reaches and how it is recorded. */
  trail?(p: Reader<NoInfer<P>>, t: number): TrailParams
  /** Share of the particles that leave any, 0 to 1, and ± of a trail's reach, as a share of it. */
  share(p: Reader<NoInfer<P>>): number
  reachVary?(p: Reader<NoInfer<P>>): number
  /** Whether points of a trail keep how their particle lay. */
  turned?(p: Reader<NoInfer<P>>): boolean
  /** How the points of a trail go on by themselves; null: they stay. */
  drift?(p: Reader<NoInfer<P>>, seed: number): TrailPlan['drift'] | null
  /** What is shed, and where to: the ids of a system or of a phase of the same; null: nowhere yet. */
  shed?(p: Reader<NoInfer<P>>): Shedding
  /** Lines between near ones: with which system (null: the same), and how. */
  links?(p: Reader<NoInfer<P>>): { with: string | null; params: LinkPlan['params'] }
  /** Lines that grow over an object: how, from where, how far by when. */
  growth?(p: Reader<NoInfer<P>>): Growing
  /** How strips of it are drawn, at a time in seconds. */
  strips?(p: Reader<NoInfer<P>>, t: number): StripDrawing
}
/** What happens to the picture after drawing. */
export interface FinishDef<P extends Params = Params> extends ActDef<P> {
  /** Its steps, in order; none where it does nothing at that moment. */
  passes?(p: Reader<NoInfer<P>>, view: FinishView, seed: number): FinishPass[]
  /** Frames before the present one whose pictures, as they come to it, it reads as `earlier N`: how many frames ago. */
  earlier?(p: Reader<NoInfer<P>>, view: Pick<FinishView, 't' | 'step'>): readonly number[]
  /** How light becomes what a screen shows: the last one of a picture counts. */
  tone?(p: Reader<NoInfer<P>>, t: number): ToneDrawing
  /** It works on what is brighter than this. */
  shines?(p: Reader<NoInfer<P>>, t: number): number
  /** The element at whose depth it lies: what is nearer is drawn over it; null for the whole picture. */
  lies?(p: Reader<NoInfer<P>>): string | null
}
/** What a modulator may ask of the shot. */
export interface ModulatorSite {
  /** Another value as a function of seconds; throws, with words for the artist, when there is none. */
  value(ref: ValueRef): (t: number) => number
  /** Frames from the first. */
  frame(t: number): number
  /** Seconds after which the shot begins again, of one that loops. */
  readonly loop: number | null
}
export interface ModulatorDef<P extends Params = Params> extends ActDef<P> {
  /** The parameter that lets it run ahead, seconds: by it a companion moves alike but not the same. */
  ahead?: string
  /** As it is added it takes the place of the value before it. */
  replaces?: boolean
  /** Its controls are open from the start: there is something to fill in. */
  opens?(p: Reader<NoInfer<P>>): boolean
  /** Swings about zero: multiplied, it is a share of the value to each side, value × (1 + it). */
  swings?: boolean
  /** The other values that it reads; without it none. */
  refs?(p: Reader<NoInfer<P>>): ValueRef[]
  /** The function of seconds and of the value before it. Throws, with words for the artist, when it cannot be made. */
  make(p: Reader<NoInfer<P>>, at: ModulatorSite, seed: number): (t: number, keyed: number) => number
}
/** A step that changes an object's geometry; it has one of both. */
export interface ReshapeDef<P extends Params = Params> extends ActDef<P> {
  /** Other triangles, once, from the shape at the shot's first frame. */
  rebuild?(p: Reader<NoInfer<P>>, mesh: Mesh): Rebuilt
  /**
   * Moves all points, xyz each, in place. `box` holds them as they come to this step; `normals` gives directions away from the surface
   * there.
   */
  move?(p: Reader<NoInfer<P>>, t: number, points: Float32Array, box: Bounds, seed: number, normals: () => Float32Array): void
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
export interface RegionDef<P extends Params = Params> extends ActDef<P> {
  /** The amount, 0 to 1, of one vertex; made once for each site. */
  amount(p: Reader<NoInfer<P>>, site: RegionSite, seed: number): (vertex: number) => number
  /** Whether the amounts depend on where the object or another one stands, beside its shape and the act's own values. */
  looksAround?(p: Reader<NoInfer<P>>): boolean
}
/** What an ending may ask of the shot. */
export interface EndingSite {
  object(id: string | null, t: number): { matrix: Matrix; box: Bounds } | null
  /** Planes around what the shot's camera sees, `wider` times the picture: x, y, z, d, inside where x·px + y·py + z·pz + d ≥ 0. */
  view(t: number, wider: number): number[][]
}
export interface EndingDef<P extends Params = Params> extends ActDef<P> {
  /** Outside any of these lives end; null: there is nothing to leave. */
  planes?(p: Reader<NoInfer<P>>, t: number, site: EndingSite): number[][] | null
  /** Metres: drawn smaller than this, lives end. */
  below?(p: Reader<NoInfer<P>>, t: number): number
}
/** An arrangement of copies of an element. */
export interface CopiesDef<P extends Params = Params> extends ActDef<P> {
  /**
   * Where each copy stands, from the element's own space; as many at every time. `within`: the part of its ± that a copy at a place has.
   */
  matrices(p: Reader<NoInfer<P>>, t: number, seed: number, within: (place: readonly number[]) => number): Matrix[]
}
/** Something that is true of a particle, or not: what turns wait for. A group holds conditions of its own and says nothing itself. */
export interface ConditionDef<P extends Params = Params> extends ActDef<P> {
  groups?: boolean
  /** Leaves the moment of each particle in the row of the slot. `phaseOf`: the place of a phase of the system, or −1. */
  encode?(w: OpWriter, p: Reader<NoInfer<P>>, at: StepTime, slot: Slot, seed: number, phaseOf: (id: string) => number): void
}
/** A way out of a phase, by conditions that it holds. */
export interface TurnDef<P extends Params = Params> extends ActDef<P> {
  /** Where it leads, the id of a phase (null: the life ends), and what else happens at that moment. */
  effect(p: Reader<NoInfer<P>>, t: number): TurnEffect & { to: string | null }
  /** A copy of the particle goes, or it leaves for another system: `to` is that system's id then. */
  passes?: 'copy' | 'system'
}
/** What comes into a gas, or is taken from it. */
export interface FeedDef<P extends Params = Params> extends ActDef<P> {
  /** An object, its inside or its skin, or a system whose particles are meant. */
  from(p: Reader<NoInfer<P>>): { object: string | null; skin: boolean; region?: string } | { system: string | null }
  /** Seconds in which it is at work; the end may be Infinity. */
  window(p: Reader<NoInfer<P>>): readonly [number, number]
  feed(p: Reader<NoInfer<P>>, t: number): FeedParams
  /** The dyes that it brings; without: none. */
  dyes?(p: Reader<NoInfer<P>>): readonly GasDye[]
  /** What files hold, which the gas is, or which comes into it. */
  stored?(p: Reader<NoInfer<P>>, t: number): StoredFeed
  /** With one such a gas does not flow: it is a fog over the whole shot, seen into the depth as far as it reaches. */
  fog?(p: Reader<NoInfer<P>>, t: number, seed: number): FogLook & { reach: number }
}
/** What of the grids of files a gas is, or what they bring into it. */
export interface StoredFeed {
  /** How it comes into a gas that flows; null: the gas does not, and is it. */
  comes: 'add' | 'set' | 'most' | null
  /** Names of grids; empty: by what they are called. */
  grids: { density: string; heat: string; flame: string }
  velocity: string
  /** Share of it that a gas takes into which it comes. */
  pushes: number
  /** Factors on them, and K that are taken off the heat. */
  density: number
  heat: number
  less: number
  flame: number
  /** Shares of the density that are dyes too; `apart`: of each copy by chance. */
  dyes: Record<GasDye, number>
  apart: boolean
  /** One file, and the first and last that play, counted from 1; null: as the object says, all of them. */
  hold: number | null
  part: readonly [number | null, number | null]
}
/** How a gas flows and burns. */
export interface FlowDef<P extends Params = Params> extends ActDef<P> {
  /** It has fuel by it. */
  burns?: boolean
  flow(p: Reader<NoInfer<P>>, t: number): Partial<GasParams>
}
/** How a gas is seen, at a time in seconds. */
export interface GasLookDef<P extends Params = Params> extends ActDef<P> {
  volume(p: Reader<NoInfer<P>>, t: number): Partial<VolumeDrawing>
}
/** What a definition becomes in the registry: with its sort, and with its parameters known to whoever imports it by name. */
interface Made<S extends string> {
  sort: S
  changes: Changes
}
export type SourceAct = SourceDef & Made<'source'>
export type ForceAct = ForceDef & Made<'force'>
export type LimitAct = LimitDef & Made<'limit'>
export type ContactAct = ContactDef & Made<'contact'>
export type LookAct = LookDef & Made<'look'>
export type OffspringAct = OffspringDef & Made<'offspring'>
export type FinishAct = FinishDef & Made<'finish'>
export type ModulatorAct = ModulatorDef & Made<'modulator'>
export type ReshapeAct = ReshapeDef & Made<'reshape'>
export type RegionAct = RegionDef & Made<'region'>
export type EndingAct = EndingDef & Made<'ending'>
export type ConditionAct = ConditionDef & Made<'condition'>
export type TurnAct = TurnDef & Made<'turn'>
export type CopiesAct = CopiesDef & Made<'copies'>
export type FeedAct = FeedDef & Made<'feed'>
export type FlowAct = FlowDef & Made<'flow'>
export type GasLookAct = GasLookDef & Made<'gasLook'>
export type Act =
  | SourceAct
  | ForceAct
  | LimitAct
  | ContactAct
  | LookAct
  | OffspringAct
  | FinishAct
  | ModulatorAct
  | ReshapeAct
  | RegionAct
  | EndingAct
  | CopiesAct
  | ConditionAct
  | TurnAct
  | FeedAct
  | FlowAct
  | GasLookAct
export type Sort = Act['sort']

/** The registry holds acts whose parameters it does not know: the one place where they are forgotten. */
const make = <A extends Act, P extends Params>(sort: A['sort'], changes: Changes, def: ActDef<P>): A & { params: P } =>
  ({ sort, changes, ...def }) as unknown as A & { params: P }
export const defineSource = <const P extends Params>(a: SourceDef<P>) => make<SourceAct, P>('source', 'simulation', a)
export const defineForce = <const P extends Params>(a: ForceDef<P>) => make<ForceAct, P>('force', 'simulation', a)
export const defineLimit = <const P extends Params>(a: LimitDef<P>) => make<LimitAct, P>('limit', 'simulation', a)
export const defineContact = <const P extends Params>(a: ContactDef<P>) => make<ContactAct, P>('contact', 'simulation', a)
export const defineLook = <const P extends Params>(a: LookDef<P>) => make<LookAct, P>('look', 'look', a)
export const defineOffspring = <const P extends Params>(a: OffspringDef<P>) => make<OffspringAct, P>('offspring', 'simulation', a)
export const defineFinish = <const P extends Params>(a: FinishDef<P>) => make<FinishAct, P>('finish', 'picture', a)
export const defineModulator = <const P extends Params>(a: ModulatorDef<P>) => make<ModulatorAct, P>('modulator', 'simulation', a)
export const defineReshape = <const P extends Params>(a: ReshapeDef<P>) => make<ReshapeAct, P>('reshape', 'simulation', a)
export const defineRegion = <const P extends Params>(a: RegionDef<P>) => make<RegionAct, P>('region', 'simulation', a)
export const defineCopies = <const P extends Params>(a: CopiesDef<P>) => make<CopiesAct, P>('copies', 'simulation', a)
export const defineCondition = <const P extends Params>(a: ConditionDef<P>) => make<ConditionAct, P>('condition', 'simulation', a)
export const defineTurn = <const P extends Params>(a: TurnDef<P>) => make<TurnAct, P>('turn', 'simulation', a)
export const defineFeed = <const P extends Params>(a: FeedDef<P>) => make<FeedAct, P>('feed', 'simulation', a)
export const defineFlow = <const P extends Params>(a: FlowDef<P>) => make<FlowAct, P>('flow', 'simulation', a)
export const defineGasLook = <const P extends Params>(a: GasLookDef<P>) => make<GasLookAct, P>('gasLook', 'look', a)
export const defineEnding = <const P extends Params>(a: EndingDef<P>) =>
  make<EndingAct, P>('ending', 'simulation', { endsLives: true, ...a })
