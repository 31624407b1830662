import { createHash, randomUUID } from 'node:crypto'
import { existsSync, mkdirSync, readFileSync, statSync } from 'node:fs'
import { readFile } from 'node:fs/promises'
import { join } from 'node:path'
import { deflateSync } from 'node:zlib'
import * as z from 'zod'
import { bakedTogether, checkShot, isFog, maySeparate } from '../acts'
import { partOf } from '../engine'
import { gasVdb } from '../formats'
import type { OpenedBake, PackedBake } from '../formats/shotPackage'
import { zipStream } from '../formats/zip'
import { bakedUntil } from '../hosts/bakedApart'
import { bakedFile, bakedFrame } from '../hosts/node/bakedFrames'
import { framesPerSecond, type Shot } from '../shot'
import type { Db, JobRow } from './db'
import { Failure, notFound } from './failure'
import { writeWhole } from './files'
import { jobFolder, presentShot, secondsLeft } from './jobs'

/** Minutes a frame may take, the run-up of the first one included. */
const FRAME_MINUTES = 60
export const bakeSettings = z
  .strictObject({
    first: z.int().min(0),
    last: z.int().min(0),
    frameMinutes: z.number().min(0.1).max(1440).default(FRAME_MINUTES),
    /** Ids of the systems and gases to bake; none: all. */
    elements: z.array(z.string().min(1).max(100)).max(1000).default([]),
  })
  .refine((s) => s.last >= s.first, { error: 'the last frame must not be before the first', path: ['last'] })
const stored = z.object({
  first: z.int(),
  last: z.int(),
  frameMinutes: z.number(),
  build: z.string(),
  elements: z.array(z.string()).default([]),
})
export type BakeSettings = z.infer<typeof stored>
export const bakeSettingsOf = (job: Pick<JobRow, 'settings'>): BakeSettings => stored.parse(JSON.parse(job.settings))

let build: string | null = null
/** What computes bakes: frames of another may differ in their bits. */
export function bakeBuild(): string {
  const program = join(process.env.EMBER_ROOT ?? process.cwd(), 'dist/bakejob.mjs')
  build ??= createHash('sha256').update(readFileSync(program)).digest('hex').slice(0, 16)
  return build
}
export interface BakeView {
  id: string
  shotId: string
  name: string
  state: JobRow['state']
  first: number
  last: number
  /** Of which systems and gases it is, by id; none: of all. */
  elements: string[]
  message: string | null
  /** Frames that are there, in order. */
  frames: number[]
  total: number
  bytes: number
  /** Seconds of work that they took. */
  tookS: number
  leftS: number | null
  created: string
  folder: string
  /** It was made by another version: its frames are not used. */
  old: boolean
}
async function view(db: Db, data: string, job: JobRow): Promise<BakeView> {
  const s = bakeSettingsOf(job)
  const frames = await db.JobFrame.findAll({ where: { jobId: job.id }, attributes: ['frame', 'ms', 'bytes'], order: [['frame', 'ASC']] })
  const sum = (of: (f: (typeof frames)[number]) => number) => frames.reduce((all, f) => all + Number(of(f)), 0)
  const total = s.last - s.first + 1
  return {
    ...{ id: job.id, shotId: job.shotId, name: job.name, state: job.state, first: s.first, last: s.last, message: job.message },
    elements: s.elements,
    ...{ frames: frames.map((f) => f.frame), total, bytes: sum((f) => f.bytes), tookS: sum((f) => f.ms) / 1000 },
    leftS: secondsLeft(job, frames, total),
    created: (job.createdAt ?? new Date()).toISOString(),
    folder: jobFolder(data, job.id),
    old: s.build !== bakeBuild(),
  }
}
/** Systems and gases of a shot with those that they can only be baked with. */
function togetherIn(doc: Shot, ids: readonly string[]): string[] {
  if (!ids.length) return []
  const all = [...doc.systems, ...doc.gases]
  const unknown = ids.find((id) => !all.some((e) => e.id === id))
  if (unknown !== undefined)
    throw new Failure(422, `there is no system or gas “${unknown}” in this shot: bake ${all.map((e) => e.name).join(', ') || 'all'}`)
  const together = bakedTogether(doc, ids)
  if (!together) throw new Failure(422, 'an object of the shot depends on it: bake all elements')
  return together
}
/** Frames of the shot as it is stored are computed in the background and stay on the disk. */
export async function createBake(db: Db, data: string, shotId: string, asked: z.input<typeof bakeSettings>): Promise<BakeView> {
  const settings = bakeSettings.parse(asked)
  const row = await db.Shot.findByPk(shotId)
  if (!row) throw notFound('this shot')
  const doc = presentShot(row.doc)
  if (settings.first < doc.range.first || settings.last > doc.range.last)
    throw new Failure(422, `the shot goes from frame ${doc.range.first} to ${doc.range.last}: bake frames of it`)
  const elements = togetherIn(doc, settings.elements)
  const job = await db.Job.create({
    ...{ id: randomUUID(), shotId, name: row.name, kind: 'bake', state: 'queued', doc: JSON.stringify(doc) },
    settings: JSON.stringify({ ...settings, elements, build: bakeBuild() } satisfies BakeSettings),
    ...{ message: null, worker: null, lease: 0, startedAt: null, attempts: 0, rank: 0, files: '[]' },
  })
  return view(db, data, job)
}
export async function listBakes(db: Db, data: string, shotId: string): Promise<BakeView[]> {
  const jobs = await db.Job.findAll({ where: { kind: 'bake', shotId }, order: [['createdAt', 'DESC']], limit: 50 })
  return Promise.all(jobs.map((j) => view(db, data, j)))
}
async function bakeRow(db: Db, id: string): Promise<JobRow> {
  const job = await db.Job.findOne({ where: { id, kind: 'bake' } })
  if (!job) throw notFound('this bake')
  return job
}
/** The shot that a bake is of. */
export async function bakedDoc(db: Db, id: string): Promise<Shot> {
  return presentShot((await bakeRow(db, id)).doc)
}
/** A frame of a bake, packed. */
export async function bakeFrame(db: Db, data: string, id: string, frame: number): Promise<Uint8Array> {
  await bakeRow(db, id)
  const row = await db.JobFrame.findOne({ where: { jobId: id, frame } })
  const path = join(jobFolder(data, id), bakedFile(frame))
  if (!row || !existsSync(path)) throw notFound('this frame')
  if (statSync(path).size !== Number(row.bytes))
    throw new Failure(410, `frame ${frame} of this bake is damaged on the disk; go on with the bake and it is computed again`)
  return readFile(path)
}
/** The gases of a bake as VDB files, one a frame and gas, in one ZIP file that is made while it is sent. */
export async function bakeVdb(db: Db, data: string, id: string): Promise<{ name: string; stream: ReadableStream<Uint8Array> }> {
  const job = await bakeRow(db, id)
  const shot = presentShot(job.doc)
  const frames = await db.JobFrame.findAll({ where: { jobId: id }, attributes: ['frame'], order: [['frame', 'ASC']] })
  const { elements } = bakeSettingsOf(job)
  const gases = shot.gases.filter((g) => !g.muted && !isFog(g) && (!elements.length || elements.includes(g.id)))
  if (!gases.length) throw new Failure(422, 'there is no gas in this bake: there is nothing to write as VDB')
  if (!frames.length) throw notFound('frames of this bake')
  const folder = jobFolder(data, id)
  const plain = gases.map((g) => g.name.replace(/[^\p{L}\p{N}_-]+/gu, '-'))
  const called = gases.map((g, i) => (plain.indexOf(plain[i]) === plain.lastIndexOf(plain[i]) ? plain[i] : `${plain[i]}-${g.id}`))
  const files = frames.flatMap(({ frame }) =>
    gases.map((g, i) => ({
      name: `${called[i]}.${String(frame).padStart(4, '0')}.vdb`,
      read: async () => {
        const found = partOf((await bakedFrame(folder, frame))?.parts, 'volume', g.id)
        if (!found)
          throw new Failure(410, `frame ${frame} of this bake is damaged on the disk; go on with the bake and it is computed again`)
        const deflate = (b: Uint8Array) => deflateSync(b, { level: 1 })
        return gasVdb(found, { frame, rate: framesPerSecond(shot), name: g.name, half: true, packing: 'blosc', deflate })
      },
    })),
  )
  return { name: `${job.name} VDB.zip`, stream: zipStream(files) }
}
/** The bakes of a shot, to go along with it in a package. `shot`: which of those in it that is. */
export async function bakesToPack(db: Db, data: string, shotId: string, shot: number): Promise<PackedBake[]> {
  const jobs = await db.Job.findAll({ where: { kind: 'bake', shotId }, order: [['createdAt', 'ASC']] })
  return Promise.all(
    jobs.map(async (job) => {
      const rows = await db.JobFrame.findAll({ where: { jobId: job.id }, order: [['frame', 'ASC']] })
      const whole = rows.filter((f) => {
        const path = join(jobFolder(data, job.id), f.file)
        return existsSync(path) && statSync(path).size === Number(f.bytes)
      })
      const frames = whole.map((f) => ({
        ...{ frame: f.frame, ms: Number(f.ms) },
        read: async () => new Uint8Array(await readFile(join(jobFolder(data, job.id), f.file))),
      }))
      return { shot, doc: presentShot(job.doc), facts: { ...bakeSettingsOf(job) }, frames }
    }),
  )
}
/** A bake that came in a package, to a shot that did. Frames that it lacks are computed when it is gone on with. */
export async function takeBake(db: Db, data: string, shotId: string, b: OpenedBake, lost: (why: string) => void): Promise<void> {
  const settings = stored.safeParse(b.facts)
  const doc = checkShot(b.doc)
  if (!settings.success || !doc.ok) {
    lost('a bake is of no shot that can be read')
    return
  }
  const { first, last } = settings.data
  const id = randomUUID()
  const folder = jobFolder(data, id)
  mkdirSync(join(folder, 'frames'), { recursive: true, mode: 0o700 })
  const within = b.frames.filter((f) => f.frame >= first && f.frame <= last)
  for (const f of within) await writeWhole(join(folder, bakedFile(f.frame)), f.bytes)
  await db.Job.create({
    ...{ id, shotId, name: doc.shot.name, kind: 'bake', state: within.length === last - first + 1 ? 'done' : 'stopped' },
    ...{ doc: JSON.stringify(doc.shot), settings: JSON.stringify(settings.data) },
    ...{ message: null, worker: null, lease: 0, startedAt: null, attempts: 0, rank: 0, files: '[]' },
  })
  for (const f of within) await db.JobFrame.create({ jobId: id, frame: f.frame, file: bakedFile(f.frame), bytes: f.bytes.length, ms: f.ms })
}
/** The bake with most frames that are as a shot has them in a range, and before which frame they are; null: none has any. */
export async function bestBake(
  db: Db,
  shotId: string,
  shot: Shot,
  [first, last]: readonly [number, number],
): Promise<{ id: string; until: number; made: Date; frames: number } | null> {
  const jobs = await db.Job.findAll({ where: { kind: 'bake', shotId }, order: [['createdAt', 'DESC']], limit: 50 })
  let best: Awaited<ReturnType<typeof bestBake>> = null
  for (const j of jobs) {
    const { build, elements } = bakeSettingsOf(j)
    if (build !== bakeBuild() || elements.length) continue
    const until = bakedUntil(presentShot(j.doc), shot, []) ?? last + 1
    const rows = await db.JobFrame.findAll({ where: { jobId: j.id }, attributes: ['frame'] })
    const frames = rows.filter((f) => f.frame >= first && f.frame <= last && f.frame < until).length
    if (frames > (best?.frames ?? 0)) best = { id: j.id, until, made: j.createdAt ?? new Date(), frames }
  }
  return best
}
/** Bakes of single elements that have all frames of a range as a shot has them, the latest of each element. */
export async function apartBakes(
  db: Db,
  shotId: string,
  shot: Shot,
  [first, last]: readonly [number, number],
): Promise<{ id: string; ids: string[]; made: Date }[]> {
  if (!maySeparate(shot)) return []
  const jobs = await db.Job.findAll({ where: { kind: 'bake', shotId }, order: [['createdAt', 'DESC']], limit: 50 })
  const found: { id: string; ids: string[]; made: Date }[] = []
  for (const j of jobs) {
    const { build, elements: ids } = bakeSettingsOf(j)
    if (build !== bakeBuild() || !ids.length || found.some((x) => x.ids.some((id) => ids.includes(id)))) continue
    if ((bakedUntil(presentShot(j.doc), shot, ids) ?? last + 1) <= last) continue
    const rows = await db.JobFrame.findAll({ where: { jobId: j.id }, attributes: ['frame'] })
    const there = new Set(rows.map((r) => r.frame))
    const all = Array.from({ length: last - first + 1 }, (_, i) => first + i)
    if (all.every((f) => there.has(f))) found.push({ id: j.id, ids, made: j.createdAt ?? new Date() })
  }
  return found
}
