import * as THREE from 'three'
import { INSTANCE_FLOATS } from '../acts'
import type { Level, Mesh } from '../engine'
import { BodyDress, type Dress } from './bodyDress'
import { type BodyView, compactOf, levelOf, levelsBy } from './bodyLevels'
import type { GasShadow } from './gasShadow'
import type { Making } from './textures'

/** Bodies that each have a shape of their own, as one mesh in the shot. */
export class BodyBatch {
  readonly mesh: THREE.Mesh<THREE.BufferGeometry, THREE.MeshStandardMaterial>
  readonly shadow = new THREE.MeshDepthMaterial({ depthPacking: THREE.RGBADepthPacking, side: THREE.DoubleSide })
  private vertices = 0
  private room = { vertices: 0, indices: 0 }
  private columns: Record<'position' | 'normal' | 'color' | 'own', Float32Array> = { position: NONE, normal: NONE, color: NONE, own: NONE }
  private shine = NONE
  private index = new Uint32Array(0)
  private readonly worn: BodyDress
  private uv = NONE

  constructor(gasShadow: GasShadow, making: Making) {
    this.worn = new BodyDress(gasShadow, making, {
      ...{ key: 'bodies with shapes of their own', own: 'own', uniforms: {} },
      vertex: (shader) =>
        shader
          .replace('void main() {', 'attribute float shine;\nattribute vec3 own;\nvoid main() {')
          .replace('#include <color_vertex>', '#include <color_vertex>\n\tbodyShine = vColor.rgb * shine;'),
    })
    this.mesh = this.worn.meshOf(new THREE.BufferGeometry(), this.shadow)
  }
  private reserve(vertices: number, indices: number): void {
    if (vertices <= this.room.vertices && indices <= this.room.indices) return
    this.room = {
      vertices: Math.ceil(Math.max(vertices, this.room.vertices) * 1.25),
      indices: Math.ceil(Math.max(indices, this.room.indices) * 1.25),
    }
    const g = new THREE.BufferGeometry()
    for (const name of ['position', 'normal', 'color', 'own'] as const) {
      this.columns[name] = new Float32Array(this.room.vertices * 3)
      g.setAttribute(name, new THREE.BufferAttribute(this.columns[name], 3).setUsage(THREE.DynamicDrawUsage))
    }
    this.shine = new Float32Array(this.room.vertices)
    g.setAttribute('shine', new THREE.BufferAttribute(this.shine, 1).setUsage(THREE.DynamicDrawUsage))
    this.uv = new Float32Array(this.room.vertices * 2)
    g.setAttribute('uv', new THREE.BufferAttribute(this.uv, 2).setUsage(THREE.DynamicDrawUsage))
    this.index = new Uint32Array(this.room.indices)
    g.setIndex(new THREE.BufferAttribute(this.index, 1).setUsage(THREE.DynamicDrawUsage))
    this.mesh.geometry.dispose()
    this.mesh.geometry = g
  }
  /** Takes bodies where their instances say, each in the level that the view asks for. Returns the faces of all, and of what is drawn. */
  set(
    bodies: readonly { mesh: Mesh; of: number }[],
    data: Float32Array,
    view: BodyView,
    o: { edge: number; outside: number | null },
    first: Mesh,
  ): { whole: number; drawn: number } {
    let [whole, vertices, indices] = [0, 0, 0]
    const shown: { mesh: Mesh; level: Level; o: number }[] = []
    for (const { mesh, of } of bodies) {
      whole += mesh.indices.length / 3
      const levels = o.edge > 0 ? levelsBy(mesh, first) : [{ indices: mesh.indices, coarser: 1 }]
      const n = levelOf(view, mesh, levels, data, of * INSTANCE_FLOATS, o.edge, o.outside)
      if (n < 0) continue
      shown.push({ mesh, level: levels[n], o: of * INSTANCE_FLOATS })
      vertices += compactOf(levels[n]).vertices.length
      indices += levels[n].indices.length
    }
    this.reserve(vertices, indices)
    this.vertices = 0
    let at = 0
    const isFlat = !shown[0]?.mesh.normals
    for (const s of shown) {
      const c = compactOf(s.level)
      this.put(s.mesh, c.vertices, data, s.o)
      for (const i of c.indices) this.index[at++] = this.vertices + i
      this.vertices += c.vertices.length
    }
    const g = this.mesh.geometry
    this.mesh.visible = indices > 0
    g.setDrawRange(0, indices)
    for (const name of ['position', 'normal', 'color', 'own', 'shine', 'uv']) {
      const a = g.getAttribute(name) as THREE.BufferAttribute | undefined
      if (!a) continue
      a.clearUpdateRanges()
      a.addUpdateRange(0, this.vertices * a.itemSize)
      a.needsUpdate = true
    }
    if (g.index) {
      g.index.clearUpdateRanges()
      g.index.addUpdateRange(0, indices)
      g.index.needsUpdate = true
    }
    const { material } = this.mesh
    if (material.flatShading !== isFlat) {
      material.flatShading = isFlat
      material.needsUpdate = true
    }
    return { whole, drawn: indices / 3 }
  }
  private put(mesh: Mesh, vertices: Uint32Array, d: Float32Array, o: number): void {
    const { position, normal, color, own } = this.columns
    const { positions: p, normals: n } = mesh
    // Normals go by what their axes are divided by.
    const per = [0, 1, 2].map((k) => 1 / Math.max(1e-30, d[o + k] ** 2 + d[o + 4 + k] ** 2 + d[o + 8 + k] ** 2))
    let at = this.vertices * 3
    for (const v of vertices) {
      const [x, y, z] = [p[v * 3], p[v * 3 + 1], p[v * 3 + 2]]
      own[at] = x
      own[at + 1] = y
      own[at + 2] = z
      position[at] = d[o] * x + d[o + 1] * y + d[o + 2] * z + d[o + 3]
      position[at + 1] = d[o + 4] * x + d[o + 5] * y + d[o + 6] * z + d[o + 7]
      position[at + 2] = d[o + 8] * x + d[o + 9] * y + d[o + 10] * z + d[o + 11]
      if (n) {
        const [a, b, c] = [n[v * 3] * per[0], n[v * 3 + 1] * per[1], n[v * 3 + 2] * per[2]]
        const [nx, ny, nz] = [
          d[o] * a + d[o + 1] * b + d[o + 2] * c,
          d[o + 4] * a + d[o + 5] * b + d[o + 6] * c,
          d[o + 8] * a + d[o + 9] * b + d[o + 10] * c,
        ]
        const l = 1 / (Math.sqrt(nx * nx + ny * ny + nz * nz) || 1)
        normal[at] = nx * l
        normal[at + 1] = ny * l
        normal[at + 2] = nz * l
      }
      for (let k = 0; k < 3; k++) color[at + k] = d[o + 12 + k] * (mesh.colours ? mesh.colours[v * 3 + k] : 1)
      this.shine[at / 3] = d[o + 15]
      if (mesh.uv) {
        this.uv[(at / 3) * 2] = mesh.uv[v * 2]
        this.uv[(at / 3) * 2 + 1] = mesh.uv[v * 2 + 1]
      }
      at += 3
    }
  }
  /** True when anything is another than before. */
  dress(d: Dress): boolean {
    return this.worn.dress(d)
  }
  dispose(): void {
    this.mesh.geometry.dispose()
    this.worn.dispose()
    this.shadow.dispose()
  }
}
const NONE = new Float32Array(0)
