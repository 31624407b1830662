import * as THREE from 'three'
import type { FogFront, MarchFront } from '../engine'
import { joinFronts } from './joinFronts'
import { texels } from './texels'

/** For shaders, which may be made without: what of the fog is in front of a view depth, and what is premultiplied, seen through it. */
export const IN_FOG = `
uniform highp sampler3D fogFront; uniform vec2 fogDepths; // one over how far it reaches, how many; 0: there is none
vec4 inFog(vec2 ndc, float depth) {
#ifdef NO_FOG
  return vec4(0.0, 0.0, 0.0, 1.0);
#endif
  if (fogDepths.y < 0.5) return vec4(0.0, 0.0, 0.0, 1.0);
  float s = sqrt(clamp(depth * fogDepths.x, 0.0, 1.0)) * (fogDepths.y - 1.0);
  return texture(fogFront, vec3(ndc * 0.5 + 0.5, (s + 0.5) / fogDepths.y));
}
vec4 fogged(vec4 tint, vec2 ndc, float depth) {
  vec4 f = inFog(ndc, depth);
  return vec4(tint.rgb * f.a + tint.a * f.rgb, tint.a);
}`
/** For shaders of what may lie within gases: what of all of them is in front of a view depth, the fog too. */
export const IN_FRONT = `${IN_FOG}
uniform highp sampler3D front; uniform vec3 frontDepths; // the first, one over the distance of them, how many; 0: there is none
vec4 inFront(vec2 ndc, float depth) {
#ifdef NO_FRONT
  return vec4(0.0, 0.0, 0.0, 1.0);
#endif
  if (frontDepths.z < 0.5) return vec4(0.0, 0.0, 0.0, 1.0);
  float s = (depth - frontDepths.x) * frontDepths.y;
  if (s <= 0.0) return vec4(0.0, 0.0, 0.0, 1.0);
  return texture(front, vec3(ndc * 0.5 + 0.5, (s + 0.5) / frontDepths.z));
}
// Premultiplied: what it covers shows the gas before it.
vec4 within(vec4 tint, vec2 ndc, float depth) {
  vec4 f = inFront(ndc, depth);
  return fogged(vec4(tint.rgb * f.a + tint.a * f.rgb, tint.a), ndc, depth);
}`
/** Where there is no gas. */
const none = halfVolume(new Uint16Array([0, 0, 0, 0x3c00]), 1, 1, 1)
none.needsUpdate = true
function halfVolume(data: Uint16Array<ArrayBuffer>, width: number, height: number, depth: number): THREE.Data3DTexture {
  const t = new THREE.Data3DTexture(data, width, height, depth)
  t.format = THREE.RGBAFormat
  t.type = THREE.HalfFloatType
  t.minFilter = t.magFilter = THREE.LinearFilter
  return t
}
/** The fog of a picture for shaders that have IN_FOG. */
export class FogTexture {
  private texture: THREE.Data3DTexture = none
  private readonly depths = new THREE.Vector2()

  set(f: FogFront | null): void {
    if (!f) {
      this.depths.set(0, 0)
      return
    }
    const { image } = this.texture
    if (this.texture === none || image.width !== f.width || image.height !== f.height || image.depth !== f.depths) {
      this.dispose()
      this.texture = halfVolume(new Uint16Array(f.data.length), f.width, f.height, f.depths)
    }
    texels(this.texture, Uint16Array).set(f.data)
    this.texture.needsUpdate = true
    this.depths.set(1 / f.reach, f.depths)
  }
  get isEmpty(): boolean {
    return this.depths.y === 0
  }
  get values(): { fogFront: THREE.Data3DTexture; fogDepths: THREE.Vector2 } {
    return { fogFront: this.texture, fogDepths: this.depths }
  }
  dispose(): void {
    if (this.texture !== none) this.texture.dispose()
    this.texture = none
  }
}

/** The texture of what is in front, written anew for each picture. */
export class Front {
  texture: THREE.Data3DTexture = none
  readonly depths = new THREE.Vector3()
  readonly fog = new FogTexture()

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
      this.texture = halfVolume(new Uint16Array(f.data.length), f.width, f.height, f.depths)
    }
    texels(this.texture, Uint16Array).set(f.data)
    this.texture.needsUpdate = true
    this.depths.set(f.from, 1 / f.step, f.depths)
  }
  /** What of IN_FRONT shaders may do without now. */
  get without(): { NO_FRONT: boolean; NO_FOG: boolean } {
    return { NO_FRONT: this.depths.z === 0, NO_FOG: this.fog.isEmpty }
  }
  /** Into the uniforms of a material that has IN_FRONT. */
  into(uniforms: Record<string, { value: unknown }>): void {
    uniforms.front.value = this.texture
    uniforms.frontDepths.value = this.depths
    const { fogFront, fogDepths } = this.fog.values
    uniforms.fogFront.value = fogFront
    uniforms.fogDepths.value = fogDepths
  }
  dispose(): void {
    this.fog.dispose()
    if (this.texture !== none) this.texture.dispose()
    this.texture = none
  }
}
