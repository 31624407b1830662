import { f32, i32, layout, u32 } from './record'

/** Scalars that a gas may carry. */
export const SCALAR_COUNT = 6
/**
 * A gas in its window, as the kernels see it. Fields are floats with one cell around the window: a pointer leads to the first cell inside,
 * `row` and `slab` are the floats from a row and a plane to the next. u, v and w lie on the lower faces of their cells.
 */
export const GAS = layout({
  /** Of GAS_STEP. */
  step: u32(),
  dims: i32(3),
  row: i32(),
  slab: i32(),
  /** Which sides are open, a bit each: −x, +x, −y, +y, −z, +z. */
  open: u32(),
  velocity: u32(3),
  /** Density, temperature (K over the air), fuel, flame, and two dyes; 0: it has none. */
  scalars: u32(SCALAR_COUNT),
  /** Of what is moved: the forward step, what comes of it (before the correction the least value that it may have), and the largest. */
  hats: u32(SCALAR_COUNT),
  outs: u32(SCALAR_COUNT),
  highs: u32(SCALAR_COUNT),
  /** Which component is moved: 0 to 2, or 3 for all scalars. */
  which: u32(),
  dt: f32(),
  /** m */
  voxel: f32(),
  /** 1 in gas, 0 in what is solid, as floats; 0: nothing is. With the solid's velocity in its cells. */
  fluid: u32(),
  solid: u32(3),
  /** m/s² at the middles of cells: of the step, and what forces do in all of a substep; 0: there are none. */
  forces: u32(3),
  push: u32(3),
  curl: u32(4),
  /** K of the air around; m/s² for what weighs nothing, and for a density of one. */
  air: f32(),
  lift: f32(),
  weight: f32(),
  vorticity: f32(),
  /** K; per second; K, density and 1/s of divergence for what burns; s. */
  ignition: f32(),
  burnRate: f32(),
  heat: f32(),
  soot: f32(),
  expansion: f32(),
  flameLife: f32(),
  /** K/s at 1,000 K over the air, by the fourth power; shares that are left of density and of heat after the substep. */
  cooling: f32(),
  densityLeft: f32(),
  dyeLeft: f32(2),
  /** Halvings of density in the step, and how much faster what is thin fades: `thin` more times at nothing, none from `thinBelow` on. */
  halvings: f32(),
  thin: f32(),
  thinBelow: f32(),
  heatLeft: f32(),
  /** 1/s of divergence, a field; 0: nothing expands. */
  expand: u32(),
  /** A byte a tile, a bit for each scalar that may come to it within the step: where none is, it is neither moved nor kept. */
  busy: u32(),
  /** Where its first cell begins in the shot, m. */
  low: f32(3),
  ops: u32(),
  opCount: i32(),
  /** What the step at hand leaves, or reads: numbers for each plane or tile. */
  table: u32(),
  /** The level of the pressure. */
  level: u32(),
  /** What is carried on finer cells. */
  detail: u32(),
})
export const GAS_STEP = {
  ...{ forward: 0, correct: 1, border: 2, curl: 3, confine: 4, push: 5, burn: 6, fade: 7 },
  ...{ divergence: 8, relax: 9, seam: 10, restrict: 11, prolong: 12, worst: 13, project: 14, weigh: 15 },
  ...{ cover: 16, feed: 17, splat: 18, ops: 19, fastest: 20, tiles: 21, pack: 22, solidify: 23, sum: 24, leaving: 25, even: 26 },
  ...{ middles: 27, stir: 28, carry: 29, match: 30, detailTiles: 31, detailPack: 32, gain: 33, begin: 34, faces: 35, portion: 36 },
} as const

/** One grid of the pressure's multigrid. */
export const LEVEL = layout({
  dims: i32(3),
  row: i32(),
  slab: i32(),
  pressure: u32(),
  right: u32(),
  /** 1 over the number of neighbours that are not solid; 0 in what is solid. */
  inverse: u32(),
  fluid: u32(),
  /** How open the lower faces of cells are, 0 to 1, along each axis, and a field behind the last ones; 0: what is solid fills whole cells, or nothing is. */
  faces: u32(3),
  /** The next finer one; 0: it is the first. */
  finer: u32(),
  /** Planes of a slab that is relaxed in one piece. */
  thick: i32(),
  /** How often a grid of one slab is relaxed in a go. */
  sweeps: i32(),
  /** The next, coarser one; 0: it is the last. */
  coarser: u32(),
  /** How much an open side counts among the neighbours of a cell at it: the pressure is none half a finest cell beyond, whatever the grid. */
  edge: f32(),
  /** What the next coarser grid holds beyond an open side, as a share of its cell there: so that it is none in the same place. */
  beyond: f32(),
})

/** What feeds a gas from an object: a box of its cells, and how much of each there is. */
export const FEED = layout({
  /** The collider's record. */
  record: u32(),
  /** First cell of the box in the window's cells, and how many. */
  first: i32(3),
  count: i32(3),
  /** Signed distances in metres, for the cells of the box. */
  distances: u32(),
  /** Amounts of a region of the object, a float a vertex, and those of the nearest place for the cells of the box; 0: all of it. */
  region: u32(),
  weights: u32(),
  /** How much of the source each cell of the box is, 0 to 1. */
  portions: u32(),
  /** 0 inside, 1 on the skin; m. */
  skin: u32(),
  thickness: f32(),
  /** Of each scalar of the gas: FEED_MODE, and the amount: per second when added. */
  modes: u32(SCALAR_COUNT),
  amounts: f32(SCALAR_COUNT),
  dt: f32(),
  /** Shares of its own velocity, m/s outwards and in a direction, and how strongly the gas is led to them, 1/s. */
  own: f32(),
  outwards: f32(),
  direction: f32(3),
  lead: f32(),
  perSecond: f32(),
  /** Break-up: share, size (1/m), phase, seed. */
  breakUp: f32(),
  perSize: f32(),
  phase: f32(),
  seed: u32(),
  /** Particles that feed: columns, how many, radius in metres, and from their space to the shot. */
  columns: u32(),
  particles: i32(),
  radius: f32(),
  out: f32(12),
  /** The part of their way that feeds, s: it began so long before the substep ends, and lasts so long. */
  ago: f32(),
  way: f32(),
})
export const FEED_MODE = { none: 0, add: 1, set: 2, most: 3 } as const

/**
 * Density and flame on finer cells. Grids of cells hold four floats each and, as the gas's, one cell around the window; a pointer leads to the
 * first cell inside. A block holds (8 × factor)³ floats of density for a tile, x first, and as many of flame behind them.
 */
export const DETAIL = layout({
  /** Finer cells along the edge of a cell: 2 to 4. */
  factor: i32(),
  /** Grids of a block: density, and flame where something burns. */
  grids: i32(),
  strength: f32(),
  /** Bands of noise, and of each its finer cells by the cell and its amplitude. */
  bands: i32(),
  perCell: f32(2),
  amplitudes: f32(2),
  /** A periodic tile of noise, four floats a node: a unit velocity, free of divergence. */
  noise: u32(),
  /** Velocity at the middle of a cell in cells a step, and the velocity of what turns in it. */
  moves: u32(),
  /** How far the coordinates of the noise have gone with the gas, in cells; before and after the step. */
  gone: u32(),
  goneNext: u32(),
  /** Density and flame as the step began, a float a cell; and what sources and burning have done to them since: what came, and what share is left. */
  before: u32(2),
  changes: u32(),
  /** By blocks of 4³ cells, four floats each with one block around: density and flame of the gas, and of the finer cells. */
  means: u32(),
  meansRow: i32(),
  meansSlab: i32(),
  /** The first cell of the window, in cells of all that the gas may have. */
  origin: i32(3),
  /** A block for each tile of the window, 0: none; before and after the step. */
  blocks: u32(),
  blocksNext: u32(),
  /** Tiles at work. */
  list: u32(),
  /** Finer cells around a tile from which something may come at most; room for that of each thread, and its bytes. */
  reach: i32(),
  room: u32(),
  roomBytes: u32(),
})
/** Nodes of the noise along each edge of its tile; it is stored with one more, so that no neighbour needs wrapping. */
export const DETAIL_NOISE_NODES = 64
/** Bytes of what a thread works with before the room for what may come: two rows of cells, where four places lie, and weights. */
export const DETAIL_ROOM_HEAD = 832
/** Cells of a tile along each axis. */
export const TILE = 8
/** Grids of a record of the frame that every gas has: density, temperature, flame. Dyes come behind them. */
export const TILE_GRIDS = 3
/** Bytes of one grid of a record: half floats. */
export const TILE_GRID_BYTES = TILE ** 3 * 2
