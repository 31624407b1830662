import { type ChildProcess, spawn } from 'node:child_process'
import { join } from 'node:path'
import { openingName } from '../../hosts/frameKey'
import type { Db } from '../db'
import { KEPT_OPENINGS_BYTES, OPENING_LIMIT_BYTES, openingBytes } from '../openings'
import { bareEnv } from '../reader'
import { readShot } from '../shots'
import type { OpeningOrder } from './openingJob'

/** A shot that takes longer to come to its opening frame is left to its browser. */
const MOST_MS = 300000

/**
 * Computes the frames with which shots open, for those that no browser has opened since the last build: on a new machine, and after an update, the
 * first look at a fire takes as long as the second. One after the other, in a process of its own, while there is nothing else to do.
 */
export class OpeningsAhead {
  private waiting: string[] | null = null
  private child: ChildProcess | null = null
  private running = false
  private paused = false
  /** Of this build: those of builds before are given up for them, and they must not push each other out. */
  private keptBytes = 0

  constructor(
    private readonly db: Db,
    private readonly data: string,
    private readonly build: string,
  ) {}
  /** Goes on with the next one, unless one is under way. Resolves when that is done, to whether there may be more. */
  async goOn(): Promise<boolean> {
    this.paused = false
    if (this.running) return true
    this.running = true
    try {
      this.waiting ??= (await this.db.Shot.findAll({ attributes: ['id'], order: [['updatedAt', 'DESC']] })).map((s) => s.id)
      const id = this.waiting[0]
      if (id === undefined || this.keptBytes + OPENING_LIMIT_BYTES > KEPT_OPENINGS_BYTES) return false
      // One that cannot be read, or was deleted meanwhile, is said where it is opened.
      const found = await readShot(this.db, id).catch(() => null)
      const name = found && (await openingName(found.doc, this.build))
      if (name && openingBytes(this.data, name) === null && !(await this.compute({ shot: found.doc, data: this.data, name }))) return true
      this.keptBytes += (name && openingBytes(this.data, name)) || 0
      this.waiting.shift()
      return true
    } finally {
      this.running = false
    }
  }
  /** Ends what is under way; it is begun again when there is time. */
  pause(): void {
    this.paused = true
    this.child?.kill('SIGKILL')
  }
  /** Resolves to whether it ended by itself, with a frame or without one. */
  private async compute(order: OpeningOrder): Promise<boolean> {
    if (this.paused) return false
    // From its first thread on: one that lowers its own priority has compiled its scripts and kernels by then.
    const job = join(process.env.EMBER_ROOT ?? process.cwd(), 'dist/openingjob.mjs')
    const child = spawn('nice', ['-n', '19', process.execPath, job], {
      env: bareEnv(),
      stdio: ['ignore', 'ignore', 'ignore', 'ipc'],
    })
    this.child = child
    let late = false
    const timer = setTimeout(() => {
      late = true
      child.kill('SIGKILL')
    }, MOST_MS)
    child.send(order, () => {})
    return new Promise((resolve) => {
      const over = (code: number | null) => {
        clearTimeout(timer)
        this.child = null
        resolve(late || code !== null)
      }
      child.once('error', () => over(1))
      child.once('exit', over)
    })
  }
}
