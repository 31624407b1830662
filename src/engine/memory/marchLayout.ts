import { f32, i32, layout, u32 } from './record'

/**
 * A gas as it is seen: grids over its window of tiles, with one cell around each, and one picture of it. Lengths are voxels where nothing else
 * is said; the middle of the first voxel lies at 0.5.
 */
export const MARCH = layout({
  /** Of MARCH_STEP. */
  step: u32(),
  dims: i32(3),
  row: i32(),
  slab: i32(),
  tiles: i32(3),
  /** Four floats a voxel (0: there are none, and only what dims counts): what it dims (over the edge of a voxel), what makes it shine, what colours that, and what tints what it scatters, 0 to 1 of their tones. */
  cells: u32(),
  /** What it dims alone, and the means of 2³ and of 4³ voxels. */
  dims0: u32(3),
  rows: i32(3),
  slabs: i32(3),
  /** Four floats a cell of light, each as wide as so many voxels: the light that comes out of a gas that dims fully there. */
  light: u32(),
  wide: i32(),
  lightRow: i32(),
  lightSlab: i32(),
  /** Of 4³ voxels: light of flames (three floats) and how much of the surroundings is seen. */
  fill: u32(),
  /** Of the same cells what is in the way of the surroundings, a grid of floats for each of MARCH_WAYS, and the bytes of one. */
  sky: u32(),
  skyBytes: u32(),
  /** So far from a place, in voxels, what is in the way of a light is found for the place itself; beyond that for cells of 4³ voxels. */
  near: f32(),
  /** Of the same cells what is in the way of lights beyond that, four lights a cell, and the bytes of four lights. */
  far: u32(),
  farBytes: u32(),
  /** A byte a tile: whether a sample in it can find anything. */
  full: u32(),
  /** Another: whether it can find something that shines. */
  shining: u32(),
  /** Where in a step the march of a pixel begins, 0 to 1: a tile of floats. */
  blue: u32(),
  /** Tiles of the frame: where each lies in the window (its number among all tiles), their half floats, bytes of each, and where in them begins what dims, shines, colours and tints. */
  places: u32(),
  halves: u32(),
  tileBytes: u32(),
  dimsAt: u32(),
  shinesAt: u32(),
  hueAt: u32(),
  tintAt: u32(),
  /** One over the values at which the tones of these end. */
  perDims: f32(),
  perShines: f32(),
  perHue: f32(),
  perTint: f32(),
  /** Extinction over the edge of a voxel for a tone of one, and that tone in 256 floats. */
  extinction: f32(),
  /** Instead of tiles: soft balls that dim, sorted by the layer of tiles that they reach into: five floats each, and the first of each layer. */
  balls: u32(),
  ballStarts: u32(),
  /** Where the balls come from: so many, five floats each as in MARCH_BALL, but in metres, and an optical depth through the middle; from which corner on, m. */
  ballsFrom: u32(),
  ballCount: i32(),
  ballLow: f32(3),
  dimTone: u32(),
  /** Light of a metre: 256 floats over what makes it shine, and colours, four floats each, over what colours it or the same. */
  shineTone: u32(),
  colours: u32(),
  /** Whether colours go by a grid of their own (1), or by what makes it shine. */
  byHue: u32(),
  voxel: f32(),
  albedo: f32(3),
  /** Instead of it 256 colours of four floats over what tints; 0: none. */
  tints: u32(),
  /** Whether it is taken as a share of what dims (1), both over their tops. */
  tintShare: u32(),
  forward: f32(),
  even: f32(),
  shade: f32(),
  again: f32(),
  /** Radiance of the surroundings, above and below. */
  above: f32(3),
  below: f32(3),
  lights: u32(),
  lightCount: i32(),
  /** Lights of flames: eight floats each: place, how wide, power. */
  flames: u32(),
  flameCount: i32(),
  /** For each tile of the frame eight floats: power by colour, and the middle of it. */
  shines: u32(),
  /** Where the eye is, and a view depth of one metre, to the middle, to the right and upper edge of the picture. */
  eye: f32(3),
  ahead: f32(3),
  right: f32(3),
  up: f32(3),
  width: i32(),
  height: i32(),
  /** View depths in metres of what is opaque, a float a pixel from the lower left; 0: nothing is. */
  depth: u32(),
  out: u32(),
  /** So many depths at which a ray leaves what it has seen so far, as half floats, and the first and the distance of them, m; 0: only the end counts. */
  slices: i32(),
  sliceFrom: f32(),
  sliceStep: f32(),
  /** What its light is multiplied by there, by colour. */
  sliceTint: f32(3),
  /** 1: only what is left is wanted, a half float in place of four. */
  sliceLeft: u32(),
  /** Floats that become half floats or are emptied, so many for each piece of the job. */
  from: u32(),
  floats: i32(),
  /** Steps of the march, in voxels. */
  stride: f32(),
  /** It ends where less than this is left to be seen. */
  exit: f32(),
})
/** Ways on which the surroundings are looked for: the sides and the corners of a cube. */
export const MARCH_WAYS = 14
export const MARCH_STEP = {
  clear: 0,
  unpack: 1,
  tiles: 2,
  halve: 3,
  quarter: 4,
  fill: 5,
  light: 6,
  march: 7,
  edge: 8,
  front: 9,
  pack: 10,
  splat: 11,
  sky: 12,
  blank: 13,
  count: 14,
  place: 15,
} as const
/** A smaller ball of a cloud than this, in voxels, is spread as one of this radius: voxels would miss it. */
export const CLOUD_LEAST = 1.5
/** A soft ball of a cloud: place, radius, and what it dims in its middle, over the edge of a voxel; lengths in voxels, floats. */
export const MARCH_BALL = layout({ place: f32(3), radius: f32(), amount: f32() })
/** A light of the shot as a gas sees it; lengths in voxels. */
export const MARCH_LIGHT = layout({
  /** Of a sun, the direction to it. */
  place: f32(3),
  sun: u32(),
  /** Irradiance: of a sun everywhere, else at one metre. */
  colour: f32(3),
  /** Of a spot: where it looks, and the cosines between which it fades; without one -2. */
  aim: f32(3),
  from: f32(),
  to: f32(),
  /** What objects leave in shadow: their distances from the light, m, in a square picture of so many pixels; 0: nothing. */
  map: u32(),
  mapSize: i32(),
  /** From a place in voxels to the picture, −1 to 1 before the division by the last, and to the distance, m: four rows of four. */
  mapRows: f32(16),
  /** m by which something may be nearer and is still lit. */
  mapBias: f32(),
})
/** Pixels along each edge of the tile of blue noise. */
export const BLUE_NOISE = 64
