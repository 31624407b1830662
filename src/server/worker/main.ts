import { randomUUID } from 'node:crypto'
import { connect, dataFolder } from '../db'
import { claimJob } from '../jobs'
import { logError } from '../log'
import { endWaiting, sweepDrawFolders } from './drawing'
import { OpeningsAhead } from './openingsAhead'
import { tagOf, workOn } from './work'

// The job worker: a process of its own beside the web server. It takes one job at a time and draws it in yet another process, so
// that it always hears what it is asked.
const POLL_MS = 500
const PAUSE_MS = 2000
const worker = `worker-${randomUUID().slice(0, 8)}`
const leaving = new AbortController()
const left = new Promise<void>((done) => leaving.signal.addEventListener('abort', () => done()))
const sleep = (ms: number) => Promise.race([left, new Promise<void>((done) => setTimeout(done, ms))])

for (const signal of ['SIGINT', 'SIGTERM'] as const) process.on(signal, () => leaving.abort())
// The supervisor was killed.
process.once('disconnect', () => leaving.abort())
const url = process.env.DATABASE_URL
if (!url) {
  process.stderr.write('worker: DATABASE_URL is not set\n')
  process.exit(1)
}
const db = connect(url)
const data = dataFolder()
void sweepDrawFolders(tagOf(data))
const ahead = process.env.EMBER_AHEAD === 'on' ? new OpeningsAhead(db, data, process.env.EMBER_BUILD ?? '') : null
leaving.signal.addEventListener('abort', () => ahead?.pause())
// A database that is away: it is asked again.
const lookAhead = () => void ahead?.goOn().catch(() => {})
let said = ''
while (!leaving.signal.aborted) {
  try {
    const job = await claimJob(db, worker)
    said = ''
    if (job) {
      ahead?.pause()
      await workOn(db, data, job, worker, leaving.signal)
    } else {
      lookAhead()
      await sleep(POLL_MS)
    }
  } catch (error) {
    // A database that is away is said once, not every two seconds.
    const message = error instanceof Error ? error.name : String(error)
    if (message !== said) logError('worker', error)
    said = message
    await sleep(PAUSE_MS)
  }
}
await endWaiting()
await db.sequelize.close()
process.exit(0)
