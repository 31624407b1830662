// Buffers of links that TypeScript and the kernels share; as layout.ts, which has all others.
import { f32, i32, layout, u32 } from './record'

/** The links of one act: who is linked by where they are, what becomes of those of the frame before, and what a frame is built of. */
export const LINKS = layout({
  /** The columns of those that are linked, and of those that they are linked to. */
  columns: u32(),
  others: u32(),
  count: i32(),
  otherCount: i32(),
  /** Whether those are the same. */
  own: u32(),
  /** A grid whose order to go by, so that what is read lies together; 0: as they come. */
  grid: u32(),
  /** At most so many links each. */
  most: i32(),
  /** Of both, the nearest among the others, rows of closestRow(most) words in the order of the grid, in each in no order, −1 is none; behind them the row of each particle. */
  near: u32(),
  back: u32(),
  /** A byte for each that may have links; 0: all. */
  chosen: u32(),
  /** Rows as wide for whom each is linked to, in their order; how many of them each has. */
  linked: u32(),
  counts: u32(),
  /** Particles of a piece, and how many pieces there are. */
  piece: i32(),
  pieces: i32(),
  /** LINK_PIECE: where each piece begins. */
  begins: u32(),
  /** Links of the frame before, sorted by both ids, and how many; the runs that they stand in (LINK_PIECE), and how many those are. */
  old: u32(),
  oldCount: i32(),
  runs: u32(),
  runCount: i32(),
  /** Where those of this frame go. */
  out: u32(),
  /** How much of a link comes, and goes, in a frame. */
  grow: f32(),
  fade: f32(),
  /** Up to how many times its length a link is kept; 0: it is not. */
  hold: f32(),
  /** Of a build: the words of the part, m over which they part, and of glitches the seed, the beat and the share. */
  part: u32(),
  distance: f32(),
  seed: u32(),
  beat: u32(),
  glitch: f32(),
})
/**
 * Of a piece: the number of its first link among those of the frame before, and where its own go; how many those are. When all are made it is
 * a run: the first number is that of its own first link then.
 */
export const LINK_PIECE = layout({ old: i32(), out: i32(), made: i32() })
/** A link: the ids of its ends and their rows when they were last looked up; how much of it is there, its length when it was made (m), and where its ends were last (m). */
export const LINK = layout({ id: u32(), to: u32(), row: i32(), toRow: i32(), presence: f32(), rest: f32(), from: f32(3), end: f32(3) })
/** Words of a row of nearest others: whole vectors. */
export const closestRow = (most: number): number => (most + 3) & ~3
