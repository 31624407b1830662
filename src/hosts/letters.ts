import { FONTS } from '../acts'
import { type Read, readFont, type TextMesh, textMesh } from '../formats'
import type { TextShapeDoc } from '../shot'

type Font = Parameters<typeof textMesh>[0]
const fonts = new Map<string, Font>()
/** The file of a shape's font in public/fonts. */
export const fontFile = (s: TextShapeDoc): string => (FONTS.find((f) => f.id === s.font) ?? FONTS[0]).file

/** The mesh of a text object from the bytes of its font. */
export function letters(shape: TextShapeDoc, bytes: Uint8Array): Read<TextMesh> {
  let font = fonts.get(shape.font)
  if (!font) {
    const r = readFont(bytes)
    if (!r.ok) return r
    font = r.value
    fonts.set(shape.font, font)
  }
  return { ok: true, value: textMesh(font, shape), notes: [] }
}
