import { f32, i32, layout, u32 } from './record'

/** Fogs over a shot before the places of a view. Lengths in metres. */
export const FOG = layout({
  /** Where the eye is, and a view depth of one metre, to the middle, to the right and upper edge of the picture. */
  eye: f32(3),
  ahead: f32(3),
  right: f32(3),
  up: f32(3),
  /** Rays along each side, and pictures into the depth, the k-th of n at reach · (k / (n − 1))². */
  width: i32(),
  height: i32(),
  depths: i32(),
  reach: f32(),
  /** Mean radiance of the surroundings. */
  even: f32(3),
  fogs: u32(),
  fogCount: i32(),
  lights: u32(),
  lightCount: i32(),
  /** Half floats, four a place: x first, from the lower left, nearest first. */
  out: u32(),
})
/** One of them. */
export const FOG_LOOK = layout({
  /** 1/m at its densest. */
  extinction: f32(),
  /** Up to this height; above it halves every `halves`; 0: it is the same everywhere. */
  level: f32(),
  halves: f32(),
  albedo: f32(3),
  forward: f32(),
  /** Share of the surroundings. */
  surroundings: f32(),
  /** How much denser it is by its patches: floats of every FOG_PATCH_RAYS-th ray, as many as there are depths; how many rays a row has; 0: it has none. */
  patches: u32(),
  patchRow: i32(),
})
/** Rays between which patches are looked up: they are larger than what lies between. */
export const FOG_PATCH_RAYS = 4
/** A light of the shot as fog sees it. */
export const FOG_LIGHT = layout({
  /** Of a sun, the direction to it. */
  place: f32(3),
  sun: u32(),
  /** Irradiance: of a sun everywhere, else at one metre. */
  colour: f32(3),
  /** Of a spot: where it looks, and the cosines between which it fades; without one -2. */
  aim: f32(3),
  from: f32(),
  to: f32(),
  /** What objects leave in shadow: their distances from it, in a square picture of so many pixels; 0: nothing. */
  map: u32(),
  mapSize: i32(),
  /** From a place to the picture, −1 to 1 before the division by the third, and to the distance: four rows of four. */
  mapRows: f32(16),
})
/** Lights at most: what is known of each along four rays lies in the scratch of a thread. */
export const FOG_MOST_LIGHTS = 256
