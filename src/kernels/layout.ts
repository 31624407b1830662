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

/** Scratch per thread: shares, limits and inverse masses (1 KB each), dt (4 KB), BVH stack (4 KB), a hit record. */
export const SCRATCH_LIMITS: usize = 1024
export const SCRATCH_MASSES: usize = 2048
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
