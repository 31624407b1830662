/** What is on the screen of a linear value: the curve of final frames (Narkowicz 2015), and sRGB; 0 to 255. */
export function screened(x: number): number {
  const v = x * 0.8
  const film = Math.min(1, Math.max(0, (v * (2.51 * v + 0.03)) / (v * (2.43 * v + 0.59) + 0.14)))
  return 255 * (film <= 0.0031308 ? film * 12.92 : 1.055 * film ** (1 / 2.4) - 0.055)
}
const TABLE = Array.from({ length: 4000 }, (_, i) => screened((i / 4000) ** 2 * 4))
const OF_BYTE = Array.from({ length: 256 }, (_, byte) => (TABLE.findIndex((v) => v >= byte - 0.5) / 4000) ** 2 * 4)
/** Linear light of a byte of a picture: what final frames' curve (Narkowicz 2015) and sRGB made of it, turned back. */
export const linear = (byte: number): number => OF_BYTE[byte]
