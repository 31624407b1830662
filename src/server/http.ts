import * as z from 'zod'
import { type Problem, problemsOf, problemText } from '../shot'
import { databaseFailure } from './db'
import { Failure } from './failure'
import { isFull } from './files'
import { logError } from './log'
import { isLocal } from './web/door'

/** Problems of one answer. A document of 200,000 mistakes is told the first of them. */
const MAX_PROBLEMS = 100
const MAX_MESSAGE = 400
const MAX_PATH = 200
/** Arrays and objects within each other. A shot needs about fifteen. */
const MAX_DEPTH = 100
const BODY_MS = 30000
const MB = 1024 * 1024

/**
 * Refuses what a foreign page could send: only our own loopback names are served (a name that was rebound to this machine
 * is not one), and a write must come from a page of the same host and port.
 */
export function guard(request: Request): void {
  const host = request.headers.get('host') ?? ''
  if (!isLocal(host)) throw new Failure(421, 'Fox Ember answers only on this machine’s own address')
  if (request.method === 'GET' || request.method === 'HEAD') return
  const origin = request.headers.get('origin')
  const site = request.headers.get('sec-fetch-site')
  if (origin !== null && origin !== `http://${host}`) throw new Failure(403, 'a page of another site cannot change anything here')
  if (origin === null && site !== null && site !== 'same-origin')
    throw new Failure(403, 'a page of another site cannot change anything here')
}
const short = (text: string, letters: number): string => (text.length > letters ? `${text.slice(0, letters - 1)}…` : text)
/** The first problems, each of a length that a person may read, and how many more there are. */
export function bounded(problems: Problem[]): { problems: Problem[]; more?: number } {
  const first = problems
    .slice(0, MAX_PROBLEMS)
    .map((p) => ({ ...p, path: short(p.path, MAX_PATH), message: short(p.message, MAX_MESSAGE) }))
  return problems.length > first.length ? { problems: first, more: problems.length - first.length } : { problems: first }
}
/** A body that was not read to its end still comes: its connection ends with the answer, or the next request on it would be lost. */
const headersOf = (status: number): Record<string, string> =>
  status === 503 ? { 'retry-after': '2' } : [408, 413, 507].includes(status) ? { connection: 'close' } : {}
/** What a failed request is answered with. A broken invariant is a 500 that tells no secrets; the log has the place in the code. */
export function answerTo(error: unknown): Response {
  const failure = error instanceof Failure ? error : databaseFailure(error)
  if (failure) {
    const { problems, ...details } = failure.details
    const headers = headersOf(failure.status)
    return Response.json(
      { error: short(failure.message, MAX_MESSAGE), ...details, ...(problems && bounded(problems)) },
      { status: failure.status, headers },
    )
  }
  if (error instanceof z.ZodError) {
    const problems = problemsOf(error)
    return Response.json({ error: short(problemText(problems[0]), MAX_MESSAGE), ...bounded(problems) }, { status: 422 })
  }
  if (isFull(error))
    return Response.json(
      { error: 'the disk that holds the data folder is full; nothing was changed. Free some space and try again', cause: 'disk full' },
      { status: 507, headers: headersOf(507) },
    )
  logError('web', error)
  return Response.json({ error: 'the server met an error of its own; nothing was changed' }, { status: 500 })
}
/** What every route handler runs in: the guard, and failures as JSON. */
export function route<C>(
  handler: (request: Request, context: C) => Promise<Response>,
): (request: Request, context: C) => Promise<Response> {
  return async (request, context) => {
    try {
      guard(request)
      return await handler(request, context)
    } catch (error) {
      return answerTo(error)
    }
  }
}
/** The pieces of a body as they come: at most `limitBytes` in all, and no longer than `timeMs` for the whole. */
export async function* pieces(request: Request, limitBytes: number, timeMs = BODY_MS): AsyncGenerator<Uint8Array> {
  const tooLarge = () => new Failure(413, `the request is larger than ${limitBytes / MB} MB`)
  if (Number(request.headers.get('content-length') ?? 0) > limitBytes) throw tooLarge()
  const reader = request.body?.getReader()
  if (!reader) return
  let timer: ReturnType<typeof setTimeout> | undefined
  const late = new Promise<never>((_, reject) => {
    timer = setTimeout(() => reject(new Failure(408, `the request did not arrive within ${timeMs / 1000} s`)), timeMs)
  })
  late.catch(() => {})
  try {
    for (let bytes = 0; ; ) {
      const { done, value } = await Promise.race([reader.read(), late])
      if (done) return
      bytes += value.length
      if (bytes > limitBytes) throw tooLarge()
      yield value
    }
  } finally {
    clearTimeout(timer)
    // What is still to come is not read.
    await reader.cancel().catch(() => {})
  }
}
export async function bytesOf(request: Request, limitBytes: number, timeMs = BODY_MS): Promise<Uint8Array> {
  const parts: Uint8Array[] = []
  for await (const piece of pieces(request, limitBytes, timeMs)) parts.push(piece)
  return new Uint8Array(Buffer.concat(parts))
}
/** How deep arrays and objects of a JSON text lie within each other, told without reading it into values. */
export function depthOf(text: string): number {
  let depth = 0
  let deepest = 0
  for (let i = 0, quoted = false; i < text.length; i++) {
    const c = text.charCodeAt(i)
    if (quoted) {
      if (c === 92) i++
      else if (c === 34) quoted = false
    } else if (c === 34) quoted = true
    else if (c === 123 || c === 91) deepest = Math.max(deepest, ++depth)
    else if (c === 125 || c === 93) depth--
  }
  return deepest
}
/** A JSON body of bounded size and depth, checked. */
export async function body<T extends z.ZodType>(request: Request, schema: T, limitBytes = 32 * MB): Promise<z.infer<T>> {
  const text = new TextDecoder().decode(await bytesOf(request, limitBytes))
  if (depthOf(text) > MAX_DEPTH)
    throw new Failure(422, `the request has more than ${MAX_DEPTH} levels of arrays and objects within each other`)
  let json: unknown
  try {
    json = JSON.parse(text)
  } catch (error) {
    throw new Failure(400, `the request is not JSON: ${short((error as Error).message, MAX_MESSAGE)}`)
  }
  return schema.parse(json)
}
export const nameSchema = z.strictObject({
  name: z
    .string({ error: 'must be a name' })
    .trim()
    .min(1, { error: 'must not be empty' })
    .max(200, { error: 'must be at most 200 characters' }),
})
