import { f32, i32, layout, u32 } from './record'

/** A question about places: what of a thing is where particles are. */
export const ASK = layout({
  /** Of ASK_STEP. */
  step: u32(),
  count: i32(),
  /** Columns of the places, and of the answers. */
  px: u32(),
  py: u32(),
  pz: u32(),
  out: u32(),
  /** From the places to the space of what is asked, three rows of four, and how much longer a length is outside of that space. */
  into: f32(12),
  scale: f32(),
  /** A mesh: its hierarchy, whether it is closed (1), the triangle of each place in its leaves, their corners, and the amount of a region at each vertex. */
  nodes: u32(),
  leaves: u32(),
  closed: u32(),
  triangles: u32(),
  indices: u32(),
  amounts: u32(),
  /** A gas: the number of each tile of its window plus one (0: there is none), tiles along each axis, its half floats, and the bytes from one tile to the next. */
  tiles: u32(),
  across: i32(3),
  halves: u32(),
  tileBytes: u32(),
  /** A sort: keys and their numbers, twice, and counts of each part. */
  keys: u32(2),
  order: u32(2),
  counts: u32(),
  parts: i32(),
  /** The least key; of a digit where it begins, how many values it has, from which of both lists it comes, and whether it is the last. */
  base: u32(),
  shift: u32(),
  digits: i32(),
  from: i32(),
  last: i32(),
})
export const ASK_STEP = { distance: 0, amount: 1, gas: 2, depth: 3, count: 4, sort: 5 } as const
/** The most bits of a digit of a sort. */
export const SORT_BITS = 11
