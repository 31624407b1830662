import * as THREE from 'three'
import { RectAreaLightUniformsLib } from 'three/addons/lights/RectAreaLightUniformsLib.js'
import { shadowLights, shiningLights } from '../acts'
import { changes, type LightDoc, type Shot, sampleColour, sampleNumber, sampleVec3 } from '../shot'
import { SHADOW_FAR_M, SHADOW_NEAR_M, SUN_REACH_M } from './softShadow'

/** How far the edge of a shadow reaches that is as sharp as can be. */
const EDGE_TEXELS = 3
/** How far before a surface its shade begins in the light of a sun, m; of a lamp, of the depth of its map: 2 cm at 7 m. */
const SUN_BIAS_M = 0.01
const LAMP_BIAS = 0.00004
/** Lights of a shot that shine from somewhere, as three.js sees them. */
export class Lamps {
  private lights = new Map<string, THREE.Light>()
  /** Whether one of them has shadows that are soft by its size. */
  soft = false

  constructor(private scene: THREE.Scene) {}
  load(shot: Shot): void {
    for (const l of this.lights.values()) {
      this.scene.remove(l)
      l.dispose()
    }
    for (const m of this.middles.values()) {
      this.scene.remove(m)
      m.dispose()
    }
    this.middles.clear()
    this.lights.clear()
    this.ids.clear()
    this.areas = []
    let points = 0
    const casting = new Set(shadowLights(shot).map((l) => l.id))
    this.soft = shadowLights(shot).some((l) => l.kind === 'area' || changes(l.size) || sampleNumber(l.size ?? 0, 0) > 0)
    for (const l of shiningLights(shot)) {
      const light = makeLight(l, casting.has(l.id))
      this.lights.set(l.id, light)
      this.ids.set(light, l.id)
      this.scene.add(light)
      const casts = casting.has(l.id)
      if (l.kind === 'area' && casts) this.middles.set(l.id, this.middleOf(l.id))
      if (l.kind === 'area') this.areas.push({ shade: casts ? points : -1, round: !!l.round })
      if (casts && (l.kind === 'point' || l.kind === 'area')) points++
      if ('target' in light) this.scene.add(light.target as THREE.Object3D)
    }
  }
  /** Points that give no light, in the middles of areas: their shadows are the areas'. */
  private middles = new Map<string, THREE.PointLight>()
  private middleOf(id: string): THREE.PointLight {
    const m = castsFrom(new THREE.PointLight(0xffffff, 0, 0, 2))
    this.scene.add(m)
    this.ids.set(m, id)
    return m
  }
  /** Of each area, in the order in which shaders know them, the place of its middle among the points that throw shadows, −1: none, and whether it is a disc. */
  areas: { shade: number; round: boolean }[] = []
  /** The light of the shot that one stands for. */
  idOf = (l: THREE.Light): string | undefined => this.ids.get(l)
  private ids = new Map<THREE.Light, string>()
  place(lights: readonly LightDoc[], t: number): void {
    for (const l of lights) {
      const light = this.lights.get(l.id)
      if (light) placeLight(light, l, t)
      const middle = this.middles.get(l.id)
      if (!middle) continue
      middle.position.set(...sampleVec3(l.place, t))
      // As soft as a disc of its area.
      middle.shadow.radius = -Math.sqrt((sampleNumber(l.width ?? 1, t) * sampleNumber(l.height ?? 1, t)) / (l.round ? 4 : Math.PI))
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
    for (const l of [...this.lights.values(), ...this.middles.values()]) l.dispose()
    this.lights.clear()
    this.middles.clear()
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
    light.intensity /= light.width * light.height * (l.round ? Math.PI / 4 : 1)
    light.lookAt(...sampleVec3(l.aim, t))
  }
  if ('shadow' in light && light.castShadow) {
    const size = sampleNumber(l.size ?? 0, t)
    // Below 0: by its size, a sun's as the tangent of it; else in texels.
    ;(light as THREE.SpotLight).shadow.radius = size > 0 ? -(l.kind === 'sun' ? Math.tan((size * Math.PI) / 180) : size) : EDGE_TEXELS
  }
  if (light instanceof THREE.SpotLight) {
    light.angle = (sampleNumber(l.angle, t) * Math.PI) / 180
    light.penumbra = sampleNumber(l.edge ?? 50, t) / 100
  }
}
function makeLight(l: LightDoc, shadows: boolean): THREE.Light {
  if (l.kind === 'point') {
    const light = new THREE.PointLight(0xffffff, 1, 0, 2)
    return shadows ? castsFrom(light) : light
  }
  if (l.kind === 'area') {
    // Exact for what is matt, and fitted for what mirrors (linearly transformed cosines: Heitz and others 2016).
    RectAreaLightUniformsLib.init()
    return new THREE.RectAreaLight(0xffffff, 1, 1, 1)
  }
  const light = l.kind === 'spot' ? new THREE.SpotLight(0xffffff, 1, 0, 0.6, 0.5, 2) : new THREE.DirectionalLight(0xffffff, 1)
  light.castShadow = shadows
  if (shadows) {
    light.shadow.mapSize.set(1024, 1024)
    // Of the depth of the map: even from a sun, crowded far away from a lamp.
    light.shadow.bias = light instanceof THREE.DirectionalLight ? -SUN_BIAS_M / SHADOW_FAR_M : -LAMP_BIAS
    light.shadow.normalBias = 0.01
    light.shadow.radius = EDGE_TEXELS
    light.shadow.autoUpdate = false
    light.shadow.needsUpdate = true
    if (light instanceof THREE.DirectionalLight) {
      const c = light.shadow.camera
      c.left = c.bottom = -SUN_REACH_M
      c.right = c.top = SUN_REACH_M
    }
    Object.assign(light.shadow.camera, { near: SHADOW_NEAR_M, far: SHADOW_FAR_M })
    light.shadow.camera.updateProjectionMatrix()
  }
  return light
}
/** A point that throws shadows all around, by a cube of maps. */
function castsFrom(light: THREE.PointLight): THREE.PointLight {
  light.castShadow = true
  light.shadow.mapSize.set(512, 512)
  light.shadow.normalBias = 0.01
  light.shadow.radius = EDGE_TEXELS
  Object.assign(light.shadow.camera, { near: 0.02, far: SHADOW_FAR_M })
  light.shadow.autoUpdate = false
  light.shadow.needsUpdate = true
  light.shadow.camera.updateProjectionMatrix()
  return light
}
