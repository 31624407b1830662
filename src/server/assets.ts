import { execFile } from 'node:child_process'
import { createHash, randomUUID } from 'node:crypto'
import { createReadStream, existsSync, mkdirSync, readdirSync, renameSync, rmSync, statSync } from 'node:fs'
import { open } from 'node:fs/promises'
import { basename, join } from 'node:path'
import type { Db } from './db'
import { Failure, notFound } from './failure'

export const ASSET_LIMIT_BYTES = 256 * 1024 * 1024
const HASH = /^[0-9a-f]{64}$/
export const assetPath = (data: string, hash: string): string => {
  if (!HASH.test(hash)) throw notFound('this asset')
  return join(data, 'assets', hash)
}
export interface AssetInfo {
  hash: string
  name: string
  bytes: number
  info: {
    kind: 'mesh' | 'outline' | 'font'
    triangles: number
    vertices: number
    bounds: { min: number[]; max: number[] }
    closed: boolean
    tinted: boolean
    lengthS: number
    parts: string[]
    notes: string[]
  }
}
/** A name for people: the last part of a path, without control characters; never used as a file's name. */
export function cleanName(name: string): string {
  const last = basename(name.replaceAll('\\', '/'))
  return (
    last
      // biome-ignore lint/suspicious/noControlCharactersInRegex: they are what is taken out
      .replace(/[\u0000-\u001f\u007f]/g, '')
      .slice(0, 180)
      .trim() || 'mesh'
  )
}

/** Runs the reader in a process of its own: a hostile file can cost that process its life, never the server. */
function inspect(path: string): Promise<AssetInfo['info']> {
  const root = process.env.EMBER_ROOT ?? process.cwd()
  return new Promise((resolve, reject) => {
    execFile(
      process.execPath,
      ['--max-old-space-size=3072', join(root, 'dist/ember.mjs'), 'inspect', path],
      { timeout: 120000, maxBuffer: 16 * 1024 * 1024, env: { ...process.env, EMBER_ROOT: root } },
      (error, stdout, stderr) => {
        if (!error) {
          resolve(JSON.parse(stdout))
          return
        }
        const killed = error.killed || error.signal
        const line = stderr.trim().split('\n')[0] ?? ''
        reject(
          new Failure(
            422,
            killed || /heap out of memory|FATAL/i.test(stderr)
              ? 'the file is too large or too strange to be read'
              : line || 'the file cannot be read',
          ),
        )
      },
    )
  })
}

/** Takes a stream of bytes: to a temporary name, checked, synced, renamed. Nothing stays behind when it is refused. */
export async function storeAsset(db: Db, data: string, name: string, body: AsyncIterable<Uint8Array>): Promise<AssetInfo> {
  const folder = join(data, 'assets')
  mkdirSync(folder, { recursive: true })
  const temporary = join(folder, `incoming-${randomUUID()}.part`)
  const hash = createHash('sha256')
  let bytes = 0
  try {
    const file = await open(temporary, 'wx')
    try {
      for await (const chunk of body) {
        bytes += chunk.length
        if (bytes > ASSET_LIMIT_BYTES) throw new Failure(413, `${cleanName(name)} is larger than ${ASSET_LIMIT_BYTES / 1048576} MB`)
        hash.update(chunk)
        await file.write(chunk)
      }
      await file.sync()
    } finally {
      await file.close()
    }
    const digest = hash.digest('hex')
    const known = await db.Asset.findByPk(digest)
    if (known && existsSync(assetPath(data, digest))) {
      rmSync(temporary, { force: true })
      return { hash: digest, name: cleanName(name), bytes, info: JSON.parse(known.info) }
    }
    const info = await inspect(temporary).catch((error) => {
      throw error instanceof Failure ? new Failure(error.status, `${cleanName(name)}: ${error.message}`) : error
    })
    renameSync(temporary, assetPath(data, digest))
    await db.Asset.upsert({ hash: digest, name: cleanName(name), bytes, kind: info.kind, info: JSON.stringify(info) })
    return { hash: digest, name: cleanName(name), bytes, info }
  } catch (error) {
    rmSync(temporary, { force: true })
    throw error
  }
}
export async function assetStream(
  db: Db,
  data: string,
  hash: string,
): Promise<{ stream: ReturnType<typeof createReadStream>; bytes: number }> {
  const path = assetPath(data, hash)
  if (!(await db.Asset.findByPk(hash)) || !existsSync(path)) throw notFound('this asset')
  return { stream: createReadStream(path), bytes: statSync(path).size }
}
/** What a kill in the middle of an upload left behind. Run before the server takes requests. */
export function sweepAssets(data: string): number {
  const folder = join(data, 'assets')
  if (!existsSync(folder)) return 0
  const left = readdirSync(folder).filter((n) => n.startsWith('incoming-') && n.endsWith('.part'))
  for (const n of left) rmSync(join(folder, n), { force: true })
  return left.length
}
