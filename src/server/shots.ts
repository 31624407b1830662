import { randomUUID } from 'node:crypto'
import { existsSync, readFileSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import { Op } from 'sequelize'
import { checkShot } from '../acts'
import type { Shot } from '../shot'
import type { Db, ShotRow } from './db'
import { Failure, notFound } from './failure'
import { writeWhole } from './files'
import { jobFolder } from './jobs'

type Transaction = Awaited<ReturnType<Db['sequelize']['transaction']>>
export interface ShotHead {
  id: string
  projectId: string
  name: string
  revision: number
  changed: string
  frames: number
  seconds: number
  rate: number
  picture: boolean
  /** It has bakes. */
  baked: boolean
}
const headOf = (r: ShotRow, data: string, baked: boolean): ShotHead => {
  const doc = JSON.parse(r.doc) as Shot
  const frames = doc.range.last - doc.range.first
  return {
    id: r.id,
    projectId: r.projectId,
    name: r.name,
    revision: r.revision,
    changed: (r.updatedAt ?? new Date(0)).toISOString(),
    frames,
    seconds: (frames * doc.rate.den) / doc.rate.num,
    rate: doc.rate.num / doc.rate.den,
    picture: existsSync(picturePath(data, r.id)),
    baked,
  }
}
/** Checks a document at the door; throws a Failure that lists every problem with its place. */
export function checked(doc: unknown): Shot {
  const r = checkShot(doc)
  if (!r.ok)
    throw new Failure(422, `the shot cannot be kept: ${r.problems[0].path ? `${r.problems[0].path}: ` : ''}${r.problems[0].message}`, {
      problems: r.problems,
    })
  return r.shot
}
export async function listProjects(db: Db, data: string) {
  const projects = await db.Project.findAll({ order: [['createdAt', 'ASC']] })
  const shots = await db.Shot.findAll({ order: [['createdAt', 'ASC']] })
  const bakes = await db.Job.findAll({ where: { kind: 'bake' }, attributes: ['shotId'] })
  const baked = new Set(bakes.map((j) => j.shotId))
  return projects.map((p) => ({
    id: p.id,
    name: p.name,
    changed: (p.updatedAt ?? new Date(0)).toISOString(),
    shots: shots.filter((s) => s.projectId === p.id).map((s) => headOf(s, data, baked.has(s.id))),
  }))
}
export async function createProject(db: Db, name: string, transaction?: Transaction) {
  const p = await db.Project.create({ id: randomUUID(), name }, { transaction })
  return { id: p.id, name: p.name }
}
export async function renameProject(db: Db, id: string, name: string) {
  const [n] = await db.Project.update({ name }, { where: { id } })
  if (!n && !(await db.Project.findByPk(id))) throw notFound('this project')
}
export async function deleteProject(db: Db, data: string, id: string) {
  const shots = await db.Shot.findAll({ where: { projectId: id }, attributes: ['id'] })
  for (const s of shots) await deleteShot(db, data, s.id)
  if (!(await db.Project.destroy({ where: { id } }))) throw notFound('this project')
}
export async function createShot(
  db: Db,
  projectId: string,
  doc: unknown,
  transaction?: Transaction,
): Promise<{ id: string; revision: number }> {
  const shot = checked(doc)
  if (!(await db.Project.findByPk(projectId, { transaction }))) throw notFound('this project')
  const row = await db.Shot.create(
    { id: randomUUID(), projectId, name: shot.name, doc: JSON.stringify(shot), revision: 1 },
    { transaction },
  )
  return { id: row.id, revision: 1 }
}
export async function readShot(db: Db, id: string) {
  const row = await db.Shot.findByPk(id)
  if (!row) throw notFound('this shot')
  const project = await db.Project.findByPk(row.projectId)
  const r = checkShot(JSON.parse(row.doc))
  if (!r.ok) throw new Failure(422, `this shot cannot be opened: ${r.problems[0].path}: ${r.problems[0].message}`, { problems: r.problems })
  return {
    id,
    projectId: row.projectId,
    project: project?.name ?? '',
    revision: row.revision,
    saved: (row.updatedAt ?? new Date()).toISOString(),
    doc: r.shot,
  }
}
/** A version is kept when the newest one is older than this. */
const VERSION_EVERY_MS = 5 * 60 * 1000
const HOUR = 3600 * 1000

/**
 * Writes the whole document if nobody else did since `revision`. A stale write is a 409 with the revision that is there now, which
 * is newer; nothing is overwritten. The same write that comes again, since its answer was lost on the way, is answered again. What
 * was there before is kept as an automatic version every few minutes.
 */
export async function saveShot(db: Db, id: string, revision: number, doc: unknown): Promise<{ revision: number; saved: string }> {
  const shot = checked(doc)
  const text = JSON.stringify(shot)
  return db.sequelize.transaction(async (transaction) => {
    // Held until the end: what is compared is what is overwritten.
    const before = await db.Shot.findByPk(id, { transaction, lock: transaction.LOCK.UPDATE })
    if (!before) throw notFound('this shot')
    if (before.revision === revision + 1 && before.doc === text)
      return { revision: before.revision, saved: (before.updatedAt ?? new Date()).toISOString() }
    if (before.revision !== revision) throw new Failure(409, 'this shot was changed elsewhere meanwhile', { revision: before.revision })
    await db.Shot.update({ doc: text, name: shot.name, revision: revision + 1 }, { where: { id }, transaction })
    const newest = await db.Version.findOne({ where: { shotId: id }, order: [['createdAt', 'DESC']], transaction })
    const now = Date.now()
    if (!newest || now - (newest.createdAt ?? new Date(0)).getTime() > VERSION_EVERY_MS) {
      await db.Version.create({ id: randomUUID(), shotId: id, revision: before.revision, name: null, doc: before.doc }, { transaction })
      await thinVersions(db, id, now, transaction)
    }
    return { revision: revision + 1, saved: new Date(now).toISOString() }
  })
}
/** Automatic versions: all of the last hour, one an hour for a day, one a day after that. Named ones stay. */
async function thinVersions(db: Db, shotId: string, now: number, transaction: Transaction): Promise<void> {
  const list = await db.Version.findAll({
    where: { shotId, name: null },
    attributes: ['id', 'createdAt'],
    order: [['createdAt', 'DESC']],
    transaction,
  })
  const kept = new Set<string>()
  const drop: string[] = []
  for (const v of list) {
    const t = (v.createdAt ?? new Date(0)).getTime()
    const age = now - t
    const slot = age < HOUR ? v.id : age < 24 * HOUR ? `h${Math.floor(t / HOUR)}` : `d${Math.floor(t / (24 * HOUR))}`
    if (kept.has(slot)) drop.push(v.id)
    kept.add(slot)
  }
  if (drop.length) await db.Version.destroy({ where: { id: { [Op.in]: drop } }, transaction })
}
export async function listVersions(db: Db, shotId: string) {
  const list = await db.Version.findAll({
    where: { shotId },
    attributes: ['id', 'revision', 'name', 'createdAt'],
    order: [['createdAt', 'DESC']],
    limit: 100,
  })
  return list.map((v) => ({ id: v.id, revision: v.revision, name: v.name, at: (v.createdAt ?? new Date(0)).toISOString() }))
}
export async function readVersion(db: Db, shotId: string, id: string) {
  const v = await db.Version.findOne({ where: { id, shotId } })
  if (!v) throw notFound('this version')
  return { id, name: v.name, doc: checked(JSON.parse(v.doc)) }
}
export async function nameVersion(db: Db, shotId: string, name: string) {
  const row = await db.Shot.findByPk(shotId)
  if (!row) throw notFound('this shot')
  const v = await db.Version.create({ id: randomUUID(), shotId, revision: row.revision, name, doc: row.doc })
  return { id: v.id }
}
export async function deleteShot(db: Db, data: string, id: string) {
  const jobs = await db.Job.findAll({ where: { shotId: id }, attributes: ['id'] })
  if (!(await db.Shot.destroy({ where: { id } }))) throw notFound('this shot')
  rmSync(picturePath(data, id), { force: true })
  // A render that is under way finds its row gone and ends; its folder goes now.
  for (const j of jobs) rmSync(jobFolder(data, j.id), { recursive: true, force: true })
}

const SAFE_ID = /^[A-Za-z0-9-]{1,40}$/
export const picturePath = (data: string, id: string): string => {
  if (!SAFE_ID.test(id)) throw notFound('this shot')
  return join(data, 'pictures', `${id}.jpg`)
}
export const PICTURE_LIMIT_BYTES = 512 * 1024
/** The small picture of a shot on the projects page: JPEG, at most 512 KB. */
export async function savePicture(db: Db, data: string, id: string, bytes: Uint8Array): Promise<void> {
  if (bytes.length > PICTURE_LIMIT_BYTES || bytes[0] !== 0xff || bytes[1] !== 0xd8)
    throw new Failure(422, 'a shot’s picture must be a JPEG of at most 512 KB')
  if (!(await db.Shot.findByPk(id, { attributes: ['id'] }))) throw notFound('this shot')
  await writeWhole(picturePath(data, id), bytes)
}
/** The stored picture of a shot; null if it has none yet. */
export function readPicture(data: string, id: string): Uint8Array | null {
  const path = picturePath(data, id)
  return existsSync(path) ? readFileSync(path) : null
}
export const copyPicture = (data: string, id: string, from: string): Promise<void> => writeWhole(picturePath(data, id), readFileSync(from))
