import { createWriteStream, mkdirSync, readFileSync, statSync } from 'node:fs'
import { readFile } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import type { ReadableStream as WebStream } from 'node:stream/web'
import writeFileAtomic from 'write-file-atomic'
import { formatProblemText } from '../../formats'
import { openPackage, packageEntries } from '../../formats/shotPackage'
import { zipStream } from '../../formats/zip'
import { assetFolder, readShotFile, UserError } from '../node/shot'

/** A shot with all its assets as one ZIP file. */
export async function packageShot(file: string, o: { out: string; assets?: string }): Promise<void> {
  const shot = readShotFile(file)
  const files = assetFolder(o.assets ?? join(dirname(file), 'assets'))
  const missing = shot.assets.filter((a) => !files.has(a.hash))
  if (missing.length)
    throw new UserError(
      `${missing.map((a) => a.name).join(', ')}: not there; put it into assets/ beside the shot or name a folder with --assets`,
    )
  const assets = shot.assets.map(({ hash, name }) => {
    const path = files.get(hash) as string
    return { hash, name, bytes: statSync(path).size, read: async () => new Uint8Array(await readFile(path)) }
  })
  const stream = zipStream(packageEntries(shot, assets))
  await pipeline(Readable.fromWeb(stream as WebStream<Uint8Array>), createWriteStream(o.out))
  process.stdout.write(`${JSON.stringify({ file: o.out, bytes: statSync(o.out).size, assets: assets.length })}\n`)
}
/** What lies in a package, into a folder: shot.json and assets/. */
export async function openShotPackage(file: string, o: { out: string }): Promise<void> {
  let bytes: Uint8Array
  try {
    bytes = new Uint8Array(readFileSync(file))
  } catch (error) {
    throw new UserError(`${file}: cannot be read (${(error as NodeJS.ErrnoException).code ?? error})`)
  }
  const r = openPackage(bytes)
  if (!r.ok) throw new UserError(`${file}: ${formatProblemText(r.problem)}`)
  const { doc, others, assets, lost } = r.value
  mkdirSync(join(o.out, 'assets'), { recursive: true })
  const taken = new Set<string>()
  for (const a of assets) {
    // Names are the artist's: only their letters may become a file's.
    const plain = a.name.replace(/[^\p{L}\p{N} ._-]/gu, '_').replace(/^\.+/, '_') || 'asset'
    const name = taken.has(plain) ? `${a.hash.slice(0, 8)} ${plain}` : plain
    taken.add(name)
    writeFileAtomic.sync(join(o.out, 'assets', name), Buffer.from(a.bytes))
  }
  const path = join(o.out, 'shot.json')
  writeFileAtomic.sync(path, `${JSON.stringify(doc, null, 1)}\n`)
  const more = others.map((d, i) => {
    const file = join(o.out, `shot-${i + 2}.json`)
    writeFileAtomic.sync(file, `${JSON.stringify(d, null, 1)}\n`)
    return file
  })
  process.stdout.write(
    `${JSON.stringify({ file: path, ...(more.length ? { more } : {}), assets: assets.length, ...(lost.length ? { lost } : {}) })}\n`,
  )
  if (lost.length) throw new UserError(`${file}: ${lost.join('; ')}. The rest is opened; bring these files anew, or pack the shot again`)
}
