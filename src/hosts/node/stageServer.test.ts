import { request } from 'node:http'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { demoShot } from '../../acts/testing/shots'
import { StageServer } from './stageServer'

let s: StageServer
beforeAll(async () => {
  s = await StageServer.start(demoShot(), new Map())
})
afterAll(() => s.close())
/** fetch does not let a Host be chosen. */
const ask = (url: string, host = new URL(url).host, method = 'GET') =>
  new Promise<number>((done, fail) => {
    const r = request(url, { headers: { host }, method }, (res) => {
      res.resume()
      done(res.statusCode ?? 0)
    })
    r.once('error', fail)
    r.end()
  })
describe('the server of the page that draws', () => {
  it('answers its page, and nobody who does not know its secret or comes by another name', async () => {
    const { origin, pathname } = new URL(s.url)
    expect(await ask(s.url)).toBe(200)
    expect(await ask(`${s.url}setup`)).toBe(200)
    const other = `${pathname.slice(0, -2)}${pathname.endsWith('x/') ? 'y' : 'x'}/setup`
    for (const path of ['/', '/setup', '/stage-page.js', other, '//setup']) expect(await ask(`${origin}${path}`), path).toBe(404)
    expect(await ask(`${origin}/pixels/0`, undefined, 'POST')).toBe(404)
    expect(s.pixels.size).toBe(0)
    expect(await ask(`${s.url}setup`, 'evil.example')).toBe(404)
    expect(pathname.length).toBeGreaterThan(30)
  })
  it('gives frames only while they are there', async () => {
    expect(await ask(`${s.url}frame/3`)).toBe(404)
    expect(await ask(`${s.url}mesh/0`)).toBe(404)
  })
})
