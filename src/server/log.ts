const MAX_LETTERS = 300

/**
 * A line for the log: what failed and where in the code. Messages of the database carry statements and with them documents from
 * their second line on, and errors carry both as properties; neither is written.
 */
export function errorLine(part: string, error: unknown): string {
  const e = error instanceof Error ? error : new Error(String(error))
  const code = (e as { code?: string; parent?: { code?: string } }).code ?? (e as { parent?: { code?: string } }).parent?.code
  const at = (e.stack ?? '')
    .split('\n')
    .filter((l) => l.startsWith('    at ') && !l.includes('node_modules'))
    .slice(0, 4)
  const said = e.message
    .split('\n')[0]
    .replace(/\bsql:.*$/i, '')
    .slice(0, MAX_LETTERS)
  return [`${new Date().toISOString()} ${part}: ${e.name}${code ? ` ${code}` : ''}: ${said}`, ...at].join('\n')
}
export function logError(part: string, error: unknown): void {
  process.stderr.write(`${errorLine(part, error)}\n`)
}
