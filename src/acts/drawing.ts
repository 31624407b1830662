import type { VolumeGrid } from '../engine'
import type { GasTone, ValueRef, Vec3 } from '../shot'

/** How something joins what is there: as light, by covering it, as light that never goes beyond white, or as a filter. */
export type BlendMode = 'add' | 'normal' | 'screen' | 'multiply'

/** How the particles of a phase are drawn, as its look acts say. */
export interface Drawing {
  shape: 'dot' | 'dash' | 'flake' | 'tuft' | 'solid' | 'sprite'
  /** Of flakes: length over width; the rest 0 to 1, but for the glint. */
  flake: { length: number; round: number; shade: number; back: number; glint: number } | null
  /** Of soft lit billows. */
  tuft: TuftDrawing | null
  /** Of bodies among the objects. */
  solid: SolidDrawing | null
  /** Of pictures. */
  sprite: SpriteDrawing | null
  /** 0 to 1 */
  softness: number
  /** Of dots, dashes and flakes: so many half widths before an object they begin to fade. */
  meets: number
  /** seconds of motion */
  dashS: number
  /** 0 to 1 */
  taper: number
  /** metres */
  size: number
  sizeVary: number
  sizeSeed: number
  brightness: number
  /** 0 to 1 */
  opacity: number
  inside: BlendMode
  onto: BlendMode
  /** The id of the shared look; null: plain white. */
  look: string | null
}

/** A soft lit billow; shares are 0 to 1. */
export interface TuftDrawing {
  /** How much it dims through its middle, as an optical depth. */
  thickness: number
  /** How deep its edge is torn, and how large its lumps are, in radii. */
  ragged: number
  lumps: number
  /** How strongly tufts shade each other; how much light goes on after it was scattered before. */
  shade: number
  again: number
  /** Henyey and Greenstein's g: forward above 0. */
  forward: number
  /** Shares of the light of the surroundings, and of its colour that it gives by itself. */
  surroundings: number
  shine: number
  /** In radii: so far before an object it begins to fade. */
  meets: number
}
/** A picture on each particle. */
export interface SpriteDrawing {
  /** The id of the object whose picture it is. */
  object: string | null
  /** Frames in the picture. */
  columns: number
  rows: number
  by: 'life' | 'rate' | 'random' | 'fixed'
  /** 1/s */
  rate: number
  /** The first or only one, from 0. */
  frame: number
  faces: 'camera' | 'motion' | 'upright' | 'spin'
  /** Each by an angle of its own. */
  roll: boolean
  /** In half widths: so far before an object it begins to fade. */
  meets: number
  seed: number
}
export type BuiltBody = 'tetra' | 'cube' | 'octa' | 'ball' | 'plate' | 'splinter'
/** A body for each particle; shares are 0 to 1. */
export interface SolidDrawing {
  body: BuiltBody | 'object'
  /** Of `object`: whose copies, and how many of each against the others. */
  objects: { object: string; weight: number }[]
  /** One after the other in the order of birth, whatever their weights. */
  inTurn: boolean
  /** As large as the object is, times the size over life. */
  own: boolean
  lies: 'spin' | 'motion' | 'upright'
  /** Longer by the way that it goes in these seconds. */
  stretch: number
  roughness: number
  metal: number
  shine: number
  /** Of an object that changes its shape: at which of its moments each is seen; with s that are added, or the moment itself. */
  moment: 'now' | 'birth' | 'later' | 'fixed'
  later: number
  laterVary: number
  /** Pixels that an edge of a face has at the least, as far as it has fewer faces then; 0: all faces. */
  edge: number
  /** Whether what lies outside of the picture is left out, and from how far outside on, as a share of the picture. */
  outside: number | null
  /** Of what is drawn at random. */
  seed: number
}
/** What pictures do not have of a particle at hand: frames keep it when a look asks, or kernels find it out for each frame. */
export type AskedBy = 'order' | 'surface' | 'region' | 'source' | 'gas' | 'near' | 'contact' | 'strike' | 'generation'
/** How something of each particle changes how it looks. */
export interface MappingDrawing {
  /** Hue is an angle, °, that is always added; saturation a factor on the distance from grey; a turn is one about its own Y, or of a picture, °. */
  of: 'size' | 'brightness' | 'opacity' | 'colour' | 'hue' | 'saturation' | 'softness' | 'turn' | 'stretch' | 'picture'
  by: 'share' | 'age' | 'phase' | 'speed' | 'random' | 'x' | 'y' | 'z' | 'object' | 'camera' | AskedBy
  /** The range of what it goes by: seconds, m/s, m or a number; a share, an amount or a random number from 0 to 1. */
  from: number
  to: number
  /** Over the range, LOOK_SAMPLES shares from 0 to 1. */
  curve: Float32Array
  joins: 'multiply' | 'add' | 'replace'
  /** What the shares 0 and 1 are: m, ×, °, a number of frames, or opacity and softness from 0 to 1; as a factor where it multiplies. */
  low: number
  high: number
  /** Of a colour: the id of the look whose ramp it goes along (null: white), and how much of it counts, 0 to 1. */
  look: string | null
  amount: number
  /** The id of the object that it asks or in whose space it is; null: the shot. */
  object: string | null
  /** Of its regions the one that is asked. */
  region: string | null
  /** The id of the gas that is asked, and for what. */
  gas: string | null
  grid: VolumeGrid
  /** How near neighbours are, m. */
  within: number
  /** Of its random numbers. */
  seed: number
}

/** A value of an object's shape that each particle has of its own: `low` to `high` along the curve, in the units of the value. */
export interface ShapeDrawing extends MappingDrawing {
  value: ValueRef | null
  /** Values as near as this share one shape; 0: each has its own. */
  step: number
}
/** Where particles are drawn instead of where they are, in the system's own space. */
export interface ReliefDrawing {
  along: 'axis' | 'middle' | 'x' | 'y' | 'z' | 'every'
  /** m */
  amount: number
  lift: number
  size: number
  octaves: number
  /** Of the noise: whole numbers are other noises. */
  phase: number
  /** Renewals after which the first comes again, of a shot that loops; else 0. */
  period: number
  /** Between which heights (m) how much of it counts, as LOOK_SAMPLES shares; null: all of it everywhere. */
  height: { from: number; to: number; curve: Float32Array } | null
  /** Radians by each metre of height. */
  twist: number
  seed: number
}

/** How strips are drawn, as the act that leaves them says. */
export interface StripDrawing {
  /** A soft line, a sharp ribbon to the camera, a flat one in the world, a round tube; a body that takes all lights and throws shadows. */
  as: 'line' | 'ribbon' | 'band' | 'tube' | 'solid'
  /** Of a body: how many sides it has around, and its roughness (0 to 1). */
  solid?: { sides: number; roughness: number }
  /** metres */
  width: number
  /** What a flat one faces, in its own space; `turned`: as each particle lay, where its points say how. */
  normal: readonly [number, number, number]
  turned?: boolean
  /** 0 to 1 */
  softness: number
  brightness: number
  /** 0 to 1 */
  opacity: number
  /** Times colour, opacity and relative size of the particle. */
  own: boolean
  blend: 'add' | 'normal'
  /** Repeats along the way: every so many metres, so much of it drawn (0 to 1), moved on by so many metres; with soft ends or hard ones. */
  pattern: { period: number; filled: number; shift: number; soft: boolean } | null
  /** A glow at the leading end: how wide (m), how bright, and how many rays. */
  head: { size: number; brightness: number; rays: number } | null
  /** What each generation has of the width and brightness of the one before; the id of a shared look from the first to the last of `count`, or null. */
  generations?: { width: number; brightness: number; count: number; look: string | null }
  /** The id of the shared look along it, from head to end; null: it fades and thins. */
  look: string | null
}

/** How a gas is drawn; the grids that drive it go through the tones of the gas. */
export interface VolumeDrawing {
  /** What dims and scatters; null: nothing does. */
  smoke: {
    by: GasTone
    /** 1/m where the tone is 1. */
    extinction: number
    albedo: Vec3
    /** The grid whose ramp says it instead. */
    tint: GasTone | null
    /** Whether as a share of what dims, or by how much there is. */
    mixed: boolean
    /** Henyey-Greenstein: forward above 0; and the share that is scattered evenly. */
    forward: number
    even: number
    /** How strongly it shades itself, 0 to 1. */
    shade: number
    /** Share of light that comes on after it was scattered before, 0 to 1. */
    again: number
    /** Share of the light of the surroundings, 0 to 1. */
    surroundings: number
  } | null
  /** What shines; null: nothing does. */
  glow: {
    by: GasTone
    /** By the temperature as a black body has it, or by the ramp of a grid. */
    colour: 'blackBody' | 'ramp'
    rampOf: GasTone
    /** K, of the black body at both ends of the tone of temperatures. */
    coldest: number
    hottest: number
    /** Light of a metre of it where the tone is 1. */
    strength: number
    /** Share of it that lights other things. */
    lights: number
  } | null
}
