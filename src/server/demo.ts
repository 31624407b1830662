import { createReadStream, existsSync, readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import type { AssetFacts } from '../formats'
import { storeAsset } from './assets'
import type { Db } from './db'
import { copyPicture, createProject, createShot } from './shots'

const PROJECT = 'Lantern Night'

/** Files that are shipped are read here: a process apart for each, as for those of strangers, would take a minute of the first start. */
async function ours(path: string): Promise<AssetFacts> {
  const { formatProblemText, inspectAsset } = await import('../formats')
  const r = await inspectAsset(new Uint8Array(readFileSync(path)), true)
  if (!r.ok) throw new Error(`a file of the demo cannot be read: ${formatProblemText(r.problem)}`)
  return r.value
}

/**
 * The demo project, whole or not at all: into a database that has no project, or none but an empty one of this name, which is what
 * was left where a start was killed. Files come first; they do no harm without their shots. Returns the names of the shots.
 */
export async function loadDemo(db: Db, data: string, folder: string): Promise<string[]> {
  const projects = await db.Project.findAll({ limit: 2 })
  const [only] = projects
  if (projects.length > 1 || (only && (only.name !== PROJECT || (await db.Shot.count()) > 0))) return []
  const names = readdirSync(folder)
    .sort()
    .filter((name) => existsSync(join(folder, name, 'shot.json')))
  for (const name of names) {
    const assets = join(folder, name, 'assets')
    for (const asset of existsSync(assets) ? readdirSync(assets).sort() : [])
      await storeAsset(db, data, asset, createReadStream(join(assets, asset)), ours)
  }
  const pictures: [id: string, picture: string][] = []
  await db.sequelize.transaction(async (transaction) => {
    const project = only ?? (await createProject(db, PROJECT, transaction))
    for (const name of names) {
      const shot = await createShot(db, project.id, JSON.parse(readFileSync(join(folder, name, 'shot.json'), 'utf8')), transaction)
      const picture = join(folder, name, 'picture.jpg')
      if (existsSync(picture)) pictures.push([shot.id, picture])
    }
  })
  // A shot without its picture gets one when it is opened.
  for (const [id, picture] of pictures) await copyPicture(data, id, picture)
  return names
}
