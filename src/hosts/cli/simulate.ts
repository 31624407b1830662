import { compile } from '../../acts'
import { type Apart, apart, type Frame, frameMark, partBytes, partsOf, volumeVoxels, World } from '../../engine'
import { WORLD_BYTES } from '../../machines/instantiate'
import { nodeKernels } from '../node/kernels'
import { loadShot, UserError } from '../node/shot'
import { FrameFiles, fileWays } from './simulateFiles'

export interface SimulateOptions {
  frames?: string
  every?: number
  columns?: string
  contacts?: boolean
  threads: number
  assets?: string
  out?: string
  format?: string
  grids?: string
  bits?: string
  packing?: string
  marks?: boolean
}
export function parseFrames(text: string | undefined, first: number, last: number): [number, number] {
  if (text === undefined) return [first, last]
  const m = /^(\d+)(?:-(\d+))?$/.exec(text)
  if (!m) throw new UserError(`--frames: “${text}” is not A-B, as in 0-72`)
  const a = Number(m[1])
  const b = Number(m[2] ?? m[1])
  if (a < first || b < a) throw new UserError(`--frames: ${text} must lie from ${first} on, the first before the last`)
  return [a, b]
}

/** Where thrown objects are: 3x4 by rows, the shot from their own space. */
function posesIn(frame: Frame): { objects?: Record<string, readonly number[]> } {
  const places = partsOf(frame.parts, 'place')
  return places.length ? { objects: Object.fromEntries(places.map((p) => [p.element, p.matrix])) } : {}
}
const say = (text: string) => process.stderr.write(`${text}\n`)
/** Options that change nothing as they stand: said, not refused. */
function sayIdle(o: SimulateOptions, last: number, to: number): void {
  if (!o.out)
    for (const name of ['format', 'columns', 'contacts', 'grids', 'bits', 'packing'] as const)
      if (o[name] !== undefined) say(`--${name} does nothing without --out`)
  if (to > last) say(`frames ${last + 1}-${to} lie past the shot’s last frame, ${last}; they are simulated as if it went on`)
}
/** Voxels in which each gas holds something, and bytes that the frame keeps of them. */
function gasesIn(frame: Frame): { gases?: Record<string, { voxels: number; bytes: number }> } {
  const parts = partsOf(frame.parts, 'volume')
  return parts.length ? { gases: Object.fromEntries(parts.map((p) => [p.element, { voxels: volumeVoxels(p), bytes: partBytes(p) }])) } : {}
}
export async function simulate(file: string, o: SimulateOptions): Promise<void> {
  const ways = fileWays(o)
  const every = o.every ?? 1
  const { shot, meshes } = await loadShot(file, o.assets, 'simulating')
  const [a, b] = parseFrames(o.frames, shot.range.first, shot.range.last)
  sayIdle(o, shot.range.last, b)
  const { plan, problems } = compile(shot, meshes)
  for (const p of problems) process.stderr.write(`${p.element}: ${p.message}\n`)
  const files = o.out ? new FrameFiles(o.out, shot, meshes, ways, say) : null
  const host = await nodeKernels({ threads: o.threads })
  const world = new World(host, plan, WORLD_BYTES)
  const seen = new Set<string>()
  let total = 0
  let frames = 0
  let begun: Frame | undefined
  try {
    for (let f = shot.range.first; f <= b; f++) {
      const start = performance.now()
      // The first frame also takes the steps of a warm start.
      while (world.frame < f) world.step()
      const ms = performance.now() - start
      total += ms
      if (shot.loop && f === shot.range.first) begun = world.capture()
      if (f < a || (f - a) % every) continue
      frames++
      const frame = world.capture(ms)
      for (const n of frame.notices) {
        const key = n.element + n.kind
        if (!seen.has(key)) process.stderr.write(`frame ${n.frame}: ${n.message}\n`)
        seen.add(key)
      }
      process.stdout.write(
        `${JSON.stringify({ frame: f, ms: Math.round(ms * 1000) / 1000, ...(o.marks ? { mark: frameMark(frame) } : {}), systems: frame.stats, ...posesIn(frame), ...gasesIn(frame) })}\n`,
      )
      files?.write(world, frame, f)
    }
    // Of a loop, how far the frame after its last is from its first.
    let ends: Apart | undefined
    if (begun && b === shot.range.last) {
      world.step()
      ends = apart(begun, world.capture())
    }
    process.stdout.write(
      `${JSON.stringify({ ...(ends ? { ends } : {}), summary: { frames, ms_total: Math.round(total * 1000) / 1000, peak_bytes: world.peakBytes, threads: host.team.threads } })}\n`,
    )
  } finally {
    world.dispose()
    host.team.dispose()
  }
}
