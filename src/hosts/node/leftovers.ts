import { readdirSync } from 'node:fs'
import { rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'

/** Removes a folder that a browser may still be writing to while it ends. What cannot be removed is left to the next sweep. */
export const removeFolder = (path: string): Promise<void> =>
  rm(path, { recursive: true, force: true, maxRetries: 20, retryDelay: 100 }).catch(() => {})

function isAlive(pid: number): boolean {
  try {
    return process.kill(pid, 0)
  } catch (error) {
    return (error as NodeJS.ErrnoException).code === 'EPERM'
  }
}
/**
 * Removes temporary folders that processes have left behind that were killed: those that begin with a prefix and the number of a process that is
 * gone, or with no number; `beginning`: this process has made none itself yet.
 */
export async function sweepLeftovers(prefix: string, beginning: boolean): Promise<void> {
  for (const name of readdirSync(tmpdir()).filter((n) => n.startsWith(prefix))) {
    const pid = Number(name.slice(prefix.length).split('-')[0])
    if (!Number.isInteger(pid) || (pid === process.pid ? beginning : !isAlive(pid))) await removeFolder(join(tmpdir(), name))
  }
}
