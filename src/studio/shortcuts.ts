import { toggleFolded } from './board/place'
import { copyElement, pasteElements } from './clipboard'
import { chooseFiles, muteElement, removeElement, toggleSolo } from './commands'
import { duplicateElement } from './duplicate'
import { restart, stepFrame, togglePlay } from './playback'
import { redoStep, setStudio, studio, undoStep } from './store'
import { frameSelection } from './view/frame'

/** Keys of the shot page. Letters are the first letter of our own word; nothing fires while somebody types. */
export function onKey(e: KeyboardEvent): void {
  const target = e.target instanceof HTMLElement ? e.target : document.body
  const typing = target.closest('input:not([readonly]):not([type=color]):not([type=checkbox]),textarea,[contenteditable]') !== null
  const ctrl = e.ctrlKey || e.metaKey
  if (ctrl && e.key.toLowerCase() === 'k') {
    e.preventDefault()
    setStudio({ dialog: studio().dialog === 'palette' ? null : 'palette' })
    return
  }
  if (typing || studio().dialog || target.closest('[role=dialog],[role=menu],[role=listbox]')) return
  if (ctrl && e.key.toLowerCase() === 'z') {
    e.preventDefault()
    if (e.shiftKey) redoStep()
    else undoStep()
    return
  }
  const selected = studio().selected
  // Text that is marked is copied as text.
  if (ctrl && !e.altKey && !e.shiftKey && !String(getSelection() ?? '')) {
    if (e.key.toLowerCase() === 'c' && selected && !target.closest('[data-stop]')) void copyElement(selected)
    if (e.key.toLowerCase() === 'v' && !target.closest('[data-stop]')) void pasteElements()
  }
  if (ctrl || e.altKey) return
  const actions: Record<string, () => void> = {
    ' ': togglePlay,
    r: restart,
    c: () => setStudio({ pose: null }),
    f: frameSelection,
    v: () => setStudio({ viewOnly: !studio().viewOnly }),
    h: () => setStudio({ overlays: !studio().overlays }),
    b: toggleFolded,
    a: () => selected && toggleSolo(selected),
    m: () => selected && muteElement(selected),
    d: () => selected && duplicateElement(selected),
    Delete: () => selected && removeElement(selected),
    i: chooseFiles,
    '?': () => setStudio({ dialog: 'shortcuts' }),
    ArrowLeft: () => stepFrame(e.shiftKey ? -10 : -1),
    ArrowRight: () => stepFrame(e.shiftKey ? 10 : 1),
    Escape: () =>
      setStudio(
        studio().picking || studio().choosing || studio().brush || studio().drawing
          ? { picking: null, choosing: false, brush: null, drawing: null }
          : { open: null, viewOnly: false },
      ),
  }
  if (
    (e.key === ' ' || e.key === 'Delete' || e.key.startsWith('Arrow')) &&
    target.closest('[role=spinbutton],[role=tablist],[data-stop]') &&
    e.key !== ' '
  )
    return
  const run = actions[e.key.length === 1 ? e.key.toLowerCase() : e.key]
  if (!run) return
  e.preventDefault()
  // Space on a focused button would press it too.
  if (e.key === ' ' && target instanceof HTMLButtonElement) target.blur()
  run()
}
