import { OPS } from './table'

const FORCES = new Set(OPS.filter((op) => op.group === 'force').map((op) => op.code))
/** Words of ops with so much of each force; limits and all others stay as they are. */
export function scaledForces(words: Uint32Array, factor: number): Uint32Array {
  const out = words.slice()
  const shares = new Float32Array(out.buffer)
  for (let o = 0; o < out.length; o += out[o + 1] / 4) {
    if (!FORCES.has(out[o])) continue
    shares[o + 2] *= factor
    shares[o + 3] *= factor
  }
  return out
}
/** How many ops some words are. */
export function countOps(words: Uint32Array): number {
  let n = 0
  for (let o = 0; o < words.length; o += words[o + 1] / 4) n++
  return n
}
