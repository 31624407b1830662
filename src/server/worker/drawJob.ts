import { existsSync } from 'node:fs'
import { cpus } from 'node:os'
import { join } from 'node:path'
import { bakedFrame } from '../../hosts/node/bakedFrames'
import { FrameRenderer } from '../../hosts/node/renderer'
import { loadMeshes } from '../../hosts/node/shot'
import type { Shot } from '../../shot'
import { assetPath } from '../assets'
import { isFull, writeWhole } from '../files'
import { frameFile, frameKinds, type RenderSettings } from '../jobs'

/** What the worker asks of this process, one after the other. */
export interface DrawOrder {
  shot: Shot
  settings: RenderSettings
  /** The data folder. */
  data: string
  /** The job's folder. */
  folder: string
  /** Frames to draw, in order. */
  frames: number[]
  /** Frames that were computed before, as they are before this one; null: none were. */
  bake?: { folder: string; until: number } | null
  /** Systems and gases that were baked apart. */
  apart?: { folder: string; ids: string[] }[]
}
/** What it says back. */
export type DrawNews =
  | { kind: 'frame'; frame: number; file: string; bytes: number; ms: number }
  | { kind: 'failed'; message: string; full: boolean }
  /** `waits`: it can be asked again; else it ends. */
  | { kind: 'done'; waits: boolean }

// Draws the frames of jobs, in a process of its own that knows no database: whatever a shot costs, the worker stays awake and
// can end it. A frame is told of when it lies on the disk, whole. Between two jobs the browser stays, with the programs of its graphics side.
const say = (news: DrawNews) => new Promise<void>((done) => process.send?.(news, () => done()))
// The worker was killed.
process.once('disconnect', () => process.exit(1))
/** A process that has come to more than that does not wait for another job, bytes: memory of a simulation is not given back. */
const HEAVY = 1 << 30
let renderer: FrameRenderer | null = null

async function draw({ shot, settings, data, folder, frames, bake, apart }: DrawOrder): Promise<void> {
  const meshes = await loadMeshes(shot, (hash) => (existsSync(assetPath(data, hash)) ? assetPath(data, hash) : undefined), 'drawing')
  if (renderer) await renderer.take(shot, meshes)
  renderer ??= await FrameRenderer.open(shot, meshes, Math.max(1, cpus().length))
  renderer.baked = bake ? async (frame) => (frame < bake.until ? bakedFrame(bake.folder, frame) : null) : null
  if (apart?.length) renderer.leaveOut(apart.map((x) => ({ ids: x.ids, frame: (frame) => bakedFrame(x.folder, frame) })))
  const kinds = frameKinds(settings)
  const formats = {
    png: true,
    png16: kinds.includes('png16'),
    exr: kinds.includes('exr'),
    exrType: settings.exrType,
    passes: settings.passes,
  }
  for (const frame of frames) {
    const start = Date.now()
    const { files } = await renderer.files(frame, settings, formats)
    // The PNG comes last: with it the frame counts.
    for (const { kind, bytes } of files) {
      const file = frameFile(frame, kind)
      await writeWhole(join(folder, file), bytes)
      if (kind === 'png') await say({ kind: 'frame', frame, file, bytes: bytes.length, ms: Date.now() - start })
    }
  }
}
async function leave(last: DrawNews): Promise<never> {
  await renderer?.dispose().catch(() => {})
  await say(last)
  process.exit(0)
}
process.on('message', (order: DrawOrder) => {
  draw(order)
    .then(() => (process.memoryUsage().rss > HEAVY ? leave({ kind: 'done', waits: false }) : say({ kind: 'done', waits: true })))
    .catch((error) =>
      leave({ kind: 'failed', message: error instanceof Error ? error.message.split('\n')[0] : String(error), full: isFull(error) }),
    )
})
