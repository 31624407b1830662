import * as THREE from 'three'
import { texels } from './texels'

export type Size = readonly [number, number, number]
/** A texture of three dimensions that is written anew; another size is another texture. */
export class Grid {
  texture: THREE.Data3DTexture | null = null
  constructor(
    private format: THREE.PixelFormat,
    private type: THREE.TextureDataType,
    private filter: THREE.MagnificationTextureFilter,
    private wrap: THREE.Wrapping = THREE.ClampToEdgeWrapping,
  ) {}
  set(data: Uint16Array | Uint8Array, [w, h, d]: Size): THREE.Data3DTexture {
    const { image } = this.texture ?? {}
    if (!this.texture || image?.width !== w || image.height !== h || image.depth !== d) {
      this.dispose()
      this.texture = new THREE.Data3DTexture(data.slice() as Uint8Array<ArrayBuffer>, w, h, d)
      this.texture.format = this.format
      this.texture.type = this.type
      this.texture.minFilter = this.texture.magFilter = this.filter
      this.texture.wrapS = this.texture.wrapT = this.texture.wrapR = this.wrap
      this.texture.unpackAlignment = 1
    } else if (data instanceof Uint16Array) texels(this.texture, Uint16Array).set(data)
    else texels(this.texture, Uint8Array).set(data)
    this.texture.needsUpdate = true
    return this.texture
  }
  dispose(): void {
    this.texture?.dispose()
    this.texture = null
  }
}
