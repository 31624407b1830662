import { f32, i32, layout, u32 } from './record'

/** A picture of tufts. Lengths in metres, in the space of the camera: x to the right, y up, and what is seen at negative z. */
export const TUFTS = layout({
  /** Of TUFT_STEP. */
  step: u32(),
  count: i32(),
  /** As the graphics side leaves them: TUFT_SLICES lists of four words for each, one behind the other. */
  raw: u32(),
  /** Their numbers from the farthest to the nearest. */
  order: u32(),
  /** TUFT records from the nearest on. */
  tufts: u32(),
  width: i32(),
  height: i32(),
  /** Where a place is in the picture: x · across ÷ −z − shiftX and y · upwards ÷ −z − shiftY, −1 to 1. */
  across: f32(),
  upwards: f32(),
  shiftX: f32(),
  shiftY: f32(),
  /** View depths of what is solid, from the lower left, 0 where nothing is; 0: there is nothing. */
  depth: u32(),
  /** Tiles along both axes of the picture; where the list of each begins, one more at the end; the numbers of tufts in them. */
  tilesX: i32(),
  tilesY: i32(),
  starts: u32(),
  lists: u32(),
  /** Lumps: each of the four values of a texel with that of the next along x, as 16 bits each, 16384 for one. */
  lumps: u32(),
  /** The least that is taken away at the corners of each cell, of 255. */
  least: u32(),
  /** Half floats: linear red, green and blue, and what is covered, premultiplied, from the lower left. */
  out: u32(),
  /** UNDER: what they are drawn over; 0: nothing. */
  under: u32(),
  /** TUFT_LIGHT of those up to a number in their list, in that order. */
  lights: u32(),
})
/** The light that falls on some tufts, in cells. */
export const TUFT_LIGHT = layout({
  /** The number in the list of tufts before which these end. */
  end: i32(),
  /** Four half floats a cell, x first: red, green, blue, and nothing; and how many cells along each axis. */
  cells: u32(),
  sizeX: i32(),
  sizeY: i32(),
  sizeZ: i32(),
  /** From the space of the camera to cells: the middle of the first is 0. Three rows of four. */
  rows: f32(12),
})
/** A picture that lies under tufts, with the share of the key light apart, and what they and gases leave of that light. */
export const UNDER = layout({
  /** Four half floats a pixel, from the lower left: the picture without the key light, and what that adds where nothing shades it; 0: it is none. */
  rest: u32(),
  key: u32(),
  /** What is left of the key light: half floats, x first, from the lower left of its picture, nearest first; 0: all. How many along each axis. */
  left: u32(),
  leftWidth: i32(),
  leftHeight: i32(),
  leftDepths: i32(),
  /** The first depth in the picture of the light, and one over what lies between two, 1/m. */
  leftFrom: f32(),
  leftPer: f32(),
  /** The part of that picture in which anything is taken, 0 to 1: low and high of both axes. */
  within: f32(4),
  /** In the picture of the light (x and y before they are divided by the third, and the depth) the eye, and the ways of one metre ahead, and to both sides of the picture. */
  eye: f32(4),
  ahead: f32(4),
  right: f32(4),
  up: f32(4),
  /** From where the depth of a pixel is known to its middle, pixels. */
  middle: f32(2),
  /** One over the view depth of what lies behind everything, and as little as depths may be off a plane, both 1/m. */
  perFar: f32(),
  flat: f32(),
  /** What lies behind everything, linear, and how much it covers. */
  behind: f32(4),
})
export const TUFT_STEP = { prepare: 0, count: 1, place: 2, draw: 3 } as const
/** Pixels of a tile along both axes. */
export const TUFT_TILE_X = 64
export const TUFT_TILE_Y = 32
/** Lists of four words that the graphics side leaves of each tuft. */
export const TUFT_SLICES = 4
/** Texels along each edge of the tile of lumps, and lumps along it. */
export const LUMPS_SIDE = 32
export const LUMPS_ACROSS = 4
/** What a slope of one byte's whole range stands for: the value from one lump to the next. */
export const LUMPS_SLOPE = 4
/** One of them, made ready. From its optical depth on as the graphics side leaves them, as half floats. */
export const TUFT = layout(
  {
    /** Its middle, its distance from the eye squared, and that over its radius. */
    head: f32(3),
    far2: f32(),
    gain: f32(),
    /** Axes of the disc that faces the eye. */
    right: f32(3),
    up: f32(3),
    /** Optical depth in its middle, and the power of how deep inside a place is. */
    thickness: f32(),
    power: f32(),
    /** m before something solid in which it fades. */
    meets: f32(),
    /** How deep its edge is torn, texels of lumps for a radius, and where they begin. */
    torn: f32(),
    texels: f32(),
    lumps: f32(3),
    /** From its disc and the way to the eye to its own space. */
    turnX: f32(3),
    turnY: f32(3),
    turnZ: f32(3),
    /** Its own colour as far as gases let it through, and what these add before it; by colour. */
    own: f32(3),
    veil: f32(3),
    /** Light of its own, added to that which falls on it. */
    shine: f32(),
    /** Light in its middle in its own colour, and how it changes over a radius along its disc and the way to the eye; by colour. */
    lit: f32(3),
    litX: f32(3),
    litY: f32(3),
    litZ: f32(3),
    /** Its number in the lists while it is not lit yet; −1: it is. Most are hidden, and never lit. */
    unlit: i32(),
    /** Pixels that it may touch: the first, and one behind the last; without any it is not seen. */
    x0: i32(),
    y0: i32(),
    x1: i32(),
    y1: i32(),
  },
  { align: 16 },
)
