import type * as THREE from 'three'
import type { BlendMode, Meshes, SpriteDrawing, TuftDrawing } from '../acts'
import type { Asker, Flame, Frame, LightMap, Machine, Part, TuftCells } from '../engine'
import type { Shot } from '../shot'
import type { Front } from './front'
import type { GasShade } from './gasShadow'
import type { Around } from './shades'

/** A picture as it is being drawn: opaque objects are in it already, with their depth. */
export interface DrawContext {
  renderer: THREE.WebGLRenderer
  camera: THREE.PerspectiveCamera
  shot: Shot
  frame: Frame
  meshes: Meshes
  /** Seconds from the first frame. */
  t: number
  width: number
  height: number
  /** Part of the particles that is drawn, 0 to 1. */
  share: number
  /** What is nearer to the lens than this fades, m. */
  near: number
  /** Seconds that particles are moved on by their velocity, and seconds of their way that is seen: of a shutter that is open. */
  shutter: readonly [ahead: number, slice: number]
  /** Radius in pixels of the circle that a point endlessly far becomes in one look through a lens that is focused endlessly near; and one over its focus. */
  lens: readonly [radius: number, nearness: number]
  /** The first light in the camera's space, and 1 for a place or 0 for a direction. */
  light: THREE.Vector4
  /** Linear, with premultiplied alpha; its depth buffer holds the opaque objects. */
  target: THREE.WebGLRenderTarget
  /** The depth of the opaque objects, to be sampled while drawing into another target. */
  depth: THREE.DepthTexture
  /** Kernels that compute pictures; null while they are on their way. */
  machine: Machine | null
  /** Asks kernels about particles; null while they are on their way. */
  asker: Asker | null
  /** Nothing is drawn that is farther than the camera's far plane, which is nearer than what is behind everything. */
  ends: boolean
  /** Gases are marched through by a shader, and not by kernels. */
  marchesOnGpu: boolean
  /** View depths of the opaque objects, m, a float a pixel from the lower left; 0 where nothing is. */
  depths(): Float32Array
  /** What each light of the shot sees of the objects; `around`: what must be seen, m. */
  lightMaps(around: { middle: readonly number[]; radius: number }): (LightMap | null)[]
  /** The picture of a look; null while it is on its way, and where there is none. */
  sprite(d: SpriteDrawing): Sheet | null
  /** The light of the tufts of a system, where it has some. */
  tufts(system: string): LitTufts | null
  /** What of the gases lies in front of places. */
  front: Front
  /** An empty target of the picture's size with the depth of the opaque objects, for what is composed before it goes over the picture; `white`: for what multiplies. */
  layer(white: boolean): THREE.WebGLRenderTarget
  /** How much of the layer covers, at the least in each block of BLOCK² pixels. */
  lookWhatIsCovered(): THREE.Texture
  /** Puts that layer over the picture. */
  compose(mode: BlendMode, white: boolean): void
}
/** Frames of a picture for particles. */
export interface Sheet {
  texture: THREE.Texture
  columns: number
  rows: number
  frames: number
  /** Width over height of a frame. */
  aspect: number
}
/** The light of tufts: writes what their shader reads; false when there is none. */
export interface LitTufts {
  /** `drawn`: by shaders, which want it as a texture; else for kernels, which take `cells`. */
  into(uniforms: Record<string, THREE.IUniform>, c: DrawContext, d: TuftDrawing, drawn: boolean): boolean
  /** What `into` has found last. */
  cells: LightCells | null
}
/** With the corner of those within, and the edge of a cell, m; around them lies one more. */
export interface LightCells extends TuftCells {
  size: readonly [number, number, number]
  low: readonly number[]
  cell: number
}
/** Draws one part of frames, over all of them; each element has its own. */
export interface Drawer<P extends Part = Part> {
  load(part: P): void
  draw(context: DrawContext): void
  dispose(): void
  /** Of what dims light softly: makes it ready before the objects are drawn, and gives the lights that it is for them. */
  prepare?(p: Prepare): Flame[]
  /** Where all of it is; null: there is none. */
  room?(shot: Shot, t: number, parts: readonly Part[]): Around | null
  /** Its shadow on the objects, in a picture of all that is `around`. */
  shade?(shot: Shot, t: number, around: Around): GasShade | null
}
/** What the objects of a picture are drawn after. */
export interface Prepare extends Pick<DrawContext, 'shot' | 'frame' | 'meshes' | 't' | 'share'> {
  machine: Machine
}
