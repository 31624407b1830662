import { frameAt, framesPerSecond, type MeshShape, type Shot } from '../shot'

/** How the pictures of a plate and the frames of a shot go together. */
export interface PlateTiming {
  pictures: number
  /** Frames of the shot at which its first and its last picture are shown. */
  begins: number
  ends: number
  /** Pictures are left out, or shown twice. */
  odd: boolean
  /** Its last picture stands still before the shot ends. */
  short: boolean
  /** Frame by frame, from the first to the last. */
  matched: boolean
}
export function plateTiming(shape: MeshShape, shot: Pick<Shot, 'rate' | 'range'>): PlateTiming {
  const pictures = shape.poses.length + 1
  const rate = framesPerSecond(shot)
  const begins = frameAt(shot, shape.start)
  const ends = Math.round(begins + (pictures * rate) / (shape.rate * shape.speed)) - 1
  const odd = Math.abs(shape.rate * shape.speed - rate) > 1e-3
  const matched = !odd && shape.start === 0 && pictures === shot.range.last - shot.range.first + 1
  return { pictures, begins, ends, odd, short: shape.after === 'hold' && ends < shot.range.last, matched }
}
/** A rate as a fraction: whole, or a thousandth below a whole one as films on television have it (24 becomes 23.976), else to a thousandth. */
export function fractionOf(rate: number): Shot['rate'] {
  if (Math.abs(rate - Math.round(rate)) < 1e-6) return { num: Math.round(rate), den: 1 }
  const whole = Math.round((rate * 1001) / 1000)
  if (Math.abs((whole * 1000) / 1001 - rate) < 1e-3) return { num: whole * 1000, den: 1001 }
  return { num: Math.round(rate * 1000), den: 1000 }
}
/** Makes a shot as long and as fast as the plate that one of its objects is. */
export function matchPlate(s: Shot, object: string): void {
  const shape = s.objects.find((o) => o.id === object)?.shape
  if (shape?.kind !== 'mesh' || !shape.poses.length) return
  s.rate = fractionOf(shape.rate)
  s.range.last = s.range.first + shape.poses.length
  Object.assign(shape, { start: 0, speed: 1 })
}
