import type { Animated, AnimatedVec3, Varied, Vec3 } from './animated'
import type { ElementBase } from './element'
import type { Curve, Ramp } from './ramp'
import type { CameraDoc, GlowDoc, LightDoc, MaskDoc, SkyDoc } from './staging'

/**
 * The version this code writes. Raised, with a migration, when what the version before wrote would be refused or read differently;
 * CONTRIBUTING.md has the rule.
 */
export const SHOT_VERSION = 10

/** One act as stored: its kind, an id, a seed of its own, whether it is muted, and its parameters beside them. */
export interface ActDoc {
  id: string
  kind: string
  seed: number
  muted?: boolean
  /** Of a force: where, when and on whom it acts. */
  limits?: ActDoc[]
  /** Of a turn, and of a group of conditions: what it waits for. */
  when?: ActDoc[]
  [param: string]: unknown
}
/** A fold of the list and nothing more. */
export interface FolderDoc {
  id: string
  name: string
}
/** A named amount per point of an object's surface, by steps in order. */
export interface RegionDoc {
  id: string
  name: string
  acts: ActDoc[]
}
/** A file's mesh: metres to one unit of the file, and which of its axes points up. */
export interface MeshShape {
  kind: 'mesh'
  asset: string
  unit: number
  up: 'y' | 'z'
  /** Further files of the same mesh, one a pose. */
  poses: string[]
  /** Poses a second. */
  rate: number
  /** How the motion of the file plays: when it begins (s), how fast, and what comes behind its end. */
  start: number
  speed: number
  after: 'hold' | 'repeat'
}
/** Letters with depth. */
export interface TextShapeDoc {
  kind: 'text'
  /** The id of a font that is shipped, or the hash of an asset. */
  font: string
  text: string
  size: number
  depth: number
  bevel: number
  rings: number
  spacing: number
  leading: number
  align: 'left' | 'middle' | 'right'
  detail: number
}
/** A drawing of filled outlines with depth. */
export interface OutlineShapeDoc {
  kind: 'outline'
  asset: string
  size: number
  depth: number
  bevel: number
  rings: number
  detail: number
}
/** A shape that is made from its numbers: the registry of primitives knows which. */
export interface PrimitiveShape {
  kind: 'box' | 'sphere' | 'line' | 'path' | 'disc' | 'ring' | 'tube' | 'cone' | 'torus'
  [param: string]: unknown
}
/** Anchor and group are only a place; a group holds other elements. */
export type Shape =
  | MeshShape
  | TextShapeDoc
  | OutlineShapeDoc
  | { kind: 'plane'; size: number; endless: boolean }
  | { kind: 'anchor' }
  | { kind: 'group' }
  | PrimitiveShape
export interface ObjectDoc extends ElementBase, Layered {
  shape: Shape
  /** The object that it is parented to: it takes over its place, rotation and scale. */
  parent: string | null
  place: AnimatedVec3
  rotate: AnimatedVec3
  scale: AnimatedVec3
  seen: Animated<boolean>
  shadow: boolean
  roles: { source: boolean; collider: boolean }
  /** As a collider: from which sides, and how far off its surface (m), particles are stopped. */
  sides: 'auto' | 'front' | 'both'
  thickness: Animated<number>
  /** Whether it turns to the camera, in the picture alone. */
  faces?: 'no' | 'camera' | 'upright'
  /** As a collider it is met exactly, or by a grid of distances with so many cells along its longest side. */
  metBy: 'faces' | 'grid'
  cells: number
  /** Moved by the simulation from a moment on; null: by its own values alone. */
  body: BodyDoc | null
  /** Steps that change its geometry, in order. */
  reshape: ActDoc[]
  /** Arrangements of copies of the reshaped geometry, each of all that the ones before it made. */
  copies: ActDoc[]
  regions: RegionDoc[]
  /** What it leaves behind as it moves. */
  offspring: ActDoc[]
  /** How the View shows it; renders show all of it. */
  shown: 'full' | 'wire' | 'box'
  material: {
    colour: Animated<Vec3>
    roughness: Animated<number>
    metal: Animated<number>
    glow: Animated<Vec3>
    /** m: how far up and down it seems to stand, in spots of so many metres. */
    bumps?: Animated<number>
    bumpSize?: Animated<number>
    /** The id of the look whose colours lie along an axis; noise moves them by so many per cent, in spots of so many metres, renewed so often a second. */
    ramp?: string | null
    along?: 'x' | 'y' | 'z'
    strays?: Animated<number>
    grain?: Animated<number>
    renewal?: Animated<number>
    /** %; without it, and without the others, all of it, as set here, on both sides. */
    opacity?: Animated<number>
    /** %, and what is clear: index of refraction, m, colour after 10 cm. */
    clear?: Animated<number>
    index?: Animated<number>
    thick?: Animated<number>
    tint?: Animated<Vec3>
    /** % */
    sheen?: Animated<number>
    values?: 'own' | 'file'
    faces?: 'both' | 'front'
    /** It is not seen: shadows and the light of effects on it lie on what is behind. */
    catches?: boolean
    /** It is not seen and hides all that is behind it, with an edge so soft: % of the picture's height. */
    cutsOut?: boolean
    cutSoft?: Animated<number>
  }
}
/** How an object is let go: seconds, m/s, degrees a second, metres, kilograms, per cent. */
export interface BodyDoc {
  at: number
  velocity: Vec3
  spin: Vec3
  inherit: number
  radius: number | null
  mass: number
  restitution: number
  friction: number
  rolling: number
}
export interface Section {
  movement: ActDoc[]
  contact: ActDoc[]
  offspring: ActDoc[]
  look: ActDoc[]
}
export interface PhaseDoc extends Section {
  id: string
  name: string
  /** Seconds over which its movement sets in. */
  blend: number
  /** Ways out of it, tried in their order. */
  turns: ActDoc[]
}
/** What may be drawn in a layer of its own. */
interface Layered {
  /** The layer that it is drawn in; without: the first, which is the picture. */
  layer?: string | null
}
export interface SystemDoc extends ElementBase, Layered {
  life: Varied
  /** Lives do not end by themselves. */
  endless: boolean
  /** Kilograms. */
  mass: Varied
  /** Per cent of the shot's time that goes by in it. */
  timeScale: Animated<number>
  /** Most particles alive at once. */
  limit: number
  birth: ActDoc[]
  whole: Section
  /** The object in whose space it simulates; null: the shot's. */
  space: string | null
  /** Where the simulated whole is put afterwards, in that space. */
  place: AnimatedVec3
  rotate: AnimatedVec3
  scale: AnimatedVec3
  copies: ActDoc[]
  phases: PhaseDoc[]
}
export interface ForceDoc extends ElementBase {
  act: ActDoc
  /** 'all', or the ids of the systems it reaches. */
  reaches: 'all' | string[]
  /** Per cent of it that systems feel; those that are not named feel all of it. */
  shares: { system: string; share: number }[]
}
/** How a grid of a gas becomes light and shade: values from 0 to `top` over 0 to 1. */
export interface ToneDoc {
  /** Density, kelvin over the air, or flame. */
  top: number
  /** Of what it drives, a factor; the first point is at 0 and stays 0: where nothing is, nothing is seen. */
  curve: Curve
  colour: Ramp
}
/** In the order of what a frame keeps of a gas. */
export const GAS_TONES = ['density', 'temperature', 'flame', 'dyeA', 'dyeB'] as const
export type GasTone = (typeof GAS_TONES)[number]
export interface GasDoc extends ElementBase, Layered {
  /** Edge of a voxel, m. */
  voxel: number
  /** Middle and size of the most room that it may take up, m. */
  place: Vec3
  size: Vec3
  openLeft: boolean
  openRight: boolean
  openBelow: boolean
  openAbove: boolean
  openBack: boolean
  openFront: boolean
  steps: number
  stepping: 'speed' | 'fixed'
  timeScale: Animated<number>
  /** Finer cells along the edge of a voxel, 1: none; and how strong the eddies are that are made up for them, per cent. */
  detail: number
  /** Where the detail is computed. */
  detailIn: 'renders' | 'view'
  eddies: Animated<number>
  /** An object with which its room goes along. */
  rides: string | null
  /** What comes into it, and what leaves. */
  feeds: ActDoc[]
  /** Forces, and how it flows. */
  motion: ActDoc[]
  burning: ActDoc[]
  look: ActDoc[]
  tones: { [K in GasTone]: ToneDoc }
}
/** Elements that are drawn together, go over what lies before them in the list, and have finishes of their own. The first is the picture. */
export interface LayerDoc extends ElementBase {
  finish: ActDoc[]
  blend: 'over' | 'add' | 'screen' | 'multiply'
  opacity: Animated<number>
  /** At the depth of an element; null: over everything. */
  lies: string | null
  cut: 'none' | 'outline' | 'object' | 'layer'
  cutMask: string | null
  cutObject: string | null
  cutLayer: string | null
  cutOutside: boolean
  /** Per cent of the picture's height. */
  cutFeather: Animated<number>
}
export interface LookDoc {
  id: string
  name: string
  /** Over the particle's life, 0 to 1. */
  colour: Ramp
  /** Factor on the size. */
  size: Curve
  /** 0 to 1. */
  opacity: Curve
}
/** A value of the artist's own that many others follow. */
export interface ControlDoc extends ElementBase {
  value: Animated<number>
  /** Shown behind the number; has no effect. */
  unit: string
}
export interface AssetRef {
  /** SHA-256, lower-case hex */
  hash: string
  name: string
}
export interface Shot {
  version: typeof SHOT_VERSION
  name: string
  /** frames per second as num/den */
  rate: { num: number; den: number }
  range: { first: number; last: number }
  /** The frame at which the shot opens; null is the first. */
  opens: number | null
  size: { width: number; height: number }
  seed: number
  substeps: number
  /** Seconds that the simulation has run already at the first frame. */
  warm: number
  /** The range plays again and again: its last frame leads to its first. Over so many seconds before the end, what does not come around by itself goes over into the beginning. */
  loop: { cross: number } | null
  surroundings: { colour: Vec3; light: Animated<Vec3>; sky?: SkyDoc | null }
  /** id of the shot's camera */
  camera: string
  objects: ObjectDoc[]
  systems: SystemDoc[]
  forces: ForceDoc[]
  gases: GasDoc[]
  lights: LightDoc[]
  cameras: CameraDoc[]
  glows: GlowDoc[]
  masks: MaskDoc[]
  layers: LayerDoc[]
  controls: ControlDoc[]
  folders: FolderDoc[]
  shared: { looks: LookDoc[] }
  assets: AssetRef[]
}
export const GROUPS = ['objects', 'systems', 'gases', 'forces', 'lights', 'glows', 'cameras', 'masks', 'controls', 'layers'] as const
export type Group = (typeof GROUPS)[number]
export type ElementDoc = ObjectDoc | SystemDoc | GasDoc | ForceDoc | LightDoc | CameraDoc | GlowDoc | MaskDoc | LayerDoc | ControlDoc

/** Frames after which a shot that loops begins again; null: it does not. */
export const loopFrames = (shot: Pick<Shot, 'loop' | 'range'>): number | null => (shot.loop ? shot.range.last - shot.range.first + 1 : null)
/** The same in seconds. */
export const loopSeconds = (shot: Pick<Shot, 'loop' | 'range' | 'rate'>): number | null => {
  const frames = loopFrames(shot)
  return frames && (frames * shot.rate.den) / shot.rate.num
}
/** A moment of a shot that loops within its first time around. */
export function loopedTime(shot: Pick<Shot, 'loop' | 'range' | 'rate'>, t: number): number {
  const all = loopSeconds(shot)
  return all && (t < 0 || t >= all) ? t - Math.floor(t / all) * all : t
}
/** Seconds from the shot's first frame. */
export const timeOf = (shot: Pick<Shot, 'rate' | 'range'>, frame: number): number =>
  ((frame - shot.range.first) * shot.rate.den) / shot.rate.num
export const frameAt = (shot: Pick<Shot, 'rate' | 'range'>, t: number): number => (t * shot.rate.num) / shot.rate.den + shot.range.first
/** The frame that a shot is opened with. */
export const openingFrame = ({ range, opens }: Pick<Shot, 'range' | 'opens'>): number =>
  Math.min(range.last, Math.max(range.first, opens ?? range.first))
export const framesPerSecond = (shot: Pick<Shot, 'rate'>): number => shot.rate.num / shot.rate.den

/** An element with its group and its place in it: what is known of the one says what the other is. */
export type FoundElement = { [G in Group]: { group: G; index: number; element: Shot[G][number] } }[Group]
export function findElement(shot: Shot, id: string): FoundElement | null {
  for (const group of GROUPS) {
    const index = shot[group].findIndex((e) => e.id === id)
    if (index >= 0) return { group, index, element: shot[group][index] } as FoundElement
  }
  return null
}
export const SECTIONS = ['movement', 'contact', 'offspring', 'look'] as const satisfies readonly (keyof Section)[]
export type SectionName = (typeof SECTIONS)[number]
/** All sections of a system: of the whole life, then of each phase. */
export const sectionsOf = (system: SystemDoc): Section[] => [system.whole, ...system.phases]
/** The section of a system under an id of a phase, or under 'whole'. */
export const sectionAt = (system: SystemDoc, where: string): Section | undefined =>
  where === 'whole' ? system.whole : system.phases.find((p) => p.id === where)
/** Acts of one kind of section, of the whole life and of all phases, in the order the engine takes them. */
export const actsIn = (system: SystemDoc, ...names: SectionName[]): ActDoc[] =>
  sectionsOf(system).flatMap((s) => names.flatMap((name) => s[name]))
/** The acts that draw a particle in a phase, by its place among the phases. */
export const looksIn = (system: SystemDoc, phase: number): ActDoc[] => [...system.whole.look, ...(system.phases[phase]?.look ?? [])]
/** Every act of a system in the order the engine takes them. */
export const actsOf = (system: SystemDoc): ActDoc[] => [
  ...system.birth,
  ...sectionsOf(system).flatMap((s) => [...SECTIONS.flatMap((name) => s[name]), ...('turns' in s ? (s as PhaseDoc).turns : [])]),
]
export const newId = (prefix: string): string => `${prefix}-${globalThis.crypto.randomUUID().slice(0, 8)}`
export const newSeed = (): number => globalThis.crypto.getRandomValues(new Uint32Array(1))[0]
