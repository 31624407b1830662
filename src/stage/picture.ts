import type { FinishView, Meshes } from '../acts'
import type { Asker, Frame, Machine } from '../engine'
import type { Pose, Shot } from '../shot'
import type { DrawContext } from './drawer'

export interface Picture {
  /** seconds from the first frame */
  t: number
  /** Of a frame before the first of a loop, which one: its time is that of the loop. */
  frame?: number
  pose: Pose
  width: number
  height: number
  /** Part of the particles that is drawn, 0 to 1, picked by hash. */
  share: number
  /** Samples per pixel at the edges of objects. */
  samples: number
  transparent: boolean
  /** Through the shot's camera: with the plate behind it. */
  through?: boolean
  /** Of another view that is drawn by turns with the first. */
  second?: boolean
  /** From one place of the lens: its picture is gathered with those from the places before. Without: all is sharp. */
  lens?: number
  /** What lingers of it is kept for frames to come; exact: and takes only what is as exact as itself of those before. Without: it takes what is there. */
  lingers?: 'exact' | 'rough'
  /** It goes into a file: the same whatever was drawn before. */
  final?: boolean
  /** What is cut off at white or below nothing gets stripes. */
  marks?: boolean
  /** With what only the View shows: wires, boxes, the chosen region. */
  editing?: boolean
}
/** What a picture is painted of: a shot with its lights where they stand, and the part of the particles that is shown. */
export interface Painted {
  p: Picture
  shutter: DrawContext['shutter']
  lens: DrawContext['lens']
  /** It is one look of several. */
  gathers: boolean
  shot: Shot
  meshes: Meshes
  view: FinishView
  /** Which of the lights shine, where not all do. */
  lit: string
  frame: Frame | null
  shown: number
  machine: Machine | null
  asker: Asker | null
  marchesOnGpu: boolean
}
