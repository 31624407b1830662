import { existsSync, statSync } from 'node:fs'
import { readFile } from 'node:fs/promises'
import { openPackage, packageEntries } from '../formats/shotPackage'
import { zipStream } from '../formats/zip'
import { assetPath, storeAsset } from './assets'
import type { Db } from './db'
import { Failure } from './failure'
import { createShot, readShot } from './shots'

/** A shot with all its assets as one ZIP file, made while it is sent. */
export async function packShot(db: Db, data: string, id: string): Promise<{ name: string; stream: ReadableStream<Uint8Array> }> {
  const { doc } = await readShot(db, id)
  const missing = doc.assets.filter((a) => !existsSync(assetPath(data, a.hash)))
  if (missing.length)
    throw new Failure(409, `${missing.map((a) => a.name).join(', ')} is not there: bring it again, or remove what uses it`)
  const assets = doc.assets.map(({ hash, name }) => {
    const path = assetPath(data, hash)
    return { hash, name, bytes: statSync(path).size, read: async () => new Uint8Array(await readFile(path)) }
  })
  return { name: `${doc.name}.zip`, stream: zipStream(packageEntries(doc, assets)) }
}
/** Opens one in a project. `lost`: what of it was missing or damaged; the shot is there without it. */
export async function unpackShot(db: Db, data: string, project: string, zip: Uint8Array): Promise<{ id: string; lost: string[] }> {
  const r = openPackage(zip)
  if (!r.ok) throw new Failure(422, `this file ${r.problem.message}`)
  const { doc, assets, lost } = r.value
  for (const a of assets)
    await storeAsset(
      db,
      data,
      a.name,
      (async function* () {
        yield a.bytes
      })(),
    )
  const { id } = await createShot(db, project, doc)
  return { id, lost }
}
