import type { Shot } from '../shot'
import type { Pose } from './camera'

/** How a column of the board sees an object: its shape from the side, its place from above, its surface, its births, one of its regions. */
export type PortraitView = 'shape' | 'place' | 'material' | 'role' | 'region'

/** From the page to the stage worker. `asked` counts what can change the picture; `drawn` says how far it has come. */
export type ToStage =
  | { type: 'init'; canvas: OffscreenCanvas; sim: MessagePort }
  | { type: 'shot'; shot: Shot; asked: number }
  /** The View's own camera, or null for the shot's; the picture's size in device pixels. */
  | { type: 'view'; pose: Pose | null; width: number; height: number; asked: number }
  /** Whether the picture is in motion: playing, orbiting, a value being dragged. */
  | { type: 'moving'; moving: boolean }
  /** The region that the View draws over its object, or none. */
  | { type: 'region'; object: string | null; region: string | null; asked: number }
  /** Where the brush meets an object. */
  | { type: 'brush'; id: number; element: string; x: number; y: number }
  | { type: 'pick'; id: number; x: number; y: number }
  /** A small JPEG of the present frame through the shot's camera. */
  | { type: 'picture'; id: number; width: number; height: number }
  /** One object alone, small, for a column of the board. */
  | { type: 'portrait'; id: number; element: string; view: PortraitView; region: string | null; width: number; height: number }
  /** Loses the WebGL context on purpose, to try the recovery. */
  | { type: 'lose' }
export type FromStage =
  | { type: 'ready'; software: boolean }
  | {
      type: 'drawn'
      frame: number
      serial: number
      asked: number
      ready: boolean
      sketch: boolean
      ms: number
      scale: number
      share: number
      width: number
      height: number
      alive: number
    }
  | { type: 'picked'; id: number; element: string | null }
  | { type: 'brushed'; id: number; hit: { place: [number, number, number]; at: [number, number, number]; scale: number } | null }
  | { type: 'picture'; id: number; jpeg: Blob | null }
  | { type: 'portrait'; id: number; image: ImageBitmap | null }
  | { type: 'context'; lost: boolean }
  | { type: 'failed'; message: string }
