import { drawnByKernels } from '../acts'
import type { Frame } from '../engine'
import type { PixelLight, Pose, Scope, StageAnswerTo, StageRequest } from '../protocol'
import { type Shot, timeOf } from '../shot'
import { shotPose } from './camera'
import type { Picture, Stage } from './stage'

/** Whoever draws the View, as the page asks it. */
export interface Host {
  stage: Stage
  view: Asked['view']
  shot: Shot | null
  shown: { frame: Frame; serial: number } | null
  /** Of what can change the picture. */
  revision: number
  /** Until those are there that draw gases. */
  kernels(): Promise<void>
  frameOf(frame: number): Promise<Frame>
  /** Whether the shot is the same as when it was asked. */
  isStill(): boolean
  /** Sets the present frame again. */
  restore(): void
  redraw(): void
}
/** What the View shows as it is asked. */
interface Asked {
  stage: Stage
  shot: Shot
  frame: Frame
  view: { pose: Pose | null; width: number; height: number }
}
/** Answers the page. Throws, with words for a person, when there is no answer. */
export async function answerOf(r: StageRequest, host: Host): Promise<StageAnswerTo<StageRequest>> {
  const { stage, shot, shown, view } = host
  switch (r.what) {
    case 'pick':
      return stage.pick(r.x, r.y, view.width / Math.max(1, view.height))
    case 'brush':
      return stage.brush(r.element, r.x, r.y)
    case 'portrait': {
      const pixels = stage.portrait(r.element, r.view, r.region, r.width, r.height)
      return pixels && createImageBitmap(imageOf(pixels, r.width, r.height))
    }
  }
  if (!shot || !shown) throw new Error('there is no frame yet')
  if (drawnByKernels(shot)) await host.kernels()
  const asked = { stage, shot, view, frame: shown.frame }
  switch (r.what) {
    case 'picture':
      // It takes the View's targets.
      return pictureOf(asked, r.width, r.height).finally(() => host.redraw())
    case 'scope':
      return scopeOf(asked, r.width, r.height)
    case 'values':
      return valuesAt(asked, `${host.revision} ${shown.serial}`, r.x, r.y)
    case 'preview':
      return previewOf(asked, host, r.frame, r.width, r.height)
  }
}
const plain = { share: 1, samples: 0, transparent: false } as const

/** The present frame as the View sees it, at a size. */
function asSeen({ shot, frame, view }: Asked, width: number, height: number): Picture {
  const t = timeOf(shot, frame.frame)
  return { ...plain, t, pose: view.pose ?? shotPose(shot, t), width, height, through: !view.pose }
}
function scopeOf(a: Asked, width: number, height: number): Scope | null {
  const light = a.stage.scope(asSeen(a, width, height))
  return light && { width, height, ...light }
}
/** Light under a point, −1…1, y up. `key`: what the picture depends on. */
function valuesAt(a: Asked, key: string, x: number, y: number): PixelLight | null {
  const { width, height } = a.view
  const at = (v: number, n: number) => Math.min(n - 1, Math.max(0, Math.floor(((v + 1) / 2) * n)))
  return a.stage.values(asSeen(a, width, height), `${key} ${width}x${height}`, at(x, width), at(y, height))
}
/** The present frame through the shot's camera. */
async function pictureOf({ stage, shot, frame }: Asked, width: number, height: number): Promise<Blob> {
  const t = timeOf(shot, frame.frame)
  await stage.ready(t)
  return jpegOf(stage.read({ ...plain, t, pose: shotPose(shot, t), width, height, through: true }), width, height)
}
/** Another frame, which comes in a moment. */
async function previewOf({ stage, shot }: Asked, host: Host, frame: number, width: number, height: number) {
  const t = timeOf(shot, frame)
  const simulated = await host.frameOf(frame)
  await stage.ready(t)
  if (!host.isStill()) throw new Error('the shot has changed')
  stage.setFrame(simulated)
  const pixels = stage.read({ ...plain, samples: 4, t, pose: shotPose(shot, t), width, height, through: true, lingers: 'rough' })
  host.restore()
  return jpegOf(pixels, width, height)
}
function jpegOf(pixels: Uint8Array, width: number, height: number): Promise<Blob> {
  const canvas = new OffscreenCanvas(width, height)
  canvas.getContext('2d')?.putImageData(imageOf(pixels, width, height), 0, 0)
  return canvas.convertToBlob({ type: 'image/jpeg', quality: 0.86 })
}
const imageOf = (pixels: Uint8Array, width: number, height: number) =>
  new ImageData(new Uint8ClampedArray(pixels.buffer as ArrayBuffer), width, height)
