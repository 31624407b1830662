import { execFileSync } from 'node:child_process'
import { createReadStream, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { decode as decodePng } from 'fast-png'
import jpeg from 'jpeg-js'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { assetPath } from './assets'
import { Failure } from './failure'
import { openTestServer, type TestServer } from './testing/open'
import { storeVideo } from './videos'

let s: TestServer
let folder: string
beforeAll(async () => {
  s = await openTestServer()
  folder = mkdtempSync(join(tmpdir(), 'fox-ember-videos-'))
})
afterAll(async () => {
  rmSync(folder, { recursive: true, force: true })
  await s.close()
})
/** A film whose n-th picture is as bright as n says. */
function film(name: string, rate: string, count: number, how: string[], of = 'lum=20+8*N:cb=128:cr=128'): string {
  const file = join(folder, name)
  const source = `color=c=black:s=64x48:r=${rate}:d=100,format=yuv444p,geq=${of}`
  execFileSync('ffmpeg', ['-v', 'error', '-y', '-f', 'lavfi', '-i', source, '-frames:v', String(count), ...how, file])
  return file
}
const store = (file: string) => storeVideo(s.db, s.data, 'quay film.mov', createReadStream(file))
const H264 = ['-c:v', 'libx264', '-crf', '6', '-bf', '3', '-g', '12', '-pix_fmt', 'yuv420p']

describe('a video as numbered pictures', () => {
  it.each([
    ['23.976', '24000/1001', { num: 24000, den: 1001 }],
    ['25', '25', { num: 25, den: 1 }],
  ])('at %s has every frame once, in its order, though frames between are made from those behind', async (_, rate, told) => {
    const { frames, rate: found, name, notes } = await store(film(`f${told.num}.mov`, rate, 25, H264))
    expect([frames.length, found, name, notes]).toEqual([25, told, 'quay film', []])
    frames.forEach((f, n) => {
      const { data } = jpeg.decode(readFileSync(assetPath(s.data, f.hash)), { useTArray: true })
      // Full range out of a film's: 16 is black, 235 white.
      const bright = ((20 + 8 * n - 16) / 219) * 255
      expect(Math.abs(data[(24 * 64 + 32) * 4] - bright)).toBeLessThan(4)
      expect(f.name).toBe(`quay film-${String(n + 1).padStart(4, '0')}.jpg`)
    })
  })
  it('keeps alpha, and gives the same pictures again for nothing', async () => {
    const file = film('a.mov', '24', 3, ['-vf', 'format=rgba,geq=r=200:g=100:b=50:a=60*N', '-c:v', 'png'])
    const { frames } = await store(file)
    expect(frames.map((f) => f.name)).toEqual([1, 2, 3].map((n) => `quay film-000${n}.png`))
    const alpha = frames.map((f) => decodePng(readFileSync(assetPath(s.data, f.hash))).data[(24 * 64 + 32) * 4 + 3])
    expect(alpha).toEqual([0, 60, 120])
    const before = readdirSync(join(s.data, 'assets')).length
    expect((await store(file)).frames.map((f) => f.hash)).toEqual(frames.map((f) => f.hash))
    expect(readdirSync(join(s.data, 'assets'))).toHaveLength(before)
  })
  it('refuses what is no video, what has no picture, and what leads elsewhere, with a reason; nothing is left', async () => {
    const why = async (file: string) => {
      const before = readdirSync(join(s.data, 'assets')).length
      const error = await store(file).then(
        () => null,
        (e) => e,
      )
      expect(error).toBeInstanceOf(Failure)
      expect(readdirSync(join(s.data, 'assets'))).toHaveLength(before)
      return (error as Failure).message
    }
    const file = join(folder, 'no.mov')
    writeFileSync(file, 'a film that is none')
    expect(await why(file)).toMatch(/cannot be read/)
    const sound = join(folder, 'sound.mov')
    execFileSync('ffmpeg', ['-v', 'error', '-y', '-f', 'lavfi', '-i', 'sine=d=1', sound])
    expect(await why(sound)).toMatch(/no picture in it/)
    // A list of addresses that a player would follow.
    writeFileSync(file, '#EXTM3U\n#EXT-X-TARGETDURATION:1\n#EXTINF:1,\nhttp://127.0.0.1:1/a.ts\n#EXT-X-ENDLIST\n')
    expect(await why(file)).toMatch(/cannot be read|no picture/)
    expect(readdirSync(tmpdir()).filter((n) => n.startsWith('fox-ember-video-'))).toEqual([])
  })
})
