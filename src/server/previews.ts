import { mkdtempSync, rmSync } from 'node:fs'
import { readFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { movieOfJpegs } from '../hosts/node/movie'
import { Failure } from './failure'
import { bareEnv, turn } from './reader'

export const PREVIEW_LIMIT_BYTES = 512 * 1024 * 1024

/** An MP4 of JPEG pictures that come one after the other, `rate` as in 24/1. It is not kept. */
export async function makePreview(rate: string, body: AsyncIterable<Uint8Array>): Promise<Uint8Array> {
  const m = /^(\d{1,7})\/(\d{1,6})$/.exec(rate)
  const [num, den] = [Number(m?.[1]), Number(m?.[2])]
  if (!m || !num || !den) throw new Failure(400, 'rate: must be pictures a second as a fraction, as in 24/1')
  const folder = mkdtempSync(join(tmpdir(), 'fox-ember-preview-'))
  try {
    const file = join(folder, 'preview.mp4')
    await turn(() => movieOfJpegs(body, { num, den }, file, { env: bareEnv() })).catch((error) => {
      throw error instanceof Failure ? error : new Failure(422, error instanceof Error ? error.message : String(error))
    })
    return await readFile(file)
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
}
