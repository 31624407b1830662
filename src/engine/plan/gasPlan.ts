import type { StoredVolume } from '../geometry'
import type { Matrix } from '../math'
import type { ForcePlan } from './forcePlan'

/** K, of the air around gases. */
export const AIR_KELVIN = 293
/** Free grids that sources may fill: they only go along. */
export const GAS_DYES = ['dyeA', 'dyeB'] as const
export type GasDye = (typeof GAS_DYES)[number]
/** What a gas may carry, in the order of its record: temperature in kelvin over the air, fuel that burns, flame that it makes, and dyes. */
export const GAS_SCALARS = ['density', 'temperature', 'fuel', 'flame', ...GAS_DYES] as const
export type GasScalar = (typeof GAS_SCALARS)[number]
/** What a gas takes of a grid of a file: so many times each number, less so much. */
export interface StoredAmount {
  grid: string
  times: number
  less?: number
}
/** Grids of a file that stand in a shot. */
export interface StoredCopy {
  volume: StoredVolume
  /** From the file's space to the shot. */
  matrix: Matrix
  amounts: { readonly [K in 'density' | 'temperature' | 'flame' | GasDye]?: StoredAmount }
  /** A grid of velocities, m/s in the file's own space. */
  velocity?: string
}
/** A gas made ready to run. Lengths in metres of the shot, times in seconds, temperatures in kelvin over the air around. */
export interface PlanGas {
  id: string
  /** As the artist knows it. */
  name: string
  seed: number
  /** m */
  voxel: number
  /** The most room it may take up: its low corner, and its size. */
  low: readonly [number, number, number]
  size: readonly [number, number, number]
  /** Sides through which it may leave: −x, +x, −y, +y, −z, +z. */
  open: readonly boolean[]
  /** Whether it has fuel, which burns. */
  burns: boolean
  /** The dyes that something feeds. */
  dyes?: readonly GasDye[]
  /** At most so many steps of its own in a substep: as many as keep its way in one to three voxels; always as many when they are fixed. */
  steps: number
  fixedSteps?: boolean
  /** How far its room has gone along with something, m. */
  shift?(t: number): readonly [number, number, number]
  /** Finer cells along the edge of a voxel on which density and flame are carried, 2 to 4, and how strong the eddies are that are made up for them: 1 as those of a gas that goes on to be turbulent. */
  detail?: { factor: number; strength(t: number): number }
  /** Its own time in a second of the shot's. */
  timeScale?(t: number): number
  params(t: number): GasParams
  feeds: GasFeed[]
  forces: ForcePlan[]
  /** Indices in Plan.objects of what is solid in it. */
  solids: number[]
  /** What files bring into it: per second when it is added, else as it is while it is at work. */
  fed?: {
    at(t: number): { key: string; copies: StoredCopy[] }
    /** Share of a substep from t0 to t1 in which it is at work. */
    active(t0: number, t1: number): number
    mode: FeedAmount['mode']
    /** Share of the files' own velocity that the gas takes where it has their density; 0: it keeps its own. */
    pushes(t: number): number
  }[]
  /** Of one that does not flow: what it holds at t (s). The same `key`: the same. */
  stored?(t: number): { key: string; copies: StoredCopy[] }
  /** Of such a one: particles ask what it holds, or go along with it. */
  sampled?: boolean
}
export interface GasParams {
  /** m/s² that lift what is so hot that it weighs nothing, and that a density of one weighs. Gas of T over the air's A is lifted by T/(A + T) of it. */
  lift: number
  weight: number
  /** m/s² for a vorticity of one (m/s) a voxel. */
  vorticity: number
  /** K/s by radiation at 1,000 K over the air, which goes by the fourth power. */
  cooling: number
  /** Seconds after which half of it is left; null: it stays. */
  densityHalf: number | null
  /** Times as fast what is nearly nothing fades, and the density from which on it is no faster; without: evenly. */
  thin?: { times: number; below: number }
  heatHalf: number | null
  /** Of the two dyes. */
  dyeHalf: readonly [number | null, number | null]
  /** From which temperature on fuel burns, how much of it in a second; what one of it makes: K, density, and room, as a share of its own. */
  ignition: number
  burnRate: number
  heat: number
  soot: number
  expansion: number
  /** s */
  flameLife: number
}
/** What comes into a gas. */
export interface GasFeed {
  /** Of the act. */
  id: string
  name: string
  seed: number
  /** An object's inside or skin, or particles of a system, by their places in the plan. */
  from:
    | { object: number; skin: boolean /** By the amounts of it; of all of it without. */; region?: string }
    | { system: number /** From the space of its particles to the shot; without: they are in it. */; out?(t: number): Matrix }
  /** Share of a substep from t0 to t1 in which it is at work. */
  active(t0: number, t1: number): number
  params(t: number): FeedParams
}
/** How, and how much: per second when added. */
export interface FeedAmount {
  mode: 'add' | 'set' | 'most'
  amount: number
}
export interface FeedParams {
  /** How far off the object it reaches; of particles the radius, m. */
  reach: number
  /** What of it is fed. */
  amounts: { readonly [K in GasScalar]?: FeedAmount | null }
  /** Share of its own velocity, m/s away from it, m/s in a direction, and how quickly the gas takes it up, 1/s (0: not at all). */
  own: number
  outwards: number
  direction: readonly [number, number, number]
  lead: number
  /** Break-up: share, size in metres, and how far it has renewed itself. */
  breakUp: number
  breakSize: number
  breakPhase: number
}
