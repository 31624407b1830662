import { mkdirSync } from 'node:fs'
import { join } from 'node:path'
import writeFileAtomic from 'write-file-atomic'
import { PASS_NAMES } from '../../protocol'
import type { FrameFormats } from '../node/frameFiles'
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
  format?: string
  float?: boolean
  passes?: string
  every?: number
}
/** Of files of a frame; two kinds of PNG lie beside each other. */
const ENDINGS = { png: '.png', png16: '.16.png', exr: '.exr' } as const
const FORMATS = ['png', 'png16', 'exr'] as const
/** Names of a list; what is not among them is said. */
function chosen<T extends string>(option: string, text: string | undefined, all: readonly T[], usual: readonly T[]): readonly T[] {
  if (text === undefined) return usual
  const names = text.split(',').map((x) => x.trim())
  const wrong = names.find((n) => !all.includes(n as T))
  if (wrong !== undefined) throw new UserError(`${option}: “${wrong}” is none of ${all.join(', ')}`)
  return names as T[]
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
  const formats = chosen('--format', o.format, FORMATS, ['png'])
  const passes = chosen('--passes', o.passes, PASS_NAMES, [])
  if (passes.length && !formats.includes('exr')) throw new UserError('--passes: passes are channels of EXR files; add --format exr')
  const f: FrameFormats = {
    png: formats.includes('png'),
    png16: formats.includes('png16'),
    exr: formats.includes('exr'),
    exrType: o.float ? 'float' : 'half',
    passes,
  }
  mkdirSync(o.out, { recursive: true })
  const renderer = await FrameRenderer.open(shot, meshes, o.threads)
  try {
    for (let n = a; n <= b; n += o.every ?? 1) {
      const { files, ms, faces } = await renderer.files(n, { ...size, transparent: !o.opaque }, f)
      const paths = files.map(({ kind, bytes }) => {
        const path = join(o.out, `${String(n).padStart(4, '0')}${ENDINGS[kind]}`)
        writeFileAtomic.sync(path, Buffer.from(bytes))
        return path
      })
      const [file, ...more] = paths.reverse()
      const line = { frame: n, file, ...(more.length ? { more } : {}), ms: Math.round(ms), ...(Object.keys(faces).length ? { faces } : {}) }
      process.stdout.write(`${JSON.stringify(line)}\n`)
    }
  } finally {
    await renderer.dispose()
  }
}
