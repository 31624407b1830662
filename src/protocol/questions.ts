import type { SystemStats, VolumeCount, VolumeGrid } from '../engine'
import type { Vec3 } from '../shot'

/** Where a picture is taken from: axes (unit), lens in millimetres on a sensor 36 mm wide. */
export interface Eye {
  place: Vec3
  right: Vec3
  up: Vec3
  forward: Vec3
  lens: number
}
/** What the page may ask of the simulation about frames that are there. */
export type Question =
  | { what: 'series' }
  | { what: 'spread'; system: string; frame: number }
  | { what: 'times'; frame: number }
  /** What a gas holds in a frame; `tops`: where the steps of its counts end. */
  | { what: 'gas'; gas: string; frame: number; tops: Record<VolumeGrid, number> }
  /** The particle nearest to a place of the picture (−1…1, y up) within some of its half widths. */
  | { what: 'pick'; frame: number; eye: Eye; aspect: number; x: number; y: number; within: number; systems: string[] }
  | { what: 'particle'; system: string; id: number; frame: number }
  /** Who came from a particle until a frame and lives no more there. Its frames are computed once more for it. */
  | { what: 'died'; system: string; id: number; frame: number }
  /** Who of a system would take a turn in the frame that comes next, were it the only turn. */
  | { what: 'fits'; system: string; turn: string; frame: number }
  /**
   * What resting particles of a system would feel at places: of all its forces, or of one act alone. `trails`: how they would go on from
   * there, in so many steps of at most so many metres.
   */
  /** The velocity of a gas at places; or, with a grid, what it has of that there. */
  | { what: 'air'; gas: string; frame: number; places: Float32Array; grid?: VolumeGrid; trails?: { steps: number; metres: number } }
  | { what: 'field'; system: string; frame: number; places: Float32Array; act?: string; trails?: { steps: number; metres: number } }

export interface Series {
  frames: { frame: number; ready: boolean; ms: number; stats: Record<string, SystemStats> }[]
  historyBytes: number
  worldBytes: number
  substeps: number
}
/** How a value is spread over the living: counts in even steps from `from` to `to`. */
export interface Histogram {
  from: number
  to: number
  counts: number[]
}
export interface Spread {
  frame: number
  alive: number
  /** m/s, s, m */
  speed: Histogram
  age: Histogram
  size: Histogram
}
export interface Times {
  frame: number
  /** Milliseconds of a frame, by system and act; the empty act is moving with all contacts. */
  systems: { system: string; acts: { id: string; ms: number }[] }[]
}
/** By system: how many, and the ids of the first. */
export type Children = { system: string; count: number; ids: number[] }[]
export interface Particle {
  system: string
  id: number
  frame: number
  /** Null when it does not live at the frame. */
  now: { place: Vec3; velocity: Vec3; age: number; life: number; size: number; hits: number; mass: number } | null
  /** In the shot, over all frames that are there. */
  path: { frame: number; place: Vec3; speed: number }[]
  /** What each act of force adds to its velocity now, m/s²; null: it comes from a bake, which keeps neither that nor its contacts and descent. */
  forces: { act: string; a: Vec3 }[] | null
  /** Its last contact: with which object, at which age, how fast (m/s), where. */
  touched: { object: string; age: number; speed: number; place: Vec3 } | null
  /** The phases that it was in, over all frames that are there, each with the first frame in which it was seen in it. */
  phases: { from: number; phase: number }[]
  /** Whom it was shed by or copied from, or who it was in another system; null: it was emitted. */
  parent: Picked | null
  /** Those that it shed, or that were copied from it, and that live at the frame. */
  children: Children
  /** Where it is gone at the frame: its last one, and its children that lived then. */
  lived: { frame: number; children: Children } | null
  /** What it leaves behind in the frame, each strip from its end to its head, in the shot. */
  strips: Vec3[][]
  /** Of the shot, or null while it lives on past the last frame there is. */
  ends: { frame: number; why: string } | null
}
export interface Died {
  /** From the first frame that has the particle to the last that was looked through. */
  from: number
  to: number
  children: Children
}
export interface Picked {
  system: string
  id: number
}
export interface Fits {
  frame: number
  /** Of how many that live in the frame, how many would take it. */
  alive: number
  count: number
  /** In the shot, xyz, of the first of them. */
  places: Float32Array
}
export interface Field {
  /** m/s² at each place asked, xyz */
  a: Float32Array
  /** With trails: the places of each, xyz, steps + 1 of them, one trail behind the other. */
  lines: Float32Array | null
}
export interface Air {
  /** m/s at each place, xyz; null when a grid was asked for. */
  velocity: Float32Array | null
  lines: Float32Array | null
  /** Of the grid, at each place. */
  values: Float32Array | null
}
export interface GasFacts {
  frame: number
  /** Voxels that the frame keeps, and bytes of them. */
  voxels: number
  bytes: number
  /** Milliseconds that the whole frame took to compute. */
  ms: number
  grids: Record<VolumeGrid, VolumeCount>
}
interface Answers {
  gas: GasFacts
  air: Air
  series: Series
  spread: Spread
  times: Times
  /** Null: none is near enough. */
  pick: Picked | null
  particle: Particle
  died: Died
  fits: Fits
  field: Field
}
export type Answer = Answers[keyof Answers]
export type AnswerTo<Q extends Question> = Answers[Q['what']]
