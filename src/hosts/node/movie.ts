import { spawn } from 'node:child_process'
import { mkdirSync, mkdtempSync, renameSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { dirname, join } from 'node:path'

const CODES = {
  webm: ['-c:v', 'libvpx-vp9', '-crf', '18', '-b:v', '0', '-row-mt', '1', '-cpu-used', '4', '-deadline', 'good', '-f', 'webm'],
  mp4: ['-c:v', 'libx264', '-crf', '14', '-preset', 'fast', '-rc-lookahead', '12', '-movflags', '+faststart', '-f', 'mp4'],
  mov: ['-c:v', 'prores_ks', '-profile:v', '4444', '-alpha_bits', '16', '-vendor', 'apl0', '-f', 'mov'],
} as const
export type Movie = keyof typeof CODES
const PRIMARIES = ['-color_primaries', 'bt709', '-color_trc', 'bt709', '-colorspace', 'bt709']
/** Straight alpha over black is colour times alpha; `premultiply` does just that. */
const OVER_BLACK = 'format=gbrap,premultiply=inplace=1'

interface Running {
  signal?: AbortSignal
  env?: NodeJS.ProcessEnv
  /** What it reads from its standard input. */
  input?: AsyncIterable<Uint8Array>
}
/** Runs ffmpeg; throws with the last line of what it said. `what`: what it was to make. */
function ffmpeg(what: string, args: readonly string[], { signal, env = process.env, input }: Running): Promise<void> {
  return new Promise<void>((resolve, reject) => {
    const p = spawn('ffmpeg', ['-y', '-loglevel', 'error', ...(input ? [] : ['-nostdin']), ...args], {
      ...{ signal, env },
      stdio: [input ? 'pipe' : 'ignore', 'ignore', 'pipe'],
    })
    let errors = ''
    p.stderr?.on('data', (d) => {
      errors += d
    })
    p.once('error', (e) =>
      reject(
        (e as NodeJS.ErrnoException).code === 'ENOENT'
          ? new Error('ffmpeg is not installed; install it with: apt-get install ffmpeg, then go on')
          : e,
      ),
    )
    p.once('close', (code) =>
      code === 0
        ? resolve()
        : reject(new Error(`ffmpeg could not make the ${what}: ${errors.trim().split('\n').at(-1) || `code ${code}`}`)),
    )
    if (!input || !p.stdin) return
    const { stdin } = p
    // It may end before it has read everything; how, its code says.
    stdin.on('error', () => {})
    void (async () => {
      try {
        for await (const piece of input) if (!stdin.write(piece)) await new Promise((next) => stdin.once('drain', next).once('close', next))
      } catch (error) {
        p.kill('SIGKILL')
        reject(error)
      } finally {
        stdin.end()
      }
    })()
  })
}
export interface MovieSource {
  /** Numbered pictures from a number on; all whose names fit, in the order of their names; or PNG files as they come. */
  pictures: { pattern: string; from: number } | { glob: string } | { pngs: AsyncIterable<Uint8Array> }
  rate: { num: number; den: number }
  alpha: boolean
}
/** A movie of pictures in a file. WebM and MOV keep straight transparency; MP4 cannot, and shows what it adds over black. */
export async function makeMovie(format: Movie, { pictures, rate, alpha }: MovieSource, to: string, o: Running = {}): Promise<void> {
  const from =
    'pngs' in pictures
      ? ['-f', 'image2pipe', '-c:v', 'png', '-i', 'pipe:0']
      : 'glob' in pictures
        ? ['-pattern_type', 'glob', '-i', pictures.glob]
        : ['-start_number', String(pictures.from), '-i', pictures.pattern]
  const pixels = { mp4: 'yuv420p', webm: alpha ? 'yuva420p' : 'yuv420p', mov: alpha ? 'yuva444p10le' : 'yuv444p10le' }[format]
  const shape = alpha && format === 'mp4' ? ['-vf', `${OVER_BLACK},format=yuv420p`] : ['-pix_fmt', pixels]
  const input = 'pngs' in pictures ? { input: pictures.pngs } : {}
  const args = ['-framerate', `${rate.num}/${rate.den}`, ...from, ...shape, ...CODES[format], ...PRIMARIES, `${to}.part`]
  try {
    await ffmpeg(format, args, { ...o, ...input })
  } catch (error) {
    rmSync(`${to}.part`, { force: true })
    throw error
  }
  renameSync(`${to}.part`, to)
}
/** An MP4 of JPEG pictures that come one after the other. */
export const movieOfJpegs = (input: AsyncIterable<Uint8Array>, rate: { num: number; den: number }, to: string, o: Running = {}) =>
  ffmpeg(
    'preview',
    [
      ...['-f', 'mjpeg', '-framerate', `${rate.num}/${rate.den}`, '-i', 'pipe:0', '-pix_fmt', 'yuv420p', '-c:v', 'libx264', '-crf', '18'],
      ...['-preset', 'veryfast', '-movflags', '+faststart', '-f', 'mp4', ...PRIMARIES, to],
    ],
    { ...o, input },
  )

/** Pictures of a sheet, and pixels across of each. */
const MOST_PICTURES = 30
const PICTURE_WIDTH = 320
/**
 * Pictures side by side in one PNG file, each with its label; of many, about thirty, evenly. What is clear lies on black. Throws when there is
 * none, and when ffmpeg cannot.
 */
export async function contactSheet(pictures: readonly { file: string; label: string }[], to: string, o: Running = {}): Promise<void> {
  if (!pictures.length) throw new Error('there is no picture for a contact sheet')
  const every = Math.ceil(pictures.length / MOST_PICTURES)
  const shown = pictures.filter((_, i) => i % every === 0)
  const columns = Math.min(6, Math.max(1, Math.ceil(Math.sqrt(shown.length))))
  const rows = Math.ceil(shown.length / columns)
  // Labels stand in files: no character of them means anything to ffmpeg.
  const folder = mkdtempSync(join(tmpdir(), 'fox-ember-sheet-'))
  try {
    const font = join(process.env.EMBER_ROOT ?? process.cwd(), 'public/fonts/figtree.woff')
    const each = shown.map(({ label }, i) => {
      const file = join(folder, `${i}.txt`)
      writeFileSync(file, label)
      const text = `drawtext=fontfile=${font}:textfile=${file}:expansion=none:fontsize=15:fontcolor=white:x=7:y=h-22:box=1:boxcolor=black@0.55:boxborderw=4`
      return `[${i}:v]${OVER_BLACK},format=rgb24,scale=${PICTURE_WIDTH}:-2:flags=area,setsar=1,${text}[p${i}]`
    })
    const joined = `${shown.map((_, i) => `[p${i}]`).join('')}concat=n=${shown.length}:v=1:a=0,tile=${columns}x${rows}:padding=6:margin=10:color=0x1b1e1c`
    mkdirSync(dirname(to), { recursive: true })
    const inputs = shown.flatMap(({ file }) => ['-i', file])
    await ffmpeg(
      'contact sheet',
      [...inputs, '-filter_complex', [...each, joined].join(';'), '-frames:v', '1', '-f', 'image2', `${to}.part.png`],
      o,
    )
    renameSync(`${to}.part.png`, to)
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
}
