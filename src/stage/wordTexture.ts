import * as THREE from 'three'
import { texels } from './texels'

/** Words in a row of a texture. Shaders find the k-th one at (k & 4095, k >> 12). */
const ROW = 4096
const NONE = new Uint32Array(0)

/** A list of 32-bit words as an integer texture that grows. */
export class WordTexture {
  texture: THREE.DataTexture | null = null
  /** Room for so many words, to be written in place; then `changed`. */
  reserve(count: number): Uint32Array {
    if (!this.texture || count > this.words.length) {
      this.texture?.dispose()
      const rows = Math.ceil((count * 1.3 + ROW) / ROW)
      this.texture = new THREE.DataTexture(new Uint32Array(rows * ROW), ROW, rows, THREE.RedIntegerFormat, THREE.UnsignedIntType)
      this.texture.internalFormat = 'R32UI'
    }
    return this.words
  }
  /** What was reserved last, or more. */
  get words(): Uint32Array {
    return this.texture ? texels(this.texture, Uint32Array) : NONE
  }
  changed(): void {
    if (this.texture) this.texture.needsUpdate = true
  }
  dispose(): void {
    this.texture?.dispose()
    this.texture = null
  }
}
