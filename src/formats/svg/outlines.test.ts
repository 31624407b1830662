import { describe, expect, it } from 'vitest'
import { boundsOf, isClosed, type Mesh } from '../../engine'
import { formatProblemText, inspectAsset } from '..'
import { looksLikeFont, looksLikeSvg, outlineMesh, readOutlines } from './outlines'

const bytes = (s: string) => new TextEncoder().encode(s)
const svg = (inner: string, attributes = '') =>
  bytes(`<?xml version="1.0"?>\n<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 100 100" ${attributes}>${inner}</svg>`)
const shape = { size: 2, depth: 0.5, bevel: 0, rings: 1, detail: 32 }
const built = (inner: string, s = shape): Mesh => {
  const r = readOutlines(svg(inner), s.detail)
  if (!r.ok) throw new Error(r.problem.message)
  return outlineMesh(r.value, s)
}
/** Area of the fronts, m². */
const front = (m: Mesh): number => {
  let sum = 0
  const p = m.positions
  for (let t = 0; t < m.indices.length; t += 3) {
    const [a, b, c] = [0, 1, 2].map((k) => m.indices[t + k] * 3)
    if (Math.min(p[a + 2], p[b + 2], p[c + 2]) < 0.249) continue
    sum += ((p[b] - p[a]) * (p[c + 1] - p[a + 1]) - (p[c] - p[a]) * (p[b + 1] - p[a + 1])) / 2
  }
  return sum
}
const problem = (b: Uint8Array): string => {
  const r = readOutlines(b, 8)
  return r.ok ? 'was taken' : formatProblemText(r.problem)
}

describe('drawings', () => {
  it('every basic shape has the area of its formula, stands on y = 0 and is as high as asked', () => {
    for (const [inner, area] of [
      ['<rect x="10" y="20" width="40" height="20"/>', 4 * 2],
      ['<circle cx="5" cy="5" r="20"/>', Math.PI],
      ['<ellipse cx="1" cy="2" rx="40" ry="20"/>', 2 * Math.PI],
      ['<polygon points="0,0 10,0 10,10 0,10"/>', 4],
      ['<path d="M0 0H10V10H0Z"/>', 4],
      ['<path d="M0 0 L10 0 L10 10 Z"/>', 2],
      ['<rect width="20" height="20" rx="10"/>', Math.PI],
    ] as const) {
      const m = built(inner)
      expect(front(m) / area, inner).toBeCloseTo(1, 2)
      expect(isClosed(m), inner).toBe(true)
      const b = boundsOf(m)
      expect(
        [b.min[1], b.max[1], b.max[2]].map((v) => Number(v.toFixed(5))),
        inner,
      ).toEqual([0, 2, 0.25])
      expect(b.min[0] + b.max[0]).toBeCloseTo(0, 4)
    }
  })
  it('is not upside down, and not mirrored', () => {
    // A flag: its cloth at the upper right of the pole.
    const m = built('<path d="M0 0 H40 V20 H4 V100 H0 Z"/>')
    const high = Array.from({ length: m.positions.length / 3 }, (_, v) => [m.positions[v * 3], m.positions[v * 3 + 1]]).filter(
      ([, y]) => y > 1.7,
    )
    const low = Array.from({ length: m.positions.length / 3 }, (_, v) => [m.positions[v * 3], m.positions[v * 3 + 1]]).filter(
      ([, y]) => y < 0.1,
    )
    expect(Math.max(...high.map(([x]) => x))).toBeGreaterThan(Math.max(...low.map(([x]) => x)) + 0.5)
  })
  it('holes: by either rule, and an outline that runs the same way is none unless the rule is even-odd', () => {
    const ring = (inner: string) => `M0 0H20V20H0Z ${inner}`
    const [same, other] = ['M5 5H15V15H5Z', 'M5 5V15H15V5Z']
    expect(front(built(`<path d="${ring(other)}"/>`))).toBeCloseTo(3, 3)
    expect(front(built(`<path d="${ring(same)}"/>`))).toBeCloseTo(4, 3)
    expect(front(built(`<path fill-rule="evenodd" d="${ring(same)}"/>`))).toBeCloseTo(3, 3)
    expect(front(built(`<g style="fill-rule: evenodd"><path d="${ring(same)}"/></g>`))).toBeCloseTo(3, 3)
  })
  it('transforms join through groups', () => {
    const r = readOutlines(svg('<g transform="translate(10 0) scale(2)"><rect transform="rotate(90)" width="4" height="1"/></g>'), 8)
    const c = r.ok ? r.value[0].contours[0] : []
    const xs = c.filter((_, i) => i % 2 === 0),
      ys = c.filter((_, i) => i % 2 === 1)
    expect([Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)]).toEqual([8, 10, 0, 8])
  })
  it('a part for each shape; what has no fill, and what is no shape, is left out and named', () => {
    const r = readOutlines(
      svg(
        '<rect id="Sign" width="9" height="9"/><path d="M0 0L9 9" fill="none"/><text>hello</text><use href="#Sign"/><g display="none"><rect width="1" height="1"/></g><defs><rect width="1" height="1"/></defs>',
      ),
      8,
    )
    if (!r.ok) throw new Error(r.problem.message)
    expect(r.value.map((o) => o.name)).toEqual(['Sign'])
    expect(r.notes[0]).toBe('not taken over: shapes without a fill, text (turn it into outlines first), repeated symbols')
    expect(outlineMesh(r.value, shape).parts.map((p) => p.name)).toEqual(['Sign'])
  })
  it('scripts are not run and nothing outside is loaded, entities stay as they stand', async () => {
    let ran = false
    Object.assign(globalThis, { evil: () => (ran = true) })
    const fetched: unknown[] = []
    const before = globalThis.fetch
    globalThis.fetch = ((x: unknown) => {
      fetched.push(x)
      throw new Error('no')
    }) as never
    try {
      const bomb = '<!DOCTYPE svg [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;&a;&a;&a;&a;">]>'
      const r = readOutlines(
        bytes(
          `${bomb}<svg xmlns="http://www.w3.org/2000/svg"><script>evil()</script><image href="http://example.invalid/x.png"/><rect onload="evil()" width="2" height="2"/><title>&b;</title></svg>`,
        ),
        8,
      )
      expect(r.ok && r.notes).toEqual(['not taken over: scripts, pictures'])
    } finally {
      globalThis.fetch = before
    }
    expect([ran, fetched]).toEqual([false, []])
  })
  it('what is wrong is refused with words', () => {
    expect(problem(bytes('<svg'))).toMatch(/no <svg> at its top|cannot be read/)
    expect(problem(bytes('<html></html>'))).toBe('it has no <svg> at its top')
    expect(problem(svg(''))).toBe('it has no filled shapes; lines alone have no area')
    expect(problem(svg('<path id="Tail" d="M0 0 Q oops"/>'))).toMatch(/the path “Tail” cannot be read/)
    expect(problem(svg('<rect width="NaN" height="3"/><circle r="-4"/>'))).toMatch(/no filled shapes/)
    expect(problem(svg(`${'<g>'.repeat(400)}${'</g>'.repeat(400)}`))).toMatch(/200 deep|cannot be read/)
  })
  it('files are distinguished by their content', async () => {
    expect(looksLikeSvg(svg(''))).toBe(true)
    expect(looksLikeSvg(bytes('v 0 0 0 # <svg>'))).toBe(false)
    expect(looksLikeFont(bytes('OTTO12345678'))).toBe(true)
    const drawing = await inspectAsset(svg('<rect id="Board" width="4" height="2"/>'))
    expect(drawing.ok && drawing.value).toMatchObject({ kind: 'outline', closed: true, parts: ['Board'] })
    const { readFileSync } = await import('node:fs')
    const font = await inspectAsset(new Uint8Array(readFileSync('public/fonts/figtree.woff')))
    expect(font.ok && font.value).toMatchObject({ kind: 'font', triangles: 0 })
    const broken = await inspectAsset(bytes('OTTO and nothing more than that'))
    expect(broken.ok ? '' : broken.problem.message).toMatch(/not a font/)
    const mesh = await inspectAsset(bytes('v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n'))
    expect(mesh.ok && mesh.value).toMatchObject({ kind: 'mesh', triangles: 1 })
  })
})
