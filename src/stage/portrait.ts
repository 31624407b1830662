import * as THREE from 'three'
import { baseMesh, isLine, type Meshes, othersIn, shapedOf, worldMatrix } from '../acts'
import { apply, boundsOf, type Frame, invert, type Mesh, partsOf, pointColumn } from '../engine'
import type { PortraitView } from '../protocol'
import { type ObjectDoc, type Shot, timeOf } from '../shot'
import { geometryOf, type Objects } from './objects'
import { edgeLines } from './overlays'
import { dressAs } from './textures'

const clay = new THREE.MeshStandardMaterial({ color: new THREE.Color().setRGB(0.32, 0.33, 0.31), roughness: 0.85, side: THREE.DoubleSide })
const dim = new THREE.MeshStandardMaterial({ color: new THREE.Color().setRGB(0.035, 0.042, 0.038), roughness: 0.9, side: THREE.DoubleSide })
/** Newborns of this many frames are shown as specks on their source. */
const NEW_FRAMES = 1.5
const MOST_SPECKS = 400

/** An object alone, small, in even light: what to draw and from where. Dispose the parts when drawn. */
function portraitScene(
  shot: Shot,
  o: ObjectDoc,
  mesh: Mesh,
  geometry: THREE.BufferGeometry,
  view: PortraitView,
  amounts: Float32Array | null,
  frame: Frame | null,
  aspect: number,
): { scene: THREE.Scene; camera: THREE.Camera; dispose: () => void } {
  const t = frame ? timeOf(shot, frame.frame) : 0
  const scene = new THREE.Scene()
  const garbage: { dispose(): void }[] = []
  let material: THREE.MeshStandardMaterial = view === 'role' || view === 'region' ? dim : clay
  if (view === 'material') {
    const made = Object.assign(new THREE.MeshStandardMaterial(), { surface: null })
    // On nothing: what is clear is seen through.
    dressAs(made, o.material, t, true)
    material = made
    garbage.push(material)
  }
  if (view === 'region' && amounts) {
    // Dark where there is nothing of it, like mist where there is all.
    material = new THREE.MeshStandardMaterial({ side: THREE.DoubleSide, roughness: 0.85, vertexColors: true })
    const shade = geometry.clone()
    const colours = new Float32Array(amounts.length * 3)
    amounts.forEach((a, i) => colours.set([0.035 + a * 0.62, 0.042 + a * 0.62, 0.038 + a * 0.5], i * 3))
    shade.setAttribute('color', new THREE.BufferAttribute(colours, 3))
    geometry = shade
    garbage.push(material, shade)
  }
  material.flatShading = !mesh.normals
  const m = isLine(o.shape) ? edgeLines(geometry) : new THREE.Mesh(geometry, material)
  if (isLine(o.shape)) garbage.push(m.geometry)
  m.matrixAutoUpdate = false
  const matrix = worldMatrix(o, t)
  // From above it lies as it lies in the shot, only without its place; else it stands in its own space.
  const turned =
    view === 'place' ? Float64Array.from(matrix, (v, i) => (i % 4 === 3 ? 0 : v)) : Float64Array.from([1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0])
  m.matrix.set(
    turned[0],
    turned[1],
    turned[2],
    turned[3],
    turned[4],
    turned[5],
    turned[6],
    turned[7],
    turned[8],
    turned[9],
    turned[10],
    turned[11],
    0,
    0,
    0,
    1,
  )
  scene.add(m)
  const key = new THREE.DirectionalLight(0xffffff, 2.6)
  key.position.set(-1, 2, 2.2)
  scene.add(key, new THREE.HemisphereLight(0xffffff, 0x777777, 1.6))

  const b = boundsOf(mesh)
  const corners = Array.from({ length: 8 }, (_, c) =>
    apply(turned, c & 1 ? b.max[0] : b.min[0], c & 2 ? b.max[1] : b.min[1], c & 4 ? b.max[2] : b.min[2]),
  )
  const min = [0, 1, 2].map((a) => Math.min(...corners.map((c) => c[a])))
  const max = [0, 1, 2].map((a) => Math.max(...corners.map((c) => c[a])))
  const mid = new THREE.Vector3(...min.map((v, a) => (v + max[a]) / 2))
  const camera = new THREE.OrthographicCamera()
  const radius = Math.max(1e-4, Math.hypot(...max.map((v, a) => v - min[a])) / 2)
  const from = view === 'place' ? new THREE.Vector3(0, 1, 0) : new THREE.Vector3(0.5, 0.38, 1).normalize()
  camera.up.set(0, view === 'place' ? 0 : 1, view === 'place' ? -1 : 0)
  camera.position.copy(mid).addScaledVector(from, radius * 4)
  camera.lookAt(mid)
  camera.updateMatrixWorld()
  // As large as its own corners allow.
  let halfW = 1e-4
  let halfH = 1e-4
  const inverse = camera.matrixWorldInverse.copy(camera.matrixWorld).invert()
  for (const c of corners) {
    const p = new THREE.Vector3(...c).applyMatrix4(inverse)
    halfW = Math.max(halfW, Math.abs(p.x))
    halfH = Math.max(halfH, Math.abs(p.y))
  }
  const half = Math.max(halfH, halfW / aspect) * 1.12
  camera.left = -half * aspect
  camera.right = half * aspect
  camera.top = half
  camera.bottom = -half
  camera.near = radius * 0.5
  camera.far = radius * 8
  camera.updateProjectionMatrix()
  if (view === 'role' && frame) {
    const specks = newborns(shot, o, frame, matrix)
    if (specks.length) {
      const g = new THREE.BufferGeometry().setAttribute('position', new THREE.BufferAttribute(new Float32Array(specks), 3))
      const points = new THREE.Points(g, new THREE.PointsMaterial({ color: 0xf0f0e0, size: 2, sizeAttenuation: false, depthTest: false }))
      garbage.push(g, points.material)
      scene.add(points)
    }
  }
  return { scene, camera, dispose: () => garbage.forEach((x) => x.dispose()) }
}
/** Where the newest particles of the systems that this object feeds were born, in its own space. */
function newborns(shot: Shot, o: ObjectDoc, frame: Frame, matrix: Float64Array): number[] {
  const back = invert(matrix)
  const out: number[] = []
  if (!back) return out
  const young = (NEW_FRAMES * shot.rate.den) / shot.rate.num
  for (const part of partsOf(frame.parts, 'points')) {
    const system = shot.systems.find((s) => s.id === part.element)
    if (!system?.birth.some((a) => a.source === o.id && !a.muted)) continue
    const [px, py, pz, vx, vy, vz, age] = (['px', 'py', 'pz', 'vx', 'vy', 'vz', 'age'] as const).map((n) => pointColumn(part, n))
    const list: number[] = []
    for (let i = 0; i < part.count; i++) if (age[i] < young) list.push(i)
    const every = Math.max(1, Math.ceil(list.length / MOST_SPECKS))
    // Back along the way it came.
    for (let k = 0; k < list.length; k += every) {
      const i = list[k]
      out.push(...apply(back, px[i] - vx[i] * age[i], py[i] - vy[i] * age[i], pz[i] - vz[i] * age[i]))
    }
  }
  return out
}
/** What there is to draw from. */
interface From {
  shot: Shot
  meshes: Meshes
  frame: Frame | null
  objects: Objects
}
/** One object of a shot as a column of the board sees it; null when it has no geometry. `aspect`: width over height. */
export function portraitOf(
  { shot, meshes, frame, objects }: From,
  element: string,
  view: PortraitView,
  region: string | null,
  aspect: number,
): ReturnType<typeof portraitScene> | null {
  const o = shot.objects.find((x) => x.id === element)
  const base = o && baseMesh(o, meshes)
  if (!o || !base?.mesh.indices.length) return null
  const { mesh, at } = shapedOf(o, base, o.regions.length > 0, othersIn(shot, meshes))
  const t = frame ? timeOf(shot, frame.frame) : 0
  const geometry = (at && objects.placed(o.id)?.mesh.geometry) ?? geometryOf(mesh)
  return portraitScene(shot, o, mesh, geometry, view, objects.amounts(o, region, shot, t), frame, aspect)
}
