import * as THREE from 'three'
import type { Mesh, MeshPicture, MeshSurface } from '../engine'
import { type LightPicture, lightOf } from '../formats/image/light'
import { type Animated, changes, type ObjectDoc, sampleColour, sampleNumber } from '../shot'

/** Pictures of files, decoded once each. They come later than the mesh; `onCome` says when one is there. */
export class Textures {
  private known = new WeakMap<Uint8Array, THREE.Texture>()
  private all: THREE.Texture[] = []
  private waiting = new Set<Promise<void>>()

  constructor(private onCome: () => void) {}
  /** `linear`: of numbers, and not of colours. */
  of(picture: MeshPicture, linear = false): THREE.Texture {
    const { data, type } = picture
    const known = this.known.get(data)
    if (known) return known
    const light = lightOf(picture)
    if (light) return this.keep(data, lightTexture(light))
    const texture = new THREE.Texture()
    // glTF counts from the top of the picture.
    texture.flipY = false
    texture.colorSpace = linear ? THREE.NoColorSpace : THREE.SRGBColorSpace
    texture.wrapS = texture.wrapT = THREE.RepeatWrapping
    texture.anisotropy = 4
    this.keep(data, texture)
    const come = createImageBitmap(new Blob([data as Uint8Array<ArrayBuffer>], { type }), {
      premultiplyAlpha: 'none',
      colorSpaceConversion: 'none',
    })
      .then((image) => {
        texture.image = image
        texture.needsUpdate = true
        this.onCome()
      })
      // One that cannot be decoded stays plain; the reader of the file has named its kind.
      .catch(() => {})
      .finally(() => this.waiting.delete(come))
    this.waiting.add(come)
    return texture
  }
  private keep(data: Uint8Array, texture: THREE.Texture): THREE.Texture {
    this.known.set(data, texture)
    this.all.push(texture)
    return texture
  }
  /** Until every picture that was asked for is there. */
  async ready(): Promise<void> {
    while (this.waiting.size) await Promise.all(this.waiting)
  }
  dispose(): void {
    for (const t of this.all) t.dispose()
    this.all = []
  }
}
/** Numbers as they are, with smaller ones for what is far. */
export function lightTexture({ width, height, data }: LightPicture): THREE.DataTexture {
  const texture = new THREE.DataTexture(data, width, height, THREE.RGBAFormat, THREE.HalfFloatType)
  texture.colorSpace = THREE.LinearSRGBColorSpace
  texture.wrapS = texture.wrapT = THREE.RepeatWrapping
  texture.minFilter = THREE.LinearMipmapLinearFilter
  texture.magFilter = THREE.LinearFilter
  texture.generateMipmaps = true
  texture.needsUpdate = true
  return texture
}
/** Names of the parts that have a material of their own: by its pictures, or by what the file says that it is made of. */
export const partsWithMaterial = (m: Mesh): string[] => [
  ...new Set([...(m.uv ? (m.textures ?? []) : []), ...(m.surfaces ?? [])].map((t) => t.part)),
]
/** Runs of triangles with a material each, for one draw apiece: materials by number, 0 for what has none of its own. */
export function groupsOf(mesh: Mesh, g: THREE.BufferGeometry): void {
  const own = partsWithMaterial(mesh)
  if (mesh.uv) g.setAttribute('uv', new THREE.BufferAttribute(mesh.uv, 2))
  if (!own.length) return
  let at = 0
  const plain = (to: number) => {
    if (to > at) g.addGroup(at * 3, (to - at) * 3, 0)
    at = Math.max(at, to)
  }
  for (const p of [...mesh.parts].sort((a, b) => a.firstTriangle - b.firstTriangle)) {
    const k = own.indexOf(p.name)
    if (k < 0 || p.firstTriangle < at) continue
    plain(p.firstTriangle)
    g.addGroup(p.firstTriangle * 3, p.triangleCount * 3, k + 1)
    at = p.firstTriangle + p.triangleCount
  }
  plain(mesh.indices.length / 3)
}
const never = (a: Animated<number> | undefined): boolean => a === undefined || (!changes(a) && sampleNumber(a, 0) === 0)
/** What an object needs beyond what most are made of: what costs is left out where nobody asks for it. */
export interface Making {
  rich: boolean
  /** Colours along a ramp: even ones, or moved on by noise, whose program takes longer to be made ready. */
  ramp: 'even' | 'strays' | null
  bumps: boolean
}
export const PLAIN: Making = { rich: false, ramp: null, bumps: false }
export const makingOf = (m: ObjectDoc['material']): Making => ({
  rich: !never(m.clear) || !never(m.sheen),
  ramp: m.ramp ? (never(m.strays) ? 'even' : 'strays') : null,
  bumps: !never(m.bumps),
})
export const makingKey = ({ rich, ramp, bumps }: Making): string => `${rich ? 'rich' : ''}${ramp ?? ''}${bumps ? 'bumps' : ''}`
/** A material as rich as is asked for. */
export const materialOf = ({ rich }: Making, p: THREE.MeshStandardMaterialParameters): THREE.MeshStandardMaterial =>
  rich ? new THREE.MeshPhysicalMaterial(p) : new THREE.MeshStandardMaterial(p)
/** A material for each part that has its own, with its pictures; the first for the rest. */
export function materialsOf(mesh: Mesh, textures: Textures, making = PLAIN): PartMaterial[] {
  const of = (p: MeshPicture | undefined, linear: boolean) => (p && mesh.uv ? textures.of(p, linear) : null)
  return ['', ...partsWithMaterial(mesh)].map((part) => {
    const picture = (mesh.uv ? mesh.textures : undefined)?.find((t) => t.part === part)
    const surface = mesh.surfaces?.find((s) => s.part === part) ?? null
    const rough = of(surface?.rough, true)
    const material = materialOf(making, {
      ...{ map: of(picture, false), alphaTest: picture?.cut ? 0.5 : 0 },
      ...{ normalMap: of(surface?.normal, true), roughnessMap: rough, metalnessMap: rough, emissiveMap: of(surface?.shines, false) },
    })
    const bend = surface?.normal?.scale ?? 1
    material.normalScale.set(bend, bend)
    return Object.assign(material, { surface })
  })
}
export type PartMaterial = THREE.MeshStandardMaterial & { surface: MeshSurface | null }
/** Of what the tint is the colour after: m. */
const TINT_AFTER = 0.1
/** What an object's card says of what it is made of, at a moment. `alpha`: for a picture with alpha, in which nothing can be seen bent. */
export function dressAs(material: PartMaterial, m: ObjectDoc['material'], t: number, alpha = false): void {
  const file = m.values === 'file' ? material.surface : null
  material.color.setRGB(...sampleColour(m.colour, t))
  material.emissive.setRGB(...(file?.glow ?? sampleColour(m.glow, t)))
  material.roughness = file?.roughness ?? sampleNumber(m.roughness, t)
  material.metalness = file?.metal ?? sampleNumber(m.metal, t)
  const clear = sampleNumber(m.clear ?? 0, t) / 100
  material.opacity = (sampleNumber(m.opacity ?? 100, t) / 100) * (alpha ? 1 - 0.9 * clear : 1)
  if (material instanceof THREE.MeshPhysicalMaterial) {
    material.transmission = alpha ? 0 : clear
    material.ior = sampleNumber(m.index ?? 1.5, t)
    material.thickness = sampleNumber(m.thick ?? 0.05, t)
    material.attenuationColor.setRGB(...sampleColour(m.tint ?? [1, 1, 1], t))
    material.attenuationDistance = TINT_AFTER
    material.sheen = sampleNumber(m.sheen ?? 0, t) / 100
    material.sheenRoughness = 0.5
    material.sheenColor.copy(material.color)
  }
  const isSeenThrough = material.opacity < 1 || clear > 0
  const side = m.faces === 'front' ? THREE.FrontSide : THREE.DoubleSide
  // What is seen through leaves no depth: particles behind it come through as well.
  material.depthWrite = !isSeenThrough
  const blends = material.opacity < 1
  if (material.transparent === blends && material.side === side) return
  material.transparent = blends
  material.side = side
  material.needsUpdate = true
}
