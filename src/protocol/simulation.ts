import type { Apart, Bounds, MeshPart, Notice, StoredGridFacts, SystemStats } from '../engine'
import type { Shot } from '../shot'
import type { Answer, Question } from './questions'
import type { Outcome } from './requests'

/** From the page to the simulation worker. */
export type ToSim =
  | { type: 'init'; threads: number; stage: MessagePort; wasm: string; historyBytes: number }
  /** Forgets the shot, for another one; `ready` answers when what was under way is done. What it computes with stays, and so do its threads. */
  | { type: 'again'; stage: MessagePort }
  /** `change` counts the shots; `taken` answers with it. */
  | { type: 'shot'; shot: Shot; change: number }
  /** The shot as it is stored, while the page is still being put together: what the View will show of it at first. */
  | { type: 'ahead'; shot: Shot; bakes: BakeHead[] }
  /** Shows a frame as soon as there is one, and computes around it first. */
  | { type: 'show'; frame: number }
  /** The bakes of the shot, the latest first. */
  | { type: 'bakes'; bakes: BakeHead[] }
  /** Of which bake frames go to the stage beside those of the shot; null: of none. */
  | { type: 'beside'; bake: string | null }
  | { type: 'ask'; id: number; question: Question }
  /** Nobody waits for its answer any more. */
  | { type: 'cancel'; id: number }
export interface AssetFacts {
  bounds: Bounds
  parts: MeshPart[]
  triangles: number
  closed: boolean
  /** Seconds that the file's own motion takes; 0 without one. */
  lengthS: number
  tinted: boolean
  /** Of a file of volumes. */
  grids?: readonly StoredGridFacts[]
}
/** A bake of the shot, and the frames of it that are there. */
export interface BakeHead {
  id: string
  frames: number[]
  /** Of which systems and gases it is; none: of all. */
  elements: readonly string[]
  /** Made by another version: not used. */
  old: boolean
}
export interface SimStatus {
  /** One letter a frame from the first on: r ready, o out of date, - none. */
  beads: string
  first: number
  /** Frame being computed, or null when all is ready. */
  computing: number | null
  /** A warm start that is being computed: seconds done, and all of them; null otherwise. */
  warm: { done: number; of: number } | null
  /** Milliseconds that recent frames took. */
  frameMs: number
  historyBytes: number
  worldBytes: number
  threads: number
  notices: Notice[]
  problems: { element: string; message: string }[]
  /** Of a shot that loops: how far the frame after its last is from its first; null while it is not known. */
  ends: Apart | null
  /** Of each bake, the first frame that is not as the shot is now; null: all are. */
  bakes: Record<string, number | null>
  /** The bakes of single elements whose elements are not computed, but taken from there. */
  apart: string[]
}
export type FromSim =
  | { type: 'ready'; threads: number; memory: WebAssembly.Memory | null; why: string | null }
  | { type: 'status'; status: SimStatus }
  /** `sketch`: carried on from an earlier state with the changed shot; not exact. */
  | {
      type: 'shown'
      frame: number
      serial: number
      ready: boolean
      sketch: boolean
      stats: Record<string, SystemStats>
      ages: Record<string, Float32Array>
    }
  /** What a bake has of the frame that is shown: how many particles, and how many there are now; null: it lacks the frame. */
  | { type: 'beside'; bake: string; frame: number; alive: { bake: number; now: number } | null }
  /** The frame that was handed over with this number, and all before it, are out of date. */
  | { type: 'stale'; serial: number }
  /** The run follows the shot of this number: what is out of date has been said. */
  | { type: 'taken'; change: number }
  | { type: 'assets'; facts: [string, AssetFacts][] }
  | { type: 'settled'; id: number; outcome: Outcome<Answer> }
  | { type: 'failed'; message: string }
