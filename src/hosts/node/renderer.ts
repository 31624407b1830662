import type { Page } from 'playwright-core'
import { compile } from '../../acts'
import { type Frame, type KernelHost, type Mesh, Run } from '../../engine'
import { writePng } from '../../formats/image/png'
import { WORLD_BYTES } from '../../machines/instantiate'
import type { Region, Wanted } from '../../protocol'
import type { Shot } from '../../shot'
import { type ApartFrames, LeftOut } from '../bakedApart'
import { DrawingBrowser } from './drawingBrowser'
import { type FrameFile, type FrameFormats, filesOf, wantedFor } from './frameFiles'
import { nodeKernels } from './kernels'
import { StageServer } from './stageServer'

export interface FrameImage {
  frame: number
  png: Buffer
  /** milliseconds that drawing took in the browser */
  ms: number
  /** Of systems that are drawn as bodies, by id: faces of all bodies, and as many as were drawn of them. */
  faces: Record<string, { whole: number; drawn: number }>
}
export interface RenderRequest {
  width: number
  height: number
  transparent: boolean
  /** Only this part becomes files. */
  region?: Region | null
  /** What marches through gases; without it a shader where there is a GPU, kernels where there is none. */
  march?: 'kernels' | 'shader'
}

const runOf = (host: KernelHost, shot: Shot, meshes: ReadonlyMap<string, Mesh>, leftOut = NOTHING): Run =>
  new Run(host, compile(leftOut.rest(shot), meshes).plan, {
    ...{ historyBytes: 64 * 1024 * 1024, worldBytes: WORLD_BYTES, now: () => performance.now() },
    complete: (frame) => leftOut.complete(frame),
  })
const NOTHING = new LeftOut([])

/** Simulates in this process and draws in headless Chromium, frame by frame. Dispose it when done. */
export class FrameRenderer {
  private constructor(
    private run: Run,
    private page: Page,
    private server: StageServer,
    /** The browser, where it is this renderer's own. */
    private own: DrawingBrowser | null,
    private shown: { shot: Shot; meshes: ReadonlyMap<string, Mesh> },
  ) {}
  private leftOut = NOTHING

  /** `shared`: a browser that stays open for others; without one it gets its own. */
  static async open(shot: Shot, meshes: ReadonlyMap<string, Mesh>, threads: number, shared?: DrawingBrowser): Promise<FrameRenderer> {
    const server = await StageServer.start(shot, meshes)
    let own: DrawingBrowser | null = null
    let page: Page | null = null
    try {
      own = shared ? null : await DrawingBrowser.launch()
      page = await (shared ?? (own as DrawingBrowser)).page()
      const errors: string[] = []
      page.on('pageerror', (e) => errors.push(e.message))
      await page.goto(server.url)
      await page.waitForFunction('globalThis.emberStage !== undefined', null, { timeout: 30000 }).catch((e) => {
        throw new Error(errors[0] ?? String(e))
      })
      await page.evaluate('emberStage.setup()')
      return new FrameRenderer(runOf(await nodeKernels({ threads }), shot, meshes), page, server, own, { shot, meshes })
    } catch (error) {
      await page?.close().catch(() => {})
      await own?.dispose()
      server.close()
      throw error
    }
  }
  /** Goes on with another shot, or another state of it: programs of the graphics side stay, what was computed is forgotten. */
  async take(shot: Shot, meshes: ReadonlyMap<string, Mesh>): Promise<void> {
    this.server.take(shot, meshes)
    await this.page.evaluate('emberStage.setup()')
    this.shown = { shot, meshes }
    this.leaveOut([])
  }
  /** What was baked apart from the rest is not computed, but taken from there. What was computed is forgotten. */
  leaveOut(baked: readonly ApartFrames[]): void {
    const { host } = this.run
    this.run.dispose()
    this.leftOut = new LeftOut(baked)
    this.run = runOf(host, this.shown.shot, this.shown.meshes, this.leftOut)
  }
  /** One frame as a PNG file of 8 bits. */
  async render(frame: number, r: RenderRequest): Promise<FrameImage> {
    const { got, ms, faces } = await this.outputs(frame, r, { screen: true, deep: false, light: false, passes: [] })
    return { frame, png: Buffer.from(writePng(r.width, r.height, got.get('screen') as Uint8Array, r.transparent)), ms, faces }
  }
  /** One frame as all files that are asked for. */
  async files(frame: number, r: RenderRequest, f: FrameFormats): Promise<{ files: FrameFile[]; ms: number; faces: FrameImage['faces'] }> {
    const { got, ms, faces } = await this.outputs(frame, r, wantedFor(f))
    return { files: filesOf(this.server.shown, got, r, f), ms, faces }
  }
  /** What its files are made of: pixels by name, as the page that draws gives them. */
  async outputs(
    frame: number,
    r: RenderRequest,
    want: Wanted,
  ): Promise<{ got: Map<string, Uint8Array>; ms: number; faces: FrameImage['faces'] }> {
    const size = `${r.width}, ${r.height}, ${r.transparent}`
    for (const f of await this.page.evaluate<number[]>(`emberStage.lacking(${frame}, ${size})`))
      await this.with(f, () => this.page.evaluate(`emberStage.remember(${f}, ${size})`))
    return this.with(frame, async () => {
      const { ms, faces } = await this.page.evaluate<Pick<FrameImage, 'ms' | 'faces'>>(
        `emberStage.render(${frame}, ${size}, ${JSON.stringify(r.march ?? null)}, ${JSON.stringify(want)})`,
      )
      const got = this.server.pixels.get(frame)
      if (!got) throw new Error(`no pixels came back for frame ${frame}`)
      return { got, ms, faces }
    })
  }
  /** Milliseconds that the finishes of a frame take, round by round: for measurements. */
  finishMs(frame: number, width: number, height: number, rounds: number): Promise<number[]> {
    return this.with(frame, () => this.page.evaluate<number[]>(`emberStage.finishMs(${frame}, ${width}, ${height}, ${rounds})`))
  }
  /** While the page can fetch a frame. */
  private async with<T>(frame: number, act: () => Promise<T>): Promise<T> {
    this.server.frames.set(frame, (await this.baked?.(frame)) ?? (await this.computed(frame)))
    try {
      return await act()
    } finally {
      this.server.frames.delete(frame)
      this.server.pixels.delete(frame)
    }
  }
  /** Where frames were computed before; null: this one was not. */
  baked: ((frame: number) => Promise<Frame | null>) | null = null
  private async computed(frame: number): Promise<Frame> {
    for (let next = this.run.next(frame); next !== null; next = this.run.next(frame)) {
      this.run.near = frame
      // Frames on the way are looked at by nobody. Where what was baked is gone all is computed.
      if (next === frame && !(await this.leftOut.bring(next))) this.leaveOut([])
      else this.run.towards(frame)
    }
    return this.run.history.get(frame)?.frame as Frame
  }
  async dispose(): Promise<void> {
    await this.page.close().catch(() => {})
    await this.own?.dispose()
    this.server.close()
    this.run.dispose()
    this.run.host.team.dispose()
  }
}
