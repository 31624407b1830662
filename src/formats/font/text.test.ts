import { readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import { FONTS } from '../../acts'
import { boundsOf, isClosed } from '../../engine'
import { letterPlaces, readFont, type TextShape, textMesh } from './text'

const font = (file: string) => {
  const r = readFont(new Uint8Array(readFileSync(`public/fonts/${file}`)))
  if (!r.ok) throw new Error(r.problem.message)
  return r.value
}
const shape: TextShape = { text: 'Lantern', size: 1, depth: 0.2, bevel: 0.01, rings: 3, spacing: 0, leading: 1, align: 'middle', detail: 6 }

describe('text', () => {
  it.each(FONTS.map((f) => [f.name, f.file]))('in %s: every letter of the alphabet is a closed body with its holes', (_name, file) => {
    const f = font(file)
    for (const c of 'abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789&?!') {
      const { mesh, missing } = textMesh(f, { ...shape, text: c })
      expect(missing).toEqual([])
      expect(mesh.indices.length, c).toBeGreaterThan(0)
      expect(isClosed(mesh), c).toBe(true)
    }
  })
  it.each(FONTS.map((f) => [f.name, f.file]))(
    'in %s: with a rim the caps of every letter lie flat, no part of them folded over',
    (_name, file) => {
      const f = font(file)
      const folded: string[] = []
      for (const c of 'abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789&?!') {
        const { mesh } = textMesh(f, { ...shape, text: c, bevel: 0.0105, detail: 6 })
        let signed = 0,
          whole = 0
        const p = mesh.positions
        for (const part of mesh.parts.filter((x) => x.name === 'Front')) {
          for (let t = part.firstTriangle; t < part.firstTriangle + part.triangleCount; t++) {
            const [a, b, d] = [0, 1, 2].map((k) => mesh.indices[t * 3 + k] * 3)
            const area = (p[b] - p[a]) * (p[d + 1] - p[a + 1]) - (p[d] - p[a]) * (p[b + 1] - p[a + 1])
            signed += area
            whole += Math.abs(area)
          }
        }
        if (whole > signed * 1.002) folded.push(c + (whole / signed).toFixed(4))
      }
      expect(folded).toEqual([])
    },
  )
  it('is as large as it says, aligned, on its lines', () => {
    const f = font('figtree.woff')
    const b = boundsOf(textMesh(f, shape).mesh)
    expect(b.max[1] - b.min[1]).toBeLessThan(1)
    expect(b.max[2] - b.min[2]).toBeCloseTo(0.2, 6)
    expect(Math.abs(b.max[0] + b.min[0])).toBeLessThan(0.05)
    const left = boundsOf(textMesh(f, { ...shape, align: 'left' }).mesh),
      right = boundsOf(textMesh(f, { ...shape, align: 'right' }).mesh)
    expect(left.min[0]).toBeGreaterThan(-0.01)
    expect(right.max[0]).toBeLessThan(0.01)
    const two = boundsOf(textMesh(f, { ...shape, text: 'Lantern\nNight', leading: 1.5 }).mesh)
    expect(two.min[1]).toBeLessThan(-1.4)
    const wide = boundsOf(textMesh(f, { ...shape, spacing: 0.2 }).mesh)
    expect(wide.max[0] - wide.min[0] - (b.max[0] - b.min[0])).toBeCloseTo(6 * 0.2, 2)
  })
  it('each letter alone stands where it stood in the text', () => {
    const f = font('figtree.woff')
    const s = { ...shape, text: 'AVA\nIt', align: 'right' as const, spacing: 0.1 }
    const whole = boundsOf(textMesh(f, s).mesh)
    const places = letterPlaces(f, s)
    expect(places.map((p) => p.char).join('')).toBe('AVAIt')
    const each = places.map((p) => {
      const b = boundsOf(textMesh(f, { ...s, text: p.char, align: 'left' }).mesh)
      return { min: [b.min[0] + p.x, b.min[1] + p.y], max: [b.max[0] + p.x, b.max[1] + p.y] }
    })
    for (const a of [0, 1]) {
      expect(Math.min(...each.map((b) => b.min[a]))).toBeCloseTo(whole.min[a], 5)
      expect(Math.max(...each.map((b) => b.max[a]))).toBeCloseTo(whole.max[a], 5)
    }
  })
  it('names letters that the font has not, once each, and goes on', () => {
    const { mesh, missing } = textMesh(font('figtree.woff'), { ...shape, text: 'a 灯 灯 b' })
    expect(missing).toEqual(['灯'])
    expect(mesh.indices.length).toBeGreaterThan(0)
  })
  it('empty text has no faces; what is no font is refused with words', () => {
    expect(textMesh(font('figtree.woff'), { ...shape, text: ' \n ' }).mesh.indices.length).toBe(0)
    for (const bytes of [new Uint8Array(0), new Uint8Array([1, 2, 3, 4]), new TextEncoder().encode('wOF2 not here')]) {
      const r = readFont(bytes)
      expect(r.ok).toBe(false)
      if (!r.ok) expect(r.problem.message).toMatch(/^not a font that can be read: bring TTF, OTF or WOFF/)
    }
  })
})
