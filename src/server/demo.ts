import { createReadStream, existsSync, readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { storeAsset } from './assets'
import type { Db } from './db'
import { copyPicture, createProject, createShot } from './shots'

/** Loads the demo project once: into a database that has no project. */
export async function loadDemo(db: Db, data: string, folder: string): Promise<string[]> {
  if ((await db.Project.count()) > 0) return []
  const project = await createProject(db, 'Lantern Night')
  const names: string[] = []
  for (const name of readdirSync(folder).sort()) {
    const file = join(folder, name, 'shot.json')
    if (!existsSync(file)) continue
    const assets = join(folder, name, 'assets')
    for (const asset of existsSync(assets) ? readdirSync(assets).sort() : [])
      await storeAsset(db, data, asset, createReadStream(join(assets, asset)))
    const shot = await createShot(db, project.id, JSON.parse(readFileSync(file, 'utf8')))
    const picture = join(folder, name, 'picture.jpg')
    if (existsSync(picture)) copyPicture(data, shot.id, picture)
    names.push(name)
  }
  return names
}
