import { type ChildProcess, spawn } from 'node:child_process'
import { createReadStream, createWriteStream, mkdtempSync, readdirSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { basename, join } from 'node:path'
import { pipeline } from 'node:stream/promises'
import { grouped } from '../shot'
import { type AssetInfo, cleanName, storeAsset } from './assets'
import type { Db } from './db'
import { Failure } from './failure'
import { bareEnv, readOwn, turn } from './reader'

/** As many pictures as one object may have. */
export const MOST_FRAMES = 2000
export const VIDEO_LIMIT_BYTES = 2 * 1024 * 1024 * 1024
const LIMITS = {
  /** Seconds of processor time, and by the clock. */
  cpuS: 1200,
  wallS: 1800,
  memoryMb: 2048,
  /** MB of one picture. */
  fileMb: 64,
}
export interface VideoFrames {
  name: string
  /** Pictures a second. */
  rate: { num: number; den: number }
  frames: AssetInfo[]
  notes: string[]
}
interface Stream {
  width: number
  height: number
  pix_fmt: string
  r_frame_rate: string
  avg_frame_rate: string
}
/** A program of the system on a stranger's file: limited by the kernel, with no addresses and no passwords. Resolves to what it wrote. */
const limited = (program: string, args: string[]): Promise<string> => turn(() => run(program, args))
function run(program: string, args: string[]): Promise<string> {
  const l = LIMITS
  const limits = `ulimit -t ${l.cpuS}; ulimit -d ${l.memoryMb * 1024}; ulimit -f ${l.fileMb * 2048}; ulimit -c 0; exec "$@"`
  return new Promise((resolve, reject) => {
    const child: ChildProcess = spawn('/bin/sh', ['-c', limits, 'sh', program, ...args], {
      env: bareEnv(),
      stdio: ['ignore', 'pipe', 'pipe'],
    })
    let [out, err] = ['', '']
    const timer = setTimeout(() => child.kill('SIGKILL'), l.wallS * 1000)
    child.stdout?.on('data', (d) => {
      if (out.length < 1e6) out += d
    })
    child.stderr?.on('data', (d) => {
      if (err.length < 65536) err += d
    })
    child.once('error', reject)
    child.once('close', (code, signal) => {
      clearTimeout(timer)
      if (code === 0) return resolve(out)
      if (code === 127)
        return reject(new Failure(503, 'ffmpeg is not installed; install it with: apt-get install ffmpeg, then bring the video again'))
      const why =
        signal || code === 137 || code === 152
          ? `it takes more than ${l.cpuS / 60} min or ${l.memoryMb / 1024} GB`
          : (err.trim().split('\n').at(-1) ?? '')
      reject(new Failure(422, `the video cannot be read: ${why.slice(0, 200) || 'save it again from where it comes from'}`))
    })
  })
}
const fraction = (text: string): { num: number; den: number } => {
  const [num, den] = text.split('/').map(Number)
  return { num, den: den || 1 }
}
/**
 * A video as numbered pictures: decoded here, frame by frame, never played, so picture n is frame n. Those with alpha become PNG, others JPEG of
 * high quality. Nothing stays behind when it is refused but pictures that are the same as others' anyway.
 */
export async function storeVideo(db: Db, data: string, name: string, body: AsyncIterable<Uint8Array>): Promise<VideoFrames> {
  const folder = mkdtempSync(join(tmpdir(), 'fox-ember-video-'))
  try {
    const file = join(folder, 'video')
    await pipeline(body, createWriteStream(file, { flags: 'wx', mode: 0o600 }))
    const own = ['-protocol_whitelist', 'file,pipe']
    const told = await limited('ffprobe', [
      '-v',
      'error',
      ...own,
      '-select_streams',
      'v:0',
      '-show_entries',
      'stream=width,height,pix_fmt,r_frame_rate,avg_frame_rate',
      '-of',
      'json',
      file,
    ])
    const [stream] = (JSON.parse(told) as { streams?: Stream[] }).streams ?? []
    if (!stream) throw new Failure(422, `${cleanName(name)}: there is no picture in it`)
    const rate = fraction(stream.r_frame_rate)
    if (!(rate.num > 0) || rate.num / rate.den > 1000)
      throw new Failure(422, `${cleanName(name)}: it does not say how many pictures a second it has`)
    const alpha = /a$|^(rgba|argb|bgra|abgr|gbrap|yuva|ya)/.test(stream.pix_fmt)
    const kind = alpha ? 'png' : 'jpg'
    // One more than may be: then it is too long.
    const most = ['-frames:v', String(MOST_FRAMES + 1)]
    await limited('ffmpeg', [
      '-v',
      'error',
      '-nostdin',
      ...own,
      '-i',
      file,
      '-map',
      '0:v:0',
      '-fps_mode',
      'passthrough',
      ...most,
      ...(alpha ? [] : ['-q:v', '2']),
      join(folder, `%05d.${kind}`),
    ])
    const pictures = readdirSync(folder)
      .filter((n) => n.endsWith(`.${kind}`))
      .sort()
    if (!pictures.length) throw new Failure(422, `${cleanName(name)}: there is no picture in it`)
    if (pictures.length > MOST_FRAMES)
      throw new Failure(
        422,
        `${cleanName(name)} has more than ${grouped(MOST_FRAMES)} pictures; cut it to what the shot needs and bring it again`,
      )
    const stem = basename(cleanName(name)).replace(/\.[^.]+$/, '') || 'video'
    const frames: AssetInfo[] = []
    for (const [i, p] of pictures.entries()) {
      const label = `${stem}-${String(i + 1).padStart(4, '0')}.${kind}`
      frames.push(await storeAsset(db, data, label, createReadStream(join(folder, p)), readOwn))
    }
    const even = fraction(stream.avg_frame_rate)
    const uneven = even.num > 0 && Math.abs(even.num / even.den / (rate.num / rate.den) - 1) > 0.002
    return { name: stem, rate, frames, notes: uneven ? ['its pictures do not come evenly; each is taken as one of its frames'] : [] }
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
}
