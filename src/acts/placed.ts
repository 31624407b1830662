import { compose, type Matrix, multiply } from '../engine'
import { type Shot, sampleVec3, type SystemDoc } from '../shot'
import { worldMatrix } from './places'
import { copyMatrices } from './reshaped'

/** Where the simulated whole of a system stands at t seconds, one matrix a copy: from the space it was simulated in to the shot. */
export function systemMatrices(shot: Shot, s: SystemDoc, t: number): Matrix[] {
  const put = compose(sampleVec3(s.place, t), sampleVec3(s.rotate, t), sampleVec3(s.scale, t))
  const space = shot.objects.find((o) => o.id === s.space)
  const whole = space ? multiply(worldMatrix(space, t), put) : put
  return copyMatrices(s.copies, t).map((m) => multiply(whole, m))
}
