// Keeps the parts of the application running: one that ends is started again, later each time it ends soon after.
import { spawn } from 'node:child_process'
import { ROOT } from './prepare.mjs'
import { end, nameOf, sleep } from './processes.mjs'

const FIRST_DELAY_MS = 500
const MAX_DELAY_MS = 30000
/** A part that ran this long has nothing held against it. */
const HEALTHY_MS = 60000
const PATIENCE_MS = 8000

/** How long to wait before the next start of a part that has ended soon after its start `soon` times in a row. */
export const delayMs = (soon) => Math.min(MAX_DELAY_MS, FIRST_DELAY_MS * 2 ** Math.min(soon, 16))

/**
 * Runs one part until `stop`. `begin` starts it and gives its pid, a promise of its end, and how to stop it; it may throw, which
 * counts as an end. `note` is told of every new process.
 */
export function keep(name, begin, { note, complain, healthyMs = HEALTHY_MS, first = null }) {
  let leaving = false
  let current = first
  let wake = () => {}
  const over = (async () => {
    for (let soon = 0; !leaving; ) {
      const began = Date.now()
      let how
      try {
        current ??= await begin()
        // A process that cannot be written down runs all the same.
        try {
          note(name, current.pid)
        } catch (error) {
          complain(`${name} runs, but could not be written down: ${error.message}`)
        }
        if (leaving) break
        const { code, signal } = await current.ended
        how = `ended (${signal ?? `code ${code}`})`
      } catch (error) {
        how = `did not start: ${error.message}`
      }
      current = null
      if (leaving) break
      soon = Date.now() - began > healthyMs ? 0 : soon
      const wait = delayMs(soon++)
      complain(`${name} ${how}; it starts again in ${wait / 1000} s`)
      await Promise.race([sleep(wait), new Promise((done) => (wake = done))])
    }
  })()
  return {
    async stop() {
      leaving = true
      wake()
      // One that is on its way up is waited for, and stopped then.
      while (!current && !(await Promise.race([over.then(() => true), sleep(50).then(() => false)])));
      await current?.stop()
      await over
    },
  }
}

/** A Node.js process of ours. It holds a channel to us and ends when that closes, so it never outlives a supervisor that was killed. */
export function script(args, env, out) {
  return async () => {
    const child = spawn(process.execPath, args, { cwd: ROOT, env, stdio: ['ignore', 'pipe', 'pipe', 'ipc'], detached: true })
    for (const stream of [child.stdout, child.stderr]) stream.on('data', out)
    const ended = new Promise((done) => {
      child.once('error', () => done({ code: 1, signal: null }))
      child.once('exit', (code, signal) => done({ code, signal }))
    })
    const self = nameOf(child.pid)
    return { pid: child.pid, ended, stop: () => end(self, PATIENCE_MS) }
  }
}
