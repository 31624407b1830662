import { readdirSync, readFileSync } from 'node:fs'

const read = (pid: string, what: string): string => {
  try {
    return readFileSync(`/proc/${pid}/${what}`, 'utf8')
  } catch {
    // It has ended since.
    return ''
  }
}
/** Ids of the processes that one has started, of those whose command line holds a text. */
export const childrenOf = (parent: number | undefined, text: string): string[] =>
  readdirSync('/proc').filter(
    (pid) =>
      /^\d+$/.test(pid) &&
      read(pid, 'cmdline').includes(text) &&
      // The name before it may hold anything.
      read(pid, 'stat')
        .replace(/^.*\) /s, '')
        .split(' ')[1] === String(parent),
  )
