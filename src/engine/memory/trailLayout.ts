// Buffers of trails that TypeScript and the kernels share; as layout.ts, which has all others.
import { f32, i32, layout, u32 } from './record'

/** The trails of one act: what a substep records, and what a frame is built of. */
export const TRAILS = layout({
  /** A word for each particle: its trail among the records, or NO_TRAIL. */
  slots: u32(),
  records: u32(),
  /** Points of all trails, a ring each: x, y, z and the time, own seconds. */
  rings: u32(),
  /** Points of a ring, a power of two. */
  ring: i32(),
  /** Own seconds at the end of the substep, and how long it was. */
  now: f32(),
  dt: f32(),
  /** Metres that a chord may be off the path. */
  tolerance: f32(),
  /** At the most so far apart, s and m. */
  gapS: f32(),
  gapM: f32(),
  /** How long, s and m, a trail is kept; a great number where that does not count. */
  keepS: f32(),
  keepM: f32(),
  /** Most points that a ring holds. */
  most: u32(),
  /** Velocities of the points, and nothing, as the rings lie; 0 where points stay where they are. */
  velocities: u32(),
  /** Share of its particle's velocity that a point sets out with. */
  inherit: f32(),
  /** Of a build: the trail of each strip, for the first `live` that of the particle `rows`; where its points begin; the columns. */
  strips: u32(),
  rows: u32(),
  live: i32(),
  /** Seconds over which one fades whose particle is gone. */
  fadeS: f32(),
  offsets: u32(),
  /** The columns of strips (id, seed, phase, age, life, fade) and of points (x, y, z, along, metres), one behind the other. */
  stripColumns: u32(),
  pointColumns: u32(),
  pointCount: i32(),
})
/** One trail: its last kept point and the tangent there, the tip as the substep before ended, how much of its ring is in use. */
export const TRAIL = layout(
  {
    kept: f32(4),
    tangent: f32(4),
    /** Where it was and when, and the velocity there. */
    tip: f32(4),
    velocity: f32(4),
    /** Points kept since it began, the first that its ring still holds, and metres from its beginning to that one and to the last. */
    head: u32(),
    first: u32(),
    firstM: f32(),
    headM: f32(),
    /** When its particle went, own seconds; below zero while it is there. */
    gone: f32(),
    /** What of a particle that is gone is drawn. */
    id: u32(),
    seed: u32(),
    phase: u32(),
    age: f32(),
    life: f32(),
    /** How far back it reaches, of what all do. */
    reach: f32(),
  },
  { align: 16 },
)
export const NO_TRAIL = 0xffffffff
/** Points that one substep can add to a trail. */
export const TRAIL_STEP_POINTS = 12
/** Columns of a strip and of a point that a build writes. */
export const STRIP_WORDS = 6
