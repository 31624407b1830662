import { existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { createServer, type IncomingMessage, type ServerResponse } from 'node:http'
import type { AddressInfo } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { type Browser, chromium, type Page } from 'playwright-core'
import { compile } from '../../acts'
import { type Frame, type Mesh, Run } from '../../engine'
import { writePng } from '../../formats/image/png'
import { pack } from '../../formats/pack'
import type { Shot } from '../../shot'
import { WORLD_BYTES } from '../instantiate'
import flags from './chromium.json'
import { nodeKernels } from './kernels'
import { UserError } from './shot'

/** For Debian's Chromium: draws in software where there is no GPU, and calls nobody. The browser's tests and benchmarks take the same. */
export const CHROMIUM_FLAGS = flags
export const chromiumPath = (): string => {
  const path = process.env.EMBER_CHROMIUM ?? ['/usr/bin/chromium', '/usr/bin/chromium-browser'].find(existsSync)
  if (!path) throw new UserError('Chromium is not installed; install it with: apt-get install chromium')
  return path
}
export interface FrameImage {
  frame: number
  png: Buffer
  /** milliseconds that drawing took in the browser */
  ms: number
}
export interface RenderRequest {
  width: number
  height: number
  transparent: boolean
}

/** Simulates in this process and draws in headless Chromium, frame by frame. Dispose it when done. */
export class FrameRenderer {
  private constructor(
    private run: Run,
    private browser: Browser,
    private page: Page,
    private closeServer: () => void,
    private frames: Map<number, Frame>,
    private pixels: Map<number, Uint8Array>,
    private profile: string,
  ) {}

  static async open(shot: Shot, meshes: ReadonlyMap<string, Mesh>, threads: number): Promise<FrameRenderer> {
    const frames = new Map<number, Frame>()
    const pixels = new Map<number, Uint8Array>()
    const script = readFileSync(join(process.env.EMBER_ROOT ?? process.cwd(), 'dist/stage-page.js'))
    const send = (res: ServerResponse, type: string, body: Uint8Array | string) => {
      res.writeHead(200, {
        'content-type': type,
        'cross-origin-opener-policy': 'same-origin',
        'cross-origin-embedder-policy': 'require-corp',
      })
      res.end(body)
    }
    const handle = async (req: IncomingMessage, res: ServerResponse) => {
      const path = (req.url ?? '/').split('/').slice(1)
      const frame = frames.get(Number(path[1]))
      if (path[0] === '')
        return send(
          res,
          'text/html',
          '<!doctype html><meta charset="utf-8"><title>stage</title><script type="module" src="/stage-page.js"></script>',
        )
      if (path[0] === 'stage-page.js') return send(res, 'text/javascript', script)
      if (path[0] === 'setup') return send(res, 'application/json', JSON.stringify({ shot, meshes: [...meshes.keys()] }))
      if (path[0] === 'mesh') {
        const m = [...meshes.values()][Number(path[1])]
        if (m) return send(res, 'application/octet-stream', pack(m))
      }
      if (path[0] === 'frame' && frame) return send(res, 'application/octet-stream', pack(frame))
      if (path[0] === 'pixels' && req.method === 'POST') {
        const chunks: Buffer[] = []
        for await (const c of req) chunks.push(c as Buffer)
        pixels.set(Number(path[1]), Buffer.concat(chunks))
        return send(res, 'text/plain', 'ok')
      }
      res.writeHead(404)
      res.end('not here')
    }
    const server = createServer((req, res) => {
      handle(req, res).catch((error) => {
        res.writeHead(500)
        res.end(String(error))
      })
    })
    await new Promise<void>((resolve, reject) => {
      server.once('error', reject)
      server.listen(0, '127.0.0.1', resolve)
    })
    const closeServer = () => {
      server.closeAllConnections()
      server.close()
    }
    const profile = mkdtempSync(join(tmpdir(), 'ember-stage-'))
    let browser: Browser | null = null
    try {
      browser = await chromium.launch({
        executablePath: chromiumPath(),
        args: CHROMIUM_FLAGS,
        env: { ...process.env, TMPDIR: profile } as Record<string, string>,
      })
      const page = await browser.newPage()
      const errors: string[] = []
      page.on('pageerror', (e) => errors.push(e.message))
      await page.goto(`http://127.0.0.1:${(server.address() as AddressInfo).port}/`)
      await page.waitForFunction('globalThis.emberStage !== undefined', null, { timeout: 30000 }).catch((e) => {
        throw new Error(errors[0] ?? String(e))
      })
      await page.evaluate('emberStage.setup()')
      const { plan } = compile(shot, meshes)
      const host = await nodeKernels({ threads })
      const run = new Run(host, plan, { historyBytes: 64 * 1024 * 1024, worldBytes: WORLD_BYTES, now: () => performance.now() })
      return new FrameRenderer(run, browser, page, closeServer, frames, pixels, profile)
    } catch (error) {
      await browser?.close()
      closeServer()
      rmSync(profile, { recursive: true, force: true })
      throw error
    }
  }
  async render(frame: number, r: RenderRequest): Promise<FrameImage> {
    this.run.near = frame
    while (this.run.towards(frame));
    this.frames.set(frame, this.run.history.get(frame)?.frame as Frame)
    try {
      const ms = await this.page.evaluate<number>(`emberStage.render(${frame}, ${r.width}, ${r.height}, ${r.transparent})`)
      const raw = this.pixels.get(frame)
      if (!raw) throw new Error(`no pixels came back for frame ${frame}`)
      return { frame, png: Buffer.from(writePng(r.width, r.height, raw, r.transparent)), ms }
    } finally {
      this.frames.delete(frame)
      this.pixels.delete(frame)
    }
  }
  async dispose(): Promise<void> {
    await this.browser.close().catch(() => {})
    this.closeServer()
    this.run.dispose()
    this.run.host.team.dispose()
    rmSync(this.profile, { recursive: true, force: true })
  }
}
