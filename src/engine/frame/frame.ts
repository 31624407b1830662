import type { Notice } from './notice'
import { type Part, partBytes, partsOf, unknownPart } from './parts'

export interface SystemStats {
  alive: number
  born: number
  died: number
  /** With colliders, and with each other. */
  contacts: number
  /** Contacts by the id of the object. */
  with: Record<string, number>
  /** Alive in each phase, and how many took each turn in the frame; of systems with more than one phase. */
  phases?: number[]
  turns?: Record<string, number>
  /** Trails and their points, of systems that leave some. */
  trails?: { strips: number; points: number }
}
export const noStats = (): SystemStats => ({ alive: 0, born: 0, died: 0, contacts: 0, with: {} })
export interface Frame {
  frame: number
  parts: Part[]
  stats: Record<string, SystemStats>
  notices: Notice[]
  /** Time the step took, milliseconds, put in by the host; never part of the result. */
  ms: number
}
export const frameBytes = (f: Frame): number => f.parts.reduce((sum, p) => sum + partBytes(p), 256)
/** How many particles there are. */
export const aliveIn = (f: Frame): number => partsOf(f.parts, 'points').reduce((sum, p) => sum + p.count, 0)

/** How much there is to draw, in particles: without a GPU a piece of a strip costs about as much as two (4 and 1.4 µs, measured). */
export const drawnIn = (f: Frame): number => partsOf(f.parts, 'strips').reduce((sum, p) => sum + 2 * p.points, aliveIn(f))

/** A stable mark of all numbers in a frame, for comparing runs: FNV-1a over the bytes of every part, kind by kind. */
export function frameMark(f: Frame): string {
  let h = 0x811c9dc5
  const eat = (b: Uint8Array) => {
    for (let i = 0; i < b.length; i++) h = Math.imul(h ^ b[i], 0x01000193)
  }
  const text = (s: string) => eat(new TextEncoder().encode(s))
  const mark = (p: Part): void => {
    switch (p.kind) {
      case 'points':
        text(`${p.element}:${p.count};`)
        eat(new Uint8Array(p.data))
        return
      case 'strips':
        text(`${p.element} ${p.act}:${p.strips} ${p.points};`)
        eat(new Uint8Array(p.data))
        return
      case 'volume':
        text(`${p.element}:${p.tiles};`)
        eat(new Uint8Array(p.data))
        return
      case 'place':
        text(p.element)
        eat(new Uint8Array(Float64Array.from(p.matrix).buffer))
        return
      default:
        unknownPart(p)
    }
  }
  for (const kind of ['points', 'place', 'strips', 'volume'] as const) for (const p of partsOf(f.parts, kind)) mark(p)
  return (h >>> 0).toString(16).padStart(8, '0')
}
