import { createHash } from 'node:crypto'
import { mkdirSync, readdirSync, readFileSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import { deserialize, serialize } from 'node:v8'
import { compile, neededBy, warmFrames } from '../../acts'
import { type Frame, type Mesh, Run, type Snapshot } from '../../engine'
import { WORLD_BYTES } from '../../machines/instantiate'
import type { Shot } from '../../shot'
import { packFrames } from '../framePack'
import { partOfFrame } from '../partialFrame'
import { bakedFile, putWhole } from './bakedFrames'
import { nodeKernels } from './kernels'

/** Of a run that goes frame by frame: it never looks back. */
const HISTORY_BYTES = 32 * 1024 * 1024
/** A state to go on from is written after so many seconds of work. */
const STATE_EVERY_S = 8
/** States that stay on the disk: one more than is needed, should the last be cut off. */
const STATES_KEPT = 2

export interface Bake {
  shot: Shot
  meshes: ReadonlyMap<string, Mesh>
  /** Of these systems and gases alone, of bakedTogether; without them of all. */
  elements?: readonly string[]
  /** Where `frames` and `states` lie. */
  folder: string
  /** Frames that are missing, in order. */
  frames: readonly number[]
  threads: number
  /** What computes: states of another are not gone on from. */
  build: string
  stateEveryS?: number
  /** A frame lies on the disk, whole. */
  frame(news: { frame: number; file: string; bytes: number; ms: number }): Promise<void> | void
}
interface State {
  build: string
  /** Of the shot that it is of. */
  shot: string
  snapshot: Snapshot
}
const stateFile = (frame: number): string => `states/${String(frame).padStart(6, '0')}.state`
const digestOf = (b: Bake): string =>
  createHash('sha256')
    .update(JSON.stringify([b.shot, b.elements ?? []]))
    .digest('hex')

/** The latest state on the disk from which a frame can be gone on to; one that is not whole, or of something else, is removed. */
function stateBefore(b: Bake, frame: number): Snapshot | null {
  const folder = join(b.folder, 'states')
  const shot = digestOf(b)
  const numbers = readdirSync(folder)
    .flatMap((n) => (/^\d+\.state$/.test(n) ? [Number.parseInt(n, 10)] : []))
    .filter((n) => n < frame)
    .sort((x, y) => y - x)
  for (const n of numbers) {
    const path = join(b.folder, stateFile(n))
    try {
      const state = deserialize(readFileSync(path)) as State
      if (state.build === b.build && state.shot === shot && state.snapshot.frame === n) return state.snapshot
    } catch {
      // Cut off.
    }
    rmSync(path, { force: true })
  }
  return null
}
function keepState(b: Bake, snapshot: Snapshot): void {
  const folder = join(b.folder, 'states')
  const state: State = { build: b.build, shot: digestOf(b), snapshot }
  putWhole(join(b.folder, stateFile(snapshot.frame)), [serialize(state)])
  const old = readdirSync(folder)
    .filter((n) => n.endsWith('.state'))
    .sort()
    .slice(0, -STATES_KEPT)
  for (const n of old) rmSync(join(folder, n), { force: true })
}
/**
 * Computes frames that are missing and keeps each on the disk as soon as it is there. Cut off at any moment it goes on from the last state that
 * is whole, to the same bytes. Throws what the disk says, and MemoryRefused.
 */
export async function bake(b: Bake): Promise<void> {
  for (const name of ['frames', 'states']) {
    mkdirSync(join(b.folder, name), { recursive: true, mode: 0o700 })
    for (const f of readdirSync(join(b.folder, name))) if (f.endsWith('.part')) rmSync(join(b.folder, name, f), { force: true })
  }
  const [first] = b.frames
  if (first === undefined) return
  const host = await nodeKernels({ threads: b.threads })
  const { elements } = b
  const run = new Run(host, compile(elements?.length ? neededBy(b.shot, elements) : b.shot, b.meshes).plan, {
    ...{ historyBytes: HISTORY_BYTES, worldBytes: WORLD_BYTES, now: () => performance.now() },
  })
  try {
    const start = b.shot.range.first - warmFrames(b.shot)
    const state = stateBefore(b, first)
    if (state && run.world.canRestore(state)) run.history.putState(state, start)
    let last = performance.now()
    const missing = new Set(b.frames)
    const end = b.frames[b.frames.length - 1]
    for (let f = first; f <= end; f++) {
      const began = performance.now()
      run.near = f
      while (run.towards(f)) {
        const { world } = run
        if (world.frame < f && performance.now() - last > STATE_EVERY_S * 1000 && world.frame < first) {
          // A long run-up is not begun anew either.
          keepState(b, world.save())
          last = performance.now()
        }
      }
      const frame = run.history.get(f)?.frame as Frame
      if (missing.has(f)) {
        const file = bakedFile(f)
        // How long it took is not part of it: the same frame is the same bytes.
        const bytes = putWhole(
          join(b.folder, file),
          packFrames([{ ...(elements?.length ? partOfFrame(frame, elements) : frame), ms: 0 }]).map((p) =>
            p instanceof ArrayBuffer ? new Uint8Array(p) : p,
          ),
        )
        await b.frame({ frame: f, file, bytes, ms: performance.now() - began })
      }
      if (f < end && performance.now() - last > (b.stateEveryS ?? STATE_EVERY_S) * 1000 && run.world.frame === f) {
        keepState(b, run.world.save())
        last = performance.now()
      }
    }
    if (run.world.frame === end) keepState(b, run.world.save())
  } finally {
    run.dispose()
    host.team.dispose()
  }
}
