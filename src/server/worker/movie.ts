import { spawn } from 'node:child_process'
import { renameSync } from 'node:fs'
import { join } from 'node:path'
import type { RenderSettings } from '../jobs'
import { bareEnv } from '../reader'

/** A movie from the numbered pictures of a job. WebM keeps transparency; MP4 cannot, and shows what it adds over black. */
export async function makeMovie(
  folder: string,
  format: 'webm' | 'mp4',
  s: RenderSettings,
  rate: { num: number; den: number },
  stopped: AbortSignal,
): Promise<string> {
  const name = `movie.${format}`
  const input = [
    '-y',
    '-loglevel',
    'error',
    '-framerate',
    `${rate.num}/${rate.den}`,
    '-start_number',
    String(s.first),
    '-i',
    join(folder, 'frames', '%04d.png'),
  ]
  // Straight alpha over black is colour times alpha; `premultiply` does just that.
  const black =
    s.transparent && format === 'mp4'
      ? ['-vf', 'format=gbrap,premultiply=inplace=1,format=yuv420p']
      : ['-pix_fmt', format === 'webm' && s.transparent ? 'yuva420p' : 'yuv420p']
  const code =
    format === 'webm'
      ? ['-c:v', 'libvpx-vp9', '-crf', '18', '-b:v', '0', '-row-mt', '1', '-cpu-used', '4', '-deadline', 'good', '-f', 'webm']
      : ['-c:v', 'libx264', '-crf', '14', '-preset', 'medium', '-movflags', '+faststart', '-f', 'mp4']
  const part = join(folder, `${name}.part`)
  await new Promise<void>((resolve, reject) => {
    const p = spawn(
      'ffmpeg',
      [...input, ...black, ...code, '-color_primaries', 'bt709', '-color_trc', 'bt709', '-colorspace', 'bt709', part],
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
