import { type ChildProcess, spawn } from 'node:child_process'
import { createHash } from 'node:crypto'
import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'

// Kills, while clients save, bring files and render. What was acknowledged is written down here and asked for again.

const sleep = (ms: number) => new Promise<void>((done) => setTimeout(done, ms))
const LATE_MS = 5000
interface Answer {
  status: number
  json: Record<string, unknown>
  ms: number
}
/** Counts of what happened, and of what must not. */
export interface Tally {
  kills: Record<string, number>
  saves: number
  saved: number
  conflicts: number
  staleConflicts: number
  unavailable: number
  files: number
  frames: number
  /** Acknowledged and not there, or older than what was acknowledged. */
  lost: string[]
  /** Served, but not whole. */
  half: string[]
  late: number
  slowestMs: number
  webMb: number
}
export const newTally = (): Tally => ({
  kills: {},
  saves: 0,
  saved: 0,
  conflicts: 0,
  staleConflicts: 0,
  unavailable: 0,
  files: 0,
  frames: 0,
  lost: [],
  half: [],
  late: 0,
  slowestMs: 0,
  webMb: 0,
})
export class Client {
  constructor(
    readonly base: string,
    readonly tally: Tally,
  ) {}
  async ask(method: string, path: string, body?: string | Uint8Array): Promise<Answer> {
    const began = performance.now()
    try {
      const r = await fetch(`${this.base}${path}`, { method, body: body as BodyInit, signal: AbortSignal.timeout(30000) })
      // An answer that was cut off is none: the server died over it.
      const json = (await r.json()) as Record<string, unknown>
      return this.timed({ status: r.status, json, ms: performance.now() - began })
    } catch {
      return this.timed({ status: 0, json: {}, ms: performance.now() - began })
    }
  }
  private timed(a: Answer): Answer {
    if (a.ms > LATE_MS) this.tally.late++
    this.tally.slowestMs = Math.max(this.tally.slowestMs, Math.round(a.ms))
    if (a.status === 0 || a.status >= 500) this.tally.unavailable++
    return a
  }
  async bytes(path: string): Promise<Uint8Array | null> {
    try {
      const r = await fetch(`${this.base}${path}`, { signal: AbortSignal.timeout(30000) })
      return r.ok ? new Uint8Array(await r.arrayBuffer()) : null
    } catch {
      return null
    }
  }
  /** Until there is an answer that is not for want of a server. */
  async insist(method: string, path: string, body?: string | Uint8Array): Promise<Answer> {
    for (;;) {
      const a = await this.ask(method, path, body)
      if (a.status !== 0 && a.status < 500) return a
      await sleep(300)
    }
  }
}
type Doc = Record<string, unknown> & { name: string }
const numberOf = (doc: unknown): number =>
  Number(
    String((doc as Doc)?.name)
      .split(' ')
      .at(-1),
  )

/** Saves one shot again and again; alone on it, or with another. */
export async function writer(c: Client, id: string, tag: string, going: () => boolean, shared = false): Promise<void> {
  const first = await c.insist('GET', `/api/shots/${id}`)
  const doc = first.json.doc as Doc
  let revision = Number(first.json.revision)
  let acknowledged = -1
  for (let n = 0; going(); n++) {
    c.tally.saves++
    const a = await c.ask('PUT', `/api/shots/${id}`, JSON.stringify({ revision, doc: { ...doc, name: `${tag} ${n}` } }))
    if (a.status === 200) {
      c.tally.saved++
      revision = Number(a.json.revision)
      acknowledged = n
    } else if (a.status === 409) {
      c.tally.conflicts++
      if (!(Number(a.json.revision) > revision)) c.tally.staleConflicts++
      revision = Number(a.json.revision)
    } else await sleep(200)
    if (n % 20 === 0 && !shared) {
      const there = await c.ask('GET', `/api/shots/${id}`)
      if (there.status === 200 && acknowledged >= 0 && !(numberOf(there.json.doc) >= acknowledged))
        c.tally.lost.push(`${tag}: ${acknowledged} was acknowledged, ${numberOf(there.json.doc)} is there`)
      if (there.status === 404) c.tally.lost.push(`${tag}: the shot is gone`)
    }
    await sleep(20)
  }
  if (shared) return
  const last = await c.insist('GET', `/api/shots/${id}`)
  if (!(numberOf(last.json.doc) >= acknowledged))
    c.tally.lost.push(`${tag}: ${acknowledged} was acknowledged, ${numberOf(last.json.doc)} is there at the end`)
}
/** Brings files that nobody else has, and asks for all that were taken. */
export async function uploader(c: Client, going: () => boolean): Promise<void> {
  const taken: [hash: string, bytes: Uint8Array][] = []
  for (let n = 0; going(); n++) {
    const bytes = Buffer.from(`# ${process.pid} ${n} ${'lantern '.repeat(n % 5000)}\nv 0 0 0\nv ${n + 1} 0 0\nv 0 1 0\nf 1 2 3\n`)
    const a = await c.ask('POST', `/api/assets?name=n${n}.obj`, bytes)
    if (a.status === 201) {
      taken.push([String(a.json.hash), bytes])
      c.tally.files++
    }
    await sleep(1500)
  }
  for (const [hash, bytes] of taken) {
    if (createHash('sha256').update(bytes).digest('hex') !== hash)
      c.tally.lost.push(`file ${hash} was taken under a hash that is not its own`)
    let there: Uint8Array | null = null
    for (let i = 0; i < 100 && !there; i++) {
      there = await c.bytes(`/api/assets/${hash}`)
      if (!there) await sleep(300)
    }
    if (!there) c.tally.lost.push(`file ${hash} was taken and is gone`)
    else if (!Buffer.from(there).equals(bytes)) c.tally.half.push(`file ${hash}`)
  }
}
const whole = (png: Uint8Array) => png[1] === 0x50 && Buffer.from(png.subarray(-8)).toString('latin1').startsWith('IEND')
/** Renders one shot after another, looking at each frame that is listed. */
export async function renderer(c: Client, shot: string, going: () => boolean): Promise<void> {
  const settings = { first: 0, last: 9, width: 64, height: 36, transparent: false, formats: ['png'] }
  const known = new Map<string, Set<number>>()
  while (going()) {
    const made = await c.ask('POST', `/api/shots/${shot}/renders`, JSON.stringify(settings))
    if (made.status !== 201) {
      await sleep(500)
      continue
    }
    const id = String(made.json.id)
    known.set(id, new Set())
    while (going()) {
      await sleep(1000)
      const list = await c.bytes('/api/jobs')
      const job =
        list && (JSON.parse(Buffer.from(list).toString()) as { id: string; frames: number[]; state: string }[]).find((j) => j.id === id)
      if (!job) continue
      const seen = known.get(id) as Set<number>
      for (const frame of job.frames) {
        if (seen.has(frame)) continue
        const png = await c.bytes(`/api/jobs/${id}/files/${String(frame).padStart(4, '0')}.png`)
        if (!png) continue
        seen.add(frame)
        c.tally.frames++
        if (!whole(png)) c.tally.half.push(`frame ${frame} of ${id}`)
      }
      if (job.state === 'failed') await c.ask('POST', `/api/jobs/${id}`, JSON.stringify({ action: 'resume' }))
      if (job.state === 'done') break
    }
  }
  for (const [id, frames] of known)
    for (const frame of frames) {
      let png: Uint8Array | null = null
      for (let i = 0; i < 60 && !png; i++) {
        png = await c.bytes(`/api/jobs/${id}/files/${String(frame).padStart(4, '0')}.png`)
        if (!png) await sleep(300)
      }
      if (!png) c.tally.lost.push(`frame ${frame} of ${id} was listed and is gone`)
      else if (!whole(png)) c.tally.half.push(`frame ${frame} of ${id}`)
    }
}
export const residentMb = (pid: number): number => {
  try {
    return Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1] ?? 0) / 1024
  } catch {
    return 0
  }
}
/** The application over a folder, started as a person starts it, again and again. */
export class Application {
  child: ChildProcess | null = null
  constructor(
    readonly root: string,
    readonly data: string,
    readonly port: number,
  ) {}
  async start(): Promise<void> {
    for (;;) {
      const child = spawn(join(this.root, 'bin/start'), ['--port', String(this.port), '--data', this.data], {
        stdio: ['ignore', 'pipe', 'pipe'],
      })
      child.stderr?.resume()
      this.child = child
      const up = await new Promise<boolean>((done) => {
        child.stdout?.on('data', (d) => String(d).includes('Fox Ember is at') && done(true))
        child.once('exit', () => done(false))
      })
      if (up) return
      await sleep(500)
    }
  }
  /** Its processes by name; those that draw too. */
  parts(): Map<string, number[]> {
    const out = new Map<string, number[]>()
    try {
      const state = JSON.parse(readFileSync(join(this.data, 'start.lock'), 'utf8')) as { children: Record<string, { pid: number }> }
      for (const [name, { pid }] of Object.entries(state.children)) out.set(name, [pid])
    } catch {
      // On its way up.
    }
    const worker = out.get('the job worker')?.[0]
    const drawing = readdirSync('/proc').flatMap((pid) => {
      try {
        return /^\d+$/.test(pid) &&
          readFileSync(`/proc/${pid}/stat`, 'utf8')
            .replace(/^.*\) /, '')
            .split(' ')[1] === String(worker)
          ? [Number(pid)]
          : []
      } catch {
        return []
      }
    })
    if (drawing.length) out.set('a drawing', drawing)
    if (this.child?.pid) out.set('the supervisor', [this.child.pid])
    return out
  }
}
