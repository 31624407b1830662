// Buffers of trails that TypeScript and the kernels share; as layout.ts, which has all others.
import { f32, i32, layout, u32 } from './record'

/** The trails of one act: what a substep records, and what a frame is built of. */
export const TRAILS = layout({
  /** A table of pointers to TRAIL_ROWS. */
  table: u32(),
  records: u32(),
  more: u32(),
  /** Points of all trails, a ring each: x, y, z and the time, own seconds. */
  rings: u32(),
  /** Points of a ring, a power of two. */
  ring: i32(),
  /**
   * Of each trail the points behind the last whole line of its ring, TRAIL_LINE at the most: rings lie far apart, and to write into them one point
   * at a time took most of a substep. Points that drift are written at once.
   */
  newest: u32(),
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
  /** The way that the particle's own Y pointed as each was kept, and nothing, as the rings lie; 0 where nobody asks. */
  normals: u32(),
  /** Share of its particle's velocity that a point sets out with. */
  inherit: f32(),
  /** In which phases particles leave one, a bit each; and how many trails have parted from theirs. */
  phases: u32(),
  parted: i32(),
  /** Of a build: the trail of each strip, for the first `live` that of the particle `rows`; where its points begin; the columns. */
  strips: u32(),
  rows: u32(),
  live: i32(),
  /** Seconds over which one fades whose particle is gone. */
  fadeS: f32(),
  /** How many points each strip has, and where those of each piece of the work stand (STRIP_PIECE). */
  counts: u32(),
  pieces: u32(),
  /** The columns of strips (id, seed, phase, age, life, fade) and of points (x, y, z, along, metres, and with normals theirs), one behind the other. */
  stripColumns: u32(),
  pointColumns: u32(),
  /** For how many points there is room, and how many of it are given away. */
  room: u32(),
  cursor: u32(),
})
/**
 * What every substep reads and writes of trails, a column each as their particles stand, so that four are looked at at once: which of the records is
 * its trail (NO_TRAIL: none), its last kept point and when that was (TRAIL_FRESH: there is none yet) with the tangent there, and where it was as
 * the substep began, with the velocity there; how many points it has kept since it began.
 */
export const TRAIL_ROWS = [
  ...['slot', 'keptX', 'keptY', 'keptZ', 'keptT', 'tangentX', 'tangentY', 'tangentZ'],
  ...['tipX', 'tipY', 'tipZ', 'velocityX', 'velocityY', 'velocityZ', 'head'],
] as const
export const TRAIL_FRESH = 3e38
/** What is read of one trail when a line of its ring is written. */
export const TRAIL = layout(
  {
    /** Points that it had kept as it was last settled, and metres to the last of them; the first that its ring still holds. */
    head: u32(),
    metres: f32(),
    first: u32(),
    /** Metres from its beginning to the end of the last whole line of its ring, and to the first point of the ring. */
    lineM: f32(),
    firstM: f32(),
    /** How far back it reaches, of what all do. */
    reach: f32(),
    /** When its particle went, own seconds; below zero while it is there. */
    gone: f32(),
    /** The point at the end of the last whole line. */
    last: f32(4),
  },
  { align: 64 },
)
/** What of a particle that is gone is drawn: where it was then, its velocity, and who it was. */
export const TRAIL_MORE = layout(
  { tip: f32(3), velocity: f32(3), normal: f32(3), id: u32(), seed: u32(), phase: u32(), age: f32(), life: f32() },
  { align: 64 },
)
/** Where a strip begins, found before it is built: its first point, how far along the way to the next it is cut, metres to there and in all. */
export const SPAN = layout({ first: u32(), cut: f32(), firstM: f32(), metres: f32() })
/** Where the points of some strips stand, one behind the other, and how many. */
export const STRIP_PIECE = layout({ at: u32(), points: u32() })
export const NO_TRAIL = 0xffffffff
/** Points of a line of the cache. */
export const TRAIL_LINE = 4
/** Points that one substep can add to a trail. */
export const TRAIL_STEP_POINTS = 12
/** Columns of a strip and of a point that a build writes. */
export const STRIP_WORDS = 6
