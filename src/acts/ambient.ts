import { type LightDoc, type Shot, type SkyDoc, sampleColour, sampleNumber, type Vec3 } from '../shot'

/** What even surroundings have below, of what they have above. */
const BELOW = 0.35

/** The mean radiance of the sky above, by the cosine: the irradiance of a face that lies flat, over π. */
export function skyAbove(s: SkyDoc): Vec3 {
  // Of (sin h)^k, the share of the zenith at a height h, ∫ (sin h)^k 2 sin h cos h dh = 2 / (k + 2).
  const share = 2 / (s.haze + 2)
  const low = curtainShare(s.curtainHeight, 1)
  const top = curtainShare(s.curtainHeight, 2)
  return s.horizon.map(
    (h, k) => h + (s.zenith[k] - h) * share + (s.curtains / 100) * (low * s.curtainColour[k] + top * s.curtainTop[k]),
  ) as Vec3
}
/**
 * What curtains give above on the mean, by the cosine, of their lower and of their upper colour, by how high they hang (°): forty moments of
 * the rule of stage/sky.ts added up over the half ball.
 */
const CURTAINS = [
  [0, 0, 0],
  [4, 0.0017, 0.0021],
  [8, 0.0064, 0.0076],
  [16, 0.023, 0.0222],
  [30, 0.0529, 0.0319],
  [45, 0.0693, 0.0267],
] as const
function curtainShare(height: number, of: 1 | 2): number {
  const i = Math.max(
    1,
    CURTAINS.findIndex((r) => r[0] >= height),
  )
  const [a, b] = height >= 45 ? [CURTAINS[5], CURTAINS[5]] : [CURTAINS[i - 1], CURTAINS[i]]
  const f = b[0] > a[0] ? (height - a[0]) / (b[0] - a[0]) : 0
  return a[of] + (b[of] - a[of]) * f
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
