import type { Frame } from '../engine'
import type { SecondView } from '../protocol'
import type { Shot } from '../shot'
import type { Quality } from './adapt'
import { shotPose } from './camera'
import type { Picture, Stage } from './stage'

/** Draws the view beside the View: the same frame from elsewhere, or what a bake has of it. */
export class SecondPainter {
  private view: SecondView | null = null
  private canvas: OffscreenCanvasRenderingContext2D | null = null
  /** The frame of a bake that came last. */
  baked: Frame | null = null

  /** `canvas` comes with the first view. */
  take(view: SecondView | null, canvas: OffscreenCanvas | null): void {
    this.view = view
    if (canvas) this.canvas = canvas.getContext('2d', { alpha: false })
  }
  /** Before the View is drawn: it is copied, for the canvas shows what is drawn last. */
  paint(
    stage: Stage,
    shot: Shot,
    frame: Frame,
    q: Quality,
    picture: Pick<Picture, 't' | 'share' | 'samples' | 'transparent' | 'editing' | 'marks'>,
  ): void {
    const { view, canvas } = this
    if (!view || !canvas || view.width < 2 || view.height < 2) return
    const baked = view.baked ? this.baked : null
    // What was baked of this frame is on its way, or is not there: the page says so.
    if (view.baked && baked?.frame !== frame.frame) return
    const [width, height] = [view.width, view.height].map((n) => Math.max(2, Math.round(n * q.scale)))
    if (baked) stage.setFrame(baked)
    try {
      stage.draw({ ...picture, pose: view.pose ?? shotPose(shot, picture.t), width, height, through: !view.pose, second: true })
      Object.assign(canvas.canvas, { width, height })
      canvas.drawImage(stage.renderer.domElement, 0, 0)
    } finally {
      if (baked) stage.setFrame(frame)
    }
  }
}
