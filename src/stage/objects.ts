import * as THREE from 'three'
import { type Meshes, meshOf, worldMatrix } from '../acts'
import type { Mesh } from '../engine'
import { changes, type LightDoc, type ObjectDoc, type Shot, sampleColour, sampleNumber, sampleStep, sampleVec3 } from '../shot'

const geometries = new WeakMap<Mesh, THREE.BufferGeometry>()
export function geometryOf(mesh: Mesh): THREE.BufferGeometry {
  const known = geometries.get(mesh)
  if (known) return known
  const g = new THREE.BufferGeometry()
  g.setAttribute('position', new THREE.BufferAttribute(mesh.positions, 3))
  if (mesh.normals) g.setAttribute('normal', new THREE.BufferAttribute(mesh.normals, 3))
  g.setIndex(new THREE.BufferAttribute(mesh.indices, 1))
  geometries.set(mesh, g)
  return g
}

/** Objects and lights of a shot as three.js sees them. */
export class Objects {
  readonly scene = new THREE.Scene()
  private meshes = new Map<string, THREE.Mesh<THREE.BufferGeometry, THREE.MeshStandardMaterial>>()
  private lights = new Map<string, THREE.Light>()
  private ambient = new THREE.HemisphereLight(0xffffff, 0xffffff, 1)
  private shot: Shot | null = null
  private lastT = Number.NaN
  private moves = true

  load(shot: Shot, assets: Meshes): void {
    this.shot = shot
    const wanted = new Set<string>()
    for (const o of shot.objects) {
      const mesh = o.muted ? null : meshOf(o, assets)
      if (!mesh) continue
      wanted.add(o.id)
      let m = this.meshes.get(o.id)
      if (!m) {
        m = new THREE.Mesh(geometryOf(mesh), new THREE.MeshStandardMaterial())
        m.matrixAutoUpdate = false
        m.name = o.id
        this.meshes.set(o.id, m)
        this.scene.add(m)
      }
      if (m.geometry !== geometryOf(mesh)) m.geometry = geometryOf(mesh)
      m.castShadow = o.shadow
      m.receiveShadow = true
      const flat = !mesh.normals
      if (m.material.flatShading !== flat) {
        m.material.flatShading = flat
        m.material.needsUpdate = true
      }
      m.material.side = THREE.DoubleSide
      m.material.shadowSide = THREE.DoubleSide
    }
    for (const [id, m] of this.meshes) {
      if (wanted.has(id)) continue
      this.scene.remove(m)
      m.material.dispose()
      this.meshes.delete(id)
    }
    for (const l of this.lights.values()) {
      this.scene.remove(l)
      l.dispose()
    }
    this.lights.clear()
    let shadowTaken = false
    for (const l of shot.lights) {
      if (l.muted) continue
      const shadows = l.shadow && !shadowTaken && l.kind !== 'point'
      const light = makeLight(l, shadows)
      if (shadows) shadowTaken = true
      this.lights.set(l.id, light)
      this.scene.add(light)
      if ('target' in light) this.scene.add(light.target as THREE.Object3D)
    }
    if (!this.ambient.parent) this.scene.add(this.ambient)
    this.moves = shot.objects.some((o) => changes(o.place) || changes(o.rotate) || changes(o.scale) || changes(o.seen)) || shot.lights.some((l) => changes(l.place) || changes(l.aim))
    this.lastT = Number.NaN
  }
  /** Puts everything where it is at time t. Returns whether shadows must be drawn again. */
  place(t: number): boolean {
    const shot = this.shot
    if (!shot) return false
    for (const o of shot.objects) {
      const m = this.meshes.get(o.id)
      if (m) placeObject(m, o, t)
    }
    for (const l of shot.lights) {
      const light = this.lights.get(l.id)
      if (!light) continue
      light.position.set(...sampleVec3(l.place, t))
      const strength = sampleNumber(l.strength, t)
      light.color.setRGB(...sampleColour(l.colour, t))
      light.intensity = strength
      if (light instanceof THREE.SpotLight || light instanceof THREE.DirectionalLight) {
        light.target.position.set(...sampleVec3(l.aim, t))
        light.target.updateMatrixWorld()
      }
      if (light instanceof THREE.SpotLight) light.angle = (sampleNumber(l.angle, t) * Math.PI) / 180
    }
    const [r, g, b] = sampleColour(shot.surroundings.light, t)
    this.ambient.color.setRGB(r, g, b)
    this.ambient.groundColor.setRGB(r * 0.35, g * 0.35, b * 0.35)
    this.ambient.intensity = Math.PI
    const fresh = Number.isNaN(this.lastT) || (this.moves && t !== this.lastT)
    this.lastT = t
    return fresh
  }
  /** Everything that a ray can meet. */
  get targets(): THREE.Object3D[] {
    return [...this.meshes.values()].filter((m) => m.visible)
  }
  dispose(): void {
    for (const m of this.meshes.values()) m.material.dispose()
    for (const l of this.lights.values()) l.dispose()
    this.meshes.clear()
    this.lights.clear()
  }
}
function placeObject(m: THREE.Mesh<THREE.BufferGeometry, THREE.MeshStandardMaterial>, o: ObjectDoc, t: number): void {
  const a = worldMatrix(o, t)
  m.matrix.set(a[0], a[1], a[2], a[3], a[4], a[5], a[6], a[7], a[8], a[9], a[10], a[11], 0, 0, 0, 1)
  m.matrixWorldNeedsUpdate = true
  m.visible = sampleStep(o.seen, t)
  m.material.color.setRGB(...sampleColour(o.material.colour, t))
  m.material.emissive.setRGB(...sampleColour(o.material.glow, t))
  m.material.roughness = sampleNumber(o.material.roughness, t)
  m.material.metalness = sampleNumber(o.material.metal, t)
}
function makeLight(l: LightDoc, shadows: boolean): THREE.Light {
  if (l.kind === 'point') return new THREE.PointLight(0xffffff, 1, 0, 2)
  const light = l.kind === 'spot' ? new THREE.SpotLight(0xffffff, 1, 0, 0.6, 0.5, 2) : new THREE.DirectionalLight(0xffffff, 1)
  light.castShadow = shadows
  if (shadows) {
    light.shadow.mapSize.set(1024, 1024)
    light.shadow.bias = -0.0004
    light.shadow.normalBias = 0.01
    light.shadow.radius = 4
    light.shadow.autoUpdate = false
    light.shadow.needsUpdate = true
    if (light instanceof THREE.DirectionalLight) {
      const c = light.shadow.camera
      c.left = c.bottom = -8
      c.right = c.top = 8
      c.updateProjectionMatrix()
    } else light.shadow.camera.near = 0.1
  }
  return light
}
