import { type Shot, type SkyDoc, sampleColour, type Vec3 } from '../shot'

/** What even surroundings have below, of what they have above. */
const BELOW = 0.35

/** The mean radiance of the sky above, by the cosine: the irradiance of a face that lies flat, over π. */
export function skyAbove(s: SkyDoc): Vec3 {
  // Of (sin h)^k, the share of the zenith at a height h, ∫ (sin h)^k 2 sin h cos h dh = 2 / (k + 2).
  const share = 2 / (s.haze + 2)
  return s.horizon.map((h, k) => h + (s.zenith[k] - h) * share) as Vec3
}
/** Radiance of the surroundings, above and below, on the mean. */
export function ambientOf(shot: Shot, t: number): { above: Vec3; below: Vec3 } {
  const { sky, light } = shot.surroundings
  if (sky) {
    const share = sky.lights / 100
    const scaled = (c: Vec3) => c.map((x) => x * share) as Vec3
    return { above: scaled(skyAbove(sky)), below: scaled(sky.ground) }
  }
  const above = sampleColour(light, t)
  return { above, below: above.map((x) => x * BELOW) as Vec3 }
}
