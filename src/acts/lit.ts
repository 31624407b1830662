import { apply, type Matrix, type Part, partOf, pointColumn } from '../engine'
import type { LightDoc, Shot, Vec3 } from '../shot'
import { sampleVec3 } from '../shot'
import type { Meshes } from './baseMesh'
import { systemMatrices } from './placed'
import { placedMatrix, posedIn } from './places'

/** Lights that shine from somewhere, in their order; what is all around is none of them. */
export const shiningLights = (shot: Pick<Shot, 'lights'>): LightDoc[] => shot.lights.filter((l) => !l.muted && l.kind !== 'around')
/** Whether a light throws a shadow. */
export const throwsShadow = (l: LightDoc): boolean => l.shadow && l.kind !== 'around'
/** Whether one picture shows all that it sees, by which its shadow falls on gases, and that of gases on objects. */
export const seesOneWay = (l: LightDoc): boolean => throwsShadow(l) && (l.kind === 'spot' || l.kind === 'sun')
/** The share of a light that an element gets, 1 for all. */
export const lightShare = (l: Pick<LightDoc, 'shares'>, element: string): number =>
  (l.shares?.find((s) => s.of === element)?.share ?? 100) / 100
/** So many lights of a shot throw shadows on objects: the first that ask. */
export const MOST_SHADOWS = 4
export const shadowLights = (shot: Pick<Shot, 'lights'>): LightDoc[] => shiningLights(shot).filter(throwsShadow).slice(0, MOST_SHADOWS)
/** The first of them, whose way through gases and tufts is followed as far as the objects behind them. */
export const shadowLight = (shot: Pick<Shot, 'lights'>): LightDoc | undefined => shadowLights(shot).find(seesOneWay)
/** Where the particles of a system are that a light goes along with, in the shot; null where nobody lives. */
export function particleOf(
  shot: Shot,
  l: Pick<LightDoc, 'follows' | 'which'>,
  t: number,
  meshes: Meshes,
  parts: readonly Part[],
): Vec3 | null {
  const system = shot.systems.find((s) => s.id === l.follows && !s.muted)
  const part = system && partOf(parts, 'points', system.id)
  if (!system || !part?.count) return null
  const [x, y, z] = (['px', 'py', 'pz'] as const).map((c) => pointColumn(part, c))
  const at: Vec3 = [0, 0, 0]
  if (l.which === 'oldest') {
    const age = pointColumn(part, 'age')
    let first = 0
    for (let i = 1; i < part.count; i++) if (age[i] > age[first]) first = i
    at[0] = x[first]
    at[1] = y[first]
    at[2] = z[first]
  } else {
    for (let i = 0; i < part.count; i++) {
      at[0] += x[i]
      at[1] += y[i]
      at[2] += z[i]
    }
    for (let a = 0; a < 3; a++) at[a] /= part.count
  }
  const [m] = systemMatrices(shot, system, t, meshes, parts)
  return m ? apply(m, ...at) : null
}
/**
 * A shot whose lights stand where what they follow has them at t: with an object they turn, a system carries them along. One that follows a
 * system in which nobody lives gives no light. The shot itself where nothing follows.
 */
export function litShot(shot: Shot, t: number, meshes: Meshes, parts: readonly Part[]): Shot {
  if (!shot.lights.some((l) => l.follows && !l.muted)) return shot
  const lights = shot.lights.map((l): LightDoc => {
    if (!l.follows || l.muted || l.kind === 'around') return l
    const [place, aim] = [sampleVec3(l.place, t), sampleVec3(l.aim, t)]
    const object = shot.objects.find((o) => o.id === l.follows)
    if (object) {
      const m: Matrix = placedMatrix(object, t, posedIn(parts))
      return { ...l, follows: null, place: apply(m, ...place), aim: apply(m, ...aim) }
    }
    const at = particleOf(shot, l, t, meshes, parts)
    if (!at) return { ...l, follows: null, strength: 0 }
    const from = (v: Vec3): Vec3 => [v[0] + at[0], v[1] + at[1], v[2] + at[2]]
    return { ...l, follows: null, place: from(place), aim: from(aim) }
  })
  return { ...shot, lights }
}
