import { spawn } from 'node:child_process'
import { renameSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { frameFile, type Movie, type RenderSettings } from '../jobs'
import { bareEnv } from '../reader'

/** Where the pictures of a movie lie: numbered one after the other, or, of every nth frame, by their names. */
function picturesOf(folder: string, s: RenderSettings, format: Movie): string[] {
  // 16 bits where they are there: ProRes has ten of light and sixteen of alpha.
  const of = dirname(frameFile(0, format === 'mov' && s.formats.includes('png16') ? 'png16' : 'png'))
  return s.every === 1
    ? ['-start_number', String(s.first), '-i', join(folder, of, '%04d.png')]
    : ['-pattern_type', 'glob', '-i', join(folder, of, '*.png')]
}
const CODES: Record<Movie, string[]> = {
  webm: ['-c:v', 'libvpx-vp9', '-crf', '18', '-b:v', '0', '-row-mt', '1', '-cpu-used', '4', '-deadline', 'good', '-f', 'webm'],
  mp4: ['-c:v', 'libx264', '-crf', '14', '-preset', 'medium', '-movflags', '+faststart', '-f', 'mp4'],
  mov: ['-c:v', 'prores_ks', '-profile:v', '4444', '-alpha_bits', '16', '-vendor', 'apl0', '-f', 'mov'],
}
/** A movie from the numbered pictures of a job. WebM and MOV keep straight transparency; MP4 cannot, and shows what it adds over black. */
export async function makeMovie(
  folder: string,
  format: Movie,
  s: RenderSettings,
  rate: { num: number; den: number },
  stopped: AbortSignal,
): Promise<string> {
  const name = `movie.${format}`
  const input = ['-y', '-loglevel', 'error', '-framerate', `${rate.num}/${rate.den * s.every}`, ...picturesOf(folder, s, format)]
  // Straight alpha over black is colour times alpha; `premultiply` does just that.
  const black =
    s.transparent && format === 'mp4'
      ? ['-vf', 'format=gbrap,premultiply=inplace=1,format=yuv420p']
      : [
          '-pix_fmt',
          format === 'mov' ? (s.transparent ? 'yuva444p10le' : 'yuv444p10le') : format === 'webm' && s.transparent ? 'yuva420p' : 'yuv420p',
        ]
  const part = join(folder, `${name}.part`)
  await new Promise<void>((resolve, reject) => {
    const p = spawn(
      'ffmpeg',
      [...input, ...black, ...CODES[format], '-color_primaries', 'bt709', '-color_trc', 'bt709', '-colorspace', 'bt709', part],
      { signal: stopped, env: bareEnv(), stdio: ['ignore', 'ignore', 'pipe'] },
    )
    let errors = ''
    p.stderr.on('data', (d) => {
      errors += d
    })
    p.once('error', (e) =>
      reject(
        (e as NodeJS.ErrnoException).code === 'ENOENT'
          ? new Error('ffmpeg is not installed; install it with: apt-get install ffmpeg, then go on with the render')
          : e,
      ),
    )
    p.once('close', (code) =>
      code === 0 ? resolve() : reject(new Error(`ffmpeg could not make the ${format}: ${errors.trim().split('\n').at(-1)}`)),
    )
  })
  renameSync(part, join(folder, name))
  return name
}
