/** How the particles of a phase are drawn, as its look acts say. */
export interface Drawing {
  shape: 'dot' | 'dash' | 'flake'
  /** Of flakes: length over width; the rest 0 to 1, but for the glint. */
  flake: { length: number; round: number; shade: number; back: number; glint: number } | null
  /** 0 to 1 */
  softness: number
  /** seconds of motion */
  dashS: number
  /** 0 to 1 */
  taper: number
  /** metres */
  size: number
  sizeVary: number
  sizeSeed: number
  brightness: number
  /** 0 to 1 */
  opacity: number
  inside: 'add' | 'normal'
  onto: 'add' | 'normal'
  /** The id of the shared look; null: plain white. */
  look: string | null
}

/** How strips are drawn, as the act that leaves them says. */
export interface StripDrawing {
  /** A soft line, a sharp ribbon to the camera, a flat one in the world, a round tube. */
  as: 'line' | 'ribbon' | 'band' | 'tube'
  /** metres */
  width: number
  /** What a flat one faces, in its own space. */
  normal: readonly [number, number, number]
  /** 0 to 1 */
  softness: number
  brightness: number
  /** 0 to 1 */
  opacity: number
  /** Times colour, opacity and relative size of the particle. */
  own: boolean
  blend: 'add' | 'normal'
  /** Repeats along the way: every so many metres, so much of it drawn (0 to 1), moved on by so many metres; with soft ends or hard ones. */
  pattern: { period: number; filled: number; shift: number; soft: boolean } | null
  /** A glow at the leading end: how wide (m), how bright, and how many rays. */
  head: { size: number; brightness: number; rays: number } | null
  /** What each generation has of the width and brightness of the one before. */
  generations?: { width: number; brightness: number }
  /** The id of the shared look along it, from head to end; null: it fades and thins. */
  look: string | null
}
