import { randomBytes, timingSafeEqual } from 'node:crypto'
import { readFileSync } from 'node:fs'
import { createServer, type IncomingMessage, type ServerResponse } from 'node:http'
import type { AddressInfo } from 'node:net'
import { join } from 'node:path'
import { drawnMesh, type Frame, type Mesh } from '../../engine'
import { pack } from '../../formats/pack'
import type { Shot } from '../../shot'

const sameText = (a: string, b: string): boolean => a.length === b.length && timingSafeEqual(Buffer.from(a), Buffer.from(b))

/** The small server of the page that draws: gives it the shot and its frames, takes its pixels. On loopback, below a secret. */
export class StageServer {
  /** Frames that may be asked for, and pixels that came back, by frame. */
  readonly frames = new Map<number, Frame>()
  readonly pixels = new Map<number, Map<string, Uint8Array>>()
  private secret = randomBytes(24).toString('base64url')
  private server = createServer((req, res) => {
    this.handle(req, res).catch((error) => {
      res.writeHead(500)
      res.end(String(error))
    })
  })
  /** What the page loads beside the shot: its script, and the kernels with their helper threads. */
  private files = new Map(
    Object.entries({ 'stage-page.js': 'dist', 'kernel-worker.js': 'dist', 'kernels.wasm': 'public', 'kernels-single.wasm': 'public' }).map(
      ([name, folder]) => [name, readFileSync(join(process.env.EMBER_ROOT ?? process.cwd(), folder, name))],
    ),
  )
  private constructor(
    private shot: Shot,
    private meshes: ReadonlyMap<string, Mesh>,
  ) {}
  static async start(shot: Shot, meshes: ReadonlyMap<string, Mesh>): Promise<StageServer> {
    const s = new StageServer(shot, meshes)
    await new Promise<void>((resolve, reject) => {
      s.server.once('error', reject)
      s.server.listen(0, '127.0.0.1', resolve)
    })
    return s
  }
  /** Another shot for the page to set up. */
  take(shot: Shot, meshes: ReadonlyMap<string, Mesh>): void {
    this.shot = shot
    this.meshes = meshes
    this.frames.clear()
    this.pixels.clear()
  }
  get shown(): Shot {
    return this.shot
  }
  private get host(): string {
    return `127.0.0.1:${(this.server.address() as AddressInfo).port}`
  }
  /** Of the page; everything else is relative to it. */
  get url(): string {
    return `http://${this.host}/${this.secret}/`
  }
  close(): void {
    this.server.closeAllConnections()
    this.server.close()
  }
  private async handle(req: IncomingMessage, res: ServerResponse): Promise<void> {
    const [, asked, what, number, name] = (req.url ?? '/').split('/')
    const send = (type: string, body: Uint8Array | string) => {
      res.writeHead(200, {
        'content-type': type,
        'cross-origin-opener-policy': 'same-origin',
        'cross-origin-embedder-policy': 'require-corp',
      })
      res.end(body)
    }
    // Other programs of this machine, and pages in other browsers, can reach the port; they do not know the secret.
    if (sameText(asked ?? '', this.secret) && req.headers.host === this.host) {
      if (what === '')
        return send(
          'text/html',
          '<!doctype html><meta charset="utf-8"><title>stage</title><script type="module" src="stage-page.js"></script>',
        )
      const file = this.files.get(what ?? '')
      if (file) return send(what?.endsWith('.js') ? 'text/javascript' : 'application/wasm', file)
      if (what === 'setup') return send('application/json', JSON.stringify({ shot: this.shot, meshes: [...this.meshes.keys()] }))
      const mesh = what === 'mesh' ? [...this.meshes.values()][Number(number)] : undefined
      if (mesh) return send('application/octet-stream', pack(drawnMesh(mesh)))
      const frame = what === 'frame' ? this.frames.get(Number(number)) : undefined
      if (frame) return send('application/octet-stream', pack(frame))
      if (what === 'pixels' && req.method === 'POST') {
        const chunks: Buffer[] = []
        for await (const c of req) chunks.push(c as Buffer)
        const size = chunks.reduce((sum, c) => sum + c.length, 0)
        // Of its own memory, so that it can be read as words.
        const bytes = new Uint8Array(size)
        let at = 0
        for (const c of chunks) {
          bytes.set(c, at)
          at += c.length
        }
        const known = this.pixels.get(Number(number)) ?? new Map<string, Uint8Array>()
        this.pixels.set(Number(number), known.set(decodeURIComponent(name ?? ''), bytes))
        return send('text/plain', 'ok')
      }
    }
    res.writeHead(404)
    res.end('not here')
  }
}
