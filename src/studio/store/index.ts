import { create } from 'zustand'
import { tieShot } from '../../acts'
import { findElement, openingFrame, type Shot } from '../../shot'
import { begin, change, redo, type Timeline, undo } from '../history'
import { toast } from '../toast'
import { initial, type Studio } from './state'

export type { Studio, Tab } from './state'

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

/** Opens a shot. How the page is laid out stays. */
export function loadStudio(id: string, project: Studio['project'], shot: Shot): void {
  tieShot(shot)
  const { boardHeight, boardWidth, beside, folded } = studio()
  const playhead = openingFrame(shot)
  const selected = shot.systems[0]?.id ?? shot.objects[0]?.id ?? null
  setStudio({ ...initial, boardHeight, boardWidth, beside, folded, id, project, line: begin(shot), playhead, selected })
}
function setTimeline(line: Timeline<Shot>): void {
  if (line === studio().line) return
  tieShot(line.now)
  const isThere = (id: string) => findElement(line.now, id) !== null
  const { selected, solo, playhead } = studio()
  const { first, last } = line.now.range
  setStudio({
    line,
    selected: selected && isThere(selected) ? selected : null,
    playhead: Math.min(last, Math.max(first, playhead)),
    ...([...solo].every(isThere) ? {} : { solo: new Set([...solo].filter(isThere)) }),
  })
  onChange(line.now)
}
/** The only way to change the shot. `gesture` joins the changes of one drag or one typing into one step of undo. */
export function edit(label: string, recipe: (shot: Shot) => void, gesture: string | null = null): void {
  setTimeline(change(studio().line, label, recipe, gesture))
}
export function undoStep(): void {
  const step = studio().line.past.at(-1)
  if (!step) return
  setTimeline(undo(studio().line))
  toast(`Undone: ${step.label}`)
}
export function redoStep(): void {
  const step = studio().line.future[0]
  if (!step) return
  setTimeline(redo(studio().line))
  toast(`Redone: ${step.label}`)
}
export function select(id: string | null): void {
  if (studio().selected === id) return
  const open = shotNow().forces.find((f) => f.id === id)?.act.id ?? null
  setStudio({
    selected: id,
    open,
    point: null,
    drawing: null,
    outlining: null,
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
