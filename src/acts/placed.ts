import { compose, type Matrix, multiply, type Part } from '../engine'
import { type Shot, type SystemDoc, sampleVec3 } from '../shot'
import { baseMesh, type Meshes } from './baseMesh'
import { copyMatrices, type OtherOf } from './copied'
import { placedMatrix, posedIn } from './places'

const NONE: Meshes = new Map()
/** Where the simulated whole of a system stands at t seconds, one matrix a copy: from the space it was simulated in to the shot. */
export function systemMatrices(shot: Shot, s: SystemDoc, t: number, meshes: Meshes = NONE, parts: readonly Part[] = []): Matrix[] {
  const put = compose(sampleVec3(s.place, t), sampleVec3(s.rotate, t), sampleVec3(s.scale, t))
  const space = shot.objects.find((o) => o.id === s.space)
  const whole = space ? multiply(placedMatrix(space, t, posedIn(parts)), put) : put
  return copyMatrices(s.copies, t, () => whole, othersIn(shot, meshes)).map((m) => multiply(whole, m))
}
/** How the acts of an object find the others of its shot. */
export const othersIn =
  (shot: Shot, meshes: Meshes): OtherOf =>
  (id) => {
    const object = shot.objects.find((o) => o.id === id && !o.muted)
    return object ? { object, base: baseMesh(object, meshes) } : null
  }
