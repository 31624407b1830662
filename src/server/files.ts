import { createHash, randomUUID } from 'node:crypto'
import { createReadStream } from 'node:fs'
import { type FileHandle, mkdir, open, readFile, rename, rm } from 'node:fs/promises'
import { basename, dirname, join } from 'node:path'

/** Codes of a disk that took less than it was given. */
const FULL = new Set(['ENOSPC', 'EDQUOT', 'EFBIG'])
export const isFull = (error: unknown): boolean => FULL.has((error as NodeJS.ErrnoException | null)?.code ?? '')

/** All of `bytes`: one write may take a part only, and say so by nothing but its count. */
export async function writeAll(file: FileHandle, bytes: Uint8Array): Promise<void> {
  for (let at = 0; at < bytes.length; ) {
    const { bytesWritten } = await file.write(bytes, at, bytes.length - at)
    if (bytesWritten === 0) throw Object.assign(new Error('the disk took nothing of what was written'), { code: 'ENOSPC' })
    at += bytesWritten
  }
}
/** A name is on the disk when its folder is. */
export async function syncFolder(path: string): Promise<void> {
  const folder = await open(path, 'r')
  try {
    await folder.sync()
  } finally {
    await folder.close()
  }
}
/** Moves a written and synced file to its name, for good. */
export async function settle(from: string, to: string): Promise<void> {
  await rename(from, to)
  await syncFolder(dirname(to))
}
/** SHA-256 of a file as it lies on the disk, hexadecimal, and its size in bytes. */
export async function hashOf(path: string): Promise<{ hash: string; bytes: number }> {
  const hash = createHash('sha256')
  let bytes = 0
  for await (const chunk of createReadStream(path)) {
    hash.update(chunk)
    bytes += chunk.length
  }
  return { hash: hash.digest('hex'), bytes }
}
/** A whole file or none: beside its place, all of it, synced, read again, renamed. Makes the folder. Throws what the disk says. */
export async function writeWhole(path: string, bytes: Uint8Array): Promise<void> {
  const folder = dirname(path)
  await mkdir(folder, { recursive: true, mode: 0o700 })
  const part = join(folder, `.${basename(path)}-${randomUUID().slice(0, 8)}.part`)
  try {
    const file = await open(part, 'wx')
    try {
      await writeAll(file, bytes)
      await file.sync()
    } finally {
      await file.close()
    }
    if (!(await readFile(part)).equals(bytes)) throw Object.assign(new Error(`${basename(path)} was not stored whole`), { code: 'EIO' })
    await settle(part, path)
  } catch (error) {
    await rm(part, { force: true })
    throw error
  }
}
