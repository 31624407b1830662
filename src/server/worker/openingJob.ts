import { existsSync } from 'node:fs'
import { compile } from '../../acts'
import { World } from '../../engine'
import { packFrames } from '../../hosts/framePack'
import { nodeKernels } from '../../hosts/node/kernels'
import { loadMeshes } from '../../hosts/node/shot'
import { WORLD_BYTES } from '../../machines/instantiate'
import { openingFrame, type Shot, withoutDetail } from '../../shot'
import { assetPath } from '../assets'
import { OPENING_LIMIT_BYTES, saveOpening } from '../openings'

/** What the worker asks of this process, once. */
export interface OpeningOrder {
  shot: Shot
  /** The data folder. */
  data: string
  /** Under which the frame is kept. */
  name: string
}
// Computes the frame with which a shot opens, on one thread. Knows no database.
process.once('disconnect', () => process.exit(1))
process.once('message', ({ shot, data, name }: OpeningOrder) => {
  const work = async () => {
    const opened = withoutDetail(shot)
    const meshes = await loadMeshes(opened, (hash) => (existsSync(assetPath(data, hash)) ? assetPath(data, hash) : undefined), 'simulating')
    const world = new World(await nodeKernels({ threads: 1 }), compile(opened, meshes).plan, WORLD_BYTES)
    while (world.frame < openingFrame(opened)) {
      world.step()
      // Hears that the worker is gone.
      await new Promise((next) => setImmediate(next))
    }
    const bytes = Buffer.concat(packFrames([world.capture()]).map((p) => Buffer.from(p as ArrayBuffer)))
    if (bytes.length <= OPENING_LIMIT_BYTES) await saveOpening(data, name, bytes)
  }
  void work().then(
    () => process.exit(0),
    () => process.exit(1),
  )
})
