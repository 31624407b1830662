type Vec3 = readonly [number, number, number]

/** How many values a tone or a ramp is sampled at. */
export const MARCH_SAMPLES = 256
/** How a gas is seen at one moment. Its grids are those of VOLUME_GRIDS, by their places there. */
export interface MarchLook {
  /** The values at which the tones of the grids end. */
  tops: readonly number[]
  /** What dims and scatters; null: nothing does. */
  smoke: {
    by: number
    /** 256 factors over the tone. */
    tone: Float32Array
    /** 1/m where the tone is 1. */
    extinction: number
    albedo: Vec3
    /** Instead of the albedo 256 of them, four floats each, over the tone of a grid, or over its share of that of what dims. */
    tint?: { by: number; colours: Float32Array; share?: boolean }
    /** Henyey-Greenstein's g, and the share that is scattered evenly, 0 to 1. */
    forward: number
    even: number
    /** How strongly it shades itself; how much light goes on after it was scattered before; 1 is all of it. */
    shade: number
    again: number
  } | null
  /** What shines; null: nothing does. */
  glow: {
    by: number
    /** Light of a metre, 256 over the tone. */
    tone: Float32Array
    /** 256 linear colours of four floats, over the tone of a grid. */
    colours: Float32Array
    coloursBy: number
  } | null
}
/** A light of the shot. Lengths in metres; a sun has the direction to it for a place. */
export interface MarchLight {
  place: Vec3
  sun: boolean
  /** Irradiance by colour: of a sun everywhere, else at one metre. */
  colour: Vec3
  /** Of a spot: the unit direction in which it looks, and the cosines of the angles at which it begins and is in full. */
  spot: { aim: Vec3; from: number; to: number } | null
  /** Shadows of objects; null: nothing stands in the way. */
  shadow?: LightMap | null
}
/** What a light sees of the objects: their distances from it along its view, m, a square of pixels from the lower left; 0 where nothing is. */
export interface LightMap {
  size: number
  data: Float32Array
  /** From the shot to the picture: x and y, −1 to 1 before they are divided by the third, and the distance: four rows of four. */
  rows: readonly number[]
}
export interface MarchScene {
  lights: readonly MarchLight[]
  /** Radiance of the surroundings, above and below. */
  above: Vec3
  below: Vec3
}
/** From where it is seen. At a view depth of one metre the picture's middle lies `ahead` of the eye, its edges `right` and `up` of that. */
export interface MarchView {
  eye: Vec3
  ahead: Vec3
  right: Vec3
  up: Vec3
  width: number
  height: number
  /** View depths of what is opaque, m, a float a pixel from the lower left; 0 where nothing is. Null: nothing is. */
  depth: Float32Array | null
  /** Steps of the march, in voxels. */
  stride: number
  /** Voxels that a cell of light is wide: 1, 2, 4 or 8. */
  wide: number
}
/** What of a gas lies in front of places in the view: coarse pictures at even depths, m. */
export interface MarchFront {
  width: number
  height: number
  depths: number
  /** View depth of the first, and from one to the next. */
  from: number
  step: number
  /** Half floats: light that comes from in front, and how much of what is behind is left; x first, from the lower left, nearest first. */
  data: Uint16Array
}
/** How much of what is behind is left at even depths, m. */
export interface MarchLeft extends Omit<MarchFront, 'data'> {
  /** Half floats, x first, from the lower left, nearest first. */
  left: Uint16Array
}
/** What a shader marches through: half floats, four a voxel or cell of light, x first, with one around; and a byte a tile that can hold something. */
export interface MarchTextures {
  size: readonly [number, number, number]
  cells: Uint16Array
  /** Null: nothing scatters. */
  light: { size: readonly [number, number, number]; data: Uint16Array } | null
  tiles: readonly [number, number, number]
  full: Uint8Array
  /** Corner of the window, and edge of a voxel, m. */
  low: readonly [number, number, number]
  voxel: number
}
/** A part of the glow as a light of its own: place, radius (m), power by colour: irradiance at one metre. */
export interface Flame {
  place: [number, number, number]
  radius: number
  power: [number, number, number]
}
