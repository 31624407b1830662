import * as THREE from 'three'
import { placedMatrix, posedIn, type Shaped } from '../acts'
import { normalsFor, type PlacePart } from '../engine'
import { type ObjectDoc, sampleNumber, sampleStep } from '../shot'
import type { Catcher } from './catcher'
import type { SurfaceBumps } from './surfaceBumps'
import type { SurfaceRamp } from './surfaceRamp'
import { dressAs, type PartMaterial } from './textures'

/** What was made of an object. */
export interface Placed {
  mesh: THREE.Mesh<THREE.BufferGeometry, THREE.Material | THREE.Material[]>
  /** Of what only catches, in place of the others. */
  catcher: Catcher | null
  /** The plain one, and one for each picture of the file. */
  materials: PartMaterial[]
  /** What it needs beyond what most are made of. */
  making: string
  ramp: SurfaceRamp | null
  bumps: SurfaceBumps | null
  shaped: Shaped
  /** The places that the geometry holds now. */
  places: Float32Array
  /** Its box as lines, while the View shows it so. */
  box: THREE.LineSegments | null
}
/** Writes the places of an object that changes shape. */
export function reshape(p: Placed, t: number): void {
  const places = p.shaped.at?.(t)
  if (!places || places === p.places) return
  p.places = places
  const g = p.mesh.geometry
  const write = (name: string, data: Float32Array | null) => {
    const a = g.getAttribute(name) as THREE.BufferAttribute | undefined
    if (!a || !data) return
    ;(a.array as Float32Array).set(data)
    a.needsUpdate = true
  }
  write('position', places)
  write('normal', normalsFor(p.shaped.mesh, places))
  g.computeBoundingSphere()
}
export function placeObject({ mesh: m, materials }: Placed, o: ObjectDoc, t: number, places: readonly PlacePart[], alpha: boolean): void {
  const a = placedMatrix(o, t, posedIn(places))
  m.matrix.set(a[0], a[1], a[2], a[3], a[4], a[5], a[6], a[7], a[8], a[9], a[10], a[11], 0, 0, 0, 1)
  m.matrixWorldNeedsUpdate = true
  m.visible = sampleStep(o.seen, t)
  for (const material of materials) dressAs(material, o.material, t, alpha)
  m.castShadow = o.shadow && sampleNumber(o.material.opacity ?? 100, t) >= 50 && sampleNumber(o.material.clear ?? 0, t) < 50
}
/** Turns the front of an object, of a plane its upper side, to the camera; its place and its size stay. */
export function faceCamera(mesh: THREE.Mesh, o: ObjectDoc, camera: THREE.Camera): void {
  const place = new THREE.Vector3()
  const scale = new THREE.Vector3()
  mesh.matrix.decompose(place, new THREE.Quaternion(), scale)
  const e = camera.matrixWorld.elements
  const front = new THREE.Vector3(e[12], e[13], e[14]).sub(place)
  const up = o.faces === 'upright' ? new THREE.Vector3(0, 1, 0) : new THREE.Vector3(e[4], e[5], e[6])
  if (o.faces === 'upright') front.y = 0
  if (front.lengthSq() < 1e-12) return
  front.normalize()
  const right = new THREE.Vector3().crossVectors(up, front)
  if (right.lengthSq() < 1e-12) return
  right.normalize()
  up.crossVectors(front, right)
  // A plane lies: its upper side is its front.
  if (o.shape.kind === 'plane') mesh.matrix.makeBasis(right, front, up.negate())
  else mesh.matrix.makeBasis(right, up, front)
  mesh.matrix.scale(scale).setPosition(place)
}
