import { mkdirSync } from 'node:fs'
import { join } from 'node:path'
import writeFileAtomic from 'write-file-atomic'
import { maySeparate } from '../../acts'
import { PASS_NAMES, type Region } from '../../protocol'
import type { Shot } from '../../shot'
import type { ApartFrames } from '../bakedApart'
import { bakedFrame } from '../node/bakedFrames'
import type { FrameFormats } from '../node/frameFiles'
import { contactSheet, makeMovie } from '../node/movie'
import { FrameRenderer } from '../node/renderer'
import { loadShot, UserError } from '../node/shot'
import { asBaked, bakedShot } from './bake'
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
  region?: string
  sheet?: boolean
  bake?: string[]
}
/** Of files of a frame; two kinds of PNG lie beside each other. */
const ENDINGS = { png: '.png', png16: '.16.png', exr: '.exr' } as const
const MOVIES = ['webm', 'mp4', 'mov'] as const
const FORMATS = ['png', 'png16', 'exr', ...MOVIES] as const
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
/** A part of the picture: WxH+X+Y, pixels from the upper left corner. */
export function parseRegion(text: string | undefined, size: { width: number; height: number }): Region | null {
  if (text === undefined) return null
  const m = /^(\d+)x(\d+)\+(\d+)\+(\d+)$/.exec(text)
  const [width, height, left, top] = (m ?? []).slice(1).map(Number)
  if (!m || width < 1 || height < 1 || left + width > size.width || top + height > size.height)
    throw new UserError(`--region: “${text}” is not WxH+X+Y within ${size.width}x${size.height}, as in 640x360+320+180`)
  return { left, top, width, height }
}
/** Frames of bakes that are as the shot is now; says which are not. */
function takeBakes(renderer: FrameRenderer, folders: readonly string[], shot: Shot, [a, b]: readonly [number, number]): void {
  const apart: ApartFrames[] = []
  for (const folder of folders) {
    const there = bakedShot(folder)
    if (!there) throw new UserError(`--bake: ${folder} holds no bake`)
    const until = asBaked(there, shot)
    if (until <= b) process.stderr.write(`--bake: the shot differs from frame ${Math.max(a, until)} on; that is computed anew\n`)
    const read = async (frame: number) => (frame < until ? bakedFrame(folder, frame) : null)
    if (!there.elements.length) renderer.baked = read
    else if (!maySeparate(shot)) process.stderr.write(`--bake: elements of a loop, and of a shot whose frames linger, are computed anew\n`)
    else if (until > b && !apart.some((x) => x.ids.some((id) => there.elements.includes(id))))
      apart.push({ ids: there.elements, frame: read })
  }
  if (apart.length) renderer.leaveOut(apart)
}
export async function render(file: string, o: RenderOptions): Promise<void> {
  const { shot, meshes } = await loadShot(file, o.assets)
  const [a, b] = parseFrames(o.frames, shot.range.first, shot.range.last)
  const size = parseSize(o.size, shot.size)
  const formats = chosen('--format', o.format, FORMATS, ['png'])
  const region = parseRegion(o.region, size)
  const movies = MOVIES.filter((m) => formats.includes(m))
  const odd = [region ?? size].some((r) => r.width % 2 || r.height % 2)
  if (movies.length && odd) throw new UserError('--format: movies need an even width and height')
  const passes = chosen('--passes', o.passes, PASS_NAMES, [])
  if (passes.length && !formats.includes('exr')) throw new UserError('--passes: passes are channels of EXR files; add --format exr')
  const f: FrameFormats = {
    // Movies are made of them.
    png: formats.includes('png') || movies.length > 0,
    png16: formats.includes('png16'),
    exr: formats.includes('exr'),
    exrType: o.float ? 'float' : 'half',
    passes,
  }
  if (o.sheet && !f.png) throw new UserError('--sheet: a contact sheet is made of PNG files; add --format png')
  mkdirSync(o.out, { recursive: true })
  const renderer = await FrameRenderer.open(shot, meshes, o.threads)
  try {
    if (o.bake) takeBakes(renderer, o.bake, shot, [a, b])
    const drawn: { file: string; label: string }[] = []
    for (let n = a; n <= b; n += o.every ?? 1) {
      const { files, ms, faces } = await renderer.files(n, { ...size, region, transparent: !o.opaque }, f)
      const paths = files.map(({ kind, bytes }) => {
        const path = join(o.out, `${String(n).padStart(4, '0')}${ENDINGS[kind]}`)
        writeFileAtomic.sync(path, Buffer.from(bytes))
        return path
      })
      const [file, ...more] = paths.reverse()
      const line = { frame: n, file, ...(more.length ? { more } : {}), ms: Math.round(ms), ...(Object.keys(faces).length ? { faces } : {}) }
      process.stdout.write(`${JSON.stringify(line)}\n`)
      if (f.png) drawn.push({ file, label: `${n}` })
    }
    for (const format of movies) {
      const movie = join(o.out, `movie.${format}`)
      const every = o.every ?? 1
      const pictures = every === 1 ? { pattern: join(o.out, '%04d.png'), from: a } : { glob: join(o.out, '????.png') }
      await makeMovie(format, { pictures, rate: { num: shot.rate.num, den: shot.rate.den * every }, alpha: !o.opaque }, movie)
      process.stdout.write(`${JSON.stringify({ movie })}\n`)
    }
    if (o.sheet) {
      const sheet = join(o.out, 'contact-sheet.png')
      await contactSheet(drawn, sheet)
      process.stdout.write(`${JSON.stringify({ sheet })}\n`)
    }
  } finally {
    await renderer.dispose()
  }
}
