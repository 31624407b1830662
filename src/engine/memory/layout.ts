// Every buffer that TypeScript and the kernels share, declared once. scripts/kernels.mjs makes src/kernels/layout.ts of these tables:
// COLLIDER.restitution is COLLIDER_RESTITUTION there. Offsets are in bytes.
import { f32, i32, layout, u32 } from './record'

/** What a team works on together. `next` is the shared counter from which threads take chunks. */
export const JOB = layout({
  next: i32(),
  count: i32(),
  chunk: i32(),
  stop: u32(),
  ops: u32(),
  opCount: i32(),
  columns: u32(),
  scratch: u32(),
  dt: f32(),
  contacts: u32(),
  died: u32(),
  lost: u32(),
  kind: u32(),
  live: i32(),
  map: u32(),
  endless: u32(),
  /** What jobs other than steps work on. */
  record: u32(),
  /** Particles that had more neighbours than are looked at. */
  crowded: u32(),
})
/** Kinds of job: a substep, and others that run over a record. */
export const JOB_KIND = {
  ...{ step: 1, gather: 2, countCells: 3, sortCells: 4, neighbours: 5, pairs: 6, measure: 7, volume: 8 },
  ...{ recordTrails: 9, buildTrails: 11, gas: 12, march: 13, ask: 14, fog: 15 },
  ...{ linkMutual: 16, linkMerge: 17, linkBuild: 18, tufts: 19, screen: 20 },
} as const
export type JobKind = keyof typeof JOB_KIND

/**
 * Scratch of one thread: shares, limits, inverse masses, who may meet a distance grid (1 KB each), time steps, the stack of a search, its
 * hit, positions and velocities as the substep began (3 KB each), two poses of a moving object, the moments of conditions (sixteen rows), who is
 * in which phase (a row for each of thirty-two), and how many took each turn.
 */
export const SCRATCH = {
  ...{ shares: 0, limits: 1024, masses: 2048, may: 3072, dt: 4096, stack: 8192, hit: 12288 },
  ...{ from: 16384, before: 19456, pose: 22528, rows: 22784, phases: 39168, taken: 71936, bytes: 72960 },
  /** Of one number for each particle of a block. */
  row: 1024,
} as const

/**
 * How an object goes from its pose at the start of a substep to the one at its end: its rotation as a quaternion, its axes at the end
 * without that rotation (3x3 by rows), which kind of motion it is (of MOTION), and in how many even pieces particles meet it.
 */
export const POSE_PATH = layout({ turn: f32(4), end: f32(9), kind: f32(), pieces: f32() })
/** Not at all; without turning; turning without changing shape; turning, scaling and shearing. */
export const MOTION = { still: 0, shift: 1, turn: 2, any: 3 } as const

/** The head of an op; its operands follow. */
export const OP = layout({ code: i32(), size: u32(), share: f32(), shareVary: f32(), seed: u32() })

/** The record of an object that particles meet, chase or keep to. */
export const COLLIDER = layout(
  {
    /** 0 a mesh, 1 a half space below its own y = 0. */
    kind: u32(),
    /** 1 both sides, 2 moving, 4 changing shape. */
    flags: u32(),
    nodes: u32(),
    leaves: u32(),
    /** Low and high corner in the world over the substep. */
    box: f32(6),
    /** 3x4 by rows: the world from own space, and back, as the substep begins and as it ends. */
    out0: f32(12),
    in0: f32(12),
    out1: f32(12),
    in1: f32(12),
    /** POSE_PATH: how it gets from one to the other. */
    path: f32(POSE_PATH.bytes / 4),
    restitution: f32(),
    restitutionVary: f32(),
    friction: f32(),
    frictionVary: f32(),
    /** Of CONTACT_MODES. */
    mode: u32(),
    seed: u32(),
    /** Leaves as the substep ends, of one that changes shape. */
    ends: u32(),
    /** The triangle of each slot of a leaf, the corners of each triangle, and the places at both ends. */
    triangles: u32(),
    indices: u32(),
    from: u32(),
    to: u32(),
    /** Of the object's id. */
    hash: u32(),
    /** Own metres for a metre of the world. */
    scale: f32(),
    /** m */
    thickness: f32(),
    /** m/s²: what pulls harder frees what sticks. */
    letGo: f32(),
    /** Share of the particles that it lets pass. */
    passes: f32(),
    /** How many contacts there were. */
    contacts: u32(),
    /** Running sums of the triangles' areas, and their count. */
    areas: u32(),
    count: u32(),
    /** Listed places at both ends, and their count. */
    sites: u32(),
    sitesEnd: u32(),
    siteCount: u32(),
    /** A distance grid that stands for it, or 0. */
    grid: u32(),
    /** The phases, a bit each, in which particles meet it so. */
    phases: u32(),
  },
  { align: 16 },
)
/** Every phase that there may be, a bit each. */
export const ALL_PHASES = 0xffffffff
/** What a contact does, in the order of the kernel. Sliding is bouncing without restitution. */
export const CONTACT_MODES = ['bounce', 'die', 'stick', 'pass', 'notice'] as const

/** A uniform grid over particles: who is near whom. */
export const GRID = layout({
  columns: u32(),
  count: i32(),
  /** The cell of each particle, their order by cells, the first of each cell, histograms of the parts, and how many parts. */
  cell: u32(),
  order: u32(),
  start: u32(),
  hist: u32(),
  parts: i32(),
  /** Copies of columns in that order, and the bytes from one to the next; whether velocities are among them. */
  sorted: u32(),
  stride: u32(),
  velocities: u32(),
  low: f32(3),
  /** 1 / width of a cell. */
  inverse: f32(),
  dims: i32(3),
  /** A bit for each axis along which the grid repeats itself. */
  repeats: u32(),
  cells: i32(),
})
/** A pass over the neighbours of all particles that ask. */
export const PASS = layout({
  grid: u32(),
  kind: u32(),
  out: u32(),
  /** Bytes from one of its columns to the next; the nearest others lie in rows instead, and need one column more for who has which. */
  stride: u32(),
  asking: u32(),
  count: i32(),
  /** Whether those who ask are the grid's own. */
  own: u32(),
  /** What its kind needs. */
  words: f32(9),
})
export const PASSES = ['counting', 'flock', 'swarm', 'nearest', 'ordered', 'closest'] as const

/** A job over particles that meet each other. */
export const PAIR = layout({
  grid: u32(),
  /** Of PAIR_STEP. */
  step: u32(),
  /** m, and its ±. */
  radius: f32(),
  vary: f32(),
  seed: u32(),
  friction: f32(),
  restitution: f32(),
  /** 1/dt */
  perSecond: f32(),
  colliders: u32(),
  colliderCount: i32(),
  /** m/s: slower blows give nothing back. */
  quiet: f32(),
  /** m/s²: what touches others and is slower to gain speed rests. */
  rest: f32(),
  /** m/s: how much faster than it has gone something may seem that leans on others. */
  lean: f32(),
  /** How far apart still counts, in shares of both radii: at 1 they overlap. */
  touch: f32(),
  /** Against gravity, unit; 0 without one. */
  up: f32(3),
  /** A list for each, of those that may touch it in this substep. */
  lists: u32(),
  /** Those to work on, in their order; 0 is all. */
  ordered: u32(),
})
export const PAIR_STEP = {
  load: 0,
  count: 1,
  push: 2,
  apply: 3,
  bounce: 4,
  finish: 5,
  settle: 6,
  place: 7,
  speed: 8,
  list: 9,
  hold: 10,
  liftUp: 11,
  rub: 12,
  find: 13,
  strike: 14,
  turn: 15,
} as const
/** Sorted columns of a grid: place and velocity. */
export const GRID_COLUMNS = 6
/**
 * What pairs keep behind them, each a column: radius, place as the substep began, overlaps, correction, blows, velocity before the
 * corrections, listed, which one it strikes first and when, whether its path has a bend.
 */
export const PAIR_COLUMN = { radius: 6, ox: 7, count: 10, dx: 11, blows: 14, ux: 15, listed: 18, partner: 19, time: 20, bent: 21 } as const
export const PAIR_COLUMNS = 22
/** How many others a list holds. */
export const PAIR_LISTED = 40

/** The head of a distance grid; the distances follow, x first. */
export const DISTANCE = layout({
  /** Nodes along each axis. */
  dims: i32(3),
  low: f32(3),
  /** 1 / cell, and the cell in own metres. */
  inverse: f32(),
  cell: f32(),
  /** The hierarchy that it was measured from. */
  nodes: u32(),
  leaves: u32(),
  /** For blocks of two cells: how near the surface is at least, in bytes. */
  blocks: u32(),
})
/** The head of a velocity volume; x, y, z and nothing of each node follow, x first. */
export const VOLUME = layout(
  {
    dims: i32(3),
    low: f32(3),
    inverse: f32(),
    /** m */
    cell: f32(),
    /** The ops that fill it. */
    ops: u32(),
    opCount: i32(),
  },
  { align: 16 },
)

/** A batch of particles to emit. */
export const BIRTH = layout({
  columns: u32(),
  first: i32(),
  count: i32(),
  seed: u32(),
  /** Of its act so far: the number of the first of the batch. */
  number: u32(),
  id: u32(),
  /** Of BIRTH_KIND. */
  kind: u32(),
  positions: u32(),
  indices: u32(),
  areas: u32(),
  triFirst: i32(),
  triCount: i32(),
  /** 0 along the normal, 1 in a direction. */
  away: u32(),
  direction: f32(3),
  cosSpread: f32(),
  speed: f32(),
  speedVary: f32(),
  life: f32(),
  lifeVary: f32(),
  inherit: f32(),
  dt: f32(),
  /** Seconds from the start of the substep to the first, and between them. */
  time0: f32(),
  spacing: f32(),
  /** The source as the substep begins and as it ends. */
  m0: f32(12),
  m1: f32(12),
  /** POSE_PATH: how it gets from one to the other. */
  path: f32(POSE_PATH.bytes / 4),
  /** How far off the surface, m. */
  off: f32(),
  normals: u32(),
  /** 1: the listed places in turn. */
  order: u32(),
  nodes: u32(),
  leaves: u32(),
  low: f32(3),
  high: f32(3),
  outward: f32(),
  outwardVary: f32(),
  slide: f32(),
  slideVary: f32(),
  anyway: f32(),
  anywayVary: f32(),
  stack: u32(),
  hit: u32(),
  /** How many found no place inside. */
  missed: u32(),
  /** Where to begin in the running sums. */
  guide: u32(),
  guideCount: u32(),
  guideScale: f32(),
  positionsEnd: u32(),
  amounts: u32(),
  share: f32(),
})
/** Kinds of place that particles are emitted from. */
export const BIRTH_KIND = { point: 0, faces: 1, sites: 2, inside: 3, edges: 4, particles: 5 } as const

/** The nearest place of a mesh, as a search leaves it: `distance` is squared, and says before how far to look. */
export const NEAREST = layout({
  distance: f32(),
  x: f32(),
  y: f32(),
  z: f32(),
  /** Of the triangle: leaf · 4 + lane. */
  slot: u32(),
  u: f32(),
  v: f32(),
  /** Over the triangle's plane, times the length of its normal: below zero it is behind. */
  height: f32(),
})

/** Scratch of buildTree, and where the number of leaves stands in it. */
export const TREE = { scratchBytes: 16384, leaves: 1824 } as const
export const NODE_BYTES = 128
export const LEAF_BYTES = 144

/** Fixed words at the bottom of the memory through which a team's threads talk. */
export const CONTROL = { generation: 64, job: 68, busy: 72, quit: 76, stop: 80 } as const
/** Where blocks may begin. */
export const HEAP_START = 1024
