declare module 'opentype.js' {
  export interface Command {
    type: 'M' | 'L' | 'Q' | 'C' | 'Z'
    x: number
    y: number
    x1: number
    y1: number
    x2: number
    y2: number
  }
  export interface Glyph {
    index: number
    advanceWidth: number
    getPath(x: number, y: number, size: number): { commands: Command[] }
  }
  export interface Font {
    unitsPerEm: number
    ascender: number
    descender: number
    glyphs: { length: number; get(index: number): Glyph }
    charToGlyph(c: string): Glyph
    getKerningValue(a: Glyph, b: Glyph): number
  }
  const whole: { parse(data: ArrayBuffer): Font } | undefined
  export default whole
  export function parse(data: ArrayBuffer): Font
}
