/** What a frame may be asked for beside its picture: channels of EXR files. */
export const PASS_NAMES = ['layers', 'unfinished', 'lights', 'emission', 'depth', 'normal', 'motion', 'id', 'masks', 'particles'] as const
export type PassName = (typeof PASS_NAMES)[number]
/** A part of a picture, pixels from its upper left corner. */
export interface Region {
  left: number
  top: number
  width: number
  height: number
}
/** What the page that draws is asked for. */
export interface Wanted {
  /** 8-bit screen values, RGBA with straight alpha. */
  screen: boolean
  /** The same as numbers from 0 to 1, for 16 bits. */
  deep: boolean
  /** Light with premultiplied alpha. */
  light: boolean
  passes: readonly PassName[]
}
