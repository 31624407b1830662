import type * as THREE from 'three'
import { HIDERS } from './behind'
import type { Objects } from './objects'

const meshesOf = (objects: Objects): THREE.Mesh[] => objects.all.filter((o): o is THREE.Mesh => (o as THREE.Mesh).isMesh)

/** Only some elements are seen, until what it gives is called. */
export function showOnly(objects: Objects, shows: (element: string) => boolean): () => void {
  const hidden = meshesOf(objects).filter((o) => o.visible && o.name && !shows(o.name))
  for (const o of hidden) o.visible = false
  return () => {
    for (const o of hidden) o.visible = true
  }
}
/** Of some only the depth is drawn, before all else, until what it gives is called: they hide what is behind, and are not seen. */
export function depthOnly(objects: Objects, hides: (element: string) => boolean): () => void {
  const hidden = meshesOf(objects).flatMap((mesh) =>
    mesh.name && hides(mesh.name) ? [{ mesh, order: mesh.renderOrder, materials: [mesh.material].flat().filter((m) => m.colorWrite) }] : [],
  )
  for (const { mesh, materials } of hidden) {
    mesh.renderOrder = HIDERS
    for (const m of materials) m.colorWrite = false
  }
  return () => {
    for (const { mesh, order, materials } of hidden) {
      mesh.renderOrder = order
      for (const m of materials) m.colorWrite = true
    }
  }
}
/** Where everything that is drawn stands now. */
export const matricesOf = (objects: Objects): Map<THREE.Object3D, THREE.Matrix4> => new Map(objects.all.map((o) => [o, o.matrix.clone()]))
/** Draws all with one material, which is told of each mesh before it is drawn. */
export function renderEach(
  r: THREE.WebGLRenderer,
  objects: Objects,
  camera: THREE.Camera,
  material: THREE.Material,
  before: (mesh: THREE.Mesh) => void,
): void {
  const told = meshesOf(objects)
  for (const m of told) m.onBeforeRender = () => before(m)
  objects.renderPlain(r, camera, material)
  for (const m of told) m.onBeforeRender = () => {}
}
/** One object in one colour, on nothing, whatever hides it, seen or not. */
export function renderSilhouette(
  r: THREE.WebGLRenderer,
  objects: Objects,
  camera: THREE.Camera,
  id: string,
  material: THREE.Material,
  to: THREE.WebGLRenderTarget,
): void {
  r.setRenderTarget(to)
  r.setClearColor(0, 0)
  r.clear()
  const mesh = objects.meshOf(id)
  if (!mesh) return
  const { visible } = mesh
  mesh.visible = true
  const restore = showOnly(objects, (e) => e === id)
  objects.renderPlain(r, camera, material)
  restore()
  mesh.visible = visible
}
