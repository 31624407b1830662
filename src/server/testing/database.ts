import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
// @ts-expect-error: a plain script that Node.js runs before any package is there; it has no types
import { startDatabase } from '../../../scripts/database.mjs'
// @ts-expect-error: the same
import { build } from '../../../scripts/prepare.mjs'

/** Vitest's set-up for the server's tests: a real MariaDB on a free port in a temporary folder, gone afterwards. */
export default async function setup(): Promise<() => Promise<void>> {
  const log = (text: string) => process.stdout.write(`${text}\n`)
  // The tests run the bundled reader and job worker.
  await build(log, { web: false })
  const folder = mkdtempSync(join(tmpdir(), 'fox-ember-db-'))
  const database = (await startDatabase(folder, log, { names: ['test\\_%'] })) as TestDatabase
  process.env.EMBER_TEST_DB = database.url
  process.env.EMBER_TEST_DB_SOCKET = database.socket
  return async () => {
    await database.first.stop()
    database.clean()
    rmSync(folder, { recursive: true, force: true })
  }
}
interface TestDatabase {
  url: string
  socket: string
  first: { stop(): Promise<void> }
  clean(): void
}
