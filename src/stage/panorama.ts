import * as THREE from 'three'
import { aroundOf, type Meshes } from '../acts'
import { fitting, type LightPicture, lightOf } from '../formats/image/light'
import { type LightDoc, type Shot, sampleNumber } from '../shot'
import { behindAll, looksAlong, wayUniforms } from './behind'
import { NO_KEY, NO_KEY_MAIN } from './keyLight'
import { MirrorMaker } from './mirrorMaker'
import { lightTexture } from './textures'

const VERTEX = `
varying vec3 way;
uniform vec2 wide, shift; uniform mat3 toShot;
void main() {
  way = toShot * vec3((position.xy + shift) * wide, -1.0);
  gl_Position = vec4(position.xy, 1.0, 1.0);
}`
// Straight from the file, by the pixels that one of the picture covers; blurred from what is mirrored, which is kept at every roughness.
const FRAGMENT = `
${NO_KEY}#include <common>
varying vec3 way;
uniform sampler2D picture;
uniform samplerCube mirrored;
uniform float bright, turn, blur, perPixel, most;
void main() {
  vec3 d = normalize(way);
  float c = cos(turn), s = sin(turn);
  d = vec3(c * d.x - s * d.z, d.y, s * d.x + c * d.z);
  vec2 uv = vec2(atan(d.z, d.x) / PI2 + 0.5, asin(clamp(d.y, -1.0, 1.0)) / PI + 0.5);
  vec2 size = vec2(textureSize(picture, 0));
  // Rows are close together at the poles; there a pixel covers more of each.
  float lod = log2(max(1.0, perPixel * max(size.x / PI2, size.y / PI)));
  vec3 sharp = textureLod(picture, uv, lod).rgb;
  vec3 soft = blur > 0.0 ? textureLod(mirrored, d, most * blur * (2.0 - blur)).rgb : sharp;
  ${NO_KEY_MAIN}
  gl_FragColor = vec4(bright * mix(sharp, soft, smoothstep(0.0, 0.08, blur)), 1.0);
}`
/** Pixels across of what is mirrored: as sharp as what is mirrored of a sky. Made of more it takes seconds without a GPU, and shows no more. */
const MIRROR_WIDTH = 1024
function textureOf(p: LightPicture): THREE.DataTexture {
  const texture = lightTexture(p)
  texture.mapping = THREE.EquirectangularReflectionMapping
  texture.flipY = true
  return texture
}
interface Made {
  from: LightPicture
  picture: THREE.DataTexture
  mirrored: THREE.WebGLRenderTarget
  /** Its level for all around a direction. */
  most: number
}
/** A picture of light all around: what it gives and what is mirrored of it, and itself behind everything. */
export class Panorama {
  readonly mesh: THREE.Mesh<THREE.BufferGeometry, THREE.ShaderMaterial>
  private made: Made | null = null
  private maker: MirrorMaker | null = null
  /** The picture of the last mesh, so that it is the same object while the file is. */
  private last: { data: Uint8Array; picture: LightPicture } | null = null

  constructor() {
    const uniforms = {
      ...{ ...wayUniforms(), picture: { value: null }, mirrored: { value: null } },
      ...{ bright: { value: 1 }, turn: { value: 0 }, blur: { value: 0 }, most: { value: 0 } },
    }
    this.mesh = behindAll(new THREE.ShaderMaterial({ vertexShader: VERTEX, fragmentShader: FRAGMENT, uniforms }))
    looksAlong(this.mesh, () => this.height)
  }
  private height = 1080
  private pictureOf(l: LightDoc, meshes: Meshes): LightPicture | null {
    const texture = l.asset ? meshes.get(l.asset)?.textures?.[0] : undefined
    if (!texture) return null
    if (this.last?.data === texture.data) return this.last.picture
    const picture = lightOf(texture)
    this.last = picture && { data: texture.data, picture }
    return picture
  }
  /** Lights the scene by it and shows it; returns whether there is one. `shown`: whether there is something behind at all. */
  set(r: THREE.WebGLRenderer, scene: THREE.Scene, shot: Shot, meshes: Meshes, t: number, height: number, shown: boolean): boolean {
    const l = aroundOf(shot)
    const picture = l ? this.pictureOf(l, meshes) : null
    this.mesh.visible = false
    if (!l || !picture) return false
    this.height = height
    const { picture: texture, mirrored } = this.make(r, picture)
    const strength = sampleNumber(l.strength, t)
    const turn = ((sampleNumber(l.turn ?? 0, t) + 90) * Math.PI) / 180
    scene.environment = mirrored.texture
    scene.environmentIntensity = strength
    scene.environmentRotation.set(0, turn, 0)
    const u = this.mesh.material.uniforms
    u.bright.value = (strength * sampleNumber(l.brightness ?? 100, t)) / 100
    u.turn.value = turn
    u.blur.value = sampleNumber(l.blur ?? 0, t) / 100
    u.picture.value = texture
    u.mirrored.value = mirrored.texture
    u.most.value = this.made?.most
    this.mesh.visible = shown && (l.seen ?? true)
    return true
  }
  private make(r: THREE.WebGLRenderer, from: LightPicture): Made {
    if (this.made?.from === from) return this.made
    this.forget()
    const picture = textureOf(from)
    const mirror = fitting(from, MIRROR_WIDTH).picture
    const smaller = mirror === from ? picture : textureOf(mirror)
    this.maker ??= new MirrorMaker(r)
    const mirrored = this.maker.fromPicture(smaller)
    if (smaller !== picture) smaller.dispose()
    this.made = { from, picture, mirrored, most: Math.log2(mirrored.width) }
    return this.made
  }
  /** What the graphics side had of it is gone; it is made again when it is asked for. */
  forget(): void {
    this.made?.picture.dispose()
    this.made?.mirrored.dispose()
    this.made = null
  }
  dispose(): void {
    this.forget()
    this.maker?.dispose()
    this.mesh.geometry.dispose()
    this.mesh.material.dispose()
  }
}
