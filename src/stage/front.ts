import * as THREE from 'three'
import type { MarchFront } from '../engine'
import { joinFronts } from './joinFronts'

/** For shaders of what may lie within gases: what of all of them is in front of a view depth. */
export const IN_FRONT = `
uniform highp sampler3D front; uniform vec3 frontDepths; // the first, one over the distance of them, how many; 0: there is none
vec4 inFront(vec2 ndc, float depth) {
  if (frontDepths.z < 0.5) return vec4(0.0, 0.0, 0.0, 1.0);
  float s = (depth - frontDepths.x) * frontDepths.y;
  if (s <= 0.0) return vec4(0.0, 0.0, 0.0, 1.0);
  return texture(front, vec3(ndc * 0.5 + 0.5, (s + 0.5) / frontDepths.z));
}
// Premultiplied: what it covers shows the gas before it.
vec4 within(vec4 tint, vec2 ndc, float depth) {
  vec4 f = inFront(ndc, depth);
  return vec4(tint.rgb * f.a + tint.a * f.rgb, tint.a);
}`
/** Where there is no gas. */
const none = new THREE.Data3DTexture(new Uint16Array([0, 0, 0, 0x3c00]), 1, 1, 1)
none.format = THREE.RGBAFormat
none.type = THREE.HalfFloatType
none.needsUpdate = true

/** The texture of what is in front, written anew for each picture. */
export class Front {
  texture: THREE.Data3DTexture = none
  readonly depths = new THREE.Vector3()

  private now: MarchFront | null = null

  /** With what there is already. */
  add(f: MarchFront | null): void {
    // The data may be overwritten by the next gas.
    if (f) this.set(this.now ? joinFronts(this.now, f) : { ...f, data: f.data.slice() })
  }
  set(f: MarchFront | null): void {
    this.now = f
    if (!f) {
      this.depths.set(0, 0, 0)
      return
    }
    const { image } = this.texture
    if (this.texture === none || image.width !== f.width || image.height !== f.height || image.depth !== f.depths) {
      this.dispose()
      this.texture = new THREE.Data3DTexture(new Uint16Array(f.data.length), f.width, f.height, f.depths)
      this.texture.format = THREE.RGBAFormat
      this.texture.type = THREE.HalfFloatType
      this.texture.minFilter = this.texture.magFilter = THREE.LinearFilter
    }
    ;(this.texture.image.data as unknown as Uint16Array).set(f.data)
    this.texture.needsUpdate = true
    this.depths.set(f.from, 1 / f.step, f.depths)
  }
  /** Into the uniforms of a material that has IN_FRONT. */
  into(uniforms: Record<string, { value: unknown }>): void {
    uniforms.front.value = this.texture
    uniforms.frontDepths.value = this.depths
  }
  dispose(): void {
    if (this.texture !== none) this.texture.dispose()
    this.texture = none
  }
}
