/** What a reader says about a file it refuses: what is wrong, where, what to do. */
export interface FormatProblem {
  message: string
  /** 1-based line of a text file */
  line?: number
  /** byte offset in a binary file */
  byte?: number
}
export type Read<T> = { ok: true; value: T; notes: string[] } | { ok: false; problem: FormatProblem }
export const bad = (message: string, where: Omit<FormatProblem, 'message'> = {}): { ok: false; problem: FormatProblem } => ({
  ok: false,
  problem: { message, ...where },
})
export const formatProblemText = (p: FormatProblem): string =>
  p.line !== undefined ? `line ${p.line}: ${p.message}` : p.byte !== undefined ? `byte ${p.byte}: ${p.message}` : p.message

/** What readers accept at most; beyond it a clear refusal instead of a machine that stalls. */
export const LIMITS = { bytes: 256 * 1024 * 1024, vertices: 20_000_000, triangles: 10_000_000, pixels: 64_000_000 } as const

const SHORT = 160
/** A file that a reader stumbles over at a place nobody thought of is refused like any other; the reason stays short. */
export async function guarded<T>(read: () => Read<T> | Promise<Read<T>>): Promise<Read<T>> {
  try {
    return await read()
  } catch (error) {
    const said = error instanceof Error ? error.message.split('\n')[0] : String(error)
    return bad(`the file is damaged: ${said.length > SHORT ? `${said.slice(0, SHORT - 1)}…` : said}`)
  }
}
