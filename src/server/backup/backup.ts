import { spawn } from 'node:child_process'
import { constants, copyFile, mkdir, mkdtemp, open, readFile, rm, writeFile } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { QueryTypes, Transaction } from 'sequelize'
import type { Db } from '../db'
import { Failure } from '../failure'
import { hashOf, settle, writeAll } from '../files'
import { migrateDatabase } from '../migrate'

/** Tables in an order in which each refers only to those before it. */
const TABLES = ['projects', 'shots', 'shot_versions', 'assets', 'jobs', 'job_frames'] as const
type Row = Record<string, unknown>
interface Manifest {
  format: 'fox-ember-backup'
  version: 1
  made: string
  /** Migrations that the rows are of. */
  migrations: string[]
  rows: Record<string, number>
  /** Files by their path in the data folder. */
  files: Record<string, { bytes: number; hash: string }>
  /** Files that rows name, but that were not there. */
  missing: string[]
}

function tar(args: string[]): Promise<void> {
  return new Promise((resolve, reject) => {
    const p = spawn('tar', args, { stdio: ['ignore', 'ignore', 'pipe'] })
    let said = ''
    p.stderr.on('data', (d) => {
      said += d
    })
    p.once('error', reject)
    p.once('close', (code) =>
      code === 0 ? resolve() : reject(new Failure(500, `tar: ${said.trim().split('\n').at(-1) || `code ${code}`}`)),
    )
  })
}
/** Rows as they were at one moment, whatever is written meanwhile. */
async function rowsNow(db: Db): Promise<{ rows: Record<string, Row[]>; migrations: string[] }> {
  return db.sequelize.transaction({ isolationLevel: Transaction.ISOLATION_LEVELS.REPEATABLE_READ }, async (transaction) => {
    const rows: Record<string, Row[]> = {}
    for (const t of TABLES)
      rows[t] = await db.sequelize.query<Row>(`SELECT * FROM ${t}`, { type: QueryTypes.SELECT, transaction, raw: true })
    const done = await db.sequelize.query<{ name: string }>('SELECT name FROM migrations ORDER BY name', {
      type: QueryTypes.SELECT,
      transaction,
    })
    return { rows, migrations: done.map((m) => m.name) }
  })
}
/** Paths in the data folder of what the rows name. */
const filesOf = (rows: Record<string, Row[]>): string[] => [
  ...rows.assets.map((a) => `assets/${a.hash}`),
  ...rows.job_frames.map((f) => `renders/${f.job_id}/${f.file}`),
  ...rows.jobs.flatMap((j) => (JSON.parse(String(j.files)) as string[]).map((name) => `renders/${j.id}/${name}`)),
]
/** Of shots that have one. */
const picturesOf = (rows: Record<string, Row[]>): string[] => rows.shots.map((s) => `pictures/${s.id}.jpg`)

/**
 * Rows and files as one tar file, consistent while the application runs: the rows of one moment, then the files that they name,
 * which never change once they are named. Returns what it holds. Throws where the file cannot be written.
 */
export async function backup(db: Db, data: string, to: string): Promise<Manifest> {
  const { rows, migrations } = await rowsNow(db)
  const work = await mkdtemp(`${to}.part-`)
  try {
    const manifest: Manifest = {
      format: 'fox-ember-backup',
      version: 1,
      made: new Date().toISOString(),
      migrations,
      rows: Object.fromEntries(TABLES.map((t) => [t, rows[t].length])),
      files: {},
      missing: [],
    }
    await mkdir(join(work, 'rows'))
    for (const t of TABLES) await writeFile(join(work, 'rows', `${t}.jsonl`), rows[t].map((r) => `${JSON.stringify(r)}\n`).join(''))
    for (const path of [...filesOf(rows), ...picturesOf(rows)]) {
      const copy = join(work, 'files', path)
      await mkdir(dirname(copy), { recursive: true })
      try {
        // Shares its blocks with the original where the file system can.
        await copyFile(join(data, path), copy, constants.COPYFILE_FICLONE)
      } catch (error) {
        if ((error as NodeJS.ErrnoException).code !== 'ENOENT') throw error
        if (!path.startsWith('pictures/')) manifest.missing.push(path)
        continue
      }
      manifest.files[path] = await hashOf(copy)
    }
    await writeFile(join(work, 'manifest.json'), JSON.stringify(manifest, null, 1))
    const part = join(work, 'whole.tar')
    await tar(['-cf', part, '-C', work, 'manifest.json', 'rows', ...(Object.keys(manifest.files).length ? ['files'] : [])])
    const file = await open(part, 'r+')
    await file.sync()
    await file.close()
    await settle(part, to)
    return manifest
  } finally {
    await rm(work, { recursive: true, force: true })
  }
}

/**
 * Puts a backup into an empty database and data folder. Everything is unpacked and checked before the first row is entered.
 * Throws a Failure that says what is wrong with the file.
 */
export async function restore(db: Db, data: string, from: string): Promise<Manifest> {
  const work = await mkdtemp(join(data, 'restore-'))
  try {
    await tar(['-xf', from, '-C', work, '--no-same-owner', '--no-same-permissions'])
    const manifest = JSON.parse(await readFile(join(work, 'manifest.json'), 'utf8').catch(() => '{}')) as Manifest
    if (manifest.format !== 'fox-ember-backup' || manifest.version !== 1) throw new Failure(422, `${from} is not a backup of Fox Ember`)
    const rows: Record<string, Row[]> = {}
    for (const t of TABLES) {
      // A file that was cut off between two of its members unpacks without a word.
      const text = await readFile(join(work, 'rows', `${t}.jsonl`), 'utf8').catch(() => {
        throw new Failure(422, `${from} is damaged: the rows of ${t} are not in it`)
      })
      rows[t] = text
        .split('\n')
        .filter(Boolean)
        .map((l) => JSON.parse(l))
      if (rows[t].length !== manifest.rows[t])
        throw new Failure(422, `${from} is damaged: ${rows[t].length} of ${manifest.rows[t]} rows of ${t}`)
    }
    const known = new Set([...filesOf(rows), ...picturesOf(rows)])
    for (const [path, { hash }] of Object.entries(manifest.files)) {
      if (!known.has(path) || path.includes('..')) throw new Failure(422, `${from} holds a file that no row names: ${path}`)
      const there = await hashOf(join(work, 'files', path)).catch(() => null)
      if (there?.hash !== hash) throw new Failure(422, `${from} is damaged: ${path} is not what it was`)
    }
    await migrateDatabase(db, manifest.migrations.at(-1))
    await db.sequelize.transaction(async (transaction) => {
      for (const t of TABLES) for (const row of rows[t]) await db.sequelize.getQueryInterface().bulkInsert(t, [dated(row)], { transaction })
    })
    await migrateDatabase(db)
    for (const path of Object.keys(manifest.files)) {
      await mkdir(dirname(join(data, path)), { recursive: true, mode: 0o700 })
      await copyWhole(join(work, 'files', path), join(data, path))
    }
    return manifest
  } finally {
    await rm(work, { recursive: true, force: true })
  }
}
/** Dates went through JSON as text. */
const dated = (row: Row): Row =>
  Object.fromEntries(Object.entries(row).map(([k, v]) => [k, k.endsWith('_at') && typeof v === 'string' ? new Date(v) : v]))
async function copyWhole(from: string, to: string): Promise<void> {
  const part = `${to}.part`
  const file = await open(part, 'w')
  try {
    await writeAll(file, await readFile(from))
    await file.sync()
  } finally {
    await file.close()
  }
  await settle(part, to)
}
