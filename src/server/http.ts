import { z } from 'zod'
import { problemsOf, problemText } from '../shot'
import { Failure } from './failure'

const LOCAL = new Set(['127.0.0.1', 'localhost', '[::1]'])
const hostName = (host: string): string => host.replace(/:\d+$/, '')

/**
 * Refuses what a foreign page could send: only our own loopback names are served (a name that was rebound to this machine
 * is not one), and a write must come from a page of the same host and port.
 */
export function guard(request: Request): void {
  const host = request.headers.get('host') ?? ''
  if (!LOCAL.has(hostName(host))) throw new Failure(421, 'Fox Ember answers only on this machine’s own address')
  if (request.method === 'GET' || request.method === 'HEAD') return
  const origin = request.headers.get('origin')
  const site = request.headers.get('sec-fetch-site')
  if (origin !== null && origin !== `http://${host}`) throw new Failure(403, 'a page of another site cannot change anything here')
  if (origin === null && site !== null && site !== 'same-origin')
    throw new Failure(403, 'a page of another site cannot change anything here')
}
/** What every route handler runs in: the guard, and failures as JSON. A broken invariant is a 500 that tells no secrets. */
export function route<C>(
  handler: (request: Request, context: C) => Promise<Response>,
): (request: Request, context: C) => Promise<Response> {
  return async (request, context) => {
    try {
      guard(request)
      return await handler(request, context)
    } catch (error) {
      if (error instanceof Failure) return Response.json({ error: error.message, ...error.details }, { status: error.status })
      if (error instanceof z.ZodError) {
        const problems = problemsOf(error)
        return Response.json({ error: problemText(problems[0]), problems }, { status: 422 })
      }
      console.error(error)
      return Response.json({ error: 'the server met an error of its own; nothing was changed' }, { status: 500 })
    }
  }
}
/** A JSON body of bounded size, checked. */
export async function body<T extends z.ZodType>(request: Request, schema: T, limitBytes = 32 * 1024 * 1024): Promise<z.infer<T>> {
  if (Number(request.headers.get('content-length') ?? 0) > limitBytes)
    throw new Failure(413, `the request is larger than ${limitBytes / 1048576} MB`)
  const text = await request.text()
  if (text.length > limitBytes) throw new Failure(413, `the request is larger than ${limitBytes / 1048576} MB`)
  let json: unknown
  try {
    json = JSON.parse(text)
  } catch (error) {
    throw new Failure(400, `the request is not JSON: ${(error as Error).message}`)
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
