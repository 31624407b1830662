import * as THREE from 'three'
import {
  baseMesh,
  drawsByPhase,
  INSTANCE_FLOATS,
  looksOf,
  type Meshes,
  othersIn,
  type SolidDrawing,
  shapedOf,
  solidInstances,
  systemMatrices,
} from '../acts'
import { boundsOf, type Frame, type Mesh, normalsFor, type PointsPart, partsOf } from '../engine'
import { type ObjectDoc, type Shot, sampleColour, sampleNumber } from '../shot'
import { BodyMesh } from './bodyMesh'
import { builtBody } from './builtBodies'
import type { GasShadow } from './gasShadow'

interface Shown {
  mesh: BodyMesh
  part: PointsPart | null
  made: string
}
interface Body {
  weight: number
  longest: number
  mesh: Mesh
  /** Null: built in. */
  object: ObjectDoc | null
}
const longestOf = (m: Mesh): number => {
  const { min, max } = boundsOf(m)
  return Math.max(...max.map((x, a) => x - min[a]))
}
/** What the particles of a look may be; objects that are gone or have no faces are none. */
function bodiesOf(shot: Shot, meshes: Meshes, d: SolidDrawing, t: number): Body[] {
  if (d.body !== 'object') return [{ weight: 1, longest: 1, mesh: builtBody(d.body), object: null }]
  return d.objects.flatMap(({ object, weight }) => {
    const o = shot.objects.find((x) => x.id === object)
    const base = o && baseMesh(o, meshes)
    if (!o || !base?.mesh.indices.length) return []
    const { mesh, at } = shapedOf(o, base, o.regions.length > 0, othersIn(shot, meshes))
    const places = at?.(t)
    const now = places && places !== mesh.positions ? { ...mesh, positions: places, normals: normalsFor(mesh, places) } : mesh
    return [{ weight, longest: longestOf(now), mesh: now, object: o }]
  })
}

/** Particles that are drawn as bodies, among the objects: in all lights, with shadows. */
export class Bodies {
  readonly group = new THREE.Group()
  private all = new Map<string, Shown>()

  constructor(
    scene: THREE.Scene,
    private readonly gasShadow: GasShadow,
  ) {
    scene.add(this.group)
  }
  /** Draws them for their depth alone. */
  renderDepth(r: THREE.WebGLRenderer, camera: THREE.Camera): void {
    if (!this.all.size) return
    const put = this.group.children.map((m) => (m as BodyMesh['mesh']).material)
    for (const { mesh } of this.all.values()) (mesh.mesh as THREE.Mesh).material = mesh.shadow
    r.render(this.group, camera)
    for (const [i, m] of this.group.children.entries()) (m as THREE.Mesh).material = put[i]
  }
  /** Makes again what has changed since the last picture; true when anything has. */
  update(shot: Shot, frame: Frame, meshes: Meshes, t: number, share: number): boolean {
    let changed = false
    const seen = new Set<string>()
    for (const part of partsOf(frame.parts, 'points')) {
      const system = shot.systems.find((s) => s.id === part.element && !s.muted)
      if (!system || !part.count) continue
      const looks = looksOf(shot, system, t, frame.parts)
      if (!looks.some((l) => l.draw.solid)) continue
      const matrices = systemMatrices(shot, system, t, meshes, frame.parts)
      const blends = system.phases.map((p) => p.blend)
      const draws = drawsByPhase(looks, system.phases.length)
      for (const { draw, phases } of looks) {
        const { solid } = draw
        if (!solid) continue
        const bodies = bodiesOf(shot, meshes, solid, t)
        const made = JSON.stringify([draws, phases, blends, matrices, share, bodies.map((b) => [b.weight, b.longest])])
        const keys = bodies.map((_, n) => `${system.id} ${phases[0]} ${n}`)
        for (const key of keys) seen.add(key)
        const same = (key: string, n: number) => {
          const old = this.all.get(key)
          return old?.part === part && old.made === made && old.mesh.source === bodies[n].mesh
        }
        if (!keys.every(same)) {
          changed = true
          const instances = solidInstances(part, { draws, blends, phases, solid, bodies, matrices, share })
          keys.forEach((key, n) => {
            const shown = this.all.get(key) ?? this.fresh()
            this.all.set(key, shown)
            Object.assign(shown, { part, made })
            shown.mesh.set(bodies[n].mesh, instances[n].data.subarray(0, instances[n].count * INSTANCE_FLOATS))
          })
        }
        keys.forEach((key, n) => {
          if (this.all.get(key)?.mesh.dress(dressOf(solid, bodies[n].object, t))) changed = true
        })
      }
    }
    for (const [key, shown] of this.all) {
      if (seen.has(key)) continue
      this.drop(shown)
      this.all.delete(key)
      changed = true
    }
    return changed
  }
  private fresh(): Shown {
    const mesh = new BodyMesh(this.gasShadow)
    this.group.add(mesh.mesh)
    return { mesh, part: null, made: '' }
  }
  private drop({ mesh }: Shown): void {
    this.group.remove(mesh.mesh)
    mesh.dispose()
  }
  dispose(): void {
    for (const s of this.all.values()) this.drop(s)
    this.all.clear()
  }
}
/** What they are made of: a built-in body as the look says, a copy as its object. */
function dressOf(d: SolidDrawing, o: ObjectDoc | null, t: number) {
  if (!o) return { colour: [1, 1, 1], glow: [0, 0, 0], roughness: d.roughness, metalness: d.metal }
  const m = o.material
  return {
    colour: sampleColour(m.colour, t),
    glow: sampleColour(m.glow, t),
    roughness: sampleNumber(m.roughness, t),
    metalness: sampleNumber(m.metal, t),
  }
}
