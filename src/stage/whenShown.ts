/** A page that is hidden has no frames. */
const NO_FRAME_MS = 250
/** A frame that was held up by other work has had its turn by then. */
const TURN_MS = 50

/**
 * Calls back when what was drawn on the canvas of a worker is seen: in the worker's next frame, and not before whatever else it had to do until then.
 * Once at the most.
 */
export function whenShown(then: () => void): void {
  let called = false
  const once = () => {
    if (called) return
    called = true
    then()
  }
  // The frame is handed on behind its callbacks.
  requestAnimationFrame(() => setTimeout(once, 0))
  setTimeout(() => setTimeout(once, TURN_MS), NO_FRAME_MS)
}
