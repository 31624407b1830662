import * as THREE from 'three'
import type { Mesh } from '../engine'
import type { LookDoc, ObjectDoc } from '../shot'
import type { GasShadow } from './gasShadow'
import { SurfaceBumps } from './surfaceBumps'
import { SurfaceRamp } from './surfaceRamp'
import { dressAs, type Making, materialOf, type PartMaterial } from './textures'

/** What a body is made of: of a built-in one as the look says, of an object as its card does, with the pictures of its file. */
export type Dress =
  | { values: { colour: readonly number[]; glow: readonly number[]; roughness: number; metalness: number } }
  | { like: PartMaterial; material: ObjectDoc['material']; t: number; alpha: boolean; looks: readonly LookDoc[]; mesh: Mesh }
/** Dresses a material; true when anything is another than before. `before`: what it wore. */
function dressMaterial(
  m: THREE.MeshStandardMaterial,
  d: Dress,
  before: { key: string },
  ramp: SurfaceRamp | null,
  bumps: SurfaceBumps | null,
): boolean {
  const along = 'like' in d ? [ramp?.set(d.material, d.looks, d.mesh, d.t), bumps?.set(d.material, d.t)] : []
  if ('values' in d) {
    const { colour, glow, roughness, metalness } = d.values
    m.color.setRGB(colour[0], colour[1], colour[2])
    m.emissive.setRGB(glow[0], glow[1], glow[2])
    Object.assign(m, { roughness, metalness })
  } else {
    const { map, normalMap, roughnessMap, metalnessMap, emissiveMap, alphaTest } = d.like
    if (m.map !== map || m.normalMap !== normalMap || m.roughnessMap !== roughnessMap || m.emissiveMap !== emissiveMap) m.needsUpdate = true
    Object.assign(m, { map, normalMap, roughnessMap, metalnessMap, emissiveMap, alphaTest })
    m.normalScale.copy(d.like.normalScale)
    dressAs(Object.assign(m, { surface: d.like.surface }), d.material, d.t, d.alpha)
  }
  const own = [m.color.toArray(), m.emissive.toArray(), m.roughness, m.metalness, m.opacity, m.side, m.map?.id, m.normalMap?.id]
  const rich = m instanceof THREE.MeshPhysicalMaterial ? [m.transmission, m.ior, m.thickness, m.attenuationColor.toArray(), m.sheen] : []
  const key = [...own, ...rich, ...along].join()
  const changed = key !== before.key
  before.key = key
  return changed
}

/** The material of bodies: in the shadow of gases, each in a colour of its own, of which it may give some by itself (`bodyShine` in its vertices). */
export class BodyDress {
  readonly material: THREE.MeshStandardMaterial
  private readonly ramp: SurfaceRamp | null
  private readonly bumps: SurfaceBumps | null
  private readonly worn = { key: '' }
  /** `key`: which program it is; `own`: where a vertex is in its body, in words of its shader; `vertex`: changes that shader, whose uniforms these are. */
  constructor(
    gasShadow: GasShadow,
    making: Making,
    o: { key: string; own: string; uniforms: Record<string, THREE.IUniform>; vertex(shader: string): string },
  ) {
    const material = materialOf(making, { vertexColors: true, side: THREE.DoubleSide, shadowSide: THREE.DoubleSide })
    this.material = material
    gasShadow.into(material)
    const before = material.onBeforeCompile
    material.onBeforeCompile = (shader, renderer) => {
      before.call(material, shader, renderer)
      Object.assign(shader.uniforms, o.uniforms)
      shader.vertexShader = o.vertex(shader.vertexShader).replace('void main() {', 'varying vec3 bodyShine;\nvoid main() {')
      shader.fragmentShader = shader.fragmentShader
        .replace('void main() {', 'varying vec3 bodyShine;\nvoid main() {')
        .replace('#include <emissivemap_fragment>', '#include <emissivemap_fragment>\n\ttotalEmissiveRadiance += bodyShine * diffuse;')
    }
    material.customProgramCacheKey = () => `${o.key} ${making.rich}`
    this.ramp = making.ramp && new SurfaceRamp(making.ramp)
    this.ramp?.into(material, o.own)
    this.bumps = making.bumps ? new SurfaceBumps() : null
    this.bumps?.into(material, o.own)
  }
  /** True when anything is another than before. */
  dress(d: Dress): boolean {
    return dressMaterial(this.material, d, this.worn, this.ramp, this.bumps)
  }
  /** A mesh of it, which throws shadows by a material of its own. */
  meshOf<G extends THREE.BufferGeometry>(geometry: G, shadow: THREE.Material): THREE.Mesh<G, THREE.MeshStandardMaterial> {
    const mesh = new THREE.Mesh(geometry, this.material)
    mesh.customDepthMaterial = shadow
    mesh.castShadow = mesh.receiveShadow = true
    mesh.frustumCulled = false
    return mesh
  }
  dispose(): void {
    this.material.dispose()
    this.ramp?.dispose()
  }
}
