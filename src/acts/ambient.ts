import { type LightDoc, type Shot, type SkyDoc, sampleColour, sampleNumber, type Vec3 } from '../shot'

/** What even surroundings have below, of what they have above. */
const BELOW = 0.35

/** The mean radiance of the sky above, by the cosine: the irradiance of a face that lies flat, over π. */
export function skyAbove(s: SkyDoc): Vec3 {
  // Of (sin h)^k, the share of the zenith at a height h, ∫ (sin h)^k 2 sin h cos h dh = 2 / (k + 2).
  const share = 2 / (s.haze + 2)
  return s.horizon.map((h, k) => h + (s.zenith[k] - h) * share) as Vec3
}
/** The picture of light that is all around: of the lights the first that is one and has its file. It stands for the sky and the even light. */
export const aroundOf = (shot: Pick<Shot, 'lights'>): LightDoc | undefined =>
  shot.lights.find((l) => !l.muted && l.kind === 'around' && !!l.asset)
/** Radiance of the surroundings, above and below, on the mean. */
export function ambientOf(shot: Shot, t: number): { above: Vec3; below: Vec3 } {
  const around = aroundOf(shot)
  if (around) {
    const strength = sampleNumber(around.strength, t)
    const given = (c: Vec3 = [0, 0, 0]) => c.map((x) => x * strength) as Vec3
    return { above: given(around.above), below: given(around.below) }
  }
  const { sky, light } = shot.surroundings
  if (sky) {
    const share = sky.lights / 100
    const scaled = (c: Vec3) => c.map((x) => x * share) as Vec3
    return { above: scaled(skyAbove(sky)), below: scaled(sky.ground) }
  }
  const above = sampleColour(light, t)
  return { above, below: above.map((x) => x * BELOW) as Vec3 }
}
