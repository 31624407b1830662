import { randomUUID } from 'node:crypto'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir, userInfo } from 'node:os'
import { join } from 'node:path'
import { connect, type Db } from '../db'
import { migrateDatabase } from '../migrate'

export interface TestServer {
  db: Db
  /** The data folder. */
  data: string
  /** The address of this test's own database. */
  url: string
  close(): Promise<void>
}
/** A busy machine makes a database of many tables slowly; what its silence means is tested by itself. */
const PATIENCE_MS = 30000
/** A database and a data folder of a test file's own; without tables where they are not `migrated`. */
export async function openTestServer({ migrated = true } = {}): Promise<TestServer> {
  const base = process.env.EMBER_TEST_DB
  if (!base) throw new Error('EMBER_TEST_DB is not set: run the tests through vitest')
  const name = `test_${randomUUID().replaceAll('-', '').slice(0, 12)}`
  const admin = connect(
    `mariadb://${userInfo().username}@localhost/mysql?socket=${encodeURIComponent(process.env.EMBER_TEST_DB_SOCKET ?? '')}`,
    PATIENCE_MS,
  )
  await admin.sequelize.query(`CREATE DATABASE ${name} CHARACTER SET utf8mb4`)
  const url = base.replace(/\/[^/]*$/, `/${name}`)
  const db = connect(url, PATIENCE_MS)
  if (migrated) await migrateDatabase(db)
  const data = mkdtempSync(join(tmpdir(), 'fox-ember-data-'))
  return {
    db,
    data,
    url,
    close: async () => {
      await db.sequelize.close()
      await admin.sequelize.query(`DROP DATABASE ${name}`)
      await admin.sequelize.close()
      rmSync(data, { recursive: true, force: true })
    },
  }
}
