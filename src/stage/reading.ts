import * as THREE from 'three'

type Draw = (to: THREE.WebGLRenderTarget) => void

/** Rows the other way round, where they are: memory that is touched for the first time costs more than turning. */
function turn(rows: Uint8Array | Float32Array, row: number, height: number): void {
  const bytes = row * rows.BYTES_PER_ELEMENT
  const all = new Uint8Array(rows.buffer, rows.byteOffset, rows.byteLength)
  const kept = new Uint8Array(bytes)
  for (let low = 0, high = (height - 1) * bytes; low < high; low += bytes, high -= bytes) {
    kept.set(all.subarray(low, low + bytes))
    all.copyWithin(low, high, high + bytes)
    all.set(kept, high)
  }
}
/** Of each renderer the target that bytes were drawn into last. */
const byteTargets = new WeakMap<THREE.WebGLRenderer, THREE.WebGLRenderTarget>()
function byteTarget(r: THREE.WebGLRenderer, width: number, height: number): THREE.WebGLRenderTarget {
  const last = byteTargets.get(r)
  if (last?.width === width && last.height === height) return last
  last?.dispose()
  const made = new THREE.WebGLRenderTarget(width, height, { type: THREE.UnsignedByteType, depthBuffer: false })
  byteTargets.set(r, made)
  return made
}
/** What is drawn, RGBA, the top row first. */
function readRows<A extends Uint8Array | Float32Array>(r: THREE.WebGLRenderer, to: THREE.WebGLRenderTarget, rows: A, draw: Draw): A {
  const { width, height } = to
  draw(to)
  r.readRenderTargetPixels(to, 0, 0, width, height, rows)
  turn(rows, width * 4, height)
  return rows
}
export const readBytes = (r: THREE.WebGLRenderer, width: number, height: number, draw: Draw): Uint8Array =>
  readRows(r, byteTarget(r, width, height), new Uint8Array(width * height * 4), draw)
export function readLight(r: THREE.WebGLRenderer, width: number, height: number, draw: Draw): Float32Array {
  const to = new THREE.WebGLRenderTarget(width, height, { type: THREE.FloatType, depthBuffer: false })
  try {
    return readRows(r, to, new Float32Array(width * height * 4), draw)
  } finally {
    to.dispose()
  }
}

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
