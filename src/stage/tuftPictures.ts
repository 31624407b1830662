import * as THREE from 'three'
import { type SeenTufts, TUFT_SLICES, TuftPainter, type UnderTufts } from '../engine'
import { setBlending } from './blending'
import type { DrawContext } from './drawer'
import { lumps } from './lumps'
import { copyPass } from './passes'
import type { PointsDrawer } from './points'
import { texels } from './texels'

/** Texels in a row of what the graphics side leaves of tufts. */
const ROW = 1024
/** Tufts are put over the picture in bands of so many rows. */
const BAND_ROWS = 120

/** Tufts of several systems that hide each other, by kernels: where there is no GPU, each pixel of a triangle costs, hidden or not. */
export class TuftPictures {
  private painter: TuftPainter | null = null
  private target: THREE.WebGLRenderTarget | null = null
  private slices: Uint32Array[] = []
  private texture: THREE.DataTexture | null = null
  private over = copyPass(THREE.CustomBlending)

  /** Into how many targets the context draws at once. */
  private most: number | null = null

  /** Whether it can draw all of them: tufts, and nothing else. */
  can(all: readonly { drawer: PointsDrawer; c: DrawContext }[], c: DrawContext): boolean {
    if (c.marchesOnGpu || !c.machine || !c.asker || !all.every((x) => x.drawer.tuftCount(x.c) !== null)) return false
    const gl = c.renderer.getContext() as WebGL2RenderingContext
    this.most ??= gl.getParameter(gl.MAX_DRAW_BUFFERS) as number
    return this.most >= TUFT_SLICES
  }
  /**
   * `under`: what they are drawn over, in place of what the target holds. Gives what the target then holds, if that lies in the memory of the kernels;
   * it stays until the next call. Throws MemoryRefused.
   */
  draw(all: readonly { drawer: PointsDrawer; c: DrawContext }[], c: DrawContext, under: UnderTufts | null = null): Uint16Array | null {
    if (!c.machine || !c.asker) return null
    const { width, height, camera } = c
    const { slices, count, lights } = this.read(all, c)
    if (!count) return null
    const heads = new Float32Array(slices[0].buffer)
    const axis = (a: number) => {
      const out = new Float32Array(count)
      for (let i = 0, from = a; i < count; i++, from += 4) out[i] = heads[from]
      return out
    }
    const { order } = c.asker.order({ x: axis(0), y: axis(1), z: axis(2) }, [0, 0, 0], [0, 0, -1])
    const p = camera.projectionMatrix.elements
    const view = { width, height, across: p[0], upwards: p[5], shiftX: p[8], shiftY: p[9], depth: c.depths() }
    this.painter ??= new TuftPainter(c.machine, lumps())
    const picture = this.painter.picture({ count, slices, order, lights }, view, under)
    if (under) {
      this.put(picture, c)
      return picture
    }
    // In whole bands, so that few sizes of texture are needed.
    const [from, to] = this.painter.rows.map((y, k) => Math.min(height, (k ? Math.ceil : Math.floor)(y / BAND_ROWS) * BAND_ROWS))
    if (to <= from) return null
    setBlending(this.over.material, 'normal')
    const source = this.pixels(picture.subarray(from * width * 4, to * width * 4), width, to - from)
    c.target.viewport.set(0, from, width, to - from)
    this.over.set({ source }).run(c.renderer, c.target)
    c.target.viewport.set(0, 0, width, height)
    return null
  }
  /** What the graphics side leaves of them. */
  private read(
    all: readonly { drawer: PointsDrawer; c: DrawContext }[],
    c: DrawContext,
  ): Omit<SeenTufts, 'order' | 'slices'> & { slices: Uint32Array[] } {
    const counts = all.map((x) => x.drawer.tuftCount(x.c) ?? 0)
    const target = this.room(counts.reduce((sum, n) => sum + n, 0))
    let count = 0
    const lights: SeenTufts['lights'][number][] = []
    all.forEach((x, k) => {
      const light = counts[k] ? x.drawer.leave(x.c, target, count) : null
      if (!light) return
      count += counts[k]
      const last = lights[lights.length - 1]
      if (last?.light === light) {
        last.end = count
        return
      }
      // Around the cells lies one more.
      const rows = [0, 1, 2].flatMap((a) =>
        [0, 1, 2, 3].map((b) => (c.camera.matrixWorld.elements[b * 4 + a] - (b < 3 ? 0 : light.low[a] - 0.5 * light.cell)) / light.cell),
      )
      lights.push({ end: count, light, rows })
    })
    const rows = Math.ceil(count / ROW)
    const words = rows * ROW * 4
    if ((this.slices[0]?.length ?? 0) < words) this.slices = Array.from({ length: TUFT_SLICES }, () => new Uint32Array(words))
    if (count) this.slices.forEach((s, k) => c.renderer.readRenderTargetPixels(target, 0, 0, ROW, rows, s, undefined, k))
    return { slices: this.slices, count, lights }
  }
  /** A whole picture, with the depth of what it was drawn over. */
  private put(picture: Uint16Array, { renderer: r, target, depth, width, height }: DrawContext): void {
    r.initRenderTarget(target)
    r.copyTextureToTexture(depth, target.depthTexture as THREE.DepthTexture)
    // By no texture of its own: one that was never drawn with is written into the other as it is.
    const source = new THREE.DataTexture(picture as Uint16Array<ArrayBuffer>, width, height, THREE.RGBAFormat, THREE.HalfFloatType)
    r.copyTextureToTexture(source, target.texture)
  }
  private room(count: number): THREE.WebGLRenderTarget {
    const rows = Math.max(1, Math.ceil(count / ROW))
    if (!this.target || this.target.height < rows) {
      this.target?.dispose()
      this.target = new THREE.WebGLRenderTarget(ROW, Math.ceil(rows * 1.3), {
        ...{ count: TUFT_SLICES, format: THREE.RGBAIntegerFormat, type: THREE.UnsignedIntType, internalFormat: 'RGBA32UI' },
        ...{ depthBuffer: false, minFilter: THREE.NearestFilter, magFilter: THREE.NearestFilter },
      })
    }
    return this.target
  }
  private pixels(data: Uint16Array, width: number, height: number): THREE.DataTexture {
    if (this.texture?.image.width !== width || this.texture.image.height !== height) {
      this.texture?.dispose()
      this.texture = new THREE.DataTexture(new Uint16Array(width * height * 4), width, height, THREE.RGBAFormat, THREE.HalfFloatType)
    }
    texels(this.texture, Uint16Array).set(data)
    this.texture.needsUpdate = true
    return this.texture
  }
  dispose(): void {
    this.painter?.dispose()
    this.target?.dispose()
    this.texture?.dispose()
    this.over.dispose()
  }
}
