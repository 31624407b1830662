import * as THREE from 'three'
import { hash3, unit } from '../../engine'

/** Seed and channel of what is added to each pixel before it is rounded. */
const [SEED, CHANNEL] = [7, 3]
/** For shaders: half a step up or down at a pixel, evenly spread. */
export const DITHER = `
uniform highp sampler2D dithered;
float ditherAt(ivec2 p) { return texelFetch(dithered, p, 0).r; }`

/** By pixel −½ to ½, the same in pictures of all sizes. A texture: without a GPU the hash took 40 of 140 ms of a picture of 1920 × 1080. */
export class Dither {
  private texture: THREE.DataTexture | null = null

  /** One that is at least so large. */
  of(width: number, height: number): THREE.DataTexture {
    const { image } = this.texture ?? { image: { width: 0, height: 0 } }
    if (this.texture && image.width >= width && image.height >= height) return this.texture
    const [w, h] = [Math.max(width, image.width), Math.max(height, image.height)]
    const data = new Float32Array(w * h)
    for (let y = 0, i = 0; y < h; y++) for (let x = 0; x < w; x++, i++) data[i] = unit(hash3(SEED, x * 4099 + y, CHANNEL)) - 0.5
    this.texture?.dispose()
    this.texture = new THREE.DataTexture(data, w, h, THREE.RedFormat, THREE.FloatType)
    this.texture.needsUpdate = true
    return this.texture
  }
  dispose(): void {
    this.texture?.dispose()
    this.texture = null
  }
}
