import { inflateSync } from 'node:zlib'
// @ts-expect-error: a plain script without types
import { build } from '../../../../scripts/prepare.mjs'
import type { Shot } from '../../../shot'
import { DrawingBrowser } from '../drawingBrowser'
import { FrameRenderer } from '../renderer'
import { loadShot } from '../shot'

/** Of the pictures that are drawn. */
export const size = { width: 192, height: 108 }
/** Pixels of the PNG files that we write: filter "up" on every row. */
export function pixels(png: Uint8Array): { data: Uint8Array; channels: number } {
  const v = new DataView(png.buffer, png.byteOffset)
  const width = v.getUint32(16),
    height = v.getUint32(20),
    channels = v.getUint8(25) === 6 ? 4 : 3
  let at = 8
  while (String.fromCharCode(...png.subarray(at + 4, at + 8)) !== 'IDAT') at += 12 + v.getUint32(at)
  const raw = new Uint8Array(inflateSync(png.subarray(at + 8, at + 8 + v.getUint32(at))))
  const stride = width * channels
  const data = new Uint8Array(stride * height)
  for (let y = 0; y < height; y++)
    for (let i = 0; i < stride; i++) data[y * stride + i] = (raw[y * (stride + 1) + 1 + i] + (y ? data[(y - 1) * stride + i] : 0)) & 255
  return { data, channels }
}
/** The highest value of a picture, without its alpha. */
export function brightest(d: Uint8Array, channels: number): number {
  let maximum = 0
  for (let i = 0; i < d.length; i++) if (channels === 3 || i % 4 !== 3) maximum = Math.max(maximum, d[i])
  return maximum
}
/** The mean of red, green and blue in a part of an opaque picture: left, top, right and bottom as shares of it. */
export function mean(d: Uint8Array, [x0, y0, x1, y1]: readonly number[]): number {
  let [total, n] = [0, 0]
  for (let y = Math.floor(y0 * size.height); y < y1 * size.height; y++)
    for (let x = Math.floor(x0 * size.width); x < x1 * size.width; x++, n++)
      for (let c = 0; c < 3; c++) total += d[(y * size.width + x) * 3 + c] / 3
  return total / n
}
/**
 * The browser of this process, and the page in it: test files run one after the other in one process, and what a page has made ready for one (its
 * programs above all) serves the next. Both end with the process.
 */
let browser: Promise<DrawingBrowser> | null = null
let renderer: FrameRenderer | null = null
export const sharedBrowser = (): Promise<DrawingBrowser> => {
  browser ??= DrawingBrowser.launch()
  return browser
}
/** Draws changed copies of a demo shot: what is drawn must not depend on what was drawn before. */
export class Pictures {
  private constructor(
    readonly base: Shot,
    /** By the hash of their file; a test may add some. */
    readonly meshes: Awaited<ReturnType<typeof loadShot>>['meshes'],
  ) {}

  static async open(): Promise<Pictures> {
    await build(() => {}, { web: false })
    const { shot, meshes } = await loadShot('demo/anvil-strike/shot.json')
    shot.surroundings.colour = [0, 0, 0]
    shot.lights = shot.lights.filter((l) => l.kind !== 'around')
    return new Pictures(shot, meshes)
  }
  /** The page that shows a changed copy. */
  async shown(change: (s: Shot) => void): Promise<FrameRenderer> {
    const shot = structuredClone(this.base)
    change(shot)
    if (renderer) await renderer.take(shot, this.meshes)
    else renderer = await FrameRenderer.open(shot, this.meshes, 1, await sharedBrowser())
    return renderer
  }
  async draw(change: (s: Shot) => void, frames: number[], transparent: boolean[]): Promise<Uint8Array[]> {
    const renderer = await this.shown(change)
    const out: Uint8Array[] = []
    for (const frame of frames)
      for (const t of transparent) out.push(pixels((await renderer.render(frame, { ...size, transparent: t })).png).data)
    return out
  }
}
