import { connect, databaseFailure, dataFolder } from '../db'
import { backup, restore } from './backup'

// Run by bin/ember backup and bin/ember restore, which find or start the database.
const [what, file] = process.argv.slice(2)
const DEADLINE_MS = 600000
const db = connect(process.env.DATABASE_URL ?? '', DEADLINE_MS)
const MB = 1048576
try {
  const m = await (what === 'restore' ? restore : backup)(db, dataFolder(), file)
  const files = Object.values(m.files)
  const size = files.reduce((sum, f) => sum + f.bytes, 0)
  process.stdout.write(
    `${what === 'restore' ? 'restored' : 'kept'} ${m.rows.projects} projects, ${m.rows.shots} shots, ${m.rows.shot_versions} versions, ${m.rows.jobs} renders and ${files.length} files (${(size / MB).toFixed(1)} MB), as of ${m.made}\n`,
  )
  for (const path of m.missing) process.stderr.write(`not there: ${path}\n`)
} catch (error) {
  const e = databaseFailure(error) ?? (error as Error)
  process.stderr.write(`${what}: ${e.message.split('\n')[0]}\n`)
  process.exitCode = 1
} finally {
  await db.sequelize.close()
}
