import { grouped } from '../../shot'
import { defineRegion, say, word } from '../define'
import { HOW, howParams } from './common'

/**
 * One touch of the brush, in the object's own space before it is reshaped: place, radius (m), and how much it adds or, below zero, takes
 * away.
 */
export type Dab = readonly [x: number, y: number, z: number, radius: number, strength: number]

/** Smooth from 1 in the middle to 0 at the radius. */
const fall = (q: number) => (q >= 1 ? 0 : (1 - q) * (1 - q))

/**
 * What was painted in the View. Kept as touches of the brush, not as numbers of vertices: it fits any cutting of the surface, stays small
 * in the document and goes along when the object is reshaped.
 */
export const painted = defineRegion({
  kind: 'painted',
  title: 'Painted',
  help: 'Painted with a brush in the View.',
  synonyms: ['brush', 'weight paint', 'mask'],
  params: {
    dabs: { type: 'dabs', label: 'Strokes', default: [], help: 'Touches of the brush: place, radius and strength.' },
    ...howParams,
  },
  sentence: (p) =>
    say`${word(HOW[p.choice('how')], 'how')} where it is painted: ${word(touches((p.raw('dabs') as Dab[]).length), 'dabs')}.`,
  amount(p, site) {
    const amounts = paint(p.raw('dabs') as Dab[], site.rest)
    return (v) => amounts[v]
  },
})
const touches = (n: number): string => (n === 0 ? 'nothing yet' : n === 1 ? '1 touch' : `${grouped(n)} touches`)

const done = new WeakMap<readonly Dab[], { rest: Float32Array; amounts: Float32Array }>()
/** Amount of each place; touches in their order. A grid over the places keeps a long painting quick. */
export function paint(dabs: readonly Dab[], rest: Float32Array): Float32Array {
  const known = done.get(dabs)
  if (known?.rest === rest) return known.amounts
  const amounts = new Float32Array(rest.length / 3)
  const cell = Math.max(1e-6, ...dabs.map((d) => d[3]))
  const cells = new Map<string, number[]>()
  if (dabs.length) {
    for (let v = 0; v < amounts.length; v++) {
      const key = `${Math.floor(rest[v * 3] / cell)},${Math.floor(rest[v * 3 + 1] / cell)},${Math.floor(rest[v * 3 + 2] / cell)}`
      const list = cells.get(key)
      if (list) list.push(v)
      else cells.set(key, [v])
    }
  }
  for (const [x, y, z, radius, strength] of dabs) {
    const [i, j, k] = [x, y, z].map((c) => Math.floor(c / cell))
    for (let a = -1; a <= 1; a++)
      for (let b = -1; b <= 1; b++)
        for (let c = -1; c <= 1; c++) {
          for (const v of cells.get(`${i + a},${j + b},${k + c}`) ?? []) {
            const q = ((rest[v * 3] - x) ** 2 + (rest[v * 3 + 1] - y) ** 2 + (rest[v * 3 + 2] - z) ** 2) / (radius * radius)
            if (q < 1) amounts[v] = Math.min(1, Math.max(0, amounts[v] + strength * fall(q)))
          }
        }
  }
  done.set(dabs, { rest, amounts })
  return amounts
}
