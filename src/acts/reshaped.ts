import {
  type Bounds,
  boundsOf,
  identity,
  invert,
  type Matrix,
  type Mesh,
  movedMesh,
  normalsFor,
  refine,
  samePlaces,
  smoothNormals,
} from '../engine'
import { type ActDoc, type AnimatedVec3, changes, isVaried, type ObjectDoc, type RegionDoc } from '../shot'
import { ALONE, amongOf, type Copied, copiesAt, copyAll, copyPlaces, lookedAt, type OtherOf, type Piece, turnOf } from './copied'
import type { RegionSite } from './define'
import type { Base } from './meshFiles'
import { worldMatrix } from './places'
import { readerOf } from './reader'
import { actOf, actOfSort } from './registry'

/** An object's shape after all its steps. */
export interface Shaped {
  /** As it is at the shot's first frame. */
  mesh: Mesh
  /** Where the same vertices are before any step that moves points. */
  rest: Float32Array
  /** Where they are at a time; the same array for the same places. Null when it never changes. */
  at: ((t: number) => Float32Array) | null
}
const unmuted = (acts: readonly ActDoc[]) => acts.filter((a) => !a.muted)
/** Values of acts at a time, as a text to compare. */
function valuesAt(acts: readonly ActDoc[], t: number): string {
  const out: unknown[] = []
  for (const a of acts) {
    const p = readerOf(a)
    for (const [name, param] of Object.entries(actOf(a.kind).params)) {
      if (!('animated' in param) || !param.animated) continue
      if (param.type === 'number') out.push('integrated' in param && param.integrated ? p.integral(name, t) : p.number(name, t))
      else if (param.type === 'vector') out.push(...p.vector(name, t))
      else if (param.type === 'colour') out.push(...p.colour(name, t))
      else if (param.type === 'switch') out.push(p.on(name, t))
      else out.push(p.choice(name, t))
    }
  }
  return out.join()
}
/** Whether acts give something else at another time. */
export const actsMove = (acts: readonly ActDoc[]): boolean =>
  unmuted(acts).some((a) =>
    Object.entries(actOf(a.kind).params).some(([name, param]) => {
      if (!('animated' in param) || !param.animated) return false
      const v = a[name]
      if (param.type === 'vector') return changes(v as AnimatedVec3)
      const value = isVaried(v) ? v.value : v
      return changes(value) || (param.type === 'number' && !!param.integrated && value !== 0)
    }),
  )

/** Edges of a mesh with regions are cut to this share of its longest side, so that amounts of its corners can draw a soft edge. */
const REFINED_EDGE = 1 / 48
const REFINED_TRIANGLES = 60000
interface Built {
  mesh: Mesh
  rest: Float32Array
  /** One for each live step: new places for the vertices as they come to it. */
  carries: (((p: Float32Array) => Float32Array) | null)[]
  /** A last carry, of the refinement. */
  last: ((p: Float32Array) => Float32Array) | null
  /** The mesh as it comes to each step: for normals. */
  stages: Mesh[]
}
const built = new WeakMap<Mesh, Map<string, unknown>>()
const KEPT = 12

/** The box of places before a step moves them, for one that asks. */
function lazyBounds(stage: Mesh, places: Float32Array): Bounds {
  let made: Bounds | null = null
  // Steps move the places that they are given; whoever asks does it first.
  const bounds = () => (made ??= boundsOf({ ...stage, positions: places }))
  return {
    get min() {
      return bounds().min
    },
    get max() {
      return bounds().max
    },
  }
}
const normalsKept = new WeakMap<Mesh, { places: Float32Array; normals: Float32Array }>()
/** The normals of places of a mesh; those of the last places are kept, which are mostly the same from substep to substep. */
function keptNormals(stage: Mesh, places: Float32Array): Float32Array {
  const last = normalsKept.get(stage)
  if (last && samePlaces(last.places, places)) return last.normals
  const normals = normalsFor(stage, places) ?? smoothNormals(stage, places)
  normalsKept.set(stage, { places: places.slice(), normals })
  return normals
}

function run(steps: readonly ActDoc[], b: Pick<Built, 'carries' | 'stages' | 'last'>, base: Float32Array, t: number): Float32Array {
  let p = base
  let owned = false
  steps.forEach((a, i) => {
    const carry = b.carries[i]
    if (carry) {
      p = carry(p)
      owned = true
      return
    }
    const act = actOfSort(a.kind, 'reshape')
    if (!act.move) return
    const stage = b.stages[i]
    const before = p
    if (!owned) p = p.slice()
    owned = true
    act.move(readerOf(a), t, p, lazyBounds(stage, p), a.seed, () => keptNormals(stage, before === p ? p.slice() : before))
  })
  return b.last ? b.last(p) : p
}
function build(steps: readonly ActDoc[], base: Mesh, refined: boolean): Built {
  const b: Built = { mesh: base, rest: base.positions, carries: [], last: null, stages: [] }
  let mesh = base
  for (const a of steps) {
    b.stages.push(mesh)
    const act = actOfSort(a.kind, 'reshape')
    if (act.rebuild) {
      const made = act.rebuild(readerOf(a), mesh)
      mesh = made.mesh
      b.rest = made.carry(b.rest)
      b.carries.push(made.carry)
    } else {
      b.carries.push(null)
      const positions = run([a], { carries: [null], stages: [mesh], last: null }, mesh.positions, 0)
      mesh = movedMesh(mesh, positions)
    }
  }
  if (refined) {
    const box = boundsOf(mesh)
    const made = refine(mesh, Math.max(1e-6, ...box.max.map((v, i) => v - box.min[i])) * REFINED_EDGE, REFINED_TRIANGLES)
    mesh = made.mesh
    b.rest = made.carry(b.rest)
    b.last = made.carry
  }
  b.mesh = mesh
  return b
}
/**
 * An object's shape after its reshape steps and with its copies. The same mesh for the same steps, so that the World keeps what it built
 * for it. `refined`: with long edges cut, for the amounts of regions; the surface is the same.
 */
export function shapedOf(object: ObjectDoc, from: Base | Mesh, refined: boolean, otherOf: OtherOf = ALONE): Shaped {
  const base: Base = 'mesh' in from ? from : { mesh: from, at: null }
  const single = reshapedOf(unmuted(object.reshape), base, refined)
  const copies = unmuted(object.copies)
  return copies.length ? copiedOf(object, copies, base, refined, single, otherOf) : single
}
function reshapedOf(steps: readonly ActDoc[], { mesh: base, at: own }: Base, refined: boolean): Shaped {
  if (!steps.length && !refined) return { mesh: base, rest: base.positions, at: own && keeping((t) => own(t)) }
  const b = keptFor(base, `${refined} ${JSON.stringify(steps)} ${valuesAt(steps, 0)}`, () => build(steps, base, refined)) as Built
  const { mesh, rest } = b
  if (!actsMove(steps) && !own) return { mesh, rest, at: null }
  const still = `at 0 ${valuesAt(steps, 0)}`
  return {
    mesh,
    rest,
    at: keeping((t) => {
      const moved = own?.(t)
      const key = `${moved?.key ?? 'at 0'} ${valuesAt(steps, t)}`
      return { key, places: () => (key === still ? mesh.positions : run(steps, b, moved?.places() ?? base.positions, t)) }
    }),
  }
}
function copiedOf(object: ObjectDoc, copies: readonly ActDoc[], base: Base, refined: boolean, single: Shaped, otherOf: OtherOf): Shaped {
  const others = amongOf(copies).flatMap((id) => {
    const other = id === object.id ? null : otherOf(id)
    return [other?.base ? { object: other.object, shaped: reshapedOf(unmuted(other.object.reshape), other.base, refined) } : null]
  })
  // One whose shape is not there, or not yet, is stood in for by the object itself.
  const pieces: Piece[] = [single, ...others.map((o) => o?.shaped ?? single)].map((s, i) => {
    const other = i > 0 ? others[i - 1] : null
    return { mesh: s.mesh, rest: s.rest, at: (t) => s.at?.(t) ?? s.mesh.positions, turn: other ? turnOf(other.object) : () => identity() }
  })
  const looked = lookedAt(copies)
  const placeOf = (id: string, t: number): string => {
    const other = otherOf(id)
    return other ? worldMatrix(other.object, t).join() : ''
  }
  const standing = (t: number): string =>
    `${valuesAt(copies, t)}${looked.length ? ` ${worldMatrix(object, t).join()} ${looked.map((id) => placeOf(id, t)).join(' ')}` : ''}`
  const at = (t: number) => copiesAt(copies, t, () => worldMatrix(object, t), otherOf)
  const all = keptFor(base.mesh, `copies ${JSON.stringify(copies)} ${pieces.map((p) => numberOf(p.mesh)).join()} ${standing(0)}`, () =>
    copyAll(pieces, at),
  ) as Copied | null
  if (!all) return single
  const { mesh, rest } = all
  const moving = pieces.some((_, i) => (i === 0 ? single : others[i - 1]?.shaped)?.at)
  if (!moving && !actsMove(copies) && !looked.length) return { mesh, rest, at: null }
  // The places come from the pieces of now, not from those of the mesh that was kept: their values may have been tied again.
  const own = copyPlaces(pieces, at)
  const still = standing(0)
  return {
    mesh,
    rest,
    at: keeping((t) => {
      const key = `${standing(t)}${moving ? ` ${t}` : ''}`
      return { key, places: () => (key === still ? mesh.positions : own(t)) }
    }),
  }
}
function keptFor(base: Mesh, key: string, make: () => unknown): unknown {
  let kept = built.get(base)
  if (!kept) built.set(base, (kept = new Map()))
  if (!kept.has(key)) {
    const made = make()
    if (kept.size >= KEPT) kept.delete(kept.keys().next().value as string)
    kept.set(key, made)
  }
  return kept.get(key)
}
const numbers = new WeakMap<Mesh, number>()
let meshes = 0
/** A number for each mesh, to tell whether two are the same one. */
function numberOf(m: Mesh): number {
  let n = numbers.get(m)
  if (n === undefined) numbers.set(m, (n = ++meshes))
  return n
}
/** Keeps the last places: a substep asks for both its ends, the next one for the later of them again. */
function keeping(at: (t: number) => { key: string; places(): Float32Array }): (t: number) => Float32Array {
  const memo: { key: string; places: Float32Array }[] = []
  return (t) => {
    const { key, places } = at(t)
    const known = memo.find((m) => m.key === key)
    if (known) return known.places
    const made = places()
    memo.push({ key, places: made })
    if (memo.length > 3) memo.shift()
    return made
  }
}

const lights = new WeakMap<Mesh, Float32Array | null>()
/** Light of a mesh's textures at its vertices, between pixels evenly; places beyond a picture's edge come in again on the other side. */
function brightnessAt(m: Mesh): ((v: number) => number) | null {
  let of = lights.get(m)
  if (of === undefined) {
    of = null
    for (const t of m.textures ?? []) {
      const part = m.parts.find((p) => p.name === t.part)
      if (!part || !t.brightness || !m.uv) continue
      of ??= new Float32Array(m.positions.length / 3)
      const { width, height, data } = t.brightness
      for (let i = part.firstTriangle * 3; i < (part.firstTriangle + part.triangleCount) * 3; i++) {
        const v = m.indices[i]
        const wrap = (x: number) => x - Math.floor(x)
        const x = wrap(m.uv[v * 2]) * width - 0.5,
          y = wrap(m.uv[v * 2 + 1]) * height - 0.5
        const [x0, y0] = [Math.floor(x), Math.floor(y)]
        const at = (a: number, b: number) => data[((b + height) % height) * width + ((a + width) % width)]
        const [fx, fy] = [x - x0, y - y0]
        of[v] =
          ((at(x0, y0) * (1 - fx) + at(x0 + 1, y0) * fx) * (1 - fy) + (at(x0, y0 + 1) * (1 - fx) + at(x0 + 1, y0 + 1) * fx) * fy) / 255
      }
    }
    lights.set(m, of)
  }
  const found = of
  return found && ((v) => found[v])
}
/** Amounts of a region per vertex of the shaped mesh, as a function of time; the same array for the same amounts. */
export function regionOf(object: ObjectDoc, region: RegionDoc, shaped: Shaped, otherOf: OtherOf): (t: number) => Float32Array {
  const acts = unmuted(region.acts)
  const around = acts.some((a) => actOfSort(a.kind, 'region').looksAround?.(readerOf(a)))
  let last: { key: string; places: Float32Array; amounts: Float32Array } | null = null
  const matrixOf = (id: string | null, t: number): Matrix | null => {
    const other = otherOf(id)
    return other && worldMatrix(other.object, t)
  }
  return (t) => {
    const places = shaped.at ? shaped.at(t) : shaped.mesh.positions
    const key = `${valuesAt(acts, t)}${around ? ` ${worldMatrix(object, t).join()} ${acts.map((a) => matrixOf(typeof a.object === 'string' ? a.object : null, t)?.join()).join()}` : ''}`
    if (last && last.key === key && last.places === places) return last.amounts
    let normals: Float32Array | null = null
    const site: RegionSite = {
      t,
      places,
      rest: shaped.rest,
      box: lazyBounds(shaped.mesh, places),
      normals: () => (normals ??= smoothNormals(shaped.mesh, places)),
      colours: shaped.mesh.colours ?? null,
      brightness: brightnessAt(shaped.mesh),
      world: around ? worldMatrix(object, t) : identity(),
      other(id) {
        const other = otherOf(id)
        const into = other && invert(worldMatrix(other.object, t))
        return into ? { into, box: other.base?.mesh.positions.length ? boundsOf(other.base.mesh) : null } : null
      },
    }
    const count = places.length / 3
    const amounts = new Float32Array(count)
    acts.forEach((a, i) => {
      const p = readerOf(a)
      const how = p.choice('how')
      if (i === 0 && how !== 'also') amounts.fill(1)
      const amount = actOfSort(a.kind, 'region').amount(p, site, a.seed)
      for (let v = 0; v < count; v++) {
        const x = amount(v)
        amounts[v] = how === 'also' ? Math.max(amounts[v], x) : amounts[v] * (how === 'not' ? 1 - x : x)
      }
    })
    last = { key, places, amounts }
    return amounts
  }
}
