import * as THREE from 'three'
import { seesOneWay, shiningLights } from '../acts'
import type { LightMap } from '../engine'
import { type LightDoc, type Shot, sampleNumber, sampleVec3 } from '../shot'
import { Depths } from './depths'
import type { Objects } from './objects'

/** Pixels along a side. */
const SIZE = 512
interface Kept {
  target: THREE.WebGLRenderTarget
  depths: Depths
  state: string
  map: LightMap | null
}
/** What spots and suns see of the objects, for the shadows that these throw on gases. */
export class LightMaps {
  private kept = new Map<string, Kept>()
  private material = new THREE.MeshBasicMaterial({ side: THREE.DoubleSide })

  /** `around`: the middle and the radius of what must be seen by suns, m. Lights without shadows have none. */
  of(
    r: THREE.WebGLRenderer,
    objects: Objects,
    shot: Shot,
    t: number,
    around: { middle: readonly number[]; radius: number },
  ): (LightMap | null)[] {
    return shiningLights(shot).map((l) => (seesOneWay(l) ? this.one(r, objects, shot, l, t, around) : null))
  }
  private one(
    r: THREE.WebGLRenderer,
    objects: Objects,
    shot: Shot,
    l: LightDoc,
    t: number,
    around: { middle: readonly number[]; radius: number },
  ): LightMap {
    const camera = cameraOf(l, t, around)
    const state = `${objects.shapeAt(t)} ${camera.matrixWorld.elements} ${camera.projectionMatrix.elements}`
    let k = this.kept.get(l.id)
    if (k?.state === state && k.map) return k.map
    k ??= {
      target: new THREE.WebGLRenderTarget(SIZE, SIZE, { depthTexture: new THREE.DepthTexture(SIZE, SIZE, THREE.UnsignedIntType) }),
      depths: new Depths(),
      ...{ state: '', map: null },
    }
    this.kept.set(l.id, k)
    k.state = state
    const hidden = objects.withoutShadow(shot, l)
    for (const m of hidden) m.visible = false
    const { autoUpdate } = r.shadowMap
    r.shadowMap.autoUpdate = false
    r.setRenderTarget(k.target)
    r.clear()
    objects.renderDepth(r, camera, this.material)
    r.shadowMap.autoUpdate = autoUpdate
    for (const m of hidden) m.visible = true
    const data = k.depths.read(r, k.target.depthTexture as THREE.DepthTexture, camera, [SIZE, SIZE], state)
    k.map = { size: SIZE, data, rows: rowsOf(camera) }
    return k.map
  }
  dispose(): void {
    for (const k of this.kept.values()) {
      k.target.depthTexture?.dispose()
      k.target.dispose()
      k.depths.dispose()
    }
    this.kept.clear()
    this.material.dispose()
  }
}
/** As a light sees a gas: a sun from so far away that its rays are even. */
export function gasCameraOf(l: LightDoc, t: number, around: { middle: readonly number[]; radius: number }): THREE.PerspectiveCamera {
  const c = cameraOf(l, t, around)
  if (c instanceof THREE.PerspectiveCamera) return c
  const far = 400 * around.radius
  const camera = new THREE.PerspectiveCamera((2 * Math.atan(around.radius / far) * 180) / Math.PI, 1, far / 2, far * 2)
  const middle = new THREE.Vector3(...(around.middle as [number, number, number]))
  const towards = middle.clone().sub(c.position).normalize()
  camera.up.copy(c.up)
  camera.position.copy(middle).addScaledVector(towards, -far)
  camera.lookAt(middle)
  camera.updateMatrixWorld()
  camera.updateProjectionMatrix()
  return camera
}
function cameraOf(
  l: LightDoc,
  t: number,
  around: { middle: readonly number[]; radius: number },
): THREE.PerspectiveCamera | THREE.OrthographicCamera {
  const place = new THREE.Vector3(...sampleVec3(l.place, t))
  const aim = new THREE.Vector3(...sampleVec3(l.aim, t))
  const { radius } = around
  const sun = l.kind === 'sun'
  const camera = sun
    ? new THREE.OrthographicCamera(-radius, radius, radius, -radius, 0.01, 20 * radius)
    : new THREE.PerspectiveCamera(Math.min(170, 2 * sampleNumber(l.angle, t)), 1, 0.05, 500)
  const towards = aim.clone().sub(place)
  if (sun) {
    const middle = new THREE.Vector3(...(around.middle as [number, number, number]))
    place.copy(middle).addScaledVector(towards.clone().normalize(), -10 * radius)
    aim.copy(middle)
  }
  camera.position.copy(place)
  if (Math.abs(towards.clone().normalize().y) > 0.99) camera.up.set(1, 0, 0)
  camera.lookAt(aim)
  camera.updateMatrixWorld()
  camera.updateProjectionMatrix()
  return camera
}
/** From the shot to the picture, and the distance along the view. */
export function rowsOf(camera: THREE.PerspectiveCamera | THREE.OrthographicCamera): number[] {
  const view = camera.matrixWorldInverse.clone()
  const clip = new THREE.Matrix4().multiplyMatrices(camera.projectionMatrix, view).elements
  const v = view.elements
  const row = (e: readonly number[], k: number, by = 1) => [e[k] * by, e[k + 4] * by, e[k + 8] * by, e[k + 12] * by]
  return [...row(clip, 0), ...row(clip, 1), ...row(clip, 3), ...row(v, 2, -1)]
}
