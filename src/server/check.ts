import { existsSync, mkdirSync, readdirSync, renameSync, statSync } from 'node:fs'
import { join } from 'node:path'
import { Op } from 'sequelize'
import type { Db } from './db'
import { jobFolder } from './jobs'

/** Where files go that no row knows: a kill left them, or a database of before was put in place. Nothing is thrown away. */
const UNKNOWN = 'unknown'
const sizeOf = (path: string): number | null => (existsSync(path) ? statSync(path).size : null)

function setAside(data: string, room: string, name: string): void {
  const to = join(data, UNKNOWN, room)
  mkdirSync(to, { recursive: true, mode: 0o700 })
  renameSync(join(data, room, name), join(to, `${Date.now()}-${name}`))
}
const listed = (folder: string): string[] => (existsSync(folder) ? readdirSync(folder) : [])

/**
 * Whether rows and files agree; run at the start, before requests are taken. Frames that are not whole are forgotten, so that a
 * render that goes on draws them again. Returns a line for each thing a person should know.
 */
export async function checkStore(db: Db, data: string): Promise<string[]> {
  const lines: string[] = []
  const assets = await db.Asset.findAll({ attributes: ['hash', 'name', 'bytes'] })
  for (const a of assets) {
    const size = sizeOf(join(data, 'assets', a.hash))
    if (size === null) lines.push(`the file of ${a.name} (${a.hash.slice(0, 12)}) is missing; bring it into a shot again`)
    else if (size !== Number(a.bytes)) {
      setAside(data, 'assets', a.hash)
      lines.push(`the file of ${a.name} (${a.hash.slice(0, 12)}) has ${size} bytes instead of ${a.bytes}; it was set aside, bring it again`)
    }
  }
  const hashes = new Set(assets.map((a) => a.hash))
  const jobs = await db.Job.findAll({ attributes: ['id', 'name', 'state'] })
  for (const job of jobs) {
    const frames = await db.JobFrame.findAll({ where: { jobId: job.id } })
    const broken = frames.filter((f) => sizeOf(join(jobFolder(data, job.id), f.file)) !== Number(f.bytes)).map((f) => f.frame)
    if (!broken.length) continue
    await db.JobFrame.destroy({ where: { jobId: job.id, frame: { [Op.in]: broken } } })
    const message = `${broken.length} ${broken.length === 1 ? 'frame was' : 'frames were'} not whole on the disk; go on to draw them again`
    if (job.state === 'done') await db.Job.update({ state: 'stopped', message }, { where: { id: job.id } })
    lines.push(`render of ${job.name}: ${message}`)
  }
  const ids = new Set(jobs.map((j) => j.id))
  const shots = new Set((await db.Shot.findAll({ attributes: ['id'] })).map((s) => `${s.id}.jpg`))
  for (const [room, known] of [
    ['assets', (n: string) => hashes.has(n) || n.endsWith('.part')],
    ['renders', (n: string) => ids.has(n)],
    ['pictures', (n: string) => shots.has(n) || n.endsWith('.part')],
  ] as const) {
    const lost = listed(join(data, room)).filter((n) => !known(n))
    for (const name of lost) setAside(data, room, name)
    if (lost.length)
      lines.push(`${lost.length} in ${room} that no row knows ${lost.length === 1 ? 'was' : 'were'} set aside in ${UNKNOWN}/`)
  }
  return lines
}
