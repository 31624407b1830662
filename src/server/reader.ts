import { type ChildProcess, spawn } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import type { AssetFacts } from '../formats'
import { Failure } from './failure'

/** What a file may cost while it is read: a hostile one costs its own process and nothing else. */
export const READER_LIMITS = {
  /** At the same time. */
  readers: 2,
  /** Waiting for one of them. */
  queue: 20,
  /** seconds of processor time */
  cpuS: 10,
  /** seconds by the clock, where the machine is busy */
  wallS: 60,
  /** MB of memory of its own */
  memoryMb: 3072,
  /** MB of JavaScript's heap within that */
  heapMb: 1536,
  answerBytes: 1024 * 1024,
}
const REFUSAL_LETTERS = 300
const UNREADABLE = 'the file cannot be read; save it again from where it comes from and bring it again'

let busy = 0
const waiting: (() => void)[] = []
/** Reads a file of our own making, here: those that are shipped, and pictures that the server wrote. Throws where it cannot be read. */
export async function readOwn(path: string): Promise<AssetFacts> {
  const { formatProblemText, inspectAsset } = await import('../formats')
  const r = await inspectAsset(new Uint8Array(readFileSync(path)), true)
  if (!r.ok) throw new Error(`a file of our own cannot be read: ${formatProblemText(r.problem)}`)
  return r.value
}
/** Few at a time, the others in their order; more than may wait are refused. */
export async function turn<T>(work: () => Promise<T>): Promise<T> {
  if (busy >= READER_LIMITS.readers) {
    if (waiting.length >= READER_LIMITS.queue)
      throw new Failure(503, 'too many files are being read at the moment; bring this one again in a moment', { cause: 'busy' })
    await new Promise<void>((done) => waiting.push(done))
  } else busy++
  try {
    return await work()
  } finally {
    const next = waiting.shift()
    if (next) next()
    else busy--
  }
}

/** What a process of ours that reads strangers' files, or draws, is given of the environment: no addresses and no passwords. */
export const bareEnv = (more: Record<string, string> = {}): NodeJS.ProcessEnv => {
  const env: Record<string, string> = { NODE_ENV: 'production', EMBER_ROOT: process.env.EMBER_ROOT ?? process.cwd() }
  for (const name of ['PATH', 'HOME', 'LANG', 'TMPDIR', 'EMBER_CHROMIUM']) {
    const value = process.env[name]
    if (value) env[name] = value
  }
  return { ...env, ...more } as NodeJS.ProcessEnv
}

/** Reads a file in a process of its own, limited by the kernel; throws a Failure with a short reason where it cannot be read. */
export function inspect(path: string): Promise<AssetFacts> {
  return turn(() => inspectNow(path))
}
function inspectNow(path: string): Promise<AssetFacts> {
  const l = READER_LIMITS
  const node = [`--max-old-space-size=${l.heapMb}`, join(process.env.EMBER_ROOT ?? process.cwd(), 'dist/ember.mjs'), 'inspect', path]
  return new Promise((resolve, reject) => {
    // The shell sets the limits and becomes the reader. It writes no files and leaves no memory image.
    const child: ChildProcess = spawn(
      '/bin/sh',
      ['-c', `ulimit -t ${l.cpuS}; ulimit -d ${l.memoryMb * 1024}; ulimit -f 0; ulimit -c 0; exec "$@"`, 'sh', process.execPath, ...node],
      { env: bareEnv(), stdio: ['ignore', 'pipe', 'pipe'] },
    )
    let out = ''
    let err = ''
    let late = false
    const timer = setTimeout(() => {
      late = true
      child.kill('SIGKILL')
    }, l.wallS * 1000)
    child.stdout?.on('data', (d) => {
      out += d
      if (out.length > l.answerBytes) child.kill('SIGKILL')
    })
    child.stderr?.on('data', (d) => {
      if (err.length < 65536) err += d
    })
    child.once('error', (error) => {
      clearTimeout(timer)
      reject(error)
    })
    child.once('close', (code, signal) => {
      clearTimeout(timer)
      if (code === 0) {
        try {
          return resolve(JSON.parse(out))
        } catch {
          return reject(new Failure(422, UNREADABLE))
        }
      }
      reject(new Failure(422, refusalText(code, signal, err, late)))
    })
  })
}
/** Why a reader ended, in one short line. */
export function refusalText(code: number | null, signal: string | null, err: string, late = false): string {
  if (late || signal === 'SIGXCPU' || signal === 'SIGKILL')
    return `reading it takes more than ${READER_LIMITS.cpuS} s; make it smaller or simpler and bring it again`
  if (/out of memory|Cannot allocate|Array buffer allocation|FATAL|Invalid (typed )?array/i.test(err) || signal || (code ?? 0) > 1)
    return `reading it takes more than ${READER_LIMITS.memoryMb / 1024} GB of memory; make it smaller or simpler and bring it again`
  const line = err.trim().split('\n')[0] ?? ''
  return line ? (line.length > REFUSAL_LETTERS ? `${line.slice(0, REFUSAL_LETTERS - 1)}…` : line) : UNREADABLE
}
