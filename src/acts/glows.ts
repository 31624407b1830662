import { apply, boundsOf, type Part } from '../engine'
import { findElement, type GlowDoc, type Shot, sampleVec3, type Vec3 } from '../shot'
import { baseMesh, type Meshes } from './baseMesh'
import { particleOf } from './lit'
import { othersIn } from './placed'
import { placedMatrix, posedIn, worldMatrix } from './places'
import { shapedOf } from './reshaped'
import { isLine } from './shapes'

/** Where the middle of a glow is in the shot; null where what it is stuck to is nowhere. `shot`: with its lights where they stand then. */
export function glowPlace(
  shot: Shot,
  g: Pick<GlowDoc, 'place' | 'follows' | 'which'>,
  t: number,
  meshes: Meshes,
  parts: readonly Part[],
): Vec3 | null {
  const place = sampleVec3(g.place, t)
  if (!g.follows) return place
  const object = shot.objects.find((o) => o.id === g.follows)
  if (object) return apply(placedMatrix(object, t, posedIn(parts)), ...place) as Vec3
  const light = shot.lights.find((l) => l.id === g.follows)
  const at = light ? sampleVec3(light.place, t) : particleOf(shot, g, t, meshes, parts)
  return at && ([0, 1, 2].map((a) => at[a] + place[a]) as Vec3)
}
/** The middle of an object, a system or a light in the shot; null where it is nowhere. */
export const stuckMiddle = (shot: Shot, id: string, t: number, meshes: Meshes, parts: readonly Part[]): Vec3 | null =>
  findElement(shot, id) ? glowPlace(shot, { place: [0, 0, 0], follows: id, which: 'middle' }, t, meshes, parts) : null
/** How far what a glow is stuck to reaches about its middle, m: as far it does not hide it. */
export function glowClear(shot: Shot, g: GlowDoc, t: number, meshes: Meshes): number {
  const o = shot.objects.find((x) => x.id === g.follows)
  const base = o && baseMesh(o, meshes)
  if (!o || !base?.mesh.positions.length) return 0
  const { min, max } = boundsOf(base.mesh)
  const m = worldMatrix(o, t)
  const corner = [0, 1, 2].map((a) => Math.max(Math.abs(min[a]), Math.abs(max[a])))
  return Math.hypot(...[0, 1, 2].map((k) => corner[k] * Math.hypot(m[k], m[4 + k], m[8 + k])))
}
/** The places that a line glows along, x, y, z each, in the shot; null without a path. */
export function glowLine(shot: Shot, g: GlowDoc, t: number, meshes: Meshes, parts: readonly Part[]): Float32Array | null {
  const o = shot.objects.find((x) => x.id === g.along)
  const base = o && isLine(o.shape) ? baseMesh(o, meshes) : null
  if (!o || !base) return null
  const { mesh, at } = shapedOf(o, base, false, othersIn(shot, meshes))
  const places = at?.(t) ?? mesh.positions
  const m = placedMatrix(o, t, posedIn(parts))
  const out = new Float32Array(places.length)
  for (let i = 0; i < out.length; i += 3) out.set(apply(m, places[i], places[i + 1], places[i + 2]), i)
  return out
}
