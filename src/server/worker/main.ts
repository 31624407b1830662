import { randomUUID } from 'node:crypto'
import { existsSync, mkdirSync } from 'node:fs'
import { cpus } from 'node:os'
import { join } from 'node:path'
import writeFileAtomic from 'write-file-atomic'
import { FrameRenderer } from '../../hosts/node/renderer'
import { loadMeshes } from '../../hosts/node/shot'
import type { Shot } from '../../shot'
import { assetPath } from '../assets'
import { connect, type Db, dataFolder, type JobRow } from '../db'
import { claimJob, frameName, holdJob, jobFolder, type RenderSettings } from '../jobs'
import { makeMovie } from './movie'

// The job worker: a process of its own beside the web server. It takes one job at a time; every frame is written, renamed and
// entered in the database before the next begins, so a job that was cut off at any moment goes on with its first missing frame.
const POLL_MS = 500
const name = `worker-${randomUUID().slice(0, 8)}`
const leaving = new AbortController()
const sleep = (ms: number) => new Promise((r) => setTimeout(r, ms))

async function work(db: Db, data: string, job: JobRow): Promise<void> {
  const s = JSON.parse(job.settings) as RenderSettings
  const shot = JSON.parse(job.doc) as Shot
  const folder = jobFolder(data, job.id)
  mkdirSync(join(folder, 'frames'), { recursive: true })
  const held = setInterval(() => void holdJob(db, job.id, name, Date.now()).catch(() => {}), 3000)
  let renderer: FrameRenderer | null = null
  const goesOn = async (): Promise<boolean> => {
    if (leaving.signal.aborted) return false
    const answer = await holdJob(db, job.id, name, Date.now())
    if (answer === 'stop') await job.update({ state: 'stopped' })
    return answer === 'go on'
  }
  try {
    const have = new Set(
      (await db.JobFrame.findAll({ where: { jobId: job.id } })).filter((f) => existsSync(join(folder, f.file))).map((f) => f.frame),
    )
    for (let frame = s.first; frame <= s.last; frame++) {
      if (!(await goesOn())) return
      if (have.has(frame)) continue
      if (!renderer) {
        const meshes = await loadMeshes(shot, (hash) => (existsSync(assetPath(data, hash)) ? assetPath(data, hash) : undefined))
        renderer = await FrameRenderer.open(shot, meshes, Math.max(1, cpus().length))
      }
      const start = Date.now()
      const image = await renderer.render(frame, s)
      const file = `frames/${frameName(frame)}`
      writeFileAtomic.sync(join(folder, file), image.png)
      await db.JobFrame.upsert({ jobId: job.id, frame, file, bytes: image.png.length, ms: Date.now() - start })
    }
    const files: string[] = []
    for (const format of ['webm', 'mp4'] as const) {
      if (!s.formats.includes(format)) continue
      if (!(await goesOn())) return
      await job.update({ message: `making the ${format === 'webm' ? 'WebM' : 'MP4'}` })
      files.push(await makeMovie(folder, format, s, shot.rate, leaving.signal))
    }
    await job.update({ state: 'done', message: null, files: JSON.stringify(files) })
  } catch (error) {
    if (leaving.signal.aborted) return
    await job.update({ state: 'failed', message: error instanceof Error ? error.message.split('\n')[0] : String(error) })
  } finally {
    clearInterval(held)
    await renderer?.dispose()
    // Leaving on purpose: the next worker need not wait for the lease.
    if (leaving.signal.aborted) await db.Job.update({ lease: 0 }, { where: { id: job.id, worker: name, state: 'running' } })
  }
}

for (const signal of ['SIGINT', 'SIGTERM'] as const) process.on(signal, () => leaving.abort())
const url = process.env.DATABASE_URL
if (!url) {
  process.stderr.write('worker: DATABASE_URL is not set\n')
  process.exit(1)
}
const db = connect(url)
const data = dataFolder()
while (!leaving.signal.aborted) {
  try {
    const job = await claimJob(db, name, Date.now())
    if (job) await work(db, data, job)
    else await sleep(POLL_MS)
  } catch (error) {
    process.stderr.write(`worker: ${error instanceof Error ? error.message : error}\n`)
    await sleep(2000)
  }
}
await db.sequelize.close()
process.exit(0)
