import * as THREE from 'three'
import { type Meshes, stripDraw, stripOwner } from '../acts'
import { type Frame, partKey, partsOf, type StripsPart } from '../engine'
import type { Shot } from '../shot'
import type { GasShadow } from './gasShadow'
import { SOLID_VERTEX_WORDS, SolidMesh } from './solidMesh'

interface Solid {
  mesh: THREE.Mesh<THREE.BufferGeometry, THREE.MeshStandardMaterial>
  lines: SolidMesh
  /** What it was made of. */
  part: StripsPart | null
  made: string
}

/** Strips that are drawn as bodies, among the objects: in all lights, with shadows. */
export class Solids {
  private all = new Map<string, Solid>()

  constructor(
    private readonly scene: THREE.Scene,
    private readonly gasShadow: GasShadow,
  ) {}
  /** Makes again what has changed since the last picture; true when anything has. */
  update(shot: Shot, frame: Frame, meshes: Meshes, t: number, share: number): boolean {
    let changed = false
    const seen = new Set<string>()
    for (const part of partsOf(frame.parts, 'strips')) {
      const found = stripOwner(shot, part.element, t, meshes, frame.parts)
      const draw = found && stripDraw(shot, found.owner, part.act, t)
      if (!found || draw?.as !== 'solid') continue
      const key = partKey(part)
      seen.add(key)
      const made = JSON.stringify([draw, found.looks, found.matrices, share])
      const old = this.all.get(key)
      if (old?.part === part && old.made === made) continue
      const solid = old ?? this.fresh(part.element)
      this.all.set(key, solid)
      solid.part = part
      solid.made = made
      solid.lines.clear()
      for (const m of found.matrices) solid.lines.add(part, draw, found.looks, m, share)
      write(solid)
      const { material } = solid.mesh
      material.roughness = draw.solid?.roughness ?? 0.7
      // Few sides are meant to be seen.
      const flat = (draw.solid?.sides ?? 6) < 5
      if (material.flatShading !== flat) {
        material.flatShading = flat
        material.needsUpdate = true
      }
      changed = true
    }
    for (const [key, solid] of this.all) {
      if (seen.has(key)) continue
      this.drop(solid)
      this.all.delete(key)
      changed = true
    }
    return changed
  }
  get isEmpty(): boolean {
    return this.all.size === 0
  }
  private fresh(element: string): Solid {
    const material = new THREE.MeshStandardMaterial({ vertexColors: true })
    this.gasShadow.into(material)
    const mesh = new THREE.Mesh(new THREE.BufferGeometry(), material)
    mesh.castShadow = mesh.receiveShadow = true
    mesh.frustumCulled = false
    mesh.name = element
    this.scene.add(mesh)
    return { mesh, lines: new SolidMesh(), part: null, made: '' }
  }
  private drop({ mesh }: Solid): void {
    this.scene.remove(mesh)
    mesh.geometry.dispose()
    mesh.material.dispose()
  }
  dispose(): void {
    for (const s of this.all.values()) this.drop(s)
    this.all.clear()
  }
}
/** Brings the triangles to the graphics side; buffers stay where they are long enough. */
function write({ mesh, lines }: Solid): void {
  const g = mesh.geometry
  const old = g.getAttribute('position') as THREE.InterleavedBufferAttribute | undefined
  if (old?.data.array !== lines.vertices || g.index?.array !== lines.indices) {
    g.dispose()
    const buffer = new THREE.InterleavedBuffer(lines.vertices, SOLID_VERTEX_WORDS).setUsage(THREE.DynamicDrawUsage)
    for (const [i, name] of ['position', 'normal', 'color'].entries())
      g.setAttribute(name, new THREE.InterleavedBufferAttribute(buffer, 3, i * 3))
    g.setIndex(new THREE.BufferAttribute(lines.indices, 1).setUsage(THREE.DynamicDrawUsage))
  }
  const buffer = (g.getAttribute('position') as THREE.InterleavedBufferAttribute).data
  const index = g.index as THREE.BufferAttribute
  for (const [b, length] of [
    [buffer, lines.count * SOLID_VERTEX_WORDS],
    [index, lines.indexCount],
  ] as const) {
    b.clearUpdateRanges()
    b.addUpdateRange(0, length)
    b.needsUpdate = true
  }
  g.setDrawRange(0, lines.indexCount)
  mesh.visible = lines.indexCount > 0
}
