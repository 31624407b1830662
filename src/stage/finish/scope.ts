import type { Scope } from '../../protocol'

/** How much of a picture is brighter than this, 0 to 1, and the brightest of it. */
export function passing(scope: Pick<Scope, 'before'>, from: number): { share: number; brightest: number } {
  let [n, brightest] = [0, 0]
  const { before: d } = scope
  for (let i = 0; i < d.length; i += 4) {
    const b = Math.max(d[i], d[i + 1], d[i + 2])
    if (b > from) n++
    if (b > brightest) brightest = b
  }
  return { share: d.length ? (n * 4) / d.length : 0, brightest }
}
/** Stops below and above white that scopes show. */
export const DARKEST = -8
export const BRIGHTEST = 4
/** Where a brightness lies between them, 0 to 1; what is darker lies at 0. */
export const stopOf = (v: number): number => Math.min(1, Math.max(0, (Math.log2(Math.max(v, 1e-9)) - DARKEST) / (BRIGHTEST - DARKEST)))
/** Counts of each channel by brightness in even steps of stops; the first holds all that is darker. */
export function histogram(scope: Pick<Scope, 'after'>, steps: number): [Uint32Array, Uint32Array, Uint32Array] {
  const out = [0, 1, 2].map(() => new Uint32Array(steps)) as [Uint32Array, Uint32Array, Uint32Array]
  const { after: d } = scope
  for (let i = 0; i < d.length; i += 4) for (let c = 0; c < 3; c++) out[c][Math.min(steps - 1, Math.floor(stopOf(d[i + c]) * steps))]++
  return out
}
/** Of each column of the picture, how often each brightness occurs in it: columns after each other, the darkest first. */
export function waveform(scope: Pick<Scope, 'after' | 'width' | 'height'>, columns: number, steps: number): Uint32Array {
  const out = new Uint32Array(columns * steps)
  const { after: d, width } = scope
  for (let i = 0, p = 0; i < d.length; i += 4, p++) {
    const l = 0.2126 * d[i] + 0.7152 * d[i + 1] + 0.0722 * d[i + 2]
    const x = Math.min(columns - 1, Math.floor(((p % width) * columns) / width))
    out[x * steps + Math.min(steps - 1, Math.floor(stopOf(l) * steps))]++
  }
  return out
}
