import { boundsOf, identity, invert, type Matrix, type Mesh, multiply, normalsFor, refine, repeat, repeatedPlaces, smoothNormals } from '../engine'
import { type ActDoc, type Animated, type AnimatedVec3, changes, isVaried, type ObjectDoc, type RegionDoc } from '../shot'
import type { RegionSite } from './define'
import { worldMatrix } from './places'
import { readerOf } from './reader'
import { actOf, actOfSort } from './registry'
import type { Base } from './shapes'

/** An object's shape after all its steps. */
export interface Shaped {
  /** As it is at the shot's first frame. */
  mesh: Mesh
  /** Where the same vertices are before any step that moves points. */
  rest: Float32Array
  /** Where they are at a time; the same array for the same places. Null when it never changes. */
  at: ((t: number) => Float32Array) | null
}
/** What a region may ask of the shot. */
export type OtherOf = (id: string | null) => { object: ObjectDoc; mesh: Mesh | null } | null

const live = (acts: readonly ActDoc[]) => acts.filter((a) => !a.muted)
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
  live(acts).some((a) =>
    Object.entries(actOf(a.kind).params).some(([name, param]) => {
      if (!('animated' in param) || !param.animated) return false
      const v = a[name]
      if (param.type === 'vector') return changes(v as AnimatedVec3)
      const value = (isVaried(v) ? v.value : v) as Animated<unknown>
      return changes(value as never) || (param.type === 'number' && !!param.integrated && value !== 0)
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
  copies: readonly ActDoc[]
}
const built = new WeakMap<Mesh, Map<string, Built>>()
const KEPT = 12

function run(steps: readonly ActDoc[], b: Pick<Built, 'carries' | 'stages' | 'last' | 'copies'>, base: Float32Array, t: number): Float32Array {
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
    act.move(readerOf(a), t, p, boundsOf({ ...stage, positions: p }), a.seed, () => normalsFor(stage, before === p ? p.slice() : before) ?? smoothNormals(stage, before))
  })
  const single = b.last ? b.last(p) : p
  return b.copies.length ? repeatedPlaces(single, copyMatrices(b.copies, t)) : single
}
/** Where every copy stands: arrangements of arrangements. */
export function copyMatrices(acts: readonly ActDoc[], t: number): Matrix[] {
  let out: Matrix[] = [identity()]
  for (const a of live(acts)) {
    const next = actOfSort(a.kind, 'copies').matrices(readerOf(a), t, a.seed)
    out = next.flatMap((m) => out.map((n) => multiply(m, n))).slice(0, MOST_COPIES)
  }
  return out
}
/** Copies of copies are cut off here: a mistyped number must not fill the memory. */
const MOST_COPIES = 5000
/** A mesh of more triangles than this is not copied on. */
const MOST_TRIANGLES = 6_000_000
function build(steps: readonly ActDoc[], copies: readonly ActDoc[], base: Mesh, refined: boolean): Built {
  const b: Built = { mesh: base, rest: base.positions, carries: [], last: null, stages: [], copies: [] }
  let mesh = base
  for (const [i, a] of steps.entries()) {
    b.stages.push(mesh)
    const act = actOfSort(a.kind, 'reshape')
    if (act.rebuild) {
      const made = act.rebuild(readerOf(a), mesh)
      mesh = made.mesh
      b.rest = made.carry(b.rest)
      b.carries.push(made.carry)
    } else {
      b.carries.push(null)
      const positions = run([a], { carries: [null], stages: [mesh], last: null, copies: [] }, mesh.positions, 0)
      mesh = { ...mesh, positions, normals: normalsFor(b.stages[i], positions) }
    }
  }
  if (refined) {
    const box = boundsOf(mesh)
    const made = refine(mesh, Math.max(1e-6, ...box.max.map((v, i) => v - box.min[i])) * REFINED_EDGE, REFINED_TRIANGLES)
    mesh = made.mesh
    b.rest = made.carry(b.rest)
    b.last = made.carry
  }
  if (copies.length) {
    const all = copyMatrices(copies, 0)
    if ((mesh.indices.length / 3) * all.length <= MOST_TRIANGLES) {
      const single = mesh
      mesh = repeat(mesh, all.length)
      mesh.positions = repeatedPlaces(single.positions, all)
      // The classes of the copies are those of the one; their normals turn along.
      mesh.normals = mesh.normals && normalsFor(repeatedApart(single, all.length), mesh.positions)
      b.rest = repeatedPlaces(b.rest, all)
      b.copies = copies
    }
  }
  b.mesh = mesh
  return b
}
/** Copies side by side, so far apart that no two vertices of different copies stand on one another. */
function repeatedApart(m: Mesh, count: number): Mesh {
  const box = boundsOf(m)
  const far = 2 * (box.max[0] - box.min[0]) + 1
  const out = repeat(m, count)
  for (let c = 0; c < count; c++) for (let i = 0; i < m.positions.length; i += 3) out.positions[c * m.positions.length + i] += c * far
  return out
}
/**
 * An object's shape after its reshape steps. The same mesh for the same steps, so that the World keeps what it built for it. `refined`: with
 * long edges cut, for the amounts of regions; the surface is the same.
 */
export function shapedOf(object: ObjectDoc, from: Base | Mesh, refined: boolean): Shaped {
  const { mesh: base, at: own } = 'mesh' in from ? from : { mesh: from, at: null }
  const steps = live(object.reshape)
  const copies = live(object.copies)
  if (!steps.length && !copies.length && !refined) return { mesh: base, rest: base.positions, at: own && keeping((t) => own(t)) }
  let kept = built.get(base)
  if (!kept) built.set(base, (kept = new Map()))
  const key = `${refined} ${JSON.stringify([steps, copies])} ${valuesAt([...steps, ...copies], 0)}`
  let b = kept.get(key)
  if (!b) {
    b = build(steps, copies, base, refined)
    if (kept.size >= KEPT) kept.delete(kept.keys().next().value as string)
    kept.set(key, b)
  }
  const { mesh, rest } = b
  const all = [...steps, ...copies]
  if (!actsMove(all) && !own) return { mesh, rest, at: null }
  const whole = b
  const still = `at 0 ${valuesAt(all, 0)}`
  return {
    mesh,
    rest,
    at: keeping((t) => {
      const moved = own?.(t)
      const key = `${moved?.key ?? 'at 0'} ${valuesAt(all, t)}`
      return { key, places: () => (key === still ? mesh.positions : run(steps, whole, moved?.places() ?? base.positions, t)) }
    }),
  }
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
        const x = wrap(m.uv[v * 2]) * width - 0.5, y = wrap(m.uv[v * 2 + 1]) * height - 0.5
        const [x0, y0] = [Math.floor(x), Math.floor(y)]
        const at = (a: number, b: number) => data[((b + height) % height) * width + ((a + width) % width)]
        const [fx, fy] = [x - x0, y - y0]
        of[v] = ((at(x0, y0) * (1 - fx) + at(x0 + 1, y0) * fx) * (1 - fy) + (at(x0, y0 + 1) * (1 - fx) + at(x0 + 1, y0 + 1) * fx) * fy) / 255
      }
    }
    lights.set(m, of)
  }
  const found = of
  return found && ((v) => found[v])
}
/** Amounts of a region per vertex of the shaped mesh, as a function of time; the same array for the same amounts. */
export function regionOf(object: ObjectDoc, region: RegionDoc, shaped: Shaped, otherOf: OtherOf): (t: number) => Float32Array {
  const acts = live(region.acts)
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
      t, places, rest: shaped.rest, box: boundsOf({ ...shaped.mesh, positions: places }),
      normals: () => (normals ??= smoothNormals(shaped.mesh, places)),
      colours: shaped.mesh.colours ?? null,
      brightness: brightnessAt(shaped.mesh),
      world: around ? worldMatrix(object, t) : identity(),
      other(id) {
        const other = otherOf(id)
        const into = other && invert(worldMatrix(other.object, t))
        return into ? { into, box: other.mesh?.positions.length ? boundsOf(other.mesh) : null } : null
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
