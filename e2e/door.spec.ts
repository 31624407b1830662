import { existsSync, readFileSync } from 'node:fs'
import { request as http } from 'node:http'
import { networkInterfaces } from 'node:os'
import { expect, test } from '@playwright/test'
import { build } from 'esbuild'
import { API, bare, copyShot, openShot, projects, stored } from './helpers'
import { source } from './source'

const { port, hostname } = new URL(API)
/** A request with any headers and any path, which fetch would forbid. */
const raw = (
  path: string,
  o: { method?: string; headers?: Record<string, string>; body?: string; host?: string } = {},
): Promise<{ status: number; text: string; headers: Record<string, unknown> }> =>
  new Promise((done, fail) => {
    const r = http(
      { host: o.host ?? hostname, port, path, method: o.method ?? 'GET', headers: { host: `127.0.0.1:${port}`, ...o.headers } },
      (res) => {
        let text = ''
        res.on('data', (d) => (text += d))
        // An answer that comes before the request is over need not be waited for.
        res.on('end', () => done({ status: res.statusCode ?? 0, text, headers: res.headers }))
      },
    )
    r.setTimeout(5000, () => r.destroy(new Error('timeout')))
    r.on('error', fail)
    if (o.headers?.['content-length']) r.write(o.body)
    else r.end(o.body)
  })

test('a page of another site can change nothing, and a rebound name reads nothing', async () => {
  const before = (await projects()).length
  const body = JSON.stringify({ name: 'Evil' })
  const json = { 'content-type': 'application/json' }
  expect((await raw('/api/projects', { method: 'POST', body, headers: { ...json, origin: 'https://evil.example' } })).status).toBe(403)
  expect((await raw('/api/projects', { method: 'POST', body, headers: { ...json, origin: 'null' } })).status).toBe(403)
  expect((await raw('/api/projects', { method: 'POST', body, headers: { ...json, 'sec-fetch-site': 'cross-site' } })).status).toBe(403)
  expect((await raw('/api/projects', { headers: { host: 'evil.example' } })).status).toBe(421)
  expect((await projects()).length).toBe(before)
})
test('no file outside the data folder is readable through any route', async () => {
  for (const path of [
    '/api/assets/..%2f..%2f..%2fetc%2fpasswd',
    '/api/assets/../../../../etc/passwd',
    `/api/assets/${'a'.repeat(64)}`,
    '/api/shots/..%2f..%2fetc/picture',
    '/api/jobs/..%2f..%2f/files/passwd',
    '/api/jobs/x/files/..%2f..%2f..%2fetc%2fpasswd',
    '/../../../../etc/passwd',
    '/%2e%2e/%2e%2e/%2e%2e/etc/passwd',
    '/_next/..%2f..%2fpackage.json',
    '/shot/..%2f..%2fetc%2fpasswd',
    '/.data/db/ibdata1',
    '/package.json',
    '/.git/config',
  ]) {
    const r = await raw(path)
    expect(r.text, path).not.toMatch(/root:|"fox-ember"|repositoryformatversion/)
    expect(r.text, path).not.toMatch(/at .+\.(ts|js):\d+/)
    if (path.startsWith('/api')) expect([400, 404, 421], `${path} ${r.status}`).toContain(r.status)
  }
})
test('only loopback is served', async () => {
  const others = Object.values(networkInterfaces())
    .flat()
    .filter((i) => i && !i.internal && i.family === 'IPv4')
    .map((i) => i?.address as string)
  for (const host of others) await expect(raw('/', { host })).rejects.toThrow()
  // Also where this machine has no other address: the kernel's own list of what listens on the port (state 0A), by address.
  const hex = Number(port).toString(16).toUpperCase().padStart(4, '0')
  const listening = ['/proc/net/tcp', '/proc/net/tcp6']
    .flatMap((f) => (existsSync(f) ? readFileSync(f, 'utf8').split('\n') : []))
    .map((l) => l.trim().split(/\s+/))
    .filter((w) => w[3] === '0A' && w[1]?.endsWith(`:${hex}`))
  expect(listening.map((w) => w[1])).toEqual([`0100007F:${hex}`])
})
test('wrong requests get a clear answer, and the server stays up', async () => {
  const id = await copyShot('Door', bare)
  const doc = await stored(id)
  expect((await raw('/', { method: 'TRACE' })).status).toBe(405)
  expect((await raw('/shot/%')).status).toBe(400)
  // A body of no stated length, without end: it is read to the limit and answered.
  const endless = await new Promise<number>((done, fail) => {
    const r = http(
      { host: hostname, port, path: `/api/shots/${id}/picture`, method: 'PUT', headers: { host: `127.0.0.1:${port}` } },
      (res) => {
        res.resume()
        clearInterval(feed)
        done(res.statusCode ?? 0)
        r.destroy()
      },
    )
    const feed = setInterval(() => r.write(Buffer.alloc(65536)), 5)
    r.on('error', (e) => fail(e))
  })
  expect(endless).toBe(413)
  const put = (body: string) => raw(`/api/shots/${id}`, { method: 'PUT', body, headers: { 'content-type': 'application/json' } })
  expect(await put('{"revision":1,')).toMatchObject({ status: 400, text: expect.stringContaining('the request is not JSON') })
  expect(await put(JSON.stringify({ revision: 1 }))).toMatchObject({ status: 422 })
  expect(JSON.parse((await put(JSON.stringify({ revision: 1, doc: { ...doc, version: 99 } }))).text).error).toContain(
    'version: 99 is newer than this Fox Ember',
  )
  expect(JSON.parse((await put(JSON.stringify({ revision: 1, doc: { ...doc, substeps: 'two' } }))).text).error).toBe(
    'the shot cannot be kept: substeps: must be a number',
  )
  expect(JSON.parse((await put(JSON.stringify({ revision: '1', doc }))).text).error).toContain('revision')
  expect((await put(JSON.stringify({ revision: 7, doc }))).status).toBe(409)
  expect(
    (await raw('/api/assets?name=x.obj', { method: 'POST', headers: { 'content-length': '999999999' }, body: 'v 0 0 0\n' })).status,
  ).toBe(413)
  const upload = await raw('/api/assets?name=..%2F..%2Fbell.obj', { method: 'POST', body: 'v 0 0 0\nf 1 1 9\n' })
  expect([upload.status, JSON.parse(upload.text).error]).toEqual([
    422,
    'bell.obj: line 2: corner “9” names a vertex that is not there; the file has 1 so far',
  ])
  expect((await raw('/api/health')).text).toBe('{"ok":true}')
  expect((await stored(id)).name).toBe('Door')
})
test('pages are isolated, so that threads may share memory', async () => {
  const { headers } = await raw('/')
  expect(headers).toMatchObject({
    'cross-origin-opener-policy': 'same-origin',
    'cross-origin-embedder-policy': 'require-corp',
    'x-content-type-options': 'nosniff',
    'x-frame-options': 'DENY',
  })
  expect(headers['x-powered-by']).toBeUndefined()
})
test('a script that got into a page does not run, and what the page needs does', async ({ page }) => {
  const refused: string[] = []
  page.on('console', (m) => m.text().includes('Content Security Policy') && refused.push(m.text()))
  const id = await copyShot('Policy', bare)
  await openShot(page, id)
  expect(refused).toEqual([])
  const ran = await page.evaluate(() => {
    const w = window as unknown as { intruder?: boolean }
    const script = document.createElement('script')
    script.textContent = 'window.intruder = true'
    document.body.append(script)
    document.body.insertAdjacentHTML('beforeend', '<img src="x" onerror="window.intruder = true">')
    return new Promise((done) => setTimeout(() => done(w.intruder ?? false), 500))
  })
  expect(ran).toBe(false)
  expect(refused.length).toBeGreaterThan(0)
  const a = (await raw('/')).headers['content-security-policy']
  expect(a).not.toBe((await raw('/')).headers['content-security-policy'])
})
test('the simulation gives the same bits in Chromium as in Node.js', async ({ page }) => {
  const { compile, frameMark, World, nodeKernels, loadShot } = await source<
    typeof import('../src/acts') &
      typeof import('../src/engine') &
      typeof import('../src/hosts/node/kernels') &
      typeof import('../src/hosts/node/shot')
  >(`export { compile } from './src/acts'; export { frameMark, World } from './src/engine'
    export { nodeKernels } from './src/hosts/node/kernels'; export { loadShot } from './src/hosts/node/shot'`)
  const { shot, meshes } = await loadShot('demo/anvil-strike/shot.json')
  const frames = 30
  const host = await nodeKernels()
  const world = new World(host, compile(shot, meshes).plan, 1 << 28)
  const ours: string[] = []
  for (let f = 0; f < frames; f++) {
    world.step()
    ours.push(frameMark(world.capture()))
  }
  const bundle = await build({
    stdin: {
      contents: `import { compile } from './src/acts'; import { frameMark, singleTeam, World } from './src/engine'; import { instantiate, newMemory } from './src/machines/instantiate'
        globalThis.marks = async (shot, list, frames) => {
          const memory = newMemory(true)
          const exports = await instantiate(await WebAssembly.compileStreaming(fetch('/kernels.wasm')), memory)
          const meshes = new Map(list.map(([h, m]) => [h, { positions: new Float32Array(m.positions), normals: null, indices: new Uint32Array(m.indices), parts: m.parts }]))
          const world = new World({ memory, exports, team: singleTeam(exports) }, compile(shot, meshes).plan, 1 << 28)
          return Array.from({ length: frames }, () => { world.step(); return frameMark(world.capture()) })
        }`,
      resolveDir: process.cwd(),
    },
    bundle: true,
    write: false,
    format: 'iife',
    target: 'es2022',
  })
  await page.goto('/')
  await page.evaluate(bundle.outputFiles[0].text)
  const list = [...meshes].map(([h, m]) => [h, { positions: [...m.positions], indices: [...m.indices], parts: m.parts }])
  const theirs = await page.evaluate(
    ([s, l, n]) => (globalThis as unknown as { marks: (...a: unknown[]) => Promise<string[]> }).marks(s, l, n),
    [shot, list, frames] as const,
  )
  expect(new Set(ours).size).toBeGreaterThan(20)
  expect(theirs).toEqual(ours)
})
