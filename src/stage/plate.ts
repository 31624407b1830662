import * as THREE from 'three'
import { type Meshes, shotCamera } from '../acts'
import type { MeshPicture } from '../engine'
import { lightOf } from '../formats/image/light'
import { type CameraDoc, type MeshShape, type Shot, sampleColour, sampleNumber } from '../shot'
import { behindAll } from './behind'
import { NO_KEY, NO_KEY_MAIN } from './keyLight'
import { lightTexture } from './textures'

const VERTEX = `
varying vec2 at;
void main() { at = position.xy; gl_Position = vec4(position.xy, 1.0, 1.0); }`
/**
 * What the finish makes of light (Narkowicz 2015, its exposure 0.8) is undone: a picture that has been through a camera already comes out as it
 * is. Its white would need nine times as much light as a surface that is lit white; up to FULL it is followed.
 */
const FRAGMENT = `
${NO_KEY}varying vec2 at;
uniform sampler2D picture; uniform vec2 scale; uniform float bright, saturation, contrast, light; uniform vec3 tint;
const float FULL = 0.985;
vec3 unfilm(vec3 y) {
  vec3 a = 2.51 - 2.43 * y, b = 0.03 - 0.59 * y, c = -0.14 * y;
  return (-b + sqrt(b * b - 4.0 * a * c)) / (2.0 * a) / 0.8;
}
void main() {
  vec2 uv = at * scale;
  vec3 c = texture2D(picture, vec2(0.5 + 0.5 * uv.x, 0.5 - 0.5 * uv.y)).rgb * bright * tint;
  c = max(vec3(0.0), mix(vec3(dot(c, vec3(0.2126, 0.7152, 0.0722))), c, saturation));
  if (contrast != 1.0) c = 0.18 * pow(c / 0.18, vec3(contrast));
  if (light < 0.5) c = unfilm(min(c, vec3(FULL)));
  if (max(abs(uv.x), abs(uv.y)) > 1.0) c = vec3(0.0);
  ${NO_KEY_MAIN}
  gl_FragColor = vec4(c, 1.0);
}`
/** Decoded pictures that are kept: those about the playhead. */
const MOST_KEPT = 8
/** So many of the next are decoded ahead. */
const AHEAD = 2

interface Kept {
  texture: THREE.Texture
  /** Null once it is there; one that cannot be decoded never is. */
  coming: Promise<void> | null
}
/** The number of the picture that is shown at t, of so many. */
export function pictureAt(s: Pick<MeshShape, 'rate' | 'start' | 'speed' | 'after'>, count: number, t: number): number {
  const n = Math.floor(Math.max(0, (t - s.start) * s.speed) * s.rate + 1e-6)
  return s.after === 'repeat' ? n % count : Math.min(n, count - 1)
}
/** Half the picture's width and height in those of the plate, when a plate (width over height) lies behind a picture. */
export function fitted(fit: CameraDoc['fit'], plate: number, picture: number): [x: number, y: number] {
  if (fit === 'stretch') return [1, 1]
  const wider = plate > picture
  return wider === (fit !== 'fit') ? [picture / plate, 1] : [1, plate / picture]
}
export function plateOf(shot: Pick<Shot, 'cameras' | 'camera'>): CameraDoc | undefined {
  const camera = shotCamera(shot)
  return camera?.plate ? camera : undefined
}

/** What lies behind everything as the shot's camera sees it: a picture, or one of numbered pictures. */
export class Plate {
  readonly mesh: THREE.Mesh<THREE.BufferGeometry, THREE.ShaderMaterial>
  private kept = new Map<Uint8Array, Kept>()
  /** Whether the last picture was drawn without the plate that belongs there, since it is still being decoded. */
  waits = false

  constructor(private onCome: () => void) {
    const uniforms = {
      ...{ picture: { value: null }, scale: { value: new THREE.Vector2(1, 1) } },
      ...{ bright: { value: 1 }, saturation: { value: 1 }, light: { value: 0 } },
      ...{ contrast: { value: 1 }, tint: { value: new THREE.Color() } },
    }
    this.mesh = behindAll(new THREE.ShaderMaterial({ vertexShader: VERTEX, fragmentShader: FRAGMENT, uniforms }))
  }
  private pictures(shot: Shot, meshes: Meshes, t: number): { now: MeshPicture; next: MeshPicture[] } | null {
    const o = shot.objects.find((x) => x.id === plateOf(shot)?.plate)
    if (o?.shape.kind !== 'mesh') return null
    const { shape } = o
    const files = [shape.asset, ...shape.poses]
    const of = (n: number) => meshes.get(files[n])?.textures?.[0]
    const at = pictureAt(shape, files.length, t)
    const now = of(at)
    const next = Array.from({ length: AHEAD }, (_, k) => of(pictureAt(shape, files.length, t + (k + 1) / shape.rate)))
    return now ? { now, next: next.flatMap((p) => p ?? []) } : null
  }
  /** Shows the plate of a moment; returns whether there is one, decoded or not. `aspect`: width over height of the picture. */
  set(shot: Shot, meshes: Meshes, t: number, aspect: number): boolean {
    this.mesh.visible = this.waits = false
    const camera = plateOf(shot)
    const found = camera ? this.pictures(shot, meshes, t) : null
    if (!camera || !found) return false
    const { texture, coming } = this.of(found.now)
    for (const p of found.next) this.of(p)
    this.waits = !!coming
    const image = texture.image as { width: number; height: number } | null
    if (coming || !image) return true
    const u = this.mesh.material.uniforms
    u.picture.value = texture
    u.scale.value.set(...fitted(camera.fit, image.width / image.height, aspect))
    u.bright.value = sampleNumber(camera.plateBright ?? 100, t) / 100
    u.saturation.value = sampleNumber(camera.plateSaturation ?? 100, t) / 100
    u.contrast.value = sampleNumber(camera.plateContrast ?? 100, t) / 100
    u.tint.value.setRGB(...sampleColour(camera.plateTint ?? [1, 1, 1], t))
    u.light.value = texture instanceof THREE.DataTexture ? 1 : 0
    this.mesh.visible = true
    return true
  }
  hide(): void {
    this.mesh.visible = this.waits = false
  }
  /** Until the picture of a moment is there. */
  async ready(shot: Shot, meshes: Meshes, t: number): Promise<void> {
    const found = this.pictures(shot, meshes, t)
    if (found) await this.of(found.now).coming
  }
  private of(p: MeshPicture): Kept {
    const known = this.kept.get(p.data)
    if (known) {
      // Used last, dropped last.
      this.kept.delete(p.data)
      this.kept.set(p.data, known)
      return known
    }
    const light = lightOf(p)
    const kept: Kept = { texture: light ? lightTexture(light) : new THREE.Texture(), coming: null }
    this.kept.set(p.data, kept)
    if (!light) kept.coming = this.decode(p, kept)
    for (const [data, old] of this.kept) {
      if (this.kept.size <= MOST_KEPT) break
      this.kept.delete(data)
      drop(old)
    }
    return kept
  }
  private async decode(p: MeshPicture, kept: Kept): Promise<void> {
    const { texture } = kept
    texture.flipY = false
    texture.colorSpace = THREE.SRGBColorSpace
    texture.anisotropy = 4
    try {
      const blob = new Blob([p.data as Uint8Array<ArrayBuffer>], { type: p.type })
      texture.image = await createImageBitmap(blob, { premultiplyAlpha: 'none', colorSpaceConversion: 'none' })
      texture.needsUpdate = true
    } catch {
      // The reader of the file has named what is wrong with it; nothing lies behind then.
    }
    kept.coming = null
    this.onCome()
  }
  dispose(): void {
    for (const k of this.kept.values()) drop(k)
    this.kept.clear()
    this.mesh.geometry.dispose()
    this.mesh.material.dispose()
  }
}
function drop({ texture }: Kept): void {
  ;(texture.image as ImageBitmap | null)?.close?.()
  texture.dispose()
}
