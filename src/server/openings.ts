import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, statSync, utimesSync } from 'node:fs'
import { join } from 'node:path'
import { Failure, notFound } from './failure'
import { writeWhole } from './files'

export const OPENING_LIMIT_BYTES = 48 * 1024 * 1024
/** All that is kept. */
export const KEPT_OPENINGS_BYTES = 512 * 1024 * 1024
/** What the frame depends on, as a hash, and its number. */
const FRAME = /^[0-9a-f]{64}-\d{1,7}$/
/** What a picture of the View depends on, as a hash, and its size in pixels. */
const PICTURE = /^[0-9a-f]{64}-\d{1,5}x\d{1,5}$/
const isName = (name: string): boolean => FRAME.test(name) || PICTURE.test(name)
const PNG = Uint8Array.of(0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a)

const folderOf = (data: string): string => join(data, 'openings')
function pathOf(data: string, name: string): string {
  if (!isName(name)) throw notFound('this frame')
  return join(folderOf(data), name)
}
export const typeOfOpening = (name: string): string => (PICTURE.test(name) ? 'image/png' : 'application/octet-stream')
/**
 * Keeps the frame with which a shot opens as a browser computed it, or the picture of the View then (PNG), for browsers that have not: by what
 * it depends on, so that it is never another one's. Those asked for least recently go when there is too much. Nothing is lost with them: they
 * are computed and drawn again.
 */
export async function saveOpening(data: string, name: string, bytes: Uint8Array, keptBytes = KEPT_OPENINGS_BYTES): Promise<void> {
  const path = pathOf(data, name)
  if (bytes.length > OPENING_LIMIT_BYTES) throw new Failure(413, `a frame that is kept has at most ${OPENING_LIMIT_BYTES / 1048576} MB`)
  if (PICTURE.test(name) && !PNG.every((b, i) => bytes[i] === b)) throw new Failure(422, 'a picture of the View that is kept must be a PNG')
  const folder = folderOf(data)
  mkdirSync(folder, { recursive: true, mode: 0o700 })
  const others = readdirSync(folder)
    .filter((n) => isName(n) && n !== name)
    .map((n) => ({ path: join(folder, n), ...pick(statSync(join(folder, n))) }))
    .sort((a, b) => a.used - b.used)
  let sum = others.reduce((n, o) => n + o.bytes, bytes.length)
  for (const o of others) {
    if (sum <= keptBytes) break
    rmSync(o.path, { force: true })
    sum -= o.bytes
  }
  await writeWhole(path, bytes)
}
const pick = (s: { size: number; mtimeMs: number }) => ({ bytes: s.size, used: s.mtimeMs })
/** Bytes of a frame that is kept; null where it is not. */
export const openingBytes = (data: string, name: string): number | null =>
  statSync(pathOf(data, name), { throwIfNoEntry: false })?.size ?? null
/** Null where it is not kept. */
export function readOpening(data: string, name: string): Uint8Array | null {
  const path = pathOf(data, name)
  if (!existsSync(path)) return null
  const now = new Date()
  utimesSync(path, now, now)
  return readFileSync(path)
}
