// Logs of what runs behind bin/start: a file a part, of bounded size. When one is full it becomes NAME.1, and so on.
import { appendFileSync, existsSync, mkdirSync, renameSync, statSync } from 'node:fs'
import { join } from 'node:path'

const MAX_BYTES = 4 * 1024 * 1024
const KEPT = 3

/** Returns a function that takes text as it comes. What cannot be written (a full disk) is let go: a log never stops the work. */
export function logFile(folder, name, maxBytes = MAX_BYTES) {
  const path = join(folder, `${name}.log`)
  let bytes = null
  return (text) => {
    try {
      if (bytes === null) {
        if (!existsSync(folder)) mkdirSync(folder, { mode: 0o700 })
        bytes = existsSync(path) ? statSync(path).size : 0
      }
      if (bytes > maxBytes) {
        for (let n = KEPT; n >= 1; n--) {
          const from = n === 1 ? path : `${path}.${n - 1}`
          if (existsSync(from)) renameSync(from, `${path}.${n}`)
        }
        bytes = 0
      }
      appendFileSync(path, text, { mode: 0o600 })
      bytes += Buffer.byteLength(text)
    } catch {
      bytes = null
    }
  }
}
