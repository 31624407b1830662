import type { Stage } from './stage'

const RESTORE_CONTEXT_MS = 1500

/** Tells when the graphics context of a stage is lost, and when there is one again. */
export function whenLost(stage: Stage, signal: AbortSignal, tell: (isLost: boolean) => void): void {
  const canvas: EventTarget = stage.renderer.domElement
  const lost = (e: Event) => {
    e.preventDefault()
    tell(true)
  }
  const restored = () => {
    stage.forget()
    tell(false)
  }
  canvas.addEventListener('webglcontextlost', lost, { signal })
  canvas.addEventListener('webglcontextrestored', restored, { signal })
}
/** Loses the context on purpose, and gives it back a moment later. */
export function loseContext(stage: Stage): void {
  const extension = stage.renderer.getContext().getExtension('WEBGL_lose_context')
  extension?.loseContext()
  setTimeout(() => extension?.restoreContext(), RESTORE_CONTEXT_MS)
}
