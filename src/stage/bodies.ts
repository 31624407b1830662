import * as THREE from 'three'
import {
  askedOf,
  baseMesh,
  drawnPlaces,
  drawsByPhase,
  INSTANCE_FLOATS,
  looksOf,
  type Meshes,
  othersIn,
  ownShapes,
  particleShape,
  reliefsOf,
  type SolidDrawing,
  shapedOf,
  solidInstances,
  systemMatrices,
} from '../acts'
import { boundsOf, type Frame, type Mesh, normalsFor, type PointsPart, partsOf } from '../engine'
import type { LookDoc, ObjectDoc, Shot } from '../shot'
import { BodyBatch } from './bodyBatch'
import type { Dress } from './bodyDress'
import { type BodyView, byLevel, meshesOf, piecesOf } from './bodyLevels'
import { BodyMesh } from './bodyMesh'
import { builtBody } from './builtBodies'
import type { GasShadow } from './gasShadow'
import { type Making, makingKey, makingOf, materialsOf, type PartMaterial, PLAIN, type Textures } from './textures'

/** What was made of the bodies of a look. */
interface Made {
  part: PointsPart
  made: string
  objects: Shot['objects']
  bodies: Mesh[]
  keys: { key: string; body: number; piece: number }[]
  faces: BodyFaces
}
/** Faces of the bodies of a system: of all of them, and as many as are drawn. */
export interface BodyFaces {
  whole: number
  drawn: number
}
interface Body {
  weight: number
  longest: number
  mesh: Mesh
  /** By which its levels are found: its shape at the first frame, so that they are the same whichever frame is drawn first. */
  first: Mesh
  /** Null: built in. */
  object: ObjectDoc | null
}
const longestOf = (m: Mesh): number => {
  const { min, max } = boundsOf(m)
  return Math.max(...max.map((x, a) => x - min[a]))
}
/** What the particles of a look may be; objects that are gone or have no faces are none. */
function bodiesOf(shot: Shot, meshes: Meshes, d: SolidDrawing, t: number): Body[] {
  if (d.body !== 'object') return [{ weight: 1, longest: 1, mesh: builtBody(d.body), first: builtBody(d.body), object: null }]
  return d.objects.flatMap(({ object, weight }) => {
    const o = shot.objects.find((x) => x.id === object)
    const base = o && baseMesh(o, meshes)
    if (!o || !base?.mesh.indices.length) return []
    const { mesh, at } = shapedOf(o, base, o.regions.length > 0, othersIn(shot, meshes))
    const places = at?.(t)
    const now = places && places !== mesh.positions ? { ...mesh, positions: places, normals: normalsFor(mesh, places) } : mesh
    return [{ weight, longest: longestOf(now), mesh: now, first: mesh, object: o }]
  })
}

const numbers = new WeakMap<Float32Array, number>()
let lastNumber = 0
/** The same number for the same array. */
function numberOf(a: Float32Array | undefined): number {
  if (!a) return 0
  const known = numbers.get(a)
  if (known) return known
  numbers.set(a, ++lastNumber)
  return lastNumber
}
/** Particles that are drawn as bodies, among the objects: in all lights, with shadows. */
export class Bodies {
  readonly group = new THREE.Group()
  private all = new Map<string, BodyMesh | BodyBatch>()
  private made = new Map<string, Made>()
  /** By system, of the last picture. */
  readonly faces = new Map<string, BodyFaces>()

  constructor(
    scene: THREE.Scene,
    private readonly gasShadow: GasShadow,
    private readonly textures: Textures,
  ) {
    scene.add(this.group)
  }
  /** Draws them for their depth alone. */
  renderDepth(r: THREE.WebGLRenderer, camera: THREE.Camera): void {
    if (!this.all.size) return
    const put = this.group.children.map((m) => (m as BodyMesh['mesh']).material)
    for (const { mesh, shadow } of this.all.values()) (mesh as THREE.Mesh).material = shadow
    r.render(this.group, camera)
    for (const [i, m] of this.group.children.entries()) (m as THREE.Mesh).material = put[i]
  }
  /** Makes again what has changed since the last picture; true when anything has. */
  update(shot: Shot, frame: Frame, meshes: Meshes, t: number, share: number, view: BodyView, ahead: number): boolean {
    let changed = false
    const seen = new Set<string>()
    this.faces.clear()
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
        const isOwn = solid.body === 'object' && (draw.shapes.length > 0 || solid.moment !== 'now')
        const goesByView = solid.edge > 0 || solid.outside !== null
        const asked = [...draws.flatMap((d) => d.mappings), ...draw.shapes.map((x) => x.by)].map(
          (m) => m.ask && numberOf(askedOf(part, m.ask)),
        )
        const made = JSON.stringify([
          draws,
          phases,
          blends,
          matrices,
          share,
          ahead,
          bodies.map((b) => [b.weight, b.longest, b.object ? makingKey(makingOf(b.object.material)) : '']),
          asked,
          goesByView ? view : 0,
        ])
        const key = `${system.id} ${phases[0]}`
        const old = this.made.get(key)
        const same =
          old?.part === part &&
          old.made === made &&
          (!isOwn || old.objects === shot.objects) &&
          bodies.every((b, n) => b.mesh === old.bodies[n])
        if (!same) {
          changed = true
          const instances = solidInstances(part, { draws, blends, phases, solid, bodies, matrices, share, ahead })
          const faces = { whole: 0, drawn: 0 }
          const keys: Made['keys'] = []
          for (const [n, body] of bodies.entries()) {
            const { data, count, of } = instances[n]
            const { object } = body
            const making = object ? makingOf(object.material) : PLAIN
            if (isOwn && object) {
              const own = ownShapes(
                part,
                drawnPlaces(part, reliefsOf(draws)),
                draw.shapes,
                solid,
                matrices[0],
                t,
                shot.rate.den / shot.rate.num,
              )
              const shapes = of.slice(0, count).flatMap((i, k) => {
                const mesh = particleShape(shot, meshes, object, draw.shapes, own(i))
                return mesh ? [{ mesh, of: k }] : []
              })
              piecesOf(body.first).forEach((first, piece) => {
                if (!first.indices.length) return
                const name = `${key} ${n} ${piece} own ${makingKey(making)}`
                const parts = shapes.map((x) => ({ ...x, mesh: piecesOf(x.mesh)[piece] ?? x.mesh }))
                const f = this.take(name, BodyBatch, making).set(parts, data, view, solid, first)
                faces.whole += f.whole
                faces.drawn += f.drawn
                keys.push({ key: name, body: n, piece })
              })
              continue
            }
            piecesOf(body.mesh).forEach((mesh, piece) => {
              if (!mesh.indices.length) return
              const first = piecesOf(body.first)[piece]
              faces.whole += (count * mesh.indices.length) / 3
              const levels = goesByView ? byLevel(view, mesh, first, data, count, solid) : [data.subarray(0, count * INSTANCE_FLOATS)]
              levels.forEach((own, level) => {
                const name = `${key} ${n} ${piece} ${level} ${makingKey(making)}`
                const at = level ? meshesOf(mesh, first)[level] : mesh
                faces.drawn += ((own.length / INSTANCE_FLOATS) * at.indices.length) / 3
                if (!own.length && !this.all.has(name)) return
                this.take(name, BodyMesh, making).set(at, own)
                keys.push({ key: name, body: n, piece })
              })
            })
          }
          this.made.set(key, { part, made, objects: shot.objects, bodies: bodies.map((b) => b.mesh), keys, faces })
        }
        const now = this.made.get(key)
        if (!now) continue
        const sum = this.faces.get(system.id) ?? { whole: 0, drawn: 0 }
        this.faces.set(system.id, { whole: sum.whole + now.faces.whole, drawn: sum.drawn + now.faces.drawn })
        for (const k of now.keys) {
          seen.add(k.key)
          if (this.all.get(k.key)?.dress(this.dressOf(solid, bodies[k.body], k.piece, t, shot.shared.looks))) changed = true
        }
      }
    }
    for (const [key, shown] of this.all) {
      if (seen.has(key)) continue
      this.drop(shown)
      this.all.delete(key)
      for (const [k, m] of this.made) if (m.keys.some((x) => x.key === key)) this.made.delete(k)
      changed = true
    }
    return changed
  }
  /** What is there under a name, of that kind. */
  private take<M extends BodyMesh | BodyBatch>(key: string, Kind: new (shadow: GasShadow, making: Making) => M, making: Making): M {
    const old = this.all.get(key)
    if (old instanceof Kind) return old
    if (old) this.drop(old)
    const made = new Kind(this.gasShadow, making)
    // By its system, of which the key begins with the id.
    made.mesh.name = key.slice(0, key.indexOf(' '))
    this.group.add(made.mesh)
    this.all.set(key, made)
    return made
  }
  /** What a body is made of: a built-in one as the look says, a copy as its object, with the pictures of its file. */
  private dressOf(d: SolidDrawing, { object, first }: Body, piece: number, t: number, looks: readonly LookDoc[]): Dress {
    if (!object) return { values: { colour: [1, 1, 1], glow: [0, 0, 0], roughness: d.roughness, metalness: d.metal } }
    let materials = this.materials.get(first)
    if (!materials) this.materials.set(first, (materials = materialsOf(first, this.textures)))
    return { like: materials[piece] ?? materials[0], material: object.material, t, alpha: this.alpha, looks, mesh: first }
  }
  private materials = new WeakMap<Mesh, PartMaterial[]>()
  alpha = false
  private drop(shown: BodyMesh | BodyBatch): void {
    this.group.remove(shown.mesh)
    shown.dispose()
  }
  dispose(): void {
    for (const s of this.all.values()) this.drop(s)
    this.all.clear()
  }
}
