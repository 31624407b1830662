/** How much of an op each particle feels: a share with its ±, drawn by the seed of the op. */
export interface Share {
  value: number
  vary: number
}
export const FULL: Share = { value: 1, vary: 0 }
