import * as THREE from 'three'
import { RectAreaLightUniformsLib } from 'three/addons/lights/RectAreaLightUniformsLib.js'
import { shiningLights, throwsShadow } from '../acts'
import { type LightDoc, type Shot, sampleColour, sampleNumber, sampleVec3 } from '../shot'

/** Lights of a shot that shine from somewhere, as three.js sees them. */
export class Lamps {
  private lights = new Map<string, THREE.Light>()

  constructor(private scene: THREE.Scene) {}
  load(shot: Shot): void {
    for (const l of this.lights.values()) {
      this.scene.remove(l)
      l.dispose()
    }
    this.lights.clear()
    let shadowTaken = false
    for (const l of shiningLights(shot)) {
      const shadows = !shadowTaken && throwsShadow(l)
      const light = makeLight(l, shadows)
      if (shadows) shadowTaken = true
      this.lights.set(l.id, light)
      this.scene.add(light)
      if ('target' in light) this.scene.add(light.target as THREE.Object3D)
    }
  }
  place(lights: readonly LightDoc[], t: number): void {
    for (const l of lights) {
      const light = this.lights.get(l.id)
      if (light) placeLight(light, l, t)
    }
  }
  /** The shot's first light as a camera sees it: its place, or with a last number of 0 the direction to a sun; without one from the camera. */
  first(camera: THREE.Camera): THREE.Vector4 {
    const first = this.lights.values().next().value
    if (!first) return new THREE.Vector4(0, 0, 1, 0)
    const p = first.position.clone()
    if (first instanceof THREE.DirectionalLight) {
      p.sub(first.target.position).transformDirection(camera.matrixWorldInverse)
      return new THREE.Vector4(p.x, p.y, p.z, 0)
    }
    p.applyMatrix4(camera.matrixWorldInverse)
    return new THREE.Vector4(p.x, p.y, p.z, 1)
  }
  dispose(): void {
    for (const l of this.lights.values()) l.dispose()
    this.lights.clear()
  }
}
function placeLight(light: THREE.Light, l: LightDoc, t: number): void {
  light.position.set(...sampleVec3(l.place, t))
  light.color.setRGB(...sampleColour(l.colour, t))
  light.intensity = sampleNumber(l.strength, t)
  if (light instanceof THREE.SpotLight || light instanceof THREE.DirectionalLight) {
    light.target.position.set(...sampleVec3(l.aim, t))
    light.target.updateMatrixWorld()
  }
  if (light instanceof THREE.RectAreaLight) {
    light.width = sampleNumber(l.width ?? 1, t)
    light.height = sampleNumber(l.height ?? 1, t)
    // Its radiance: at a metre before its middle as bright as a point of the strength, were it as small.
    light.intensity /= light.width * light.height
    light.lookAt(...sampleVec3(l.aim, t))
  }
  if (light instanceof THREE.SpotLight) {
    light.angle = (sampleNumber(l.angle, t) * Math.PI) / 180
    light.penumbra = sampleNumber(l.edge ?? 50, t) / 100
  }
}
function makeLight(l: LightDoc, shadows: boolean): THREE.Light {
  if (l.kind === 'point') return new THREE.PointLight(0xffffff, 1, 0, 2)
  if (l.kind === 'area') {
    // Exact for what is matt, and fitted for what mirrors (linearly transformed cosines: Heitz and others 2016).
    RectAreaLightUniformsLib.init()
    return new THREE.RectAreaLight(0xffffff, 1, 1, 1)
  }
  const light = l.kind === 'spot' ? new THREE.SpotLight(0xffffff, 1, 0, 0.6, 0.5, 2) : new THREE.DirectionalLight(0xffffff, 1)
  light.castShadow = shadows
  if (shadows) {
    light.shadow.mapSize.set(1024, 1024)
    light.shadow.bias = -0.0004
    light.shadow.normalBias = 0.01
    light.shadow.radius = 3
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
