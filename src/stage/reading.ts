import * as THREE from 'three'

type Draw = (to: THREE.WebGLRenderTarget) => void

/** Rows the other way round. */
function turned<A extends Uint8Array | Float32Array>(upside: A, row: number, height: number): A {
  const out = upside.slice() as A
  const bytes = row * upside.BYTES_PER_ELEMENT
  const [from, to] = [upside, out].map((x) => new Uint8Array(x.buffer, x.byteOffset, x.byteLength))
  for (let y = 0; y < height; y++) to.set(from.subarray((height - 1 - y) * bytes, (height - y) * bytes), y * bytes)
  return out
}
/** What is drawn into a target of a type, RGBA, the top row first. */
function readRows<A extends Uint8Array | Float32Array>(
  r: THREE.WebGLRenderer,
  width: number,
  height: number,
  type: THREE.TextureDataType,
  upside: A,
  draw: Draw,
): A {
  const to = new THREE.WebGLRenderTarget(width, height, { type, depthBuffer: false })
  try {
    draw(to)
    r.readRenderTargetPixels(to, 0, 0, width, height, upside)
    return turned(upside, width * 4, height)
  } finally {
    to.dispose()
  }
}
export const readBytes = (r: THREE.WebGLRenderer, width: number, height: number, draw: Draw): Uint8Array =>
  readRows(r, width, height, THREE.UnsignedByteType, new Uint8Array(width * height * 4), draw)
export const readLight = (r: THREE.WebGLRenderer, width: number, height: number, draw: Draw): Float32Array =>
  readRows(r, width, height, THREE.FloatType, new Float32Array(width * height * 4), draw)

/** Light before and after finishes, kept of one picture, and asked pixel by pixel. */
export class Probe {
  private made: { key: string; before: THREE.WebGLRenderTarget; after: THREE.WebGLRenderTarget } | null = null

  /** Light of one pixel (from the lower left). `key`: what the picture depends on; while it stays, it is not drawn again. Null: there is none. */
  at(
    r: THREE.WebGLRenderer,
    key: string,
    [width, height]: readonly [number, number],
    draw: (before: THREE.WebGLRenderTarget, after: THREE.WebGLRenderTarget) => boolean,
    x: number,
    y: number,
  ): { before: number[]; after: number[] } | null {
    const of = () => new THREE.WebGLRenderTarget(width, height, { type: THREE.FloatType, depthBuffer: false })
    if (this.made?.before.width !== width || this.made.before.height !== height) {
      this.dispose()
      this.made = { key: '', before: of(), after: of() }
    }
    const { made } = this
    if (made.key !== key && !draw(made.before, made.after)) return null
    made.key = key
    const pixel = (from: THREE.WebGLRenderTarget) => {
      const out = new Float32Array(4)
      r.readRenderTargetPixels(from, x, y, 1, 1, out)
      return [...out]
    }
    return { before: pixel(made.before), after: pixel(made.after) }
  }
  dispose(): void {
    this.made?.before.dispose()
    this.made?.after.dispose()
    this.made = null
  }
}
