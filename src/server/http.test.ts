import { describe, expect, it, vi } from 'vitest'
import { z } from 'zod'
import { Failure } from './failure'
import { body, guard, nameSchema, route } from './http'

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
    const log = vi.spyOn(console, 'error').mockImplementation(() => {})
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
describe('bodies', () => {
  it('are JSON of bounded size', async () => {
    const any = z.unknown()
    await expect(body(request('POST', {}, '{"a":'), any)).rejects.toMatchObject({ status: 400 })
    await expect(body(request('POST', {}, `"${'x'.repeat(200)}"`), any, 100)).rejects.toMatchObject({ status: 413 })
    await expect(body(request('POST', { 'content-length': '999999999' }, '1'), any)).rejects.toMatchObject({ status: 413 })
    expect(await body(request('POST', {}, '{"a":[1]}'), any)).toEqual({ a: [1] })
  })
})
