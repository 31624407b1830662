import { mkdirSync } from 'node:fs'
import { join } from 'node:path'
import writeFileAtomic from 'write-file-atomic'
import { FrameRenderer } from '../node/renderer'
import { loadShot, UserError } from '../node/shot'
import { parseFrames } from './simulate'

export interface RenderOptions {
  frames?: string
  size?: string
  out: string
  assets?: string
  threads: number
  opaque?: boolean
}
export function parseSize(text: string | undefined, fallback: { width: number; height: number }): { width: number; height: number } {
  if (text === undefined) return fallback
  const m = /^(\d+)x(\d+)$/.exec(text)
  const [width, height] = [Number(m?.[1]), Number(m?.[2])]
  if (!m || width < 16 || height < 16 || width > 8192 || height > 8192)
    throw new UserError(`--size: “${text}” is not WxH from 16x16 to 8192x8192, as in 1280x720`)
  return { width, height }
}
export async function render(file: string, o: RenderOptions): Promise<void> {
  const { shot, meshes } = await loadShot(file, o.assets)
  const [a, b] = parseFrames(o.frames, shot.range.first, shot.range.last)
  const size = parseSize(o.size, shot.size)
  mkdirSync(o.out, { recursive: true })
  const renderer = await FrameRenderer.open(shot, meshes, o.threads)
  try {
    for (let f = a; f <= b; f++) {
      const image = await renderer.render(f, { ...size, transparent: !o.opaque })
      const path = join(o.out, `${String(f).padStart(4, '0')}.png`)
      writeFileAtomic.sync(path, image.png)
      process.stdout.write(
        `${JSON.stringify({ frame: f, file: path, ms: Math.round(image.ms), ...(Object.keys(image.faces).length ? { faces: image.faces } : {}) })}\n`,
      )
    }
  } finally {
    await renderer.dispose()
  }
}
