import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
// @ts-expect-error: a plain script that Node.js runs before any package is there; it has no types
import { build, startDatabase } from '../../../scripts/prepare.mjs'

/** Vitest's set-up for the server's tests: a real MariaDB on a free port in a temporary folder, gone afterwards. */
export default async function setup(): Promise<() => Promise<void>> {
  const log = (text: string) => process.stdout.write(`${text}\n`)
  // The tests run the bundled reader and job worker.
  build(log, { web: false })
  const folder = mkdtempSync(join(tmpdir(), 'fox-ember-db-'))
  const database = (await startDatabase(folder, log)) as { url: string; stop: () => Promise<void> }
  process.env.EMBER_TEST_DB = database.url
  return async () => {
    await database.stop()
    rmSync(folder, { recursive: true, force: true })
  }
}
