import { encodePass } from './addColumns'
import { type Falloff, falloffIndex } from './falloff'
import { FULL } from './share'
import type { OpWriter } from './writer'

/** Towards each particle of a system near (−1: its own), `strength` m/s² of each, or of their mean. */
export function encodeSwarm(
  w: OpWriter,
  p: { system: number; reach: number; strength: number; falloff: Falloff; mean: boolean },
  seed = 0,
  share = FULL,
): void {
  const bits = new Float32Array(Uint32Array.of(falloffIndex(p.falloff), p.mean ? 1 : 0).buffer)
  const words = [p.reach * p.reach, 1 / p.reach, p.strength, bits[0], bits[1]]
  encodePass(w, { kind: 'swarm', system: p.system, radius: p.reach, words, columns: 3 }, seed, share)
}
