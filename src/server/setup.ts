import { join } from 'node:path'
import { sweepAssets } from './assets'
import { checkStore } from './check'
import { connect, dataFolder } from './db'
import { loadDemo } from './demo'
import { migrateDatabase } from './migrate'

// Run by bin/start before the server: tables up to date, remains of a crash swept, demo data in an empty database.
const url = process.env.DATABASE_URL
if (!url) {
  process.stderr.write('setup: DATABASE_URL is not set\n')
  process.exit(1)
}
/** Tables are made in one statement each, on a disk that may be busy. */
const SETUP_DEADLINE_MS = 60000
const db = connect(url, SETUP_DEADLINE_MS)
try {
  await db.sequelize.authenticate()
  const done = await migrateDatabase(db)
  if (done.length) process.stdout.write(`database: ${done.join(', ')}\n`)
  sweepAssets(dataFolder())
  for (const line of await checkStore(db, dataFolder())) process.stdout.write(`check: ${line}\n`)
  if (!process.argv.includes('--no-demo')) {
    const demo = await loadDemo(db, dataFolder(), join(process.env.EMBER_ROOT ?? process.cwd(), 'demo'))
    if (demo.length) process.stdout.write(`demo: ${demo.join(', ')}\n`)
  }
} catch (error) {
  process.stderr.write(`setup: ${error instanceof Error ? error.message.split('\n')[0] : error}\n`)
  process.exitCode = 1
} finally {
  await db.sequelize.close()
}
