import { existsSync, statSync } from 'node:fs'
import { readFile } from 'node:fs/promises'
import { bakeEntries, openPackage, packageEntries } from '../formats/shotPackage'
import { zipStream } from '../formats/zip'
import type { Shot } from '../shot'
import { assetPath, storeAsset } from './assets'
import { bakesToPack, takeBake } from './bakes'
import type { Db } from './db'
import { Failure, notFound } from './failure'
import { createShot, listProjects, readShot } from './shots'

/** Of shots, each once. */
function assetsOf(data: string, docs: readonly Shot[]) {
  const all = [...new Map(docs.flatMap((d) => d.assets).map((a) => [a.hash, a])).values()]
  const missing = all.filter((a) => !existsSync(assetPath(data, a.hash)))
  if (missing.length)
    throw new Failure(409, `${missing.map((a) => a.name).join(', ')} is not there: bring it again, or remove what uses it`)
  return all.map(({ hash, name }) => {
    const path = assetPath(data, hash)
    return { hash, name, bytes: statSync(path).size, read: async () => new Uint8Array(await readFile(path)) }
  })
}
/** A shot with all its assets as one ZIP file, made while it is sent; `baked`: with its bakes. */
export async function packShot(
  db: Db,
  data: string,
  id: string,
  baked = false,
): Promise<{ name: string; stream: ReadableStream<Uint8Array> }> {
  const { doc } = await readShot(db, id)
  const bakes = baked ? bakeEntries(await bakesToPack(db, data, id, 0)) : []
  return { name: `${doc.name}.zip`, stream: zipStream([...packageEntries(doc, assetsOf(data, [doc])), ...bakes]) }
}
/** All shots of a project with all their assets, the same way. */
export async function packProject(db: Db, data: string, id: string): Promise<{ name: string; stream: ReadableStream<Uint8Array> }> {
  const project = (await listProjects(db, data)).find((p) => p.id === id)
  if (!project) throw notFound('this project')
  if (!project.shots.length) throw new Failure(409, `${project.name} has no shot: there is nothing to pack`)
  const docs: Shot[] = []
  for (const s of project.shots) docs.push((await readShot(db, s.id)).doc)
  const [first, ...more] = docs
  return { name: `${project.name}.zip`, stream: zipStream(packageEntries(first, assetsOf(data, docs), more)) }
}
/** Opens one in a project. `lost`: what of it was missing or damaged; the rest is there without it. */
export async function unpackShot(
  db: Db,
  data: string,
  project: string,
  zip: Uint8Array,
): Promise<{ id: string; ids: string[]; lost: string[] }> {
  const r = openPackage(zip)
  if (!r.ok) throw new Failure(422, `this file ${r.problem.message}`)
  const { doc, others, assets, bakes, lost } = r.value
  for (const a of assets)
    await storeAsset(
      db,
      data,
      a.name,
      (async function* () {
        yield a.bytes
      })(),
    )
  const ids: string[] = []
  for (const d of [doc, ...others]) ids.push((await createShot(db, project, d)).id)
  for (const b of bakes) if (ids[b.shot]) await takeBake(db, data, ids[b.shot], b, (why) => void lost.push(why))
  return { id: ids[0], ids, lost }
}
