import type { Shot } from '../shot'
import type { Pose } from './camera'

/** From the page to the stage worker. */
export type ToStage =
  | { type: 'init'; canvas: OffscreenCanvas; sim: MessagePort }
  | { type: 'shot'; shot: Shot }
  /** The View's own camera, or null for the shot's; the picture's size in device pixels. */
  | { type: 'view'; pose: Pose | null; width: number; height: number }
  /** Whether the picture is in motion: playing, orbiting, a value being dragged. */
  | { type: 'moving'; moving: boolean }
  | { type: 'pick'; id: number; x: number; y: number }
  /** A small JPEG of the present frame through the shot's camera. */
  | { type: 'picture'; id: number; width: number; height: number }
  /** Loses the WebGL context on purpose, to try the recovery. */
  | { type: 'lose' }
export type FromStage =
  | { type: 'ready'; software: boolean }
  | { type: 'drawn'; frame: number; ready: boolean; sketch: boolean; ms: number; scale: number; share: number; width: number; height: number; alive: number }
  | { type: 'picked'; id: number; element: string | null }
  | { type: 'picture'; id: number; jpeg: Blob | null }
  | { type: 'context'; lost: boolean }
  | { type: 'failed'; message: string }
