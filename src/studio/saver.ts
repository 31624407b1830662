import { del, get, set } from 'idb-keyval'
import type { Shot } from '../shot'
import { ApiError, api, messageOf } from './api'

export type SaveState =
  | { kind: 'saved'; at: string }
  | { kind: 'waiting' }
  | { kind: 'saving' }
  /** The server does not answer; changes are kept in this browser and sent later. */
  | { kind: 'offline'; message: string; cause?: string }
  /** Somebody else saved meanwhile. */
  | { kind: 'conflict'; revision: number }
  | { kind: 'refused'; message: string }

interface Draft {
  revision: number
  doc: Shot
}
const AFTER_MS = 800
const KEEP_MS = 150
const RETRY_MS = 3000
const KEEPALIVE_BYTES = 60000
const key = (id: string) => `draft:${id}`

/** JSON with the fields of every record in one order. */
const ordered = (v: unknown): string =>
  JSON.stringify(v, (_key, x) =>
    x && typeof x === 'object' && !Array.isArray(x) ? Object.fromEntries(Object.entries(x).sort(([a], [b]) => (a < b ? -1 : 1))) : x,
  )

/** Saves the whole document a moment after the last change, and keeps it in this browser until the server has it. */
export class Saver {
  private doc: Shot | null = null
  private timer: ReturnType<typeof setTimeout> | null = null
  private busy = false
  private stopped = false

  constructor(
    private id: string,
    private revision: number,
    private tell: (s: SaveState) => void,
  ) {}

  /** An unsent draft of an earlier visit: `mine` when it continues the server's revision, `conflict` when the server went on. */
  static async draft(
    id: string,
    revision: number,
  ): Promise<{ kind: 'none' } | { kind: 'mine'; doc: Shot } | { kind: 'conflict'; doc: Shot; revision: number }> {
    const d = await get<Draft>(key(id)).catch(() => undefined)
    if (!d) return { kind: 'none' }
    return d.revision === revision ? { kind: 'mine', doc: d.doc } : { kind: 'conflict', doc: d.doc, revision: d.revision }
  }
  static forget = (id: string): Promise<void> => del(key(id)).catch(() => {})

  private keeping: ReturnType<typeof setTimeout> | null = null
  private kept: Shot | null = null

  changed(doc: Shot): void {
    this.doc = doc
    this.tell({ kind: 'waiting' })
    this.keep()
    this.later(AFTER_MS)
  }
  /** Into this browser at once, and during a drag every so often, the newest at last: writing costs the page 2 ms, measured. */
  private keep(): void {
    if (this.keeping) return
    const write = () => {
      const doc = this.doc
      if (doc && doc !== this.kept) void set(key(this.id), { revision: this.revision, doc } satisfies Draft).catch(() => {})
      this.kept = doc
    }
    write()
    this.keeping = setTimeout(() => {
      this.keeping = null
      if (this.doc && this.doc !== this.kept && !this.stopped) this.keep()
    }, KEEP_MS)
  }
  private later(ms: number): void {
    if (this.timer) clearTimeout(this.timer)
    this.timer = setTimeout(() => void this.flush(), ms)
  }
  /** Sends now. `leaving`: the page goes away, the request must outlive it. */
  async flush(leaving = false): Promise<void> {
    if (this.timer) clearTimeout(this.timer)
    this.timer = null
    const doc = this.doc
    if (!doc || this.stopped || (this.busy && !leaving)) return
    this.busy = true
    this.tell({ kind: 'saving' })
    try {
      const r = await api.save(this.id, this.revision, doc, leaving && JSON.stringify(doc).length < KEEPALIVE_BYTES)
      this.revision = r.revision
      if (this.doc === doc) {
        this.doc = null
        await Saver.forget(this.id)
        this.tell({ kind: 'saved', at: r.saved })
      } else void set(key(this.id), { revision: this.revision, doc: this.doc } as Draft).catch(() => {})
    } catch (error) {
      if (error instanceof ApiError && error.status === 409 && (await this.isThere(doc))) {
        // The newer state is this very one: a tab that was closed sent it on its way out.
      } else if (error instanceof ApiError && error.status === 409) {
        this.stopped = true
        this.tell({ kind: 'conflict', revision: Number(error.details.revision) })
      } else if (error instanceof ApiError && error.status >= 400 && error.status < 500 && error.status !== 408)
        this.tell({ kind: 'refused', message: error.message })
      else {
        const cause = error instanceof ApiError ? error.details.cause : undefined
        this.tell({ kind: 'offline', message: messageOf(error), ...(typeof cause === 'string' ? { cause } : {}) })
        this.later(RETRY_MS)
      }
    } finally {
      this.busy = false
      if (this.doc && this.doc !== doc && !this.timer && !this.stopped) this.later(AFTER_MS)
    }
  }
  /** Whether the server holds just this document already; then its revision is ours. */
  private async isThere(doc: Shot): Promise<boolean> {
    try {
      const theirs = await api.shot(this.id)
      if (ordered(theirs.doc) !== ordered(doc)) return false
      this.revision = theirs.revision
      if (this.doc === doc) this.doc = null
      await Saver.forget(this.id)
      this.tell({ kind: 'saved', at: theirs.saved })
      return true
    } catch {
      return false
    }
  }
  get unsent(): Shot | null {
    return this.doc
  }
  dispose(): void {
    if (this.keeping) clearTimeout(this.keeping)
    if (this.timer) clearTimeout(this.timer)
    this.stopped = true
  }
}
