import { createKeybindingsHandler } from 'tinykeys'
import { toggleFolded } from './board/place'
import { copyElement, pasteElements } from './clipboard'
import { chooseFiles, muteElement, removeElement, toggleSolo } from './commands'
import { duplicateElement } from './duplicate'
import { restart, stepFrame, togglePlay } from './playback'
import { redoStep, setStudio, studio, undoStep } from './store'
import { frameSelection } from './view/frame'

type Action = (e: KeyboardEvent) => void
const targetOf = (e: KeyboardEvent): Element => (e.target instanceof Element ? e.target : document.body)
/** Where somebody types, a dialog, a menu or a list: there keys mean something else. */
const elsewhere = (e: KeyboardEvent): boolean =>
  studio().dialog !== null ||
  targetOf(e).closest(
    'input:not([readonly]):not([type=color]):not([type=checkbox]),textarea,[contenteditable],[role=dialog],[role=menu],[role=listbox]',
  ) !== null
const unlessElsewhere =
  (run: Action): Action =>
  (e) => {
    if (elsewhere(e)) return
    e.preventDefault()
    run(e)
  }
/** Fields, tabs and lists of keys take arrows and Delete for themselves. */
const unlessTaken = (run: Action): Action => {
  const act = unlessElsewhere(run)
  return (e) => {
    if (!targetOf(e).closest('[role=spinbutton],[role=tablist],[data-stop]')) act(e)
  }
}
/** Text that is marked is copied as text. */
const clipboard =
  (run: () => void): Action =>
  (e) => {
    if (!elsewhere(e) && !String(getSelection() ?? '') && !targetOf(e).closest('[data-stop]')) run()
  }
const ofSelected = (run: (id: string) => void): Action =>
  unlessElsewhere(() => {
    const { selected } = studio()
    if (selected) run(selected)
  })
function leave(): void {
  const { picking, choosing, brush, drawing, outlining, measure } = studio()
  setStudio(
    picking || choosing || brush || drawing || outlining || measure
      ? { picking: null, choosing: false, brush: null, drawing: null, outlining: null, measure: null }
      : { open: null, viewOnly: false },
  )
}

/** Keys of the shot page. Letters are the first letter of our own word; nothing fires while somebody types. */
export const onKey = createKeybindingsHandler({
  '$mod+k': (e) => {
    e.preventDefault()
    setStudio({ dialog: studio().dialog === 'palette' ? null : 'palette' })
  },
  '$mod+z': unlessElsewhere(undoStep),
  '$mod+Shift+z': unlessElsewhere(redoStep),
  '$mod+c': clipboard(() => {
    const { selected } = studio()
    if (selected) void copyElement(selected)
  }),
  '$mod+v': clipboard(() => void pasteElements()),
  Space: unlessElsewhere((e) => {
    // Space on a focused button would press it too.
    if (e.target instanceof HTMLButtonElement) e.target.blur()
    togglePlay()
  }),
  r: unlessElsewhere(restart),
  c: unlessElsewhere(() => setStudio({ pose: null })),
  f: unlessElsewhere(frameSelection),
  v: unlessElsewhere(() => setStudio({ viewOnly: !studio().viewOnly })),
  h: unlessElsewhere(() => setStudio({ overlays: !studio().overlays })),
  w: unlessElsewhere(() => setStudio({ marks: !studio().marks })),
  b: unlessElsewhere(toggleFolded),
  a: ofSelected(toggleSolo),
  m: ofSelected(muteElement),
  d: ofSelected(duplicateElement),
  i: unlessElsewhere(chooseFiles),
  Delete: unlessTaken(() => {
    const { selected } = studio()
    if (selected) removeElement(selected)
  }),
  // A question mark needs Shift on some keyboards and none on others.
  '?': unlessElsewhere(() => setStudio({ dialog: 'shortcuts' })),
  'Shift+?': unlessElsewhere(() => setStudio({ dialog: 'shortcuts' })),
  ArrowLeft: unlessTaken(() => stepFrame(-1)),
  ArrowRight: unlessTaken(() => stepFrame(1)),
  'Shift+ArrowLeft': unlessTaken(() => stepFrame(-10)),
  'Shift+ArrowRight': unlessTaken(() => stepFrame(10)),
  Escape: unlessElsewhere(leave),
})
