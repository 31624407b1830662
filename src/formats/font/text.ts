import * as opentype from 'opentype.js'
import { type Contour, extrude, type Mesh } from '../../engine'
import { bad, type Read } from '../result'
import { plainFont } from './sfnt'

export type Font = opentype.Font
/** Bundlers take the module's own names; Node.js takes it as CommonJS, where they are members of the default. */
const { parse } = ('parse' in opentype ? opentype : (opentype as { default: unknown }).default) as Pick<typeof opentype, 'parse'>

/** What a line of letters is made from. Lengths in metres. */
export interface TextShape {
  text: string
  /** Of a line, from the font's ascender to its descender. */
  size: number
  depth: number
  bevel: number
  /** Rings of the rim. */
  rings: number
  /** Added between letters, in shares of the size. */
  spacing: number
  /** From line to line, in sizes. */
  leading: number
  align: 'left' | 'middle' | 'right'
  /** Straight pieces of a curve. */
  detail: number
}
/** Every letter's outlines, once: a font that cannot be drawn is found out when it is brought in. Throws where one is damaged. */
export function drawAll(font: Font): void {
  for (let i = 0; i < font.glyphs.length; i++) font.glyphs.get(i).getPath(0, 0, font.unitsPerEm)
}
/** TTF, OTF or WOFF (not WOFF 2). */
export function readFont(bytes: Uint8Array): Read<Font> {
  try {
    const font = parse(plainFont(bytes).buffer as ArrayBuffer)
    return font.unitsPerEm > 0 ? { ok: true, value: font, notes: [] } : bad('the font does not say its units')
  } catch (error) {
    return bad(`not a font that can be read: bring TTF, OTF or WOFF (${error instanceof Error ? error.message.split('\n')[0] : error})`)
  }
}
/** Curves cut into `n` straight pieces each; in font units, which are whole numbers, so that every machine gets the same. */
function contoursOf(font: Font, char: string, n: number): { contours: Contour[]; width: number; index: number } {
  const glyph = font.charToGlyph(char)
  const contours: Contour[] = []
  let now: Contour = []
  for (const k of glyph.getPath(0, 0, font.unitsPerEm).commands) {
    const [x0, y0] = [now[now.length - 2], now[now.length - 1]]
    if (k.type === 'M') contours.push((now = [k.x, -k.y]))
    else if (k.type === 'L') now.push(k.x, -k.y)
    else if (k.type === 'Q' || k.type === 'C') {
      for (let i = 1; i <= n; i++) {
        const t = i / n,
          s = 1 - t
        if (k.type === 'Q') now.push(s * s * x0 + 2 * s * t * k.x1 + t * t * k.x, s * s * y0 - 2 * s * t * k.y1 - t * t * k.y)
        else
          now.push(
            s * s * s * x0 + 3 * s * s * t * k.x1 + 3 * s * t * t * k.x2 + t * t * t * k.x,
            s * s * s * y0 - 3 * s * s * t * k.y1 - 3 * s * t * t * k.y2 - t * t * t * k.y,
          )
      }
    }
  }
  return { contours, width: glyph.advanceWidth, index: glyph.index }
}
export interface TextMesh {
  mesh: Mesh
  /** Letters that the font does not have; its empty box stands for them. */
  missing: string[]
}
/** Where each letter stands, in metres: its own outlines begin there when it is aligned left. White space has no place. */
export function letterPlaces(font: Font, s: TextShape): { char: string; x: number; y: number }[] {
  const { lines, scale } = layout(font, s)
  return lines.flatMap((line, row) =>
    line.letters.flatMap((l) =>
      l.char.trim() ? [{ char: l.char, x: (l.at + line.shift) * scale, y: -row * s.leading * s.size + 0 }] : [],
    ),
  )
}
/** Letters in lines, in font units. */
function layout(font: Font, s: TextShape) {
  const height = font.ascender - font.descender
  const scale = s.size / (height > 0 ? height : font.unitsPerEm)
  const gap = (s.spacing * s.size) / scale
  const lines = s.text.split('\n').map((line) => {
    const glyphs = [...line].map((c) => ({ char: c, ...contoursOf(font, c, Math.max(1, Math.round(s.detail))) }))
    let x = 0
    const letters = glyphs.map((g, i) => {
      if (i) x += font.getKerningValue(font.charToGlyph(glyphs[i - 1].char), font.charToGlyph(g.char))
      const at = x
      x += g.width + gap
      return { char: g.char, index: g.index, contours: g.contours, at }
    })
    const width = x - (glyphs.length ? gap : 0)
    return { letters, shift: s.align === 'middle' ? -width / 2 : s.align === 'right' ? -width : 0 }
  })
  return { lines, scale }
}
/** Letters as an extruded mesh; the first line's baseline is y = 0, the text runs along X and faces +Z. */
export function textMesh(font: Font, s: TextShape): TextMesh {
  const { lines, scale } = layout(font, s)
  const missing = new Set<string>()
  const all: Contour[] = []
  for (const [row, { letters, shift }] of lines.entries()) {
    for (const { char, index, contours, at } of letters) {
      if (index === 0 && char.trim()) missing.add(char)
      for (const c of contours) all.push(c.map((v, i) => (i % 2 ? v * scale - row * s.leading * s.size : (v + at + shift) * scale)))
    }
  }
  return { mesh: extrude(all, { depth: s.depth, bevel: s.bevel, steps: s.rings }), missing: [...missing] }
}
