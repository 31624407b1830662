// What is known of other processes: whether one still runs, and ending one with all that it started. A process is named by its
// number and the moment it began, since numbers are given out again.
import { readFileSync } from 'node:fs'

export const sleep = (ms) => new Promise((done) => setTimeout(done, ms))

/** When a process began, in clock ticks since the machine did; null where it is not there, or is dead and only not yet waited for. */
export function beganAt(pid) {
  try {
    const stat = readFileSync(`/proc/${pid}/stat`, 'utf8')
    // The name in brackets may hold anything, brackets too; what follows the last one are numbers.
    const fields = stat.slice(stat.lastIndexOf(')') + 2).split(' ')
    return fields[0] === 'Z' ? null : fields[19]
  } catch {
    return null
  }
}
/** How a process is written down. */
export const nameOf = (pid) => ({ pid, began: beganAt(pid) })
export const runs = ({ pid, began }) => began !== null && beganAt(pid) === began

/** Asks a process and its group to end, and makes them after `patienceMs`. Returns when it is gone. */
export async function end(process_, patienceMs) {
  const send = (signal) => {
    for (const to of [-process_.pid, process_.pid])
      try {
        process.kill(to, signal)
      } catch {
        // Gone, or no leader of a group.
      }
  }
  if (!runs(process_)) return
  send('SIGTERM')
  for (let waited = 0; waited < patienceMs && runs(process_); waited += 50) await sleep(50)
  if (!runs(process_)) return
  send('SIGKILL')
  while (runs(process_)) await sleep(20)
}
