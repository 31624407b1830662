import type { SystemStats } from '../../engine'
import type { NumberTable } from '../../formats/table/camera'
import type { AssetFacts, Drawn, Fits, FromSim, Particle, Pose, SimStatus } from '../../protocol'
import type { GasTone, Outline, Shot, Vec3 } from '../../shot'
import type { Bake } from '../api'
import type { Timeline } from '../history'
import type { SaveState } from '../saver'
import type { Session } from '../session'

/** The shot that is open, with its history. */
export interface DocumentState {
  id: string
  project: { id: string; name: string }
  line: Timeline<Shot>
  save: SaveState
  /** What was baked of it, the latest first. */
  bakes: Bake[]
}
/** What is chosen, and what a click in the View is for. */
export interface SelectionState {
  /** Selected element. */
  selected: string | null
  /** The card that is open, by act id or a name of the board's own. */
  open: string | null
  /** The region that the View draws over its object. */
  region: { object: string; id: string } | null
  /** The picked point of the selected path. */
  point: number | null
  /** The path that is being drawn; `restart`: its first click begins it again. */
  drawing: { object: string; restart: boolean } | null
  /** The mask whose outline is being drawn in the View, null for one to come, and its corners so far. */
  outlining: { mask: string | null; corners: Outline } | null
  /** The painted step whose brush is taken up. */
  brush: string | null
  /** metres across */
  brushSize: number
  /** 0 to 1 */
  brushStrength: number
  /** What a click in the View is for, instead of selecting: words, and what to do with the element. */
  picking: { words: string; take: (id: string) => string | null } | null
  /** The particle that is looked at, and what is known of it; `choosing`: the next click in the View picks one. */
  particle: { system: string; id: number } | null
  known: Particle | null
  choosing: boolean
  /** The turn that is tried out while its card is open, and who would take it in the frame that is shown. */
  trial: string | null
  fits: Fits | null
}
/** How the View looks at the shot. */
export interface ViewState {
  /** The View's own camera, or null: through the shot's. */
  pose: Pose | null
  /** Another view beside the View, through the shot's camera or from elsewhere; or of a bake, from where the View looks. */
  second: { pose: Pose | null; bake?: string } | null
  /** What is cut off at white or below nothing is marked. */
  marks: boolean
  overlays: boolean
  /** Frames within which the picture is safe on every screen, through the shot's camera. */
  safe: boolean
  /** Places of a distance that is measured: none yet, one, or both; null: none is. */
  measure: Vec3[] | null
  /** The acceleration that the View draws: on a plane across its middle, or in a box. */
  field: 'plane' | 'box' | 'trails' | 'slice' | null
  /** Which grid of a gas the strip and the slice show; and how far behind its middle the slice lies, in halves of its depth. */
  tone: GasTone
  sliceAt: number
  /** Elements that the View looks at alone, each in its own group. */
  solo: ReadonlySet<string>
  /** Births in the View times this; never saved, never rendered. */
  boost: number
}
export type Tab = 'life' | 'keys' | 'charts' | 'particle' | 'bakes' | 'renders'
/** How the page is laid out. */
export interface LayoutState {
  tab: Tab
  folded: boolean
  boardHeight: number
  /** The board stands beside the View instead of under it. */
  beside: boolean
  boardWidth: number
  viewOnly: boolean
  /** A render that is compared with another. */
  compared: string | null
  dialog: 'render' | 'palette' | 'shortcuts' | 'versions' | 'shot' | 'tracked' | 'preview' | null
  /** A table of a camera that was brought in and waits to be taken. */
  cameraTable: { name: string; table: NumberTable } | null
}
export interface PlaybackState {
  playhead: number
  playing: boolean
  loop: boolean
  /** Plays every frame, however long it takes, instead of at true speed. */
  everyFrame: boolean
}
/** What the workers say. */
export interface RunState {
  session: Session | null
  status: SimStatus | null
  drawn: Drawn | null
  /** How many changes of the picture went to the stage. */
  revision: number
  stats: Record<string, SystemStats>
  /** Ages 0..1 of some living particles, for the life strip. */
  ages: Record<string, Float32Array>
  facts: Record<string, AssetFacts>
  threads: { count: number; why: string | null } | null
  failure: string | null
  contextLost: boolean
  /** There is no picture of the shot to be shown until its first frame is drawn. */
  posterless: boolean
  /** The exact picture of an earlier opening that the View shows until its own is there. */
  kept: string | null
  /** What draws; empty until it has said so. */
  build: string
  /** What the bake has that the second view shows. */
  bakeBeside: Extract<FromSim, { type: 'beside' }> | null
  /** The browser draws without a GPU: repainting the page competes with the picture. */
  software: boolean
}
export type Studio = DocumentState & SelectionState & ViewState & LayoutState & PlaybackState & RunState

const selection: SelectionState = {
  selected: null,
  open: null,
  region: null,
  point: null,
  drawing: null,
  outlining: null,
  brush: null,
  brushSize: 0.15,
  brushStrength: 0.5,
  picking: null,
  particle: null,
  known: null,
  choosing: false,
  trial: null,
  fits: null,
}
const view: ViewState = {
  pose: null,
  second: null,
  marks: false,
  overlays: true,
  safe: false,
  measure: null,
  field: null,
  tone: 'density',
  sliceAt: 0,
  solo: new Set(),
  boost: 1,
}
const layout: LayoutState = {
  tab: 'life',
  folded: false,
  boardHeight: 324,
  beside: false,
  boardWidth: 372,
  viewOnly: false,
  compared: null,
  dialog: null,
  cameraTable: null,
}
const playback: PlaybackState = { playhead: 0, playing: false, loop: true, everyFrame: false }
const run: RunState = {
  session: null,
  status: null,
  drawn: null,
  revision: 0,
  stats: {},
  ages: {},
  facts: {},
  threads: null,
  failure: null,
  contextLost: false,
  posterless: false,
  kept: null,
  build: '',
  bakeBeside: null,
  software: false,
}
/** Before a shot is open there is none: nothing of the page that reads it is shown then. */
const noDocument = { id: '', project: { id: '', name: '' }, save: { kind: 'saved', at: '' }, bakes: [] } as unknown as DocumentState
export const initial: Studio = { ...noDocument, ...selection, ...view, ...layout, ...playback, ...run }
