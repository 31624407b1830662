import { builtKey, FONTS } from '../acts'
import type { Mesh } from '../engine'
import type { Font } from '../formats/font/text'
import { bad, type Read } from '../formats/result'
import type { ObjectDoc, OutlineShapeDoc, TextShapeDoc } from '../shot'

const fonts = new Map<string, Font>()
const isHash = (id: string) => /^[0-9a-f]{64}$/.test(id)

/** An object whose mesh is built from a file and its numbers: letters from a font, a body from a drawing. */
export type Built = ObjectDoc & { shape: TextShapeDoc | OutlineShapeDoc }
export const isBuilt = (o: ObjectDoc): o is Built => o.shape.kind === 'text' || o.shape.kind === 'outline'
/** Where the file of a built object lies: a font that is shipped, in public/fonts, or an asset. */
export function fileOf(o: Built): { font: string } | { asset: string } {
  if (o.shape.kind === 'outline') return { asset: o.shape.asset }
  const { font } = o.shape
  return isHash(font) ? { asset: font } : { font: (FONTS.find((f) => f.id === font) ?? FONTS[0]).file }
}
/** Its mesh from the bytes of that file, and letters that the font has not. Its reader is loaded when there is something to read. */
export async function build(o: Built, bytes: Uint8Array): Promise<Read<{ mesh: Mesh; missing: string[] }>> {
  if (o.shape.kind === 'outline') {
    const { outlineMesh, readOutlines } = await import('../formats/svg/outlines')
    const r = readOutlines(bytes, o.shape.detail)
    if (!r.ok) return r
    const mesh = outlineMesh(r.value, o.shape)
    return mesh.indices.length ? { ok: true, value: { mesh, missing: [] }, notes: r.notes } : bad('its shapes have no area')
  }
  const shape = o.shape
  const { readFont, textMesh } = await import('../formats/font/text')
  let font = fonts.get(shape.font)
  if (!font) {
    const r = readFont(bytes)
    if (!r.ok) return r
    font = r.value
    fonts.set(shape.font, font)
  }
  return { ok: true, value: textMesh(font, shape), notes: [] }
}
export { builtKey }
