import type { Frame, Mesh } from '../engine'
import type { Pose, Shot, Vec3 } from '../shot'
import type { Outcome } from './requests'

/** How a column of the board sees an object: its shape from the side, its place from above, its surface, its births, one of its regions. */
export type PortraitView = 'shape' | 'place' | 'material' | 'role' | 'region'
export interface BrushHit {
  /** In the object's own space before its points are moved, m. */
  place: Vec3
  /** In the shot, m. */
  at: Vec3
  /** Metres of the shot in one of the object's own. */
  scale: number
}

/** What the page may ask of the stage. Points of the picture: −1…1, y up. */
export type StageRequest =
  /** The element under a point. */
  | { what: 'pick'; x: number; y: number }
  /** Where the brush meets an object; null beside it. */
  | { what: 'brush'; element: string; x: number; y: number }
  /** A small JPEG of the present frame through the shot's camera. */
  | { what: 'picture'; width: number; height: number }
  /** One object alone, small, for a column of the board; null when it has no geometry. */
  /** The light of the present frame as the View sees it. */
  | { what: 'scope'; width: number; height: number }
  /** A JPEG of any frame through the shot's camera, as the View draws in motion. */
  | { what: 'preview'; frame: number; width: number; height: number }
  /** The light under a point of the View. */
  | { what: 'values'; x: number; y: number }
  | { what: 'portrait'; element: string; view: PortraitView; region: string | null; width: number; height: number }
/** Light of a picture, RGBA with premultiplied alpha, the top row first. */
export interface Scope {
  width: number
  height: number
  /** Before the finishes of the picture, and after them, as yet without its tone curve. */
  before: Float32Array
  after: Float32Array
}
/** Light of a pixel, RGBA with premultiplied alpha: before the finishes of the picture, and after them, as yet without its tone curve. */
export interface PixelLight {
  before: number[]
  after: number[]
}
interface StageAnswers {
  pick: string | null
  brush: BrushHit | null
  picture: Blob
  preview: Blob
  portrait: ImageBitmap | null
  scope: Scope | null
  values: PixelLight | null
}
export type StageAnswerTo<R extends StageRequest> = StageAnswers[R['what']]

/** `baked`: it shows the frame of a bake, once that has come. */
export interface SecondView {
  pose: Pose | null
  width: number
  height: number
  baked: boolean
}
/** From the page to the stage worker. `revision` counts what can change the picture; `drawn` says how far it has come. */
export type ToStage =
  | { type: 'init'; canvas: OffscreenCanvas; sim: MessagePort; wasm: string; threads: number }
  /** Forgets the shot, for another one; `ready` answers. The canvas stays, and so do programs and kernels. */
  | { type: 'again'; sim: MessagePort }
  /** The shot as it is stored, while the page is still being put together. */
  | { type: 'ahead'; shot: Shot }
  | { type: 'shot'; shot: Shot; revision: number }
  /** The View's own camera, or null for the shot's; the picture's size in device pixels. */
  | { type: 'view'; pose: Pose | null; width: number; height: number; revision: number }
  /** Another view beside it, drawn along with each of its pictures, into a canvas that comes with the first; null: no longer. */
  | { type: 'second'; view: SecondView | null; canvas: OffscreenCanvas | null; revision: number }
  /** Whether the picture is in motion: playing, orbiting, a value being dragged. */
  | { type: 'moving'; moving: boolean }
  /** The region that the View draws over its object, or none. */
  | { type: 'region'; object: string | null; region: string | null; revision: number }
  /** Whether what is cut off at white or below nothing is marked. */
  | { type: 'marks'; on: boolean; revision: number }
  /** Draws the objects alone while there is no frame yet. */
  | { type: 'objects' }
  | { type: 'ask'; id: number; request: StageRequest }
  /** Loses the WebGL context on purpose, to try the recovery. */
  | { type: 'lose' }
/** A picture that was drawn. */
export interface Drawn {
  frame: number
  /** Of the frame, as it was handed over. */
  serial: number
  /** The newest revision that it shows. */
  revision: number
  ready: boolean
  /** Carried on from an earlier state with the changed shot; not exact. */
  sketch: boolean
  ms: number
  scale: number
  share: number
  width: number
  height: number
  alive: number
  /** Strips of trails and links; these are thinned by the share, particles not below what `shownOf` says. */
  lines: number
  /** Of a lens that is open: places that it was looked from, of as many. */
  lens?: { done: number; of: number }
  /** Of systems that are drawn as bodies, by id: faces of all bodies, and as many as were drawn of them. */
  faces: Record<string, { whole: number; drawn: number }>
}
export type FromStage =
  /** `build`: what draws; pictures that are kept are those of one build. */
  | { type: 'ready'; software: boolean; build: string }
  | ({ type: 'drawn' } & Drawn)
  | { type: 'settled'; id: number; outcome: Outcome<StageAnswers[keyof StageAnswers]> }
  | { type: 'context'; lost: boolean }
  | { type: 'failed'; message: string }

/** From the simulation worker straight to the stage worker. */
export type SimToStage =
  /** `serial` counts the frames handed over; the stage says with it what it has drawn. */
  | { type: 'frame'; frame: Frame; ready: boolean; sketch: boolean; serial: number }
  /** The frame that was sent last is out of date. */
  | { type: 'stale' }
  | { type: 'meshes'; meshes: [string, Mesh][] }
  /** A frame that the stage has asked for. */
  | { type: 'earlier'; frame: Frame }
  /** The frame of a bake for the second view; null: there is none. */
  | { type: 'beside'; frame: Frame | null }
/** From the stage worker to the simulation worker. */
export type StageToSim =
  | { type: 'earlier'; frame: number }
  /** A sharp picture of the frame that was handed over with this number, or a later one, is there. */
  | { type: 'sharp'; serial: number }
