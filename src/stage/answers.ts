import type { Frame } from '../engine'
import type { PixelLight, Pose, Scope } from '../protocol'
import { type Shot, timeOf } from '../shot'
import { shotPose } from './camera'
import type { Picture, Stage } from './stage'

/** What the View shows as it is asked. */
export interface Asked {
  stage: Stage
  shot: Shot
  frame: Frame
  view: { pose: Pose | null; width: number; height: number }
}
const plain = { share: 1, samples: 0, transparent: false } as const

/** The present frame as the View sees it, at a size. */
function asSeen({ shot, frame, view }: Asked, width: number, height: number): Picture {
  const t = timeOf(shot, frame.frame)
  return { ...plain, t, pose: view.pose ?? shotPose(shot, t), width, height, through: !view.pose }
}
export function scopeOf(a: Asked, width: number, height: number): Scope | null {
  const light = a.stage.scope(asSeen(a, width, height))
  return light && { width, height, ...light }
}
/** Light under a point, −1…1, y up. `key`: what the picture depends on. */
export function valuesAt(a: Asked, key: string, x: number, y: number): PixelLight | null {
  const { width, height } = a.view
  const at = (v: number, n: number) => Math.min(n - 1, Math.max(0, Math.floor(((v + 1) / 2) * n)))
  return a.stage.values(asSeen(a, width, height), `${key} ${width}x${height}`, at(x, width), at(y, height))
}
/** The present frame through the shot's camera. */
export async function pictureOf({ stage, shot, frame }: Asked, width: number, height: number): Promise<Blob> {
  const t = timeOf(shot, frame.frame)
  await stage.ready(t)
  return jpegOf(stage.read({ ...plain, t, pose: shotPose(shot, t), width, height, through: true }), width, height)
}
/** Another frame, which comes in a moment. `restore`: sets the present one again. */
export async function previewOf(
  a: Asked,
  coming: Promise<Frame>,
  how: { isStill(): boolean; restore(): void },
  frame: number,
  width: number,
  height: number,
) {
  const { stage, shot } = a
  const t = timeOf(shot, frame)
  const simulated = await coming
  await stage.ready(t)
  if (!how.isStill()) throw new Error('the shot has changed')
  stage.setFrame(simulated)
  const pixels = stage.read({ ...plain, samples: 4, t, pose: shotPose(shot, t), width, height, through: true, lingers: 'rough' })
  how.restore()
  return jpegOf(pixels, width, height)
}
function jpegOf(pixels: Uint8Array, width: number, height: number): Promise<Blob> {
  const canvas = new OffscreenCanvas(width, height)
  canvas.getContext('2d')?.putImageData(imageOf(pixels, width, height), 0, 0)
  return canvas.convertToBlob({ type: 'image/jpeg', quality: 0.86 })
}
export const imageOf = (pixels: Uint8Array, width: number, height: number) =>
  new ImageData(new Uint8ClampedArray(pixels.buffer as ArrayBuffer), width, height)
