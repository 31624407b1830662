import { CLOUD_BALL, hasColumn, hash3, MARCH_SAMPLES, type MarchLook, type Matrix, type PointsPart, pointColumn, unit } from '../engine'
import type { Shot, SystemDoc } from '../shot'
import { asksKernels } from './asks'
import type { TuftDrawing } from './drawing'
import { type Draw, drawsOf, partLooks, reliefsOf } from './look'
import { lookTable, sampleLook } from './lookTables'
import { drawnPlaces } from './reliefs'

/** Whether pictures of a shot need kernels: for gases, for particles that are lit as these are, that hide each other, or are asked what frames do not keep. */
export function drawnByKernels(shot: Shot): boolean {
  const known = needKernels.get(shot)
  if (known !== undefined) return known
  const hides = (s: SystemDoc) => drawsOf(shot, s, 0).some((d) => d.tuft || (d.inside === 'normal' && !d.solid))
  const need = shot.gases.length > 0 || shot.systems.some((s) => hides(s) || asksKernels(s))
  needKernels.set(shot, need)
  return need
}
const needKernels = new WeakMap<Shot, boolean>()

const ONES = new Float32Array(MARCH_SAMPLES).fill(1)
/** How tufts dim and scatter; their colour is each one's own. */
export const tuftLook = (d: TuftDrawing): MarchLook => ({
  tops: [1, 1, 1, 1, 1],
  smoke: {
    ...{ by: 0, tone: ONES, extinction: 1, albedo: [1, 1, 1], forward: d.forward, even: 0.4, shade: d.shade, again: d.again },
  },
  glow: null,
})
/** By how much a matrix of three rows of four makes lengths longer, on the mean of its axes. */
const scaleOf = (m: Matrix): number =>
  Math.cbrt(Math.abs(m[0] * (m[5] * m[10] - m[6] * m[9]) - m[1] * (m[4] * m[10] - m[6] * m[8]) + m[2] * (m[4] * m[9] - m[5] * m[8])))

/**
 * The particles of a part that are tufts, as soft balls in the shot: CLOUD_BALL floats each, as many as `count` says, for each copy of their system.
 * `blends`: seconds over which each phase sets in. `colour`: the mean of theirs, each by what it dims.
 */
export function tuftBalls(
  part: PointsPart,
  draws: readonly Draw[],
  blends: readonly number[],
  matrices: readonly Matrix[],
): { count: number; balls: Float32Array; colour: [number, number, number] } {
  const balls = new Float32Array(part.count * matrices.length * CLOUD_BALL)
  const at = drawnPlaces(part, reliefsOf(draws))
  const phase = pointColumn(part, 'phase')
  let count = 0
  const sum = [0, 0, 0, 0]
  for (const m of matrices) {
    const scale = scaleOf(m)
    const sized = sizedOf(part, draws, blends, m)
    for (let i = 0; i < part.count; i++) {
      const tuft = draws[phase[i]]?.tuft
      if (!tuft) continue
      const { size, opacity, colour } = sized(i)
      const depth = tuft.thickness * opacity
      if (!(size > 0 && depth > 0)) continue
      const o = count++ * CLOUD_BALL
      const [x, y, z] = [at.x[i], at.y[i], at.z[i]]
      balls[o] = m[0] * x + m[1] * y + m[2] * z + m[3]
      balls[o + 1] = m[4] * x + m[5] * y + m[6] * z + m[7]
      balls[o + 2] = m[8] * x + m[9] * y + m[10] * z + m[11]
      balls[o + 3] = 0.5 * size * scale
      balls[o + 4] = depth
      const dims = size * size * depth
      for (let c = 0; c < 3; c++) sum[c] += colour[c] * dims
      sum[3] += dims
    }
  }
  return { count, balls, colour: [0, 1, 2].map((c) => (sum[3] > 0 ? sum[c] / sum[3] : 1)) as [number, number, number] }
}
/** Size, opacity and colour of each particle: most have but curves over life, which is quick. A colour that was taken over counts in the picture alone. */
function sizedOf(
  part: PointsPart,
  draws: readonly Draw[],
  blends: readonly number[],
  m: Matrix,
): (i: number) => { size: number; opacity: number; colour: readonly number[] } {
  if (draws.some((d) => d.mappings.length) || blends.some((b) => b > 0) || hasColumn(part, 'size')) return partLooks(part, draws, blends, m)
  const [age, life, seed, phase] = (['age', 'life', 'seed', 'phase'] as const).map((n) => pointColumn(part, n))
  const tables = draws.map((d) => Array.from({ length: 257 }, (_, i) => sampleLook(lookTable(d.look), i / 256)))
  const out = { size: 0, opacity: 0, colour: [0, 0, 0] }
  return (i) => {
    const k = phase[i] < draws.length ? phase[i] : 0
    const d = draws[k]
    const at = life[i] > 0 ? Math.min(1, Math.max(0, age[i] / life[i])) : 1
    const row = tables[k][Math.round(at * 256)]
    out.size = Math.max(0, d.size + (d.sizeVary ? d.sizeVary * (unit(hash3(d.sizeSeed, seed[i], 20)) * 2 - 1) : 0)) * row[4]
    out.opacity = row[3] * d.opacity
    for (let c = 0; c < 3; c++) out.colour[c] = row[c] * d.brightness
    return out
  }
}
