import { randomBytes, timingSafeEqual } from 'node:crypto'
import { readFileSync } from 'node:fs'
import { createServer, type IncomingMessage, type ServerResponse } from 'node:http'
import type { AddressInfo } from 'node:net'
import { join } from 'node:path'
import type { Page } from 'playwright-core'
import { compile } from '../../acts'
import { type Frame, type Mesh, Run } from '../../engine'
import { writePng } from '../../formats/image/png'
import { pack } from '../../formats/pack'
import type { Shot } from '../../shot'
import { WORLD_BYTES } from '../instantiate'
import { DrawingBrowser } from './drawingBrowser'
import { nodeKernels } from './kernels'

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

const sameText = (a: string, b: string): boolean => a.length === b.length && timingSafeEqual(Buffer.from(a), Buffer.from(b))

/** Simulates in this process and draws in headless Chromium, frame by frame. Dispose it when done. */
export class FrameRenderer {
  private constructor(
    private run: Run,
    private page: Page,
    private closeServer: () => void,
    /** The browser, where it is this renderer's own. */
    private own: DrawingBrowser | null,
    private frames: Map<number, Frame>,
    private pixels: Map<number, Uint8Array>,
  ) {}

  /** `shared`: a browser that stays open for others; without one it gets its own. */
  static async open(shot: Shot, meshes: ReadonlyMap<string, Mesh>, threads: number, shared?: DrawingBrowser): Promise<FrameRenderer> {
    const frames = new Map<number, Frame>()
    const pixels = new Map<number, Uint8Array>()
    const secret = randomBytes(24).toString('base64url')
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
      const [, asked, ...path] = (req.url ?? '/').split('/')
      // Other programs of this machine, and pages in other browsers, can reach the port; they do not know the secret.
      if (!sameText(asked ?? '', secret) || req.headers.host !== address()) {
        res.writeHead(404)
        res.end('not here')
        return
      }
      const frame = frames.get(Number(path[1]))
      if (path[0] === '')
        return send(
          res,
          'text/html',
          '<!doctype html><meta charset="utf-8"><title>stage</title><script type="module" src="stage-page.js"></script>',
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
    const address = () => `127.0.0.1:${(server.address() as AddressInfo).port}`
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
    let own: DrawingBrowser | null = null
    let page: Page | null = null
    try {
      own = shared ? null : await DrawingBrowser.launch()
      page = await (shared ?? (own as DrawingBrowser)).page()
      const errors: string[] = []
      page.on('pageerror', (e) => errors.push(e.message))
      await page.goto(`http://${address()}/${secret}/`)
      await page.waitForFunction('globalThis.emberStage !== undefined', null, { timeout: 30000 }).catch((e) => {
        throw new Error(errors[0] ?? String(e))
      })
      await page.evaluate('emberStage.setup()')
      const { plan } = compile(shot, meshes)
      const host = await nodeKernels({ threads })
      const run = new Run(host, plan, { historyBytes: 64 * 1024 * 1024, worldBytes: WORLD_BYTES, now: () => performance.now() })
      return new FrameRenderer(run, page, closeServer, own, frames, pixels)
    } catch (error) {
      await page?.close().catch(() => {})
      await own?.dispose()
      closeServer()
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
    await this.page.close().catch(() => {})
    await this.own?.dispose()
    this.closeServer()
    this.run.dispose()
    this.run.host.team.dispose()
  }
}
