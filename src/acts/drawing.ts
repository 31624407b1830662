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
