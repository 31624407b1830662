import { createReadStream, existsSync, readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { storeAsset } from './assets'
import type { Db } from './db'
import { readOwn } from './reader'
import { copyPicture, createProject, createShot } from './shots'

const PROJECT = 'Lantern Night'

/**
 * The demo project, whole or not at all: into a database that has no project, or none but an empty one of this name, which is what
 * was left where a start was killed. Files come first, read without a process for each, which would take a minute of the first start; they do no harm without their shots. Returns the names of the shots.
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
      await storeAsset(db, data, asset, createReadStream(join(assets, asset)), readOwn)
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
