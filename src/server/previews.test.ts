import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { makePreview } from './previews'

async function* pieces(list: readonly Uint8Array[]) {
  for (const p of list) yield p
}
describe('a preview', () => {
  it('is a movie of as many pictures as came, at their rate; what is no picture is refused with words', async () => {
    const folder = mkdtempSync(join(tmpdir(), 'fox-ember-test-'))
    try {
      execFileSync('ffmpeg', [
        '-loglevel',
        'error',
        '-f',
        'lavfi',
        '-i',
        'testsrc=size=64x36:rate=25',
        '-frames:v',
        '5',
        join(folder, '%d.jpg'),
      ])
      const jpegs = [1, 2, 3, 4, 5].map((n) => new Uint8Array(readFileSync(join(folder, `${n}.jpg`))))
      // In pieces that end anywhere.
      const all = Buffer.concat(jpegs)
      const movie = await makePreview('30000/1001', pieces([all.subarray(0, 777), all.subarray(777, 4000), all.subarray(4000)]))
      const file = join(folder, 'out.mp4')
      writeFileSync(file, movie)
      const told = execFileSync('ffprobe', [
        '-v',
        'error',
        '-count_frames',
        '-show_entries',
        'stream=nb_read_frames,r_frame_rate,width',
        '-of',
        'json',
        file,
      ])
      expect(JSON.parse(told.toString()).streams[0]).toEqual({ width: 64, r_frame_rate: '30000/1001', nb_read_frames: '5' })
      await expect(makePreview('24/1', pieces([new TextEncoder().encode('no picture at all')]))).rejects.toMatchObject({ status: 422 })
      await expect(makePreview('fast', pieces(jpegs))).rejects.toMatchObject({ status: 400, message: /24\/1/ })
      await expect(makePreview('24/0', pieces(jpegs))).rejects.toMatchObject({ status: 400 })
    } finally {
      rmSync(folder, { recursive: true, force: true })
    }
  })
})
