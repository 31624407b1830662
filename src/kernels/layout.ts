// Where every word of the engine's shared structures lies. engine/layout.ts is the same table for
// TypeScript; a test holds the two against each other. All offsets are in bytes unless named WORDS.

// Columns of a system: a table of pointers, one word each.
export const PX: i32 = 0
export const PY: i32 = 1
export const PZ: i32 = 2
export const VX: i32 = 3
export const VY: i32 = 4
export const VZ: i32 = 5
export const AGE: i32 = 6
export const LIFE: i32 = 7
export const SEED: i32 = 8
export const ID: i32 = 9
export const PHASE: i32 = 10
export const PHASE_START: i32 = 11
export const HITS: i32 = 12
export const SX: i32 = 13
export const SY: i32 = 14
export const SZ: i32 = 15
export const DEAD: i32 = 16
// Of some systems alone; a pointer of 0 says that there is none.
/** Whose surface a particle keeps a place on (hash of the object), on which triangle (or the endless plane), and where on it. */
export const HELD: i32 = 20
export const TRIANGLE: i32 = 21
export const AU: i32 = 22
export const AV: i32 = 23
/** What it sticks to: hash of the collider, or 0. */
export const STUCK: i32 = 24
/** Where it was as the substep began. */
export const OX: i32 = 25
export const OY: i32 = 26
export const OZ: i32 = 27
/** Its last contact: where, at which age, with what (hash), how fast towards it. */
export const TX: i32 = 28
export const TY: i32 = 29
export const TZ: i32 = 30
export const TOUCHED_AGE: i32 = 31
export const TOUCHED: i32 = 32
export const TOUCH_SPEED: i32 = 33
/** How it is turned, a unit quaternion (all zero: not yet), and its spin, radians a second. */
export const QX: i32 = 34
export const QY: i32 = 35
export const QZ: i32 = 36
export const QW: i32 = 37
export const WX: i32 = 38
export const WY: i32 = 39
export const WZ: i32 = 40

// A step job.
export const JOB_NEXT: usize = 0
export const JOB_COUNT: usize = 4
export const JOB_CHUNK: usize = 8
export const JOB_STOP: usize = 12
export const JOB_OPS: usize = 16
export const JOB_OP_COUNT: usize = 20
export const JOB_COLUMNS: usize = 24
export const JOB_SCRATCH: usize = 28
export const JOB_DT: usize = 32
export const JOB_CONTACTS: usize = 36
export const JOB_DIED: usize = 40
export const JOB_LOST: usize = 44
export const JOB_KIND: usize = 48
export const JOB_LIVE: usize = 52
export const JOB_MAP: usize = 56
export const JOB_ENDLESS: usize = 60
/** What jobs other than steps work on. */
export const JOB_RECORD: usize = 64
/** Particles that had more neighbours than are looked at. */
export const JOB_CROWDED: usize = 68

/**
 * Scratch per thread: shares, limits, inverse masses and who may meet a grid of distances (1 KB each), dt (4 KB), BVH stack (4 KB), a hit
 * record.
 */
export const SCRATCH_LIMITS: usize = 1024
export const SCRATCH_MASSES: usize = 2048
export const SCRATCH_MAY: usize = 3072
export const SCRATCH_BYTES: usize = 16384
export const SCRATCH_DT: usize = 4096
export const SCRATCH_STACK: usize = 8192
export const SCRATCH_HIT: usize = 12288

// An op: opcode, its size in bytes, the share (constant, ±, channel), then its own words from OP_OWN.
export const OP_CODE: usize = 0
export const OP_SIZE: usize = 4
export const OP_SHARE: usize = 8
export const OP_SHARE_VARY: usize = 12
export const OP_SEED: usize = 16
export const OP_OWN: usize = 20

export const OP_GRAVITY: i32 = 1
export const OP_DRAG: i32 = 2
export const OP_TURBULENCE: i32 = 3
export const OP_CONTACT: i32 = 4
export const OP_BOUNDS: i32 = 5
export const OP_SMALL: i32 = 6
export const OP_VORTEX: i32 = 7
export const OP_POINT: i32 = 8
export const OP_PATH: i32 = 9
export const OP_PACE: i32 = 10
export const OP_SQUARE_DRAG: i32 = 11
export const OP_LIMIT_RANGE: i32 = 12
export const OP_LIMIT_SHAPE: i32 = 13
export const OP_LIMIT_CHANCE: i32 = 14
/** The limits before it have had their force. */
export const OP_UNLIMITED: i32 = 15
/** Masses for the forces behind it that push heavy particles less. */
export const OP_MASS: i32 = 16
/** Adds accelerations that a pass over neighbours left in columns. */
export const OP_ADD: i32 = 17
export const OP_CHASE: i32 = 18
export const OP_STAY: i32 = 19
export const OP_CRAWL: i32 = 20
export const OP_SURFACE: i32 = 21
export const OP_WAKE: i32 = 22
/** What flows in a volume. */
export const OP_CARRY: i32 = 23
export const OP_SPIN: i32 = 24
export const OP_LIMIT_NEAR: i32 = 25
