import { mkdirSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { compile, drawsOf, systemMatrices } from '../../acts'
import { frameMark, partsOf, World } from '../../engine'
import { pointsCsv } from '../../formats'
import { timeOf } from '../../shot'
import { WORLD_BYTES } from '../instantiate'
import { nodeKernels } from '../node/kernels'
import { loadShot, UserError } from '../node/shot'

export interface SimulateOptions {
  frames?: string
  threads: number
  assets?: string
  out?: string
  format?: string
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

export async function simulate(file: string, o: SimulateOptions): Promise<void> {
  if (o.out && (o.format ?? 'csv') !== 'csv') throw new UserError(`--format: “${o.format}” is not known; csv is`)
  const { shot, meshes } = await loadShot(file, o.assets)
  const [a, b] = parseFrames(o.frames, shot.range.first, shot.range.last)
  const { plan, problems } = compile(shot, meshes)
  for (const p of problems) process.stderr.write(`${p.element}: ${p.message}\n`)
  if (o.out) mkdirSync(o.out, { recursive: true })
  const host = await nodeKernels({ threads: o.threads })
  const world = new World(host, plan, WORLD_BYTES)
  const seen = new Set<string>()
  let total = 0
  let frames = 0
  try {
    for (let f = shot.range.first; f <= b; f++) {
      const start = performance.now()
      // The first frame also takes the steps of a warm start.
      while (world.frame < f) world.step()
      const ms = performance.now() - start
      total += ms
      if (f < a) continue
      frames++
      const frame = world.capture(ms)
      for (const n of frame.notices) {
        const key = n.element + n.kind
        if (!seen.has(key)) process.stderr.write(`frame ${n.frame}: ${n.message}\n`)
        seen.add(key)
      }
      process.stdout.write(
        `${JSON.stringify({ frame: f, ms: Math.round(ms * 1000) / 1000, ...(o.marks ? { mark: frameMark(frame) } : {}), systems: frame.stats })}\n`,
      )
      if (!o.out) continue
      for (const part of partsOf(frame.parts, 'points')) {
        const system = shot.systems.find((s) => s.id === part.element)
        if (system)
          writeFileSync(
            join(o.out, `${part.element}.${String(f).padStart(4, '0')}.csv`),
            pointsCsv(part, drawsOf(shot, system, timeOf(shot, f)), systemMatrices(shot, system, timeOf(shot, f), meshes, frame.parts)),
          )
      }
    }
    process.stdout.write(
      `${JSON.stringify({ summary: { frames, ms_total: Math.round(total * 1000) / 1000, peak_bytes: world.peakBytes, threads: host.team.threads } })}\n`,
    )
  } finally {
    world.dispose()
    host.team.dispose()
  }
}
