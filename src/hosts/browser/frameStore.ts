// Frames that were computed before, kept by this browser: a shot that has not changed shows and plays them without computing anything.
import type { Frame } from '../../engine'
import { type FrameHead, frameOf, HEAD_BYTES, headOf, packFrames } from '../framePack'

export { packFrames, unpackFrame } from '../framePack'

/** Files of a folder of our own. */
export interface FrameFiles {
  /** Some bytes of a file from a place on; null when it is not there. */
  read(name: string, from: number, bytes: number): Promise<ArrayBuffer | null>
  write(name: string, parts: readonly (ArrayBuffer | Uint8Array)[]): Promise<void>
  remove(name: string): Promise<void>
}
/** All that is kept, and of one shot at most. */
export const KEPT_BYTES = 512 * 1024 * 1024
export const SHOT_BYTES = 256 * 1024 * 1024
const INDEX = 'index.json'

type Index = Record<string, { bytes: number; used: number }>
const sizeOf = (parts: readonly (ArrayBuffer | Uint8Array)[]): number => parts.reduce((n, p) => n + p.byteLength, 0)

/** Frames of shots by what they depend on, the least recently used given up first. Nothing here ever fails a run: what is broken is not there. */
export class FrameStore {
  constructor(
    private files: FrameFiles,
    private now: () => number = Date.now,
    private keptBytes = KEPT_BYTES,
  ) {}

  /**
   * Reads the frames kept for a key, `first` before all others. Calls `take` with each; ends early where that says so. Returns whether all
   * of them were read.
   */
  async restore(key: string, first: number, take: (f: Frame) => boolean): Promise<boolean> {
    try {
      const bytes = headOf(await this.files.read(key, 0, HEAD_BYTES))
      if (bytes === null) return false
      const head = await this.files.read(key, HEAD_BYTES, bytes)
      if (head?.byteLength !== bytes) return false
      const heads = JSON.parse(new TextDecoder().decode(head)) as FrameHead[]
      heads.sort((a, b) => Number(b.frame === first) - Number(a.frame === first) || a.frame - b.frame)
      for (const h of heads) {
        const frame = await frameOf(h, (from, n) => this.files.read(key, HEAD_BYTES + bytes + from, n))
        if (!frame || !take(frame)) return false
      }
      await this.mark(key, null)
      return true
    } catch {
      return false
    }
  }
  /** Keeps the frames of a key, unless they are too many. Returns whether it did. */
  async keep(key: string, frames: readonly Frame[]): Promise<boolean> {
    try {
      const parts = packFrames(frames)
      const bytes = sizeOf(parts)
      if (bytes > Math.min(SHOT_BYTES, this.keptBytes)) return false
      await this.makeRoom(key, bytes)
      await this.files.write(key, parts)
      await this.mark(key, bytes)
      return true
    } catch {
      // A full or forbidden storage: the next opening computes again.
      await this.files.remove(key).catch(() => {})
      return false
    }
  }
  private async index(): Promise<Index> {
    try {
      const bytes = await this.files.read(INDEX, 0, 1 << 24)
      return bytes ? (JSON.parse(new TextDecoder().decode(bytes)) as Index) : {}
    } catch {
      return {}
    }
  }
  private async makeRoom(key: string, bytes: number): Promise<void> {
    const index = await this.index()
    delete index[key]
    const oldest = Object.keys(index).sort((a, b) => index[a].used - index[b].used)
    let sum = Object.values(index).reduce((n, e) => n + e.bytes, bytes)
    for (const old of oldest) {
      if (sum <= this.keptBytes) break
      await this.files.remove(old)
      sum -= index[old].bytes
      delete index[old]
    }
    await this.files.write(INDEX, [new TextEncoder().encode(JSON.stringify(index))])
  }
  private async mark(key: string, bytes: number | null): Promise<void> {
    const index = await this.index()
    if (bytes === null && !index[key]) return
    index[key] = { bytes: bytes ?? index[key].bytes, used: this.now() }
    await this.files.write(INDEX, [new TextEncoder().encode(JSON.stringify(index))])
  }
}

/** What the server keeps of frames that shots open with, by names; null where it has none. */
export interface Openings {
  /** One that took less to come to is not kept, ms. */
  readonly fromMs: number
  read(name: string): Promise<ArrayBuffer | null>
  keep(name: string, parts: readonly (ArrayBuffer | Uint8Array)[]): Promise<void>
}
/** A folder in the browser's own storage (origin-private files); null where there is none. */
export async function ownFiles(folder: string): Promise<FrameFiles | null> {
  try {
    // Looked up each time: whoever clears what the page keeps takes the folder away.
    const root = async () => (await navigator.storage.getDirectory()).getDirectoryHandle(folder, { create: true })
    await root()
    return {
      async read(name, from, bytes) {
        const file = await root()
          .then((r) => r.getFileHandle(name))
          .then((h) => h.getFile())
          .catch(() => null)
        return file ? file.slice(from, from + bytes).arrayBuffer() : null
      },
      async write(name, parts) {
        // Made aside and moved into place when it is whole: a page that is closed meanwhile leaves no half of it.
        const stream = await (await (await root()).getFileHandle(name, { create: true })).createWritable()
        for (const p of parts) await stream.write(p as BufferSource)
        await stream.close()
      },
      async remove(name) {
        await root()
          .then((r) => r.removeEntry(name))
          .catch(() => {})
      },
    }
  } catch {
    return null
  }
}
