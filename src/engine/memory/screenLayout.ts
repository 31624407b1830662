import { f32, i32, layout, u32 } from './record'

/** A picture that becomes values of a screen. */
export const SCREEN = layout({
  width: i32(),
  height: i32(),
  /** Four half floats a pixel, from the lower left: linear red, green and blue, and what is covered, premultiplied. */
  light: u32(),
  /** Four bytes a pixel, the top row first; a row is as many pixels long as the next number that four divides. */
  out: u32(),
  /** Of SCREEN_CURVE, and the factor before it. */
  curve: u32(),
  exposure: f32(),
  /** Whether alpha is kept, straight; 0: all is opaque. */
  transparent: u32(),
})
/** What light becomes, 0 to 1: the film curve is Narkowicz' (2015), the gentle one Reinhard's (2002) by brightness, with a white four stops up. */
export const SCREEN_CURVE = { film: 0, gentle: 1, straight: 2 } as const
/** The dither of a pixel is hashed of these and its number: x times `row`, plus y, from the lower left. */
export const SCREEN_DITHER = { seed: 7, channel: 3, row: 4099 } as const
