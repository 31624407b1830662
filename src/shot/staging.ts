import type { Animated, AnimatedVec3, Vec3 } from './animated'
import type { ElementBase } from './element'
import type { Outline } from './outline'

/** How much of a light an element gets, per cent, and whether it throws a shadow in it. */
export interface LightShare {
  of: string
  share: number
  shadow: boolean
}
export interface LightDoc extends ElementBase {
  kind: 'point' | 'spot' | 'sun' | 'area' | 'around'
  /** An object or a system with which it goes along; its place and aim are then from there. */
  follows?: string | null
  /** Of a system: the middle of all, or the particle that was born first. */
  which?: 'middle' | 'oldest'
  place: AnimatedVec3
  aim: AnimatedVec3
  colour: Animated<Vec3>
  /** Brightness at one metre; for a sun, everywhere. */
  strength: Animated<number>
  /** Half angle of a spot, degrees. */
  angle: Animated<number>
  /** Per cent of that angle over which its edge fades. */
  edge?: Animated<number>
  /** Of an area: a disc, or an ellipse, in its rectangle. */
  round?: boolean
  /** Of an area: across, and as high, m. */
  width?: Animated<number>
  height?: Animated<number>
  /** Of one all around: its picture of light, and what that gives above and below on the mean, as its file was read. */
  asset?: string | null
  above?: Vec3
  below?: Vec3
  /** Degrees about Y; at 0 the middle of the picture lies towards −Z. */
  turn?: Animated<number>
  /** Whether the camera sees it, and how bright and how blurred, per cent. */
  seen?: boolean
  brightness?: Animated<number>
  blur?: Animated<number>
  /** Per cent of it that gases get. */
  onGas: Animated<number>
  shadow: boolean
  /** Elements that get another share of it than all, or shade nothing in it. */
  shares?: LightShare[]
  /** Radius of what shines, by which its shadow is soft: m, of a sun degrees. */
  size?: Animated<number>
}
export interface CameraDoc extends ElementBase {
  place: AnimatedVec3
  aim: AnimatedVec3
  /** An object that it looks at; its aim is then from there. */
  aimsAt?: string | null
  /** Focal length, mm, and the width of the sensor, mm. */
  lens: Animated<number>
  sensor?: number
  /** Per cent of the picture's width and height by which it is cut out beside the middle. */
  shiftX?: Animated<number>
  shiftY?: Animated<number>
  /** f-number; null: everything is sharp. */
  aperture?: Animated<number> | null
  /** m; null: as far as its aim. */
  focus?: Animated<number> | null
  /** An object that is sharp, in place of a distance. */
  focusAt?: string | null
  blades?: number
  bladeTurn?: Animated<number>
  lensSamples?: number
  /** Of final pictures: gathered from many places of the lens, or blurred by depth in one look. */
  lensWay?: 'looks' | 'quick'
  /** Degrees of a turn that takes as long as a frame; null: a moment alone is seen. */
  shutter?: Animated<number> | null
  shutterSamples?: number
  /** Degrees about the way it looks, clockwise as the picture's maker tilts the camera. */
  roll?: Animated<number>
  /** The object whose picture, or numbered pictures, lie behind everything that this camera sees; it is not seen itself then. */
  plate?: string | null
  fit?: 'fill' | 'fit' | 'stretch'
  /** Per cent. */
  plateBright?: Animated<number>
  plateSaturation?: Animated<number>
  plateContrast?: Animated<number>
  plateTint?: Animated<Vec3>
}
/** Light that is drawn and not thrown: a disc with rays about something that shines, or a line. Shares per cent. */
export interface GlowDoc extends ElementBase {
  /** The layer that it is drawn in; without: the first, which is the picture. */
  layer?: string | null
  kind: 'disc' | 'line'
  /** An object, a system or a light; its place is from there. */
  follows: string | null
  which: 'middle' | 'oldest'
  place: AnimatedVec3
  /** A path or line. */
  along: string | null
  colour: Animated<Vec3>
  strength: Animated<number>
  /** m */
  size: Animated<number>
  core: Animated<number>
  halo: Animated<number>
  rays: number
  rayLength: Animated<number>
  rayWidth: Animated<number>
  rayTurn: Animated<number>
  uneven: Animated<number>
  width: Animated<number>
  spread: Animated<number>
  flicker: Animated<number>
  flickerRate: number
  hidden: Animated<number>
}
/** What of the picture lies in front: a drawn shape in the picture of a camera, that hides what is farther than its depth. */
export interface MaskDoc extends ElementBase {
  /** In the picture of this camera; null: of whichever the shot is seen through. */
  camera: string | null
  outline: Animated<Outline>
  /** All but what it goes around. */
  outside: boolean
  /** m along the way that the camera looks; null: that of what it follows. */
  depth: Animated<number> | null
  /** Per cent of the picture's height over which its edge fades. */
  feather: Animated<number>
  /** Per cent. */
  covers: Animated<number>
  /** An object with which it goes along in the picture, from where it was drawn at `since`, seconds. */
  follows: string | null
  since: number
}
/** A sky that is made by rule. Colours are linear radiance; angles degrees; shares per cent. */
export interface SkyDoc {
  zenith: Vec3
  horizon: Vec3
  ground: Vec3
  haze: number
  lights: number
  mirrored: number
  seed: number
  stars: number
  starLight: number
  twinkle: number
  disc: number
  azimuth: number
  height: number
  discColour: Vec3
  discLight: number
  phase: number
  halo: number
  clouds: number
  cloudColour: Vec3
  cloudSize: number
  drift: number
  curtains: number
  curtainColour: Vec3
  curtainTop: Vec3
  curtainHeight: number
  curtainSpeed: number
}
