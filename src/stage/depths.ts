import * as THREE from 'three'
import { Pass } from './passes'
import { DEPTHS } from './shaders'

/** View depths of the opaque objects, read back for the kernels; kept while the objects stay as they were drawn. */
export class Depths {
  private pass = new Pass(DEPTHS, { depth: null, near: 0.1, far: 100, even: 0, ends: 0 })
  private target: THREE.WebGLRenderTarget | null = null
  private known: { state: string; data: Float32Array } | null = null

  /** `state` says which picture of the objects it is; `ends`: where nothing is, it is as far as the far plane. */
  read(
    r: THREE.WebGLRenderer,
    depth: THREE.DepthTexture,
    camera: THREE.PerspectiveCamera | THREE.OrthographicCamera,
    size: readonly [number, number],
    state: string,
    ends = false,
  ): Float32Array {
    const [width, height] = size
    const key = `${size} ${state}`
    if (this.known?.state === key) return this.known.data
    if (this.target?.width !== width || this.target.height !== height) {
      this.target?.dispose()
      this.target = new THREE.WebGLRenderTarget(width, height, {
        ...{ depthBuffer: false, minFilter: THREE.NearestFilter, magFilter: THREE.NearestFilter },
      })
    }
    this.pass
      .set({ depth, near: camera.near, far: camera.far, even: camera instanceof THREE.OrthographicCamera ? 1 : 0, ends: ends ? 1 : 0 })
      .run(r, this.target)
    const bytes = new Uint8Array(width * height * 4)
    r.readRenderTargetPixels(this.target, 0, 0, width, height, bytes)
    this.known = { state: key, data: new Float32Array(bytes.buffer) }
    return this.known.data
  }
  dispose(): void {
    this.target?.dispose()
    this.pass.dispose()
  }
}
