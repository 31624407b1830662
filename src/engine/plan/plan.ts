import type { Mesh } from '../geometry'
import type { Matrix } from '../math'
import type { CONTACT_MODES, ColumnName } from '../memory'
import type { OpWriter, TurnEffect } from '../ops'
import type { ForcePlan, StepTime } from './forcePlan'
import type { PlanGas } from './gasPlan'

/** A shot made ready to run: ids resolved, values as functions of time (seconds from the first frame). */
export interface Plan {
  rate: { num: number; den: number }
  first: number
  last: number
  /** The frame before `first` at which the run begins, with nothing alive; without a warm start the first itself. */
  start?: number
  /** The first frame that is kept to be looked at; without it `first`. */
  kept?: number
  /** Frames after which everything begins again, counted from the first: times are then those since the last beginning. */
  loop?: number
  substeps: number
  objects: PlanObject[]
  systems: PlanSystem[]
  /** What objects leave behind, and what grows on them. */
  streaks?: PlanStreak[]
  growths?: PlanGrowth[]
  gases?: PlanGas[]
  /** Objects that the simulation moves, and where the run has them: its objects' matrices read it. */
  bodies?: PlanBody[]
  poses?: Poses
}
/** Where thrown objects are: the World that runs says it. */
export class Poses {
  source: ((id: string, t: number) => Matrix | null) | null = null
  at(id: string, t: number): Matrix | null {
    return this.source?.(id, t) ?? null
  }
}
/** Lines that grow over an object. */
export interface PlanGrowth {
  /** Its place among the objects. */
  object: number
  /** Of the act. */
  id: string
  /** As the artist knows it, with whose it is. */
  name: string
  seed: number
  params: GrowthParams
  /** Of each vertex how much of a region it has, 0 to 1: lines begin by it, end where there is less than `edge`, and reach so far by it as `reach` says. */
  region?: { amounts: () => Float32Array; edge: number; reach?: number }
  /** They begin where particles of a system (its place in the plan) come so near, m in the shot, each once; `ahead`: as these flew. Without: at once. */
  from?: { system: number; within: number; ahead: boolean }
  /** How far off the surface they lie, m in the shot. */
  lift: number
  /** Metres of the shot in one of the object's own, at the first frame; without: one. */
  scale?: number
  /** How far they have grown at t: for so many seconds, or a share of all. */
  progress(t: number): { seconds: number; share: number | null }
}
/** How lines grow; lengths in metres of the object's own space, angles in degrees. */
export interface GrowthParams {
  /** How many begin, or at most, where particles begin them. */
  lines: number
  /** Only about a place; null: anywhere. */
  near: { place: readonly [number, number, number]; radius: number } | null
  /** Which way, and how far to each side; null: any. */
  direction: readonly [number, number, number] | null
  directionSpread: number
  reach: number
  reachVary: number
  /** m/s */
  speed: number
  /** By the metre, on the whole and to and fro, over so many metres. */
  curl: number
  curlVary: number
  wander: number
  wanderSize: number
  generations: number
  spacing: number
  /** As a share of it. */
  spacingVary: number
  forks: number
  angle: number
  angleVary: number
  /** Of the line that they leave. */
  childReach: number
  childSpeed: number
  /** How much of their reach forks have along a line: as an ellipse, to nothing at the tip; by shares, even from its base to its tip; all of it. */
  along: 'ellipse' | ArrayLike<number> | null
  first: 'base' | 'tip' | 'all'
  /** Share of the lines that end where they meet another. */
  meets: number
  /** Length of a piece. */
  detail: number
}
/** An object that leaves trails. */
export interface PlanStreak {
  /** Its place among the objects. */
  object: number
  /** m/s at t, in the shot; without: as far as it goes in a substep. */
  velocity?(t: number): readonly number[]
  /** Its trails and the forces that drifting points feel, without births; under the object's id. */
  system: PlanSystem
}
/** An object that is let go at a moment (s) and moves like a particle from there on. */
export interface PlanBody {
  /** Its place among the objects. */
  object: number
  at: number
  /** The middle of its shape in its own space, m: where its particle is. */
  middle: readonly [number, number, number]
  /** m/s, radians a second, and the share of its own motion that it keeps. */
  velocity: readonly [number, number, number]
  spin: readonly [number, number, number]
  inherit: number
  /**
   * Coefficients of friction and of rolling, and the share of the speed into a collider that comes back; its contacts have no friction of
   * their own.
   */
  contact(t: number): { friction: number; rolling: number; restitution: number }
  /** Its forces and contacts, without births; under the object's id. */
  system: PlanSystem
}
export interface PlanObject {
  id: string
  mesh: Mesh | null
  /** A half space below the object's own y = 0 instead of its triangles. */
  endless: boolean
  matrix(t: number, out: Matrix): Matrix
  /**
   * Where its vertices are at t, in its own space, when it changes shape: as many and in the order of the mesh's. The same array for the
   * same places. Null: as the mesh has them.
   */
  shape?: ((t: number) => Float32Array) | null
  /** Amounts, 0 to 1, of each vertex at t, by the id of the region; the same array for the same amounts. */
  regions?: ReadonlyMap<string, (t: number) => Float32Array>
  /** Which sides of it particles meet, where its mesh does not say it by being closed. */
  sides?: 'front' | 'both'
  /** Met by a grid of distances with so many cells along its longest side, instead of by its faces. */
  cells?: number
  /** Metres that its surface is met before itself. */
  thickness?(t: number): number
}
export interface PlanSystem {
  id: string
  name: string
  seed: number
  limit: number
  /** seconds: value and ± at time t */
  life(t: number): readonly [number, number]
  /** The space it simulates in: own space to the shot at t. Without: the shot. */
  space?: (t: number, out: Matrix) => Matrix
  /** Lives do not end with their length; it only says how the look goes on. */
  endless?: boolean
  /** kg and its ±; without: 1 kg. */
  mass?(t: number): readonly [number, number]
  /** How fast time goes in it; without: as fast as the shot's. */
  timeScale?(t: number): number
  births: BirthPlan[]
  forces: ForcePlan[]
  contacts: ContactPlan[]
  /** Its particles have a radius and meet each other. */
  meet?: { seed: number; params(t: number): MeetParams }
  /** Its particles meet colliders as balls of this radius, m, but not each other. */
  ball?(t: number): number
  /** What ends lives, after contact. */
  endings?: ForcePlan[]
  /** How many phases a life may have; without: one. */
  phases?: number
  /** Ways from one phase to another, those of a phase in the order in which they are tried. */
  turns?: TurnPlan[]
  /** What its particles leave behind on their way. */
  trails?: TrailPlan[]
  sheds?: ShedPlan[]
  links?: LinkPlan[]
  extraColumns: ColumnName[]
  /** Of KEPT_POINT_COLUMNS those that frames keep of it, in their order. */
  kept?: readonly KeptColumn[]
}
/** What frames keep of particles only where somebody asks. */
export type KeptColumn = 'sx' | 'sy' | 'sz' | 'touchedAge' | 'touchSpeed' | 'generation' | 'wx' | 'wy' | 'wz'
export interface BirthBatch {
  count: number
  /** Seconds from the start of the substep to the first birth, and between births. */
  at: number
  spacing: number
}
export interface BirthState {
  /** Births handed out so far: the number of the next particle of this act. */
  number: number
}
export interface BirthParams {
  /** index in Plan.objects, or -1: the world's origin */
  source: number
  /** Named part of the source's mesh; '' is all of it. */
  part: string
  /** Id of a region of the source: births on its faces, edges and corner points follow the amounts; '' is all of it. */
  region?: string
  /** Of the particles of another system: the part of them, 0 to 1, that gives births. */
  share?: number
  /** index in Plan.systems: births start from its particles instead, or -1 */
  system?: number
  /**
   * Where on the source: evenly by area, at its place alone, on its corner points, evenly along its edges, evenly inside, or on the
   * points of a lattice inside, one after another; or on what grows over it: at the tips that grow now, or evenly along all lines.
   */
  on: 'faces' | 'point' | 'vertices' | 'edges' | 'inside' | 'lattice' | 'tips' | 'lines'
  /** metres between the points of a lattice, in the source's own space */
  lattice?: number
  /** m/s away from the place of the source, along the surface in any direction, and in any direction at all; each with its ± */
  outward?: number
  outwardVary?: number
  slide?: number
  slideVary?: number
  anyway?: number
  anywayVary?: number
  along: 'normal' | 'direction'
  direction: readonly [number, number, number]
  /** Half angle in turns. */
  spreadTurns: number
  speed: number
  speedVary: number
  /** Share of the source's own velocity that a newborn gets. */
  inherit: number
}
export interface BirthPlan {
  id: string
  seed: number
  /** The object, by its place in the plan, on whose growth births start; without: they start elsewhere. */
  grownOn?: number
  /** Batches due in [t0, t1). The World moves the number on. `grown`: metres that what grows over its source has come to at t, where births start on that. */
  due(t0: number, t1: number, grown?: (t: number) => number): BirthBatch[]
  params(t: number): BirthParams
}
/** A way out of a phase. */
export interface TurnPlan {
  id: string
  /** Nobody takes it; it can be tried. */
  muted?: boolean
  /**
   * Its conditions, then the turn itself; returns the word in which the kernel counts who takes it. `trial`: it does nothing but begin the
   * time in the phase again.
   */
  encode(w: OpWriter, at: StepTime, trial?: boolean): number
  /** Of one that copies, or takes into another system: where to, and what happens to who arrives. */
  passes?: {
    /** Its place among the plan's systems; −1: the same. */
    system: number
    phase: number
    seed: number
    effect(t: number): TurnEffect
  }
}
/** A trail behind each particle, or behind some. */
export interface TrailPlan {
  /** Of the act. */
  id: string
  /** As the artist knows it, with whose it is. */
  name: string
  seed: number
  /** Share of the particles that leave one, 0 to 1. */
  share: number
  /** ± of how far back each reaches, as a share of it. */
  reachVary: number
  /** The phases, a bit each, in which they leave it; without: all. */
  phases?: number
  /** Points keep how their particle lay, of particles that have an orientation. */
  turned?: boolean
  params(t: number): TrailParams
  /** Its points go with forces of their own and of the system; without: they stay where they are. */
  drift?: {
    /** Share of the particle's velocity that a point sets out with, and share of the system's forces that it feels. */
    inherit: number
    carried: number
    /** So far apart at the most they set out, m: nearer than what moves them is wide. */
    spacing: number
    encode(w: OpWriter, at: StepTime): void
  }
}
export interface TrailParams {
  /** How far back it reaches: in time (s), or along the way (m); the other is null. */
  seconds: number | null
  metres: number | null
  /** How far its chords may be off the path, m. */
  tolerance: number
  /** Over how long it fades when its particle is gone, s. */
  fade: number
}
/** Particles that particles give birth to. */
export interface ShedPlan {
  /** Of the act. */
  id: string
  /** As the artist knows it, with whose it is. */
  name: string
  seed: number
  /** Share of the particles that shed, 0 to 1. */
  share: number
  /** The phases, a bit each, in which they do; without: all. */
  phases?: number
  /** The place of a system among the plan's, or −1 for the same, and a phase of it. */
  system: number
  phase: number
  /** Per metre of their way, per second, at each contact, at their end, at each turn. */
  each: 'metre' | 'second' | 'contact' | 'end' | 'turn'
  /** Of `metre`: so many per metre at t (s). Of `second`: so many since the first frame. */
  rate(t: number): number
  /** Of all others: how many at once, and ±. */
  count(t: number): readonly [number, number]
  /** Of contacts: the hash of the object (0: any), and from which speed on, m/s. */
  touch(t: number): { object: number; speed: number }
  /** Only at ages in between, s. */
  ages: readonly [number, number]
  /** One that descends from so many sheds no more. */
  generations: number
  /** How much of its colour they take over, 0 to 1, and that colour (linear) at t, by phase and share of life; without: none. */
  colour?: { share: number; of(t: number): (phase: number, life: number) => readonly [number, number, number] }
  launch(t: number): ShedLaunch
}
/** Lines between particles. */
export interface LinkPlan {
  /** Of the act. */
  id: string
  /** As the artist knows it, with whose it is. */
  name: string
  seed: number
  share: number
  phases?: number
  /** The place of a system among the plan's whose particles they are linked to, or −1 for its own. */
  system: number
  /** Seconds of a frame. */
  frameSeconds: number
  params(t: number): LinkParams
}
export interface LinkParams {
  /** m */
  distance: number
  /** Links of one particle. */
  most: number
  /** s */
  fadeIn: number
  fadeOut: number
  /** How far one that was made may be stretched, as a share of its length then; null: nothing holds it. */
  stretch: number | null
  /** Which share is left out, and how often in a second that is drawn anew. */
  glitch: { share: number; rate: number } | null
}
/** How those who are shed set out. */
export interface ShedLaunch {
  /** Share of the velocity of the one that sheds. */
  inherit: number
  /** Share of what turns made of its size. */
  size: number
  /** Whether they begin as it lies and spins, where both have an orientation. */
  lies?: boolean
  /** Around where: along its motion, off what it met, along a direction, or everywhere. */
  along: 'motion' | 'normal' | 'direction' | 'any'
  direction: readonly [number, number, number]
  /** Largest and least angle off it, in turns. */
  spreadTurns: number
  hollowTurns: number
  /** m/s */
  speed: number
  speedVary: number
}
export interface ContactParams {
  mode: (typeof CONTACT_MODES)[number]
  restitution: number
  restitutionVary: number
  friction: number
  frictionVary: number
  /** m/s²: what pulls harder frees what sticks. */
  letGo: number
  /** Share of the particles that the collider lets pass, 0 to 1. */
  passes: number
}
export interface MeetParams {
  /** metres */
  radius: number
  radiusVary: number
  restitution: number
  friction: number
  /** How often places are corrected in a substep. */
  rounds: number
}
export interface ContactPlan {
  id: string
  seed: number
  /** The phases, a bit each, in which it counts; without: all. */
  phases?: number
  /** indices in Plan.objects */
  colliders: number[]
  params(t: number): ContactParams
}
