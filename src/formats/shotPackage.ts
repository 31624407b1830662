import { createHash } from 'node:crypto'
import { Unzip, UnzipInflate, unzipSync } from 'fflate'
import * as z from 'zod'
import type { Shot } from '../shot'
import { bad, type Read } from './result'

/** Of the kind of file, and of how it is laid out. */
const KIND = 'fox-ember-shot'
/** Of one shot, and of several. */
const VERSION = 1
const VERSION_OF_MANY = 2
/** What is opened at most: a package is read into memory. */
export const PACKAGE_BYTES = 1024 * 1024 * 1024
const MOST_FILES = 20000

const hash = z.string().regex(/^[0-9a-f]{64}$/)
const manifestSchema = z.object({
  kind: z.literal(KIND),
  version: z.number(),
  /** Of shot.json. */
  shot: z.object({ name: z.string(), hash }),
  /** Further shots, each in a file of its own. */
  others: z
    .array(z.object({ file: z.string().regex(/^shots\/\d{1,5}\.json$/), name: z.string(), hash }))
    .max(MOST_FILES)
    .optional(),
  assets: z.array(z.object({ hash, name: z.string(), bytes: z.number() })).max(MOST_FILES),
})
const sha = (b: Uint8Array): string => createHash('sha256').update(b).digest('hex')

export interface PackageEntry {
  name: string
  read(): Promise<Uint8Array>
}
export interface PackedAsset {
  hash: string
  name: string
  bytes: number
  read(): Promise<Uint8Array>
}
/**
 * What lies in the ZIP of a shot, in order: `manifest.json` with names and hashes, `shot.json`, and each asset as `assets/HASH`; of a project its
 * other shots as `shots/N.json`. Of the same shots the same bytes.
 */
export function packageEntries(shot: Shot, assets: readonly PackedAsset[], more: readonly Shot[] = []): PackageEntry[] {
  const text = (x: unknown) => new TextEncoder().encode(`${JSON.stringify(x, null, 1)}\n`)
  const doc = text(shot)
  const others = more.map((s, i) => ({ file: `shots/${i + 2}.json`, name: s.name, bytes: text(s) }))
  const manifest = text({
    kind: KIND,
    version: more.length ? VERSION_OF_MANY : VERSION,
    shot: { name: shot.name, hash: sha(doc) },
    ...(more.length ? { others: others.map(({ file, name, bytes }) => ({ file, name, hash: sha(bytes) })) } : {}),
    assets: assets.map(({ hash, name, bytes }) => ({ hash, name, bytes })),
  })
  return [
    { name: 'manifest.json', read: async () => manifest },
    { name: 'shot.json', read: async () => doc },
    ...others.map((o) => ({ name: o.file, read: async () => o.bytes })),
    ...assets.map((a) => ({ name: `assets/${a.hash}`, read: () => a.read() })),
  ]
}
/** Frames of a simulation that go along. */
export interface PackedBake {
  /** Of which of the shots, counted from 0. */
  shot: number
  /** The shot as it was baked. */
  doc: Shot
  /** What whoever opens it must know besides. */
  facts: Record<string, unknown>
  frames: { frame: number; ms: number; read(): Promise<Uint8Array> }[]
}
const bakeSchema = z.object({
  shot: z.number().int().min(0),
  /** Of its shot.json. */
  doc: hash,
  facts: z.record(z.string(), z.unknown()),
  frames: z.array(z.object({ frame: z.number().int().min(0), ms: z.number(), hash })).max(100000),
})
/** What lies in the ZIP of bakes, behind all else: of each the shot, its frames, and then what they are, which is known when they have been read. */
export function bakeEntries(bakes: readonly PackedBake[]): PackageEntry[] {
  return bakes.flatMap((b, n) => {
    const doc = new TextEncoder().encode(`${JSON.stringify(b.doc)}\n`)
    const frames: z.infer<typeof bakeSchema>['frames'] = []
    const facts = () => JSON.stringify({ shot: b.shot, doc: sha(doc), facts: b.facts, frames })
    return [
      { name: `bakes/${n}/shot.json`, read: async () => doc },
      ...b.frames.map(({ frame, ms, read }) => ({
        name: `bakes/${n}/${frame}.bake`,
        async read() {
          const bytes = await read()
          frames.push({ frame, ms, hash: sha(bytes) })
          return bytes
        },
      })),
      { name: `bakes/${n}/bake.json`, read: async () => new TextEncoder().encode(facts()) },
    ]
  })
}
export interface OpenedBake {
  shot: number
  /** As it was packed; not checked. */
  doc: unknown
  facts: Record<string, unknown>
  frames: { frame: number; ms: number; bytes: Uint8Array }[]
}
export interface OpenedPackage {
  /** As it was packed; not checked. */
  doc: unknown
  /** Further shots of a project; those that are whole. */
  others: unknown[]
  assets: { hash: string; name: string; bytes: Uint8Array }[]
  /** With the frames that are whole. */
  bakes: OpenedBake[]
  /** Assets and further shots that are not there or not as they were, in words. */
  lost: string[]
}
/** The files of a ZIP that is whole, or as many of one that is cut as lie before the cut. */
function filesOf(zip: Uint8Array): Record<string, Uint8Array> {
  let total = 0
  const take = (size: number) => {
    total += size
    if (total > PACKAGE_BYTES) throw new Error(`it holds more than ${PACKAGE_BYTES / 1048576} MB`)
    return true
  }
  try {
    return unzipSync(zip, {
      filter: (f) =>
        /^(manifest\.json|shot\.json|shots\/\d{1,5}\.json|assets\/[0-9a-f]{64}|bakes\/\d{1,4}\/(shot\.json|bake\.json|\d{1,7}\.bake))$/.test(
          f.name,
        ) && take(f.originalSize),
    })
  } catch {
    total = 0
  }
  const out: Record<string, Uint8Array> = {}
  const un = new Unzip((file) => {
    const parts: Uint8Array[] = []
    file.ondata = (error, bytes, last) => {
      if (error) return
      take(bytes.length)
      parts.push(bytes)
      if (!last) return
      const whole = new Uint8Array(parts.reduce((s, p) => s + p.length, 0))
      let at = 0
      for (const p of parts) {
        whole.set(p, at)
        at += p.length
      }
      out[file.name] = whole
    }
    file.start()
  })
  un.register(UnzipInflate)
  try {
    un.push(zip, true)
  } catch {
    // Where it is cut.
  }
  return out
}
/** A package, with all that is whole of it; refused when the shot itself is not. */
export function openPackage(zip: Uint8Array): Read<OpenedPackage> {
  if (zip.length < 4 || zip[0] !== 0x50 || zip[1] !== 0x4b)
    return bad('is not a ZIP file; choose a package that was made of a shot', { byte: 0 })
  let files: Record<string, Uint8Array>
  try {
    files = filesOf(zip)
  } catch (error) {
    return bad(`cannot be opened: ${error instanceof Error ? error.message : error}`)
  }
  const json = (name: string): unknown => {
    try {
      return files[name] && JSON.parse(new TextDecoder().decode(files[name]))
    } catch {
      return undefined
    }
  }
  const read = manifestSchema.safeParse(json('manifest.json'))
  if (!read.success) return bad('has no manifest of a packed shot, or a damaged one; pack the shot again')
  const m = read.data
  if (m.version > VERSION_OF_MANY) return bad(`was made by a later version (package ${m.version}); open it there`)
  const doc = json('shot.json')
  if (doc === undefined || sha(files['shot.json']) !== m.shot.hash)
    return bad(`the document of ${m.shot.name} in it is missing or damaged; pack the shot again`)
  const lost: string[] = []
  const others = (m.others ?? []).flatMap((o) => {
    const found = json(o.file)
    if (found !== undefined && sha(files[o.file]) === o.hash) return [found]
    lost.push(`the shot ${o.name} is ${files[o.file] ? 'damaged' : 'missing'}`)
    return []
  })
  const assets: OpenedPackage['assets'] = []
  for (const a of m.assets) {
    const bytes = files[`assets/${a.hash}`]
    if (!bytes) lost.push(`${a.name} is missing`)
    else if (sha(bytes) !== a.hash) lost.push(`${a.name} is damaged`)
    else assets.push({ hash: a.hash, name: a.name, bytes })
  }
  const bakes: OpenedBake[] = []
  for (let n = 0; files[`bakes/${n}/shot.json`]; n++) {
    const b = bakeSchema.safeParse(json(`bakes/${n}/bake.json`))
    if (!b.success || sha(files[`bakes/${n}/shot.json`]) !== b.data.doc) {
      lost.push(`bake ${n + 1} is damaged`)
      continue
    }
    const frames = b.data.frames.flatMap(({ frame, ms, hash: of }) => {
      const bytes = files[`bakes/${n}/${frame}.bake`]
      return bytes && sha(bytes) === of ? [{ frame, ms, bytes }] : []
    })
    const few = b.data.frames.length - frames.length
    if (few) lost.push(`${few} ${few === 1 ? 'frame' : 'frames'} of bake ${n + 1} ${few === 1 ? 'is' : 'are'} damaged: go on with it`)
    bakes.push({ shot: b.data.shot, doc: json(`bakes/${n}/shot.json`), facts: b.data.facts, frames })
  }
  return { ok: true, value: { doc, others, assets, bakes, lost }, notes: [] }
}
