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

/** What the worker asks of this process, once. */
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
  | { kind: 'done' }

// Draws the frames of one job, in a process of its own that knows no database: whatever a shot costs, the worker stays awake and
// can end it. A frame is told of when it lies on the disk, whole.
const say = (news: DrawNews) => new Promise<void>((done) => process.send?.(news, () => done()))
// The worker was killed.
process.once('disconnect', () => process.exit(1))

async function draw({ shot, settings, data, folder, frames, bake, apart }: DrawOrder): Promise<void> {
  const meshes = await loadMeshes(shot, (hash) => (existsSync(assetPath(data, hash)) ? assetPath(data, hash) : undefined), 'drawing')
  const renderer = await FrameRenderer.open(shot, meshes, Math.max(1, cpus().length))
  if (bake) renderer.baked = async (frame) => (frame < bake.until ? bakedFrame(bake.folder, frame) : null)
  if (apart?.length) renderer.leaveOut(apart.map((x) => ({ ids: x.ids, frame: (frame) => bakedFrame(x.folder, frame) })))
  const kinds = frameKinds(settings)
  const formats = {
    png: true,
    png16: kinds.includes('png16'),
    exr: kinds.includes('exr'),
    exrType: settings.exrType,
    passes: settings.passes,
  }
  try {
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
  } finally {
    await renderer.dispose()
  }
}
process.once('message', (order: DrawOrder) => {
  void draw(order)
    .then(() => say({ kind: 'done' }))
    .catch((error) =>
      say({ kind: 'failed', message: error instanceof Error ? error.message.split('\n')[0] : String(error), full: isFull(error) }),
    )
    .finally(() => process.exit(0))
})
