import { applyPatches, enablePatches, type Patch, produceWithPatches } from 'immer'

enablePatches()

/** One step that undo takes back: a whole gesture, however many changes it made. */
export interface Step {
  label: string
  gesture: string | null
  patches: Patch[]
  inverse: Patch[]
}
export interface Timeline<T> {
  now: T
  past: Step[]
  future: Step[]
}
const MAX_STEPS = 500
export const begin = <T>(now: T): Timeline<T> => ({ now, past: [], future: [] })

/** Applies a change. Changes of one gesture (one drag, one typing) join into one step. A change that changes nothing leaves no step. */
export function change<T extends object>(
  line: Timeline<T>,
  label: string,
  recipe: (draft: T) => void,
  gesture: string | null = null,
): Timeline<T> {
  const [now, patches, inverse] = produceWithPatches(line.now, (draft) => {
    recipe(draft as T)
  })
  if (!patches.length) return line
  const last = line.past.at(-1)
  if (gesture !== null && last?.gesture === gesture && line.future.length === 0) {
    const joined: Step = { ...last, patches: [...last.patches, ...patches], inverse: [...inverse, ...last.inverse] }
    return { now, past: [...line.past.slice(0, -1), joined], future: [] }
  }
  return { now, past: [...line.past, { label, gesture, patches, inverse }].slice(-MAX_STEPS), future: [] }
}
export function undo<T extends object>(line: Timeline<T>): Timeline<T> {
  const step = line.past.at(-1)
  if (!step) return line
  return { now: applyPatches(line.now, step.inverse), past: line.past.slice(0, -1), future: [{ ...step, gesture: null }, ...line.future] }
}
export function redo<T extends object>(line: Timeline<T>): Timeline<T> {
  const step = line.future[0]
  if (!step) return line
  return { now: applyPatches(line.now, step.patches), past: [...line.past, { ...step, gesture: null }], future: line.future.slice(1) }
}
