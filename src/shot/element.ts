export const MARKS = ['clover', 'heather', 'gorse', 'sloe', 'rowan', 'birch'] as const
export type Mark = (typeof MARKS)[number]
/** What every element of a shot has. */
export interface ElementBase {
  id: string
  name: string
  muted?: boolean
  seed: number
  /** The fold of the list that it lies in. */
  folder?: string
  /** Its mark in the list. */
  mark?: Mark
}
