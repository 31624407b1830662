import { create } from 'zustand'
import { tieShot } from '../acts'
import type { SystemStats } from '../engine'
import type { AssetFacts, SimStatus } from '../hosts/browser/messages'
import type { Particle } from '../hosts/browser/questions'
import { findElement, type Shot } from '../shot'
import type { Pose } from '../stage/camera'
import { begin, change, redo, type Timeline, undo } from './history'
import type { SaveState } from './saver'
import type { Session } from './session'

export type Tab = 'life' | 'keys' | 'charts' | 'particle' | 'renders'
export interface Drawn {
  frame: number
  serial: number
  /** The newest question of the page that the picture answers. */
  asked: number
  ready: boolean
  /** Carried on from an earlier state with the changed shot; not exact. */
  sketch: boolean
  scale: number
  share: number
  alive: number
  ms: number
  width: number
  height: number
}
export interface Studio {
  id: string
  project: { id: string; name: string }
  line: Timeline<Shot>
  save: SaveState
  /** Selected element. */
  selected: string | null
  /** The region that the View draws over its object. */
  region: { object: string; id: string } | null
  /** The picked point of the selected path. */
  point: number | null
  /** The path that is being drawn; `anew`: its first click begins it again. */
  drawing: { object: string; anew: boolean } | null
  /** The painted step whose brush is taken up. */
  brush: string | null
  /** What a click in the View is for, instead of selecting: words, and what to do with the element. */
  picking: { words: string; take: (id: string) => string | null } | null
  /** The particle that is looked at, and what is known of it; `choosing`: the next click in the View picks one. */
  particle: { system: string; id: number } | null
  known: Particle | null
  choosing: boolean
  /** The acceleration that the View draws: on a plane across its middle, or in a box. */
  field: 'plane' | 'box' | 'trails' | 'slice' | null
  /** metres across */
  brushSize: number
  /** 0 to 1 */
  brushStrength: number
  /** The card that is open, by act id or a name of the board's own. */
  open: string | null
  tab: Tab
  folded: boolean
  boardHeight: number
  /** The board stands beside the View instead of under it. */
  beside: boolean
  boardWidth: number
  viewOnly: boolean
  playing: boolean
  loop: boolean
  /** Plays every frame, however long it takes, instead of at true speed. */
  everyFrame: boolean
  /** Elements that the View looks at alone, each in its own group. */
  solo: ReadonlySet<string>
  /** Births in the View times this; never saved, never rendered. */
  boost: number
  playhead: number
  /** The View's own camera, or null: through the shot's. */
  pose: Pose | null
  overlays: boolean
  status: SimStatus | null
  drawn: Drawn | null
  /** How many questions went to the stage. */
  asked: number
  stats: Record<string, SystemStats>
  /** Ages 0..1 of some living particles, for the life strip. */
  ages: Record<string, Float32Array>
  facts: Record<string, AssetFacts>
  threads: { count: number; why: string | null } | null
  failure: string | null
  contextLost: boolean
  /** The browser draws without a GPU: repainting the page competes with the picture. */
  software: boolean
  toast: { text: string; bad?: boolean; id: number } | null
  session: Session | null
  dialog: 'render' | 'palette' | 'shortcuts' | 'versions' | null
}
const initial: Studio = {
  id: '',
  project: { id: '', name: '' },
  line: null as unknown as Timeline<Shot>,
  save: { kind: 'saved', at: '' },
  selected: null,
  region: null,
  point: null,
  drawing: null,
  brush: null,
  picking: null,
  particle: null,
  known: null,
  choosing: false,
  field: null,
  brushSize: 0.15,
  brushStrength: 0.5,
  open: null,
  tab: 'life',
  folded: false,
  boardHeight: 324,
  beside: false,
  boardWidth: 372,
  viewOnly: false,
  playing: false,
  loop: true,
  everyFrame: false,
  solo: new Set(),
  boost: 1,
  playhead: 0,
  pose: null,
  overlays: true,
  status: null,
  drawn: null,
  asked: 0,
  stats: {},
  ages: {},
  facts: {},
  threads: null,
  failure: null,
  contextLost: false,
  software: false,
  toast: null,
  session: null,
  dialog: null,
}
export const useStudio = create<Studio>(() => initial)
export const studio = useStudio.getState
export const setStudio = useStudio.setState

/** What happens on every change of the document; set by the page that is open. */
let onChange: (shot: Shot) => void = () => {}
export const watchShot = (f: (shot: Shot) => void): void => {
  onChange = f
}
export const useShot = <T>(pick: (s: Shot) => T): T => useStudio((s) => pick(s.line.now))
export const shotNow = (): Shot => studio().line.now

export function loadStudio(id: string, project: Studio['project'], shot: Shot): void {
  tieShot(shot)
  const keep = studio()
  setStudio({
    ...initial,
    boardHeight: keep.boardHeight,
    boardWidth: keep.boardWidth,
    beside: keep.beside,
    folded: keep.folded,
    id,
    project,
    line: begin(shot),
    playhead: Math.min(shot.range.last, Math.max(shot.range.first, shot.opens ?? shot.range.first)),
    selected: shot.systems[0]?.id ?? shot.objects[0]?.id ?? null,
  })
}
function take(line: Timeline<Shot>): void {
  if (line === studio().line) return
  tieShot(line.now)
  const { selected, solo } = studio()
  if ([...solo].some((id) => !findElement(line.now, id))) setStudio({ solo: new Set([...solo].filter((id) => findElement(line.now, id))) })
  setStudio({
    line,
    selected: selected && findElement(line.now, selected) ? selected : null,
    playhead: Math.min(line.now.range.last, Math.max(line.now.range.first, studio().playhead)),
  })
  onChange(line.now)
}
/** The only way to change the shot. `gesture` joins the changes of one drag or one typing into one step of undo. */
export function edit(label: string, recipe: (shot: Shot) => void, gesture: string | null = null): void {
  take(change(studio().line, label, recipe, gesture))
}
export function undoStep(): void {
  const step = studio().line.past.at(-1)
  if (!step) return
  take(undo(studio().line))
  toast(`Undone: ${step.label}`)
}
export function redoStep(): void {
  const step = studio().line.future[0]
  if (!step) return
  take(redo(studio().line))
  toast(`Done again: ${step.label}`)
}
let toasts = 0
export function toast(text: string, bad = false): void {
  setStudio({ toast: { text, bad, id: ++toasts } })
}
export function select(id: string | null): void {
  if (studio().selected !== id)
    setStudio({
      selected: id,
      open: shotNow().forces.find((f) => f.id === id)?.act.id ?? null,
      point: null,
      drawing: null,
      ...(studio().region?.object === id ? {} : { region: null, brush: null }),
    })
}
export function setPlayhead(frame: number): void {
  const { first, last } = shotNow().range
  const f = Math.min(last, Math.max(first, Math.round(frame)))
  if (f === studio().playhead) return
  setStudio({ playhead: f })
  studio().session?.show(f)
}
