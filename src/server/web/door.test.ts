import { describe, expect, it } from 'vitest'
import { contentPolicy, newNonce, refusal } from './door'

const ask = (method: string, url: string, host = '127.0.0.1:4600') => refusal({ method, url, headers: { host } })
describe('the door', () => {
  it.each([
    ['GET', '/', '127.0.0.1:4600', null],
    ['GET', '/shot/a%20b?x=%zz', 'localhost:4600', null],
    ['TRACE', '/', '127.0.0.1:4600', 405],
    ['PROPFIND', '/', '127.0.0.1:4600', 405],
    ['GET', '/shot/%', '127.0.0.1:4600', 400],
    ['GET', '/api/shots/%E0%A4%A', '127.0.0.1:4600', 400],
    ['GET', '/api/shots/%ff', '127.0.0.1:4600', 400],
    ['GET', `/${'a'.repeat(9000)}`, '127.0.0.1:4600', 414],
    ['GET', '/', 'evil.example', 421],
    ['GET', '/', '', 421],
  ])('%s %s for %s: %s', (method, url, host, status) => {
    expect(ask(method, url, host)?.status ?? null).toBe(status)
  })
  it('says which methods there are', () => {
    expect(ask('TRACE', '/')?.headers?.allow).toContain('GET')
  })
  it('gives each answer a nonce of its own, and lets scripts run by nothing else', () => {
    const [a, b] = [newNonce(), newNonce()]
    expect(a).not.toBe(b)
    const scripts = /script-src ([^;]+)/.exec(contentPolicy(a))?.[1] ?? ''
    expect(scripts).toContain(`'nonce-${a}'`)
    expect(scripts).not.toMatch(/unsafe-inline|unsafe-eval(?<!wasm-unsafe-eval)|\*|http/)
  })
})
