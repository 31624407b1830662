import { createHash } from 'node:crypto'
import { existsSync, mkdirSync, readFileSync, statSync } from 'node:fs'
import { join } from 'node:path'
import { bakedTogether, checkShot } from '../../acts'
import { type Shot, timeOf } from '../../shot'
import { bakedUntil } from '../bakedApart'
import { bakedFile, putWhole } from '../node/bakedFrames'
import { bake } from '../node/baker'
import { loadShot, UserError } from '../node/shot'
import { parseFrames } from './simulate'

export interface BakeOptions {
  out: string
  frames?: string
  elements?: string
  threads: number
  assets?: string
  stateEvery?: number
}
const MANIFEST = 'bake.json'
interface Manifest {
  build: string
  shot: unknown
  /** Of which systems and gases it is; none: of all. */
  elements?: string[]
}
export interface BakedFolder {
  shot: Shot
  build: string
  elements: readonly string[]
}
/** What computes: the program itself. */
const buildOf = (): string => createHash('sha256').update(readFileSync(process.argv[1])).digest('hex').slice(0, 16)
/** What a folder holds a bake of; null: nothing. Throws UserError where it cannot be read. */
export function bakedShot(folder: string): BakedFolder | null {
  const path = join(folder, MANIFEST)
  if (!existsSync(path)) return null
  try {
    const m = JSON.parse(readFileSync(path, 'utf8')) as Manifest
    const checked = checkShot(m.shot)
    if (checked.ok) return { shot: checked.shot, build: m.build, elements: m.elements ?? [] }
  } catch {
    // Said below.
  }
  throw new UserError(`${path} cannot be read: remove the folder and bake anew`)
}
/** Frames of a bake that are as a shot has them: none from the first on that a change touches. */
export const asBaked = (baked: BakedFolder, shot: Shot): number => bakedUntil(baked.shot, shot, baked.elements) ?? Number.POSITIVE_INFINITY

/** Ids of the systems and gases of a list of names, with those that can only be baked along with them; none: all. Throws UserError. */
function elementsOf(shot: Shot, text: string | undefined): readonly string[] {
  if (text === undefined) return []
  const all = [...shot.systems, ...shot.gases]
  const asked = text.split(',').map((x) => {
    const name = x.trim()
    const found = all.find((e) => e.id === name) ?? all.find((e) => e.name.toLowerCase() === name.toLowerCase())
    if (!found) throw new UserError(`--elements: “${name}” is none of ${all.map((e) => e.name).join(', ')}`)
    return found.id
  })
  const together = bakedTogether(shot, asked)
  if (!together) throw new UserError(`--elements: an object of the shot depends on ${text}: bake all of it`)
  const more = all.filter((e) => together.includes(e.id) && !asked.includes(e.id)).map((e) => e.name)
  if (more.length)
    process.stderr.write(`--elements: ${more.join(', ')} with ${more.length > 1 ? 'them' : 'it'}, as one depends on the other\n`)
  return together
}

/** Computes frames into a folder; begun before it goes on. */
export async function bakeShot(file: string, o: BakeOptions): Promise<void> {
  const { shot, meshes } = await loadShot(file, o.assets, 'simulating')
  const [a, b] = parseFrames(o.frames, shot.range.first, shot.range.last)
  const build = buildOf()
  const elements = elementsOf(shot, o.elements)
  const there = bakedShot(o.out)
  if (there && there.elements.join() !== elements.join())
    throw new UserError(
      `--out: ${o.out} holds a bake of ${there.elements.length ? 'other elements' : 'all elements'}; choose another folder`,
    )
  if (there && (asBaked(there, shot) <= b || there.build !== build))
    throw new UserError(
      `--out: ${o.out} holds a bake ${there.build === build ? `of a shot that differs from frame ${asBaked(there, shot)} on` : 'by another version of Fox Ember'}; remove it or choose another folder`,
    )
  mkdirSync(o.out, { recursive: true })
  if (!there)
    putWhole(join(o.out, MANIFEST), [
      new TextEncoder().encode(JSON.stringify({ build, shot, ...(elements.length ? { elements: [...elements] } : {}) } satisfies Manifest)),
    ])
  const missing = Array.from({ length: b - a + 1 }, (_, i) => a + i).filter((f) => !existsSync(join(o.out, bakedFile(f))))
  const seen = { bytes: 0, ms: 0 }
  await bake({
    ...{ shot: there?.shot ?? shot, meshes, folder: o.out, frames: missing, threads: o.threads, build, elements },
    ...(o.stateEvery === undefined ? {} : { stateEveryS: o.stateEvery }),
    frame(n) {
      seen.bytes += n.bytes
      seen.ms += n.ms
      process.stdout.write(`${JSON.stringify({ frame: n.frame, t: timeOf(shot, n.frame), bytes: n.bytes, ms: Math.round(n.ms) })}\n`)
    },
  })
  const all = Array.from({ length: b - a + 1 }, (_, i) => statSync(join(o.out, bakedFile(a + i))).size).reduce((x, y) => x + y, 0)
  process.stdout.write(
    `${JSON.stringify({ summary: { baked: missing.length, frames: b - a + 1, bytes: all, ms: Math.round(seen.ms) } })}\n`,
  )
}
