import { createHash } from 'node:crypto'
import { readdirSync, readFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { builtKey, checkShot, filesIn, followingFiles } from '../../acts'
import type { Mesh } from '../../engine'
import { formatProblemText, readMesh } from '../../formats'
import { problemText, type Shot } from '../../shot'
import { build, fileOf, isBuilt } from '../built'

const UNREAD: Record<string, string> = {
  ENOENT: 'there is no such file',
  ENOTDIR: 'there is no such file',
  EISDIR: 'is a folder; name the shot document in it',
  EACCES: 'may not be read; give this account the right to',
}
/** An error that a person caused and can mend: its message is all they need. */
export class UserError extends Error {}

export function readShotFile(path: string): Shot {
  let text: string
  try {
    // A dash is standard input.
    text = readFileSync(path === '-' ? 0 : path, 'utf8')
  } catch (error) {
    const code = (error as NodeJS.ErrnoException).code ?? ''
    throw new UserError(`${path}: ${UNREAD[code] ?? `cannot be read (${code || error})`}`)
  }
  let doc: unknown
  try {
    doc = JSON.parse(text)
  } catch (error) {
    throw new UserError(`${path}: not JSON: ${(error as Error).message}`)
  }
  const r = checkShot(doc)
  if (!r.ok) throw new UserError(r.problems.map(problemText).join('\n'))
  return r.shot
}

/** Files of a folder by their SHA-256. A folder that is not there has none. */
export function assetFolder(folder: string): Map<string, string> {
  const out = new Map<string, string>()
  let names: string[] = []
  try {
    names = readdirSync(folder)
  } catch {
    return out
  }
  for (const name of names)
    out.set(
      createHash('sha256')
        .update(readFileSync(join(folder, name)))
        .digest('hex'),
      join(folder, name),
    )
  return out
}

/** What a shot is loaded for: what only lights it is not read where nothing is drawn. */
export type LoadedFor = 'drawing' | 'simulating'
/** The meshes a shot names, by hash, from files. Throws UserError naming the asset. */
export async function loadMeshes(shot: Shot, find: (hash: string) => string | undefined, to: LoadedFor): Promise<Map<string, Mesh>> {
  const out = new Map<string, Mesh>()
  const bytesOf = (hash: string) => {
    const path = find(hash)
    if (!path)
      throw new UserError(
        `asset ${shot.assets.find((a) => a.hash === hash)?.name ?? hash} (${hash.slice(0, 12)}…) is not there; put it into assets/ beside the shot or name a folder with --assets`,
      )
    return new Uint8Array(readFileSync(path))
  }
  const following = followingFiles(shot)
  for (const hash of filesIn({ objects: shot.objects, lights: to === 'drawing' ? shot.lights : [] })) {
    const name = shot.assets.find((a) => a.hash === hash)?.name ?? hash
    const r = await readMesh(bytesOf(hash), following.has(hash))
    if (!r.ok) throw new UserError(`asset ${name}: ${formatProblemText(r.problem)}`)
    out.set(hash, r.value)
  }
  for (const o of shot.objects) {
    const key = builtKey(o.shape)
    if (!key || !isBuilt(o) || out.has(key)) continue
    const file = fileOf(o)
    const made = await build(
      o,
      'asset' in file
        ? bytesOf(file.asset)
        : new Uint8Array(readFileSync(join(process.env.EMBER_ROOT ?? process.cwd(), 'public/fonts', file.font))),
    )
    if (!made.ok) throw new UserError(`${o.name}: ${formatProblemText(made.problem)}`)
    out.set(key, made.value.mesh)
  }
  return out
}
export async function loadShot(
  path: string,
  assets?: string,
  to: LoadedFor = 'drawing',
): Promise<{ shot: Shot; meshes: Map<string, Mesh> }> {
  const shot = readShotFile(path)
  const files = assetFolder(assets ?? (path === '-' ? 'assets' : join(dirname(path), 'assets')))
  return { shot, meshes: await loadMeshes(shot, (h) => files.get(h), to) }
}
