// One start at a time on a data folder. The lock says who holds it and what it runs, so that the next start can tell a living
// one from what a kill left behind, and ends the latter.
import { linkSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { Complaint } from './prepare.mjs'
import { end, nameOf, runs } from './processes.mjs'

const PATIENCE_MS = 20000
/** The lock has one size from its first moment on, and is written over in place: that needs no room on a disk that is full. */
const BYTES = 2048

const read = (path) => {
  try {
    return JSON.parse(readFileSync(path, 'utf8'))
  } catch {
    return null
  }
}
/** Who runs on a folder now, or null. */
export function holder(folder) {
  const state = read(join(folder, 'start.lock'))
  return state?.self && runs(state.self) ? state : null
}
/** Takes the folder, or throws a Complaint that says who has it. */
export async function lock(folder, port, log) {
  const path = join(folder, 'start.lock')
  const mine = join(folder, `start.lock.${process.pid}`)
  const state = { self: nameOf(process.pid), port, children: {} }
  const write = (to, flag) => writeFileSync(to, JSON.stringify(state).padEnd(BYTES), { mode: 0o600, flag })
  let cleared = false
  write(mine, 'w')
  for (;;) {
    try {
      linkSync(mine, path)
      break
    } catch (error) {
      if (error.code !== 'EEXIST') throw error
    }
    const other = read(path)
    if (other?.self && runs(other.self)) {
      rmSync(mine, { force: true })
      throw new Complaint(
        `Fox Ember already runs on ${folder}, at http://127.0.0.1:${other.port} (process ${other.self.pid}); stop that first, or choose another folder with --data`,
      )
    }
    // Taken away under a name of our own. Should another start have put its lock there since it was read, it goes back.
    const stale = `${mine}.stale`
    try {
      renameSync(path, stale)
    } catch {
      continue
    }
    const taken = read(stale)
    if (taken?.self && runs(taken.self)) {
      renameSync(stale, path)
      continue
    }
    for (const [name, child] of Object.entries(taken?.children ?? {}))
      if (runs(child)) {
        log(`ending ${name} that an earlier start left behind`)
        await end(child, PATIENCE_MS)
      }
    cleared = true
    rmSync(stale, { force: true })
  }
  rmSync(mine, { force: true })
  return {
    /** Whether an earlier start left its lock behind: what it ran may hold the port a moment longer. */
    cleared,
    /** Writes down a component's process, to be ended by the next start if this one cannot. */
    note(name, pid) {
      state.children[name] = nameOf(pid)
      write(path, 'r+')
    },
    free() {
      rmSync(path, { force: true })
    },
  }
}
