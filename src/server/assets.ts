import { createHash, randomUUID } from 'node:crypto'
import { createReadStream, existsSync, mkdirSync, readdirSync, rmSync, statSync } from 'node:fs'
import { open } from 'node:fs/promises'
import { basename, join } from 'node:path'
import type { AssetFacts } from '../formats'
import type { Db } from './db'
import { Failure, notFound } from './failure'
import { hashOf, settle, writeAll } from './files'
import { inspect } from './reader'

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
  info: AssetFacts
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

/**
 * Takes a stream of bytes: all of it to a temporary name, synced, its size and hash taken again from the disk, read by a reader
 * apart, renamed, and only then entered. Nothing stays behind when it is refused. `read`: who says what it is, for files that are not a
 * stranger's.
 */
export async function storeAsset(
  db: Db,
  data: string,
  name: string,
  body: AsyncIterable<Uint8Array>,
  read: (path: string) => Promise<AssetFacts> = inspect,
): Promise<AssetInfo> {
  const folder = join(data, 'assets')
  mkdirSync(folder, { recursive: true, mode: 0o700 })
  const temporary = join(folder, `incoming-${randomUUID()}.part`)
  const hash = createHash('sha256')
  let bytes = 0
  try {
    const file = await open(temporary, 'wx')
    try {
      for await (const chunk of body) {
        bytes += chunk.length
        if (bytes > ASSET_LIMIT_BYTES)
          throw new Failure(
            413,
            `${cleanName(name)} is larger than ${ASSET_LIMIT_BYTES / 1048576} MB; give it fewer triangles or smaller pictures and bring it again`,
          )
        hash.update(chunk)
        await writeAll(file, chunk)
      }
      await file.sync()
    } finally {
      await file.close()
    }
    const digest = hash.digest('hex')
    const stored = await hashOf(temporary)
    if (stored.hash !== digest || stored.bytes !== bytes)
      throw new Failure(
        507,
        `${cleanName(name)} could not be stored: the disk gave back other bytes than it was given; look after the disk, then bring it again`,
        { cause: 'disk' },
      )
    const path = assetPath(data, digest)
    const known = await db.Asset.findByPk(digest)
    if (known && existsSync(path) && statSync(path).size === bytes) {
      rmSync(temporary, { force: true })
      return { hash: digest, name: cleanName(name), bytes, info: JSON.parse(known.info) }
    }
    const info = await read(temporary).catch((error) => {
      throw error instanceof Failure ? new Failure(error.status, `${cleanName(name)}: ${error.message}`, error.details) : error
    })
    await settle(temporary, path)
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
