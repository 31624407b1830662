import {
  apply,
  boundsOf,
  compose,
  hash3,
  identity,
  invert,
  joinMeshes,
  type Matrix,
  type Mesh,
  multiply,
  normalsFor,
  repeat,
  repeatedPlaces,
  unit,
} from '../engine'
import { type ActDoc, type ObjectDoc, sampleVec3 } from '../shot'
import type { Base } from './meshFiles'
import { worldMatrix } from './places'
import { readerOf } from './reader'
import { edge } from './regions/common'
import { actOfSort } from './registry'

/** How an object finds others. */
export type OtherOf = (id: string | null) => { object: ObjectDoc; base: Base | null } | null
export const ALONE: OtherOf = () => null

/** One copy: where it stands, from the element's own space; seconds that its shape runs behind; which of the shapes it has, 0 its own. */
export interface Copy {
  matrix: Matrix
  lateS: number
  source: number
}
/** Copies of copies are cut off here: a mistyped number must not fill the memory. */
const MOST_COPIES = 5000
/** A mesh of more triangles than this is not copied on. */
const MOST_TRIANGLES = 6_000_000
const unmuted = (acts: readonly ActDoc[]) => acts.filter((a) => !a.muted)
const among = (a: ActDoc): readonly string[] => a.among as string[]

/** The other objects whose shapes the copies are picked among, each once. */
export const amongOf = (acts: readonly ActDoc[]): string[] => [...new Set(unmuted(acts).flatMap(among))]
/** All objects that arrangements of copies look at: an object's shape depends on theirs. */
export const lookedAt = (acts: readonly ActDoc[]): string[] => [
  ...new Set(unmuted(acts).flatMap((a) => [...among(a), ...(typeof a.object === 'string' ? [a.object] : [])])),
]

/** How much of its ± a copy has at a place in the element's own space. */
function withinOf(a: ActDoc, t: number, world: () => Matrix, otherOf: OtherOf): (place: readonly number[]) => number {
  if (typeof a.object !== 'string') return () => 1
  const other = otherOf(a.object)
  const into = other && invert(worldMatrix(other.object, t))
  if (!other || !into) return () => 0
  const m = multiply(into, world())
  const box = other.base?.mesh.positions.length ? boundsOf(other.base.mesh) : { min: [0, 0, 0], max: [0, 0, 0] }
  const soft = readerOf(a).number('soft', t)
  return (place) => {
    const q = apply(m, place[0], place[1], place[2])
    // Outside the box by this much, as a share of nothing: a soft edge in the other's own metres.
    const d = Math.max(...[0, 1, 2].map((i) => Math.max(box.min[i] - q[i], q[i] - box.max[i])))
    return edge(d, soft)
  }
}
/** Every copy at t: arrangements of arrangements. `world`: from the element's own space to the shot. */
export function copiesAt(acts: readonly ActDoc[], t: number, world: () => Matrix = identity, otherOf: OtherOf = ALONE): Copy[] {
  const sources = amongOf(acts)
  let out: Copy[] = [{ matrix: identity(), lateS: 0, source: 0 }]
  for (const a of unmuted(acts)) {
    const p = readerOf(a)
    const lag = p.number('lag'),
      late = p.number('late')
    const own = among(a)
    const inTurn = p.choice('pick') === 'turn'
    const next = actOfSort(a.kind, 'copies')
      .matrices(p, t, a.seed, withinOf(a, t, world, otherOf))
      .map((matrix, i): Copy => {
        const k = inTurn ? i % (own.length + 1) : Math.min(own.length, Math.floor(unit(hash3(a.seed, i, 9)) * (own.length + 1)))
        return {
          matrix,
          lateS: lag * i + late * (unit(hash3(a.seed, i, 8)) * 2 - 1),
          source: k === 0 ? 0 : sources.indexOf(own[k - 1]) + 1,
        }
      })
    out = next
      .flatMap((m) => out.map((n) => ({ matrix: multiply(m.matrix, n.matrix), lateS: m.lateS + n.lateS, source: m.source || n.source })))
      .slice(0, MOST_COPIES)
  }
  return out
}
/** Where every copy stands. */
export const copyMatrices = (acts: readonly ActDoc[], t: number, world?: () => Matrix, otherOf?: OtherOf): Matrix[] =>
  copiesAt(acts, t, world, otherOf).map((c) => c.matrix)

/** One of the shapes that are copied. */
export interface Piece {
  mesh: Mesh
  rest: Float32Array
  at(t: number): Float32Array
  /** How it is turned and scaled by itself. */
  turn(t: number): Matrix
}
export const turnOf =
  (o: ObjectDoc) =>
  (t: number): Matrix =>
    compose([0, 0, 0], sampleVec3(o.rotate, t), sampleVec3(o.scale, t))
export interface Copied {
  mesh: Mesh
  rest: Float32Array
}
const bySource = (pieces: readonly Piece[], copies: readonly Copy[]): number[][] =>
  pieces.map((_, s) => copies.flatMap((c, i) => (c.source === s ? [i] : [])))
/** Places of all copies at t, those of one shape together. `many`: which copies have which shape, as at the first frame. */
function placesAt(
  pieces: readonly Piece[],
  many: readonly (readonly number[])[],
  copies: readonly Copy[],
  t: number,
  of: (p: Piece, t: number) => Float32Array,
): Float32Array {
  const lists = pieces.map((piece, s) => {
    const known = new Map<number, Float32Array>()
    return many[s].map((c) => {
      const copy = copies[c]
      const when = t - copy.lateS
      let places = known.get(when)
      if (!places) known.set(when, (places = of(piece, when)))
      return repeatedPlaces(places, [s === 0 ? copy.matrix : multiply(copy.matrix, piece.turn(when))])
    })
  })
  const all = lists.flat()
  const out = new Float32Array(all.reduce((n, x) => n + x.length, 0))
  let o = 0
  for (const x of all) {
    out.set(x, o)
    o += x.length
  }
  return out
}
/** All copies as one mesh; null when there would be too many triangles. */
export function copyAll(pieces: readonly Piece[], copiesNow: (t: number) => Copy[]): Copied | null {
  const first = copiesNow(0)
  const many = bySource(pieces, first)
  if (pieces.reduce((n, p, s) => n + (p.mesh.indices.length / 3) * many[s].length, 0) > MOST_TRIANGLES) return null
  const parts = pieces.flatMap((p, s) => (many[s].length ? [repeat(p.mesh, many[s].length)] : []))
  const mesh = joinMeshes(parts)
  mesh.positions = placesAt(pieces, many, first, 0, (p, t) => p.at(t))
  // The classes of the copies are those of the one; their normals turn along.
  mesh.normals = mesh.normals && normalsFor(joinMeshes(apart(pieces, many)), mesh.positions)
  return { mesh, rest: placesAt(pieces, many, first, 0, (p) => p.rest) }
}
/** Where the vertices of all copies are at a time, in the order of their mesh. */
export function copyPlaces(pieces: readonly Piece[], copiesNow: (t: number) => Copy[]): (t: number) => Float32Array {
  const many = bySource(pieces, copiesNow(0))
  return (t) => placesAt(pieces, many, copiesNow(t), t, (p, when) => p.at(when))
}
/** Copies side by side, so far apart that no two vertices of different copies stand on one another. */
function apart(pieces: readonly Piece[], many: readonly (readonly number[])[]): Mesh[] {
  let from = 0
  return pieces.flatMap((p, s) => {
    if (!many[s].length) return []
    const box = boundsOf(p.mesh)
    const far = 2 * (box.max[0] - box.min[0]) + 1
    const out = repeat(p.mesh, many[s].length)
    for (let c = 0; c < many[s].length; c++, from += far)
      for (let i = 0; i < p.mesh.positions.length; i += 3) out.positions[c * p.mesh.positions.length + i] += from - box.min[0]
    return [out]
  })
}
