import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, statSync, utimesSync } from 'node:fs'
import { join } from 'node:path'
import { Failure, notFound } from './failure'
import { writeWhole } from './files'

export const OPENING_LIMIT_BYTES = 48 * 1024 * 1024
/** All that is kept. */
export const KEPT_OPENINGS_BYTES = 512 * 1024 * 1024
/** What the frame depends on, as a hash, and its number. */
const NAME = /^[0-9a-f]{64}-\d{1,7}$/

const folderOf = (data: string): string => join(data, 'openings')
function pathOf(data: string, name: string): string {
  if (!NAME.test(name)) throw notFound('this frame')
  return join(folderOf(data), name)
}
/**
 * Keeps the frame with which a shot opens, as a browser computed it, for browsers that have not: by what it depends on, so that it is never
 * another one's. Those asked for least recently go when there is too much. Nothing is lost with them: they are computed again.
 */
export async function saveOpening(data: string, name: string, bytes: Uint8Array, keptBytes = KEPT_OPENINGS_BYTES): Promise<void> {
  const path = pathOf(data, name)
  if (bytes.length > OPENING_LIMIT_BYTES) throw new Failure(413, `a frame that is kept has at most ${OPENING_LIMIT_BYTES / 1048576} MB`)
  const folder = folderOf(data)
  mkdirSync(folder, { recursive: true, mode: 0o700 })
  const others = readdirSync(folder)
    .filter((n) => NAME.test(n) && n !== name)
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
