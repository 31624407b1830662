// The TypeScript side of src/kernels/layout.ts, contact.ts and birth.ts. layout.test.ts holds them against each other.

export const COLUMNS = [
  'px',
  'py',
  'pz',
  'vx',
  'vy',
  'vz',
  'age',
  'life',
  'seed',
  'id',
  'phase',
  'phaseStart',
  'hits',
  'sx',
  'sy',
  'sz',
  'dead',
  'mass',
  'size',
  'parent',
  'held',
  'triangle',
  'au',
  'av',
  'stuck',
  'ox',
  'oy',
  'oz',
  'tx',
  'ty',
  'tz',
  'touchedAge',
  'touched',
  'touchSpeed',
  'qx',
  'qy',
  'qz',
  'qw',
  'wx',
  'wy',
  'wz',
] as const
export type ColumnName = (typeof COLUMNS)[number]
/** Columns that every system has; the others are allotted when an act of the system declares them. */
export const CORE_COLUMNS = COLUMNS.slice(0, 17)
export const WORD_COLUMNS: ReadonlySet<ColumnName> = new Set([
  'seed',
  'id',
  'phase',
  'hits',
  'dead',
  'parent',
  'held',
  'triangle',
  'stuck',
  'touched',
])
/** What a particle that keeps a place on a surface needs, one that sticks, one that meets its like, and the record of a last contact. */
export const HOLD_COLUMNS: ColumnName[] = ['held', 'triangle', 'au', 'av']
export const STICK_COLUMNS: ColumnName[] = [...HOLD_COLUMNS, 'stuck']
export const MEET_COLUMNS: ColumnName[] = ['ox', 'oy', 'oz']
export const TOUCH_COLUMNS: ColumnName[] = ['tx', 'ty', 'tz', 'touchedAge', 'touched', 'touchSpeed']

/** How a particle is turned, and its spin. */
export const TURN_COLUMNS: ColumnName[] = ['qx', 'qy', 'qz', 'qw', 'wx', 'wy', 'wz']

/** Byte offsets in a step job. */
export const JOB = {
  next: 0,
  count: 4,
  chunk: 8,
  stop: 12,
  ops: 16,
  opCount: 20,
  columns: 24,
  scratch: 28,
  dt: 32,
  contacts: 36,
  died: 40,
  lost: 44,
  kind: 48,
  live: 52,
  map: 56,
  endless: 60,
  record: 64,
  crowded: 68,
  bytes: 72,
} as const
export const JOB_STEP = 1
export const JOB_GATHER = 2
export const JOB_COUNT_CELLS = 3
export const JOB_SORT_CELLS = 4
export const JOB_NEIGHBOURS = 5
export const JOB_PAIRS = 6
export const JOB_MEASURE = 7
export const JOB_VOLUME = 8

export const SCRATCH_BYTES = 16384
export const SCRATCH = { dt: 4096, stack: 8192, hit: 12288 } as const
export const OP = { code: 0, size: 4, share: 8, shareVary: 12, seed: 16, own: 20 } as const
export const OP_CODES = {
  gravity: 1,
  drag: 2,
  turbulence: 3,
  contact: 4,
  bounds: 5,
  small: 6,
  vortex: 7,
  point: 8,
  path: 9,
  pace: 10,
  squareDrag: 11,
  limitRange: 12,
  limitShape: 13,
  limitChance: 14,
  unlimited: 15,
  mass: 16,
  add: 17,
  chase: 18,
  stay: 19,
  crawl: 20,
  surface: 21,
  wake: 22,
  carry: 23,
  spin: 24,
  limitNear: 25,
} as const

/** The record of an object that particles meet or go after. flags: 1 both sides, 2 moving, 4 changing shape. kind: 0 mesh, 1 half space. */
export const COLLIDER = {
  kind: 0,
  flags: 4,
  nodes: 8,
  leaves: 12,
  box: 16,
  out0: 40,
  out1: 88,
  in0: 136,
  in1: 184,
  keep: 232,
  keepVary: 236,
  rub: 240,
  rubVary: 244,
  way: 248,
  seed: 252,
  ends: 256,
  triangles: 260,
  indices: 264,
  from: 268,
  to: 272,
  hash: 276,
  scale: 280,
  thick: 284,
  letGo: 288,
  passes: 292,
  met: 296,
  areas: 300,
  count: 304,
  sites: 308,
  sitesEnd: 312,
  siteCount: 316,
  grid: 320,
  bytes: 336,
} as const
/** Ways to meet, in the order of the kernel. */
export const WAYS = ['bounce', 'die', 'stick', 'pass'] as const
/** A grid over particles, a pass over their neighbours, and a job of pairs that meet. */
export const GRID = {
  columns: 0,
  count: 4,
  cell: 8,
  order: 12,
  start: 16,
  hist: 20,
  parts: 24,
  sorted: 28,
  stride: 32,
  low: 36,
  inverse: 48,
  dims: 52,
  repeats: 64,
  cells: 68,
  bytes: 72,
} as const
export const PASS = { grid: 0, kind: 4, out: 8, stride: 12, asking: 16, count: 20, own: 24, words: 28, bytes: 64 } as const
export const PASSES = ['counting', 'flock', 'swarm', 'nearest', 'ordered'] as const
export const PAIR = {
  grid: 0,
  what: 4,
  radius: 8,
  vary: 12,
  seed: 16,
  rub: 20,
  keep: 24,
  perSecond: 28,
  colliders: 32,
  colliderCount: 36,
  quiet: 40,
  rest: 44,
  lean: 48,
  touch: 52,
  up: 56,
  lists: 68,
  ordered: 72,
  bytes: 76,
} as const
export const PAIR_WHAT = {
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
} as const
/** A grid of distances: its header, then the distances. */
export const DISTANCE = { dims: 0, low: 12, inverse: 24, cell: 28, nodes: 32, leaves: 36, blocks: 40, data: 44 } as const
/** A velocity volume: its header, then x, y, z and nothing of each node. */
export const VOLUME = { dims: 0, low: 12, inverse: 24, cell: 28, ops: 32, opCount: 36, data: 48 } as const
/** Sorted columns of a grid: place and velocity, and what pairs keep besides. */
export const GRID_COLUMNS = 6
export const PAIR_COLUMNS = 19
/** How many others the list of one of a pair holds. */
export const PAIR_LISTED = 40

export const BIRTH = {
  columns: 0,
  first: 4,
  count: 8,
  seed: 12,
  number: 16,
  id: 20,
  kind: 24,
  positions: 28,
  indices: 32,
  areas: 36,
  triFirst: 40,
  triCount: 44,
  away: 48,
  direction: 52,
  cosSpread: 64,
  speed: 68,
  speedVary: 72,
  life: 76,
  lifeVary: 80,
  inherit: 84,
  dt: 88,
  time0: 92,
  spacing: 96,
  m0: 100,
  m1: 148,
  off: 196,
  normals: 200,
  order: 204,
  nodes: 208,
  leaves: 212,
  low: 216,
  high: 228,
  outward: 240,
  outwardVary: 244,
  slide: 248,
  slideVary: 252,
  anyway: 256,
  anywayVary: 260,
  stack: 264,
  hit: 268,
  missed: 272,
  guide: 276,
  guideCount: 280,
  guideScale: 284,
  positionsEnd: 288,
  amounts: 292,
  share: 296,
  bytes: 300,
} as const

/** Scratch of buildTree, and where the number of leaves stands in it. */
export const TREE = { scratchBytes: 16384, leaves: 1824 } as const
export const NODE_BYTES = 128
export const LEAF_BYTES = 144

/** Fixed words at the bottom of the memory through which a team's threads talk. */
export const CONTROL = { generation: 64, job: 68, busy: 72, quit: 76, stop: 80 } as const
/** Where blocks may begin. */
export const HEAP_START = 1024
