import { mkdirSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { compile, drawsOf, findAsked, stripDraw, stripOwner, systemMatrices } from '../../acts'
import { type Apart, apart, type Frame, frameMark, hashOf, partBytes, partsOf, volumeVoxels, World } from '../../engine'
import { CSV_COLUMNS, pointsTable, stripsTable, TABLE_COLUMNS, type Table, type TableColumn, tableCsv, tableNpz } from '../../formats'
import { WORLD_BYTES } from '../../machines/instantiate'
import { timeOf } from '../../shot'
import { nodeKernels } from '../node/kernels'
import { loadShot, UserError } from '../node/shot'

export interface SimulateOptions {
  frames?: string
  every?: number
  columns?: string
  contacts?: boolean
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

/** Where thrown objects are: 3x4 by rows, the shot from their own space. */
function posesIn(frame: Frame): { objects?: Record<string, readonly number[]> } {
  const places = partsOf(frame.parts, 'place')
  return places.length ? { objects: Object.fromEntries(places.map((p) => [p.element, p.matrix])) } : {}
}
function columnsIn(text: string | undefined): readonly TableColumn[] {
  if (text === undefined) return CSV_COLUMNS
  const names = text
    .split(',')
    .map((n) => n.trim())
    .filter(Boolean)
  const wrong = names.find((n) => !TABLE_COLUMNS.includes(n as TableColumn))
  if (wrong !== undefined || !names.length)
    throw new UserError(`--columns: “${wrong ?? text}” is not a column; there are ${TABLE_COLUMNS.join(', ')}`)
  return [...new Set(names)] as TableColumn[]
}
const FORMATS: Record<string, (t: Table) => string | Uint8Array> = { csv: tableCsv, npz: (t) => tableNpz(t) }
const say = (text: string) => process.stderr.write(`${text}\n`)
/** Options that change nothing as they stand: said, not refused. */
function sayIdle(o: SimulateOptions, last: number, to: number): void {
  if (!o.out)
    for (const name of ['format', 'columns', 'contacts'] as const) if (o[name] !== undefined) say(`--${name} does nothing without --out`)
  if (to > last) say(`frames ${last + 1}-${to} lie past the shot’s last frame, ${last}; they are simulated as if it went on`)
}
/** The contacts of the frame that a system has just gone through: particle, seconds before the end of the frame, metres, m/s, and with what. */
function contactsCsv(world: World, system: string, frameS: number, names: ReadonlyMap<number, string>): string {
  const head = 'id,ago,x,y,z,speed,with'
  const c = world.columnsOf(system)
  if (!c?.has('touched')) return `${head}\n`
  const [ids, touched] = [c.words('id'), c.words('touched')]
  const [age, at, speed, x, y, z] = (['age', 'touchedAge', 'touchSpeed', 'tx', 'ty', 'tz'] as const).map((n) => c.floats(n))
  const rows: string[] = []
  for (let i = 0; i < c.count; i++) {
    const ago = age[i] - at[i]
    if (!touched[i] || ago > frameS) continue
    rows.push([ids[i], ...[ago, x[i], y[i], z[i], speed[i]].map((v) => Number(v.toPrecision(9))), names.get(touched[i]) ?? ''].join(','))
  }
  return `${[head, ...rows].join('\n')}\n`
}

/** Voxels in which each gas holds something, and bytes that the frame keeps of them. */
function gasesIn(frame: Frame): { gases?: Record<string, { voxels: number; bytes: number }> } {
  const parts = partsOf(frame.parts, 'volume')
  return parts.length ? { gases: Object.fromEntries(parts.map((p) => [p.element, { voxels: volumeVoxels(p), bytes: partBytes(p) }])) } : {}
}
export async function simulate(file: string, o: SimulateOptions): Promise<void> {
  const format = o.format ?? 'csv'
  const encode = FORMATS[format]
  if (!encode) throw new UserError(`--format: “${o.format}” is not known; ${Object.keys(FORMATS).join(' and ')} are`)
  const columns = columnsIn(o.columns)
  const every = o.every ?? 1
  const { shot, meshes } = await loadShot(file, o.assets)
  const [a, b] = parseFrames(o.frames, shot.range.first, shot.range.last)
  sayIdle(o, shot.range.last, b)
  const { plan, problems } = compile(shot, meshes)
  const names = new Map(shot.objects.map((x) => [hashOf(x.id), x.id]))
  for (const p of problems) process.stderr.write(`${p.element}: ${p.message}\n`)
  if (o.out) mkdirSync(o.out, { recursive: true })
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
      if (!o.out) continue
      const number = String(f).padStart(4, '0')
      for (const part of partsOf(frame.parts, 'strips')) {
        const t = timeOf(shot, f)
        const found = stripOwner(shot, part.element, t, meshes, frame.parts)
        const draw = found && stripDraw(shot, found.owner, part.act, t)
        if (!draw) continue
        const table = stripsTable(part, draw, found.looks, found.matrices)
        writeFileSync(join(o.out, `${part.element}.${part.act}.${number}.${format}`), encode(table))
      }
      for (const part of partsOf(frame.parts, 'points')) {
        const system = shot.systems.find((s) => s.id === part.element)
        if (!system) continue
        const t = timeOf(shot, f)
        const matrices = systemMatrices(shot, system, t, meshes, frame.parts)
        if (matrices[0]) findAsked(world.asker, { shot, system, part, matrix: matrices[0], meshes, t, parts: frame.parts })
        const table = pointsTable(
          part,
          drawsOf(shot, system, t, frame.parts),
          matrices,
          columns,
          system.phases.map((p) => p.blend),
        )
        writeFileSync(join(o.out, `${part.element}.${number}.${format}`), encode(table))
        if (o.contacts)
          writeFileSync(
            join(o.out, `${part.element}.${number}.contacts.csv`),
            contactsCsv(world, part.element, (shot.rate.den / shot.rate.num) * 1.0001, names),
          )
      }
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
