import { type AddressInfo, createServer } from 'node:net'
import { describe, expect, it, vi } from 'vitest'
import * as z from 'zod'
import { connect } from './db'
import { Failure } from './failure'
import { answerTo, body, bytesOf, depthOf, guard, nameSchema, route } from './http'
import { errorLine } from './log'

const request = (method: string, headers: Record<string, string>, payload?: string) =>
  new Request('http://127.0.0.1:4600/api/x', { method, headers, body: payload })
/** Host is a forbidden header for Request; this one answers what a server would see. */
const seen = (method: string, headers: Record<string, string>): Request =>
  ({ method, headers: { get: (n: string) => headers[n.toLowerCase()] ?? null } }) as unknown as Request
const status = (r: Request): number => {
  try {
    guard(r)
    return 200
  } catch (error) {
    return (error as Failure).status
  }
}
describe('who may ask', () => {
  it.each([
    ['GET', { host: '127.0.0.1:4600' }, 200],
    ['GET', { host: 'localhost:4600' }, 200],
    ['GET', { host: '[::1]:4600' }, 200],
    ['GET', { host: 'evil.example' }, 421],
    ['GET', { host: '127.0.0.1.evil.example:4600' }, 421],
    ['GET', { host: '192.168.1.5:4600' }, 421],
    ['GET', {}, 421],
    ['POST', { host: '127.0.0.1:4600', origin: 'http://127.0.0.1:4600' }, 200],
    ['POST', { host: '127.0.0.1:4600' }, 200],
    ['POST', { host: '127.0.0.1:4600', origin: 'http://127.0.0.1:9999' }, 403],
    ['POST', { host: '127.0.0.1:4600', origin: 'https://evil.example' }, 403],
    ['POST', { host: '127.0.0.1:4600', origin: 'null' }, 403],
    ['PUT', { host: '127.0.0.1:4600', 'sec-fetch-site': 'cross-site' }, 403],
    ['DELETE', { host: '127.0.0.1:4600', 'sec-fetch-site': 'same-site' }, 403],
    ['DELETE', { host: '127.0.0.1:4600', 'sec-fetch-site': 'same-origin' }, 200],
    ['POST', { host: 'evil.example', origin: 'http://evil.example' }, 421],
  ])('%s with %j gets %d', (method, headers, code) => {
    expect(status(seen(method, headers))).toBe(code)
  })
})
describe('answers', () => {
  const ask = async (handler: () => Promise<Response>) => {
    const r = await route(handler)(seen('GET', { host: 'localhost' }), {})
    return [r.status, await r.json()]
  }
  it('a failure that was expected says what it says', async () => {
    expect(await ask(() => Promise.reject(new Failure(409, 'changed elsewhere', { revision: 4 })))).toEqual([
      409,
      { error: 'changed elsewhere', revision: 4 },
    ])
  })
  it('a broken invariant tells no secrets', async () => {
    const log = vi.spyOn(process.stderr, 'write').mockImplementation(() => true)
    expect(await ask(() => Promise.reject(new Error('password=1234 at /home/x')))).toEqual([
      500,
      { error: 'the server met an error of its own; nothing was changed' },
    ])
    expect(log).toHaveBeenCalledOnce()
    log.mockRestore()
  })
  it('a body that is wrong says where', async () => {
    const [code, answer] = await ask(async () => Response.json(await body(request('POST', {}, '{"name":""}'), nameSchema)))
    expect([code, answer]).toEqual([422, { error: 'name: must not be empty', problems: [{ path: 'name', message: 'must not be empty' }] }])
  })
})
/** A body that comes in pieces, of no stated length; says how many pieces were taken and whether it was let go. */
function trickle(piece: Uint8Array, count: number, everyMs = 0) {
  const seen = { pieces: 0, cancelled: false }
  const stream = new ReadableStream<Uint8Array>({
    async pull(c) {
      if (everyMs) await new Promise((r) => setTimeout(r, everyMs))
      if (seen.pieces++ < count) c.enqueue(piece)
      else c.close()
    },
    cancel() {
      seen.cancelled = true
    },
  })
  const r = new Request('http://localhost/api', { method: 'POST', body: stream, duplex: 'half' } as RequestInit)
  return { request: r, seen }
}
describe('bodies', () => {
  const any = z.unknown()
  it('are JSON of bounded size', async () => {
    await expect(body(request('POST', {}, '{"a":'), any)).rejects.toMatchObject({ status: 400 })
    await expect(body(request('POST', {}, `"${'x'.repeat(200)}"`), any, 100)).rejects.toMatchObject({ status: 413 })
    await expect(body(request('POST', { 'content-length': '999999999' }, '1'), any)).rejects.toMatchObject({ status: 413 })
    expect(await body(request('POST', {}, '{"a":[1]}'), any)).toEqual({ a: [1] })
  })
  it('that come in pieces without a length are read to the limit and no further', async () => {
    const { request: r, seen } = trickle(new Uint8Array(1024), 1e9)
    await expect(bytesOf(r, 64 * 1024)).rejects.toMatchObject({ status: 413 })
    expect(seen.cancelled).toBe(true)
    expect(seen.pieces).toBeLessThan(70)
    expect((await bytesOf(trickle(new Uint8Array(1024), 64).request, 64 * 1024)).length).toBe(64 * 1024)
  })
  it('that come too slowly are let go', async () => {
    const { request: r, seen } = trickle(new Uint8Array(1), 1e9, 40)
    await expect(bytesOf(r, 1024, 200)).rejects.toMatchObject({ status: 408 })
    expect(seen.cancelled).toBe(true)
  })
  it('nested too deep are refused before they are read into values; brackets in texts do not count', async () => {
    expect(depthOf('{"a":[{"b":1}],"c":"[[[\\"[[["}')).toBe(3)
    for (const deep of ['['.repeat(3000) + ']'.repeat(3000), '{"a":'.repeat(3000) + '1' + '}'.repeat(3000), '['.repeat(4e6)])
      await expect(body(request('POST', {}, deep), any)).rejects.toMatchObject({ status: 422 })
    expect(await body(request('POST', {}, JSON.stringify({ t: '['.repeat(500) })), any)).toEqual({ t: '['.repeat(500) })
  })
})
describe('answers to documents full of mistakes', () => {
  it('name the first hundred, say how many more there are, and stay small', async () => {
    const wrong = { numbers: Array.from({ length: 200000 }, (_, i) => `${i}${'x'.repeat(i % 7 ? 0 : 2000)}`), [`k${'y'.repeat(50000)}`]: 1 }
    const r = await route(async () => Response.json(z.strictObject({ numbers: z.array(z.number()) }).parse(wrong)))(
      seen('GET', { host: 'localhost' }),
      {},
    )
    const text = await r.text()
    expect(r.status).toBe(422)
    expect(text.length).toBeLessThan(80000)
    const answer = JSON.parse(text) as { problems: unknown[]; more: number }
    expect([answer.problems.length, answer.more]).toEqual([100, 199901])
  })
})
describe('causes', () => {
  const ask = async (error: unknown) => {
    const r = answerTo(error)
    return [r.status, (await r.json()).cause, r.headers.get('retry-after') ?? r.headers.get('connection')]
  }
  it('a full disk is 507, a database that is away or silent 503', async () => {
    for (const code of ['ENOSPC', 'EDQUOT', 'EFBIG'])
      expect(await ask(Object.assign(new Error('x'), { code }))).toEqual([507, 'disk full', 'close'])
    const db = connect('mariadb://nobody@127.0.0.1:9/none')
    expect(await ask(await db.Shot.count().catch((e) => e))).toEqual([503, 'database away', '2'])
    await db.sequelize.close()
  })
  it('a database that takes connections and says nothing is answered for within its deadline', async () => {
    const silent = createServer(() => {})
    await new Promise<void>((done) => silent.listen(0, '127.0.0.1', done))
    const db = connect(`mariadb://a:b@127.0.0.1:${(silent.address() as AddressInfo).port}/x`, 300)
    const began = Date.now()
    expect((await ask(await db.Shot.count().catch((e) => e)))[0]).toBe(503)
    expect((await ask(await db.sequelize.transaction(async () => {}).catch((e) => e)))[0]).toBe(503)
    expect(Date.now() - began).toBeLessThan(3000)
    silent.close()
    await db.sequelize.close().catch(() => {})
  })
  it('the log has the place in the code, and neither statements nor documents', () => {
    const error = Object.assign(new Error('(conn:5, no: 1064) You have an error\nsql: UPDATE shots SET doc = secret'), {
      sql: 'UPDATE shots SET doc = secret',
      parent: { code: 'ER_PARSE_ERROR' },
    })
    const line = errorLine('web', error)
    expect(line).toContain('ER_PARSE_ERROR')
    expect(line).toContain('http.test.ts')
    expect(line).not.toContain('secret')
  })
})
