import { spawnSync } from 'node:child_process'
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import type { FileHandle } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { build } from 'esbuild'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { hashOf, isFull, writeAll, writeWhole } from './files'

const folder = mkdtempSync(join(tmpdir(), 'ember-files-'))
afterAll(() => rmSync(folder, { recursive: true, force: true }))

describe('writing', () => {
  it('goes on where a short write ended, and takes a disk that takes nothing for full', async () => {
    const out: number[] = []
    const shy = (most: number) =>
      ({
        write: async (bytes: Uint8Array, at: number, length: number) => {
          const n = Math.min(length, most)
          out.push(...bytes.subarray(at, at + n))
          return { bytesWritten: n }
        },
      }) as unknown as FileHandle
    const bytes = Uint8Array.from({ length: 100 }, (_, i) => i)
    await writeAll(shy(7), bytes)
    expect(out).toEqual([...bytes])
    expect(isFull(await writeAll(shy(0), bytes).catch((e) => e))).toBe(true)
  })
  it('leaves a whole file or the one before, and no parts', async () => {
    const path = join(folder, 'room', 'a.bin')
    await writeWhole(path, Buffer.from('one'))
    await writeWhole(path, Buffer.from('two, longer'))
    expect(readFileSync(path, 'utf8')).toBe('two, longer')
    expect(readdirSync(join(folder, 'room'))).toEqual(['a.bin'])
    expect(await hashOf(path)).toEqual({ hash: expect.stringMatching(/^[0-9a-f]{64}$/), bytes: 11 })
  })
})
describe('a disk that fills up in the middle of a file', () => {
  const program = join(folder, 'write.mjs')
  beforeAll(async () => {
    await build({
      stdin: {
        contents: `import { writeWhole, isFull } from './files'
          writeWhole(process.argv[2], Buffer.alloc(1 << 20, 7)).then(() => console.log('taken'), (e) => console.log(isFull(e) ? 'full' : e.message))`,
        resolveDir: __dirname,
        loader: 'ts',
      },
      bundle: true,
      platform: 'node',
      format: 'esm',
      outfile: program,
    })
  })
  // The kernel takes what fits and says so by the count of the write alone, as it does on a full disk.
  it.each([
    [1200, 'full'],
    [2048, 'full'],
    [4096, 'taken'],
  ])('of %d blocks: %s', (blocks, said) => {
    const path = join(folder, `limit-${blocks}`, 'frame.png')
    const r = spawnSync(
      '/bin/sh',
      ['-c', `ulimit -f ${blocks === 2048 ? 2047 : blocks}; exec "$@"`, 'sh', process.execPath, program, path],
      {
        encoding: 'utf8',
      },
    )
    expect(r.stdout.trim()).toBe(said)
    expect(readdirSync(join(folder, `limit-${blocks}`))).toEqual(said === 'full' ? [] : ['frame.png'])
  })
  it('keeps what was there before', () => {
    const path = join(folder, 'kept.png')
    writeFileSync(path, 'before')
    spawnSync('/bin/sh', ['-c', 'ulimit -f 100; exec "$@"', 'sh', process.execPath, program, path])
    expect(readFileSync(path, 'utf8')).toBe('before')
  })
})
