import { existsSync } from 'node:fs'
import { cpus } from 'node:os'
import { bake } from '../../hosts/node/baker'
import { loadMeshes } from '../../hosts/node/shot'
import type { Shot } from '../../shot'
import { assetPath } from '../assets'
import { isFull } from '../files'
import type { DrawNews } from './drawJob'

/** What the worker asks of this process, once. */
export interface BakeOrder {
  shot: Shot
  /** The data folder. */
  data: string
  /** The job's folder. */
  folder: string
  /** Frames to compute, in order. */
  frames: number[]
  build: string
  /** Of which systems and gases; none: of all. */
  elements: string[]
}
// Computes the frames of one bake, in a process of its own that knows no database. A frame is told of when it lies on the disk, whole.
const say = (news: DrawNews) => new Promise<void>((done) => process.send?.(news, () => done()))
// The worker was killed.
process.once('disconnect', () => process.exit(1))
process.once('message', (order: BakeOrder) => {
  const { shot, data, folder, frames, build, elements } = order
  const work = async () => {
    const meshes = await loadMeshes(shot, (hash) => (existsSync(assetPath(data, hash)) ? assetPath(data, hash) : undefined), 'simulating')
    const threads = Math.max(1, cpus().length)
    await bake({ shot, meshes, folder, frames, threads, build, elements, frame: (news) => say({ kind: 'frame', ...news }) })
  }
  void work()
    .then(() => say({ kind: 'done', waits: false }))
    .catch((error) =>
      say({ kind: 'failed', message: error instanceof Error ? error.message.split('\n')[0] : String(error), full: isFull(error) }),
    )
    .finally(() => process.exit(0))
})
