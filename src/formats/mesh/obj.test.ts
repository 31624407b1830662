import { readFileSync } from 'node:fs'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { boundsOf, isClosed, triangleCount } from '../../engine'
import { formatProblemText, readMesh, readObj } from '..'

const good = (text: string) => {
  const r = readObj(text)
  if (!r.ok) throw new Error(formatProblemText(r.problem))
  return r
}
const wrong = (text: string): string => {
  const r = readObj(text)
  return r.ok ? 'was taken' : formatProblemText(r.problem)
}
const SQUARE = 'v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\n'
const bytes = (text: string) => new TextEncoder().encode(text)

describe('reading OBJ', () => {
  it('reads the props of the demo: closed, of the size they were made', () => {
    for (const [file, closed] of [
      ['anvil', true],
      ['stump', true],
    ] as const) {
      const { value } = good(readFileSync(`demo/anvil-strike/assets/${file}.obj`, 'utf8'))
      expect(isClosed(value)).toBe(closed)
      expect(value.normals).not.toBeNull()
    }
    const anvil = good(readFileSync('demo/anvil-strike/assets/anvil.obj', 'utf8')).value
    expect(anvil.parts.map((p) => p.name)).toContain('Top face')
    const b = boundsOf(anvil)
    expect(b.max[0] - b.min[0]).toBeGreaterThan(0.5)
  })
  it('cuts faces of many corners into a fan', () => {
    expect([...good(`${SQUARE}f 1 2 3 4`).value.indices]).toEqual([0, 1, 2, 0, 2, 3])
    expect(triangleCount(good(`${SQUARE}v 0 0 1\nf 1 2 3 4 5`).value)).toBe(3)
  })
  it('takes negative indices, texture corners, tabs, Windows line ends and comments', () => {
    const text = '# made by hand\r\nv 0\t0 0\r\nv 1 0 0\r\nv 0 1 0\r\nvt 0 0\r\nf -3/1 -2/1 -1/1\r\n'
    const r = good(text)
    expect([...r.value.indices]).toEqual([0, 1, 2])
    expect(r.value.normals).toBeNull()
    expect(r.notes).toEqual(['not taken over: texture coordinates (1)'])
  })
  it('splits a vertex that has two normals', () => {
    const r = good(`${SQUARE}vn 0 0 1\nvn 0 1 0\nf 1//1 2//1 3//1\nf 1//2 3//2 4//2`)
    expect(r.value.positions.length / 3).toBe(6)
    expect([...(r.value.normals ?? [])].slice(0, 3)).toEqual([0, 0, 1])
  })
  it('names parts by groups and objects; a name that comes again gets a number', () => {
    const r = good(`${SQUARE}g Lid\nf 1 2 3\no Base plate\nf 1 3 4\ng Lid\nf 2 3 4`)
    expect(r.value.parts).toEqual([
      { name: 'Lid', firstTriangle: 0, triangleCount: 1 },
      { name: 'Base plate', firstTriangle: 1, triangleCount: 1 },
      { name: 'Lid (2)', firstTriangle: 2, triangleCount: 1 },
    ])
  })
  it.each([
    ['v 0 0', 'line 1: “v” needs three numbers'],
    [`${SQUARE}v 1 nan 3\nf 1 2 3`, 'line 5: “nan” is not a finite number'],
    [`${SQUARE}v 1 1e999 3\nf 1 2 3`, 'line 5: “1e999” is not a finite number'],
    [`${SQUARE}f 1 2 9`, 'line 5: corner “9” names a vertex that is not there; the file has 4 so far'],
    [`${SQUARE}f 1 2 0`, 'line 5: corner “0” names a vertex that is not there; the file has 4 so far'],
    [`${SQUARE}f 1//7 2 3`, 'line 5: corner “1//7” names a normal that is not there; the file has 0 so far'],
    [`${SQUARE}f 1 2`, 'line 5: a face needs at least three corners'],
    [`${SQUARE}f 1 2 x`, 'line 5: corner “x” names a vertex that is not there; the file has 4 so far'],
    [SQUARE, 'line 4: no face: an OBJ file needs lines that begin with “f”'],
    ['<script>alert(1)</script>', 'line 1: “<script>alert(1)</script>” is not a line of an OBJ file; is this another format?'],
    ['', 'line 0: no face: an OBJ file needs lines that begin with “f”'],
  ])('refuses %j and says where', (text, message) => {
    expect(wrong(text)).toBe(message)
  })
  it('brings back whatever was written (property)', () => {
    const number = fc.double({ min: -1e6, max: 1e6, noNaN: true })
    fc.assert(
      fc.property(
        fc.array(fc.tuple(number, number, number), { minLength: 3, maxLength: 40 }),
        fc.array(fc.tuple(fc.nat(), fc.nat(), fc.nat()), { minLength: 1, maxLength: 40 }),
        (v, faces) => {
          const f = faces.map((t) => t.map((i) => i % v.length))
          const { value } = good([...v.map((p) => `v ${p.join(' ')}`), ...f.map((t) => `f ${t.map((i) => i + 1).join(' ')}`)].join('\n'))
          expect(value.indices.length).toBe(f.length * 3)
          f.flat().forEach((from, k) => {
            const at = value.indices[k] * 3
            v[from].forEach((x, a) => expect(value.positions[at + a] + 0).toBe(Math.fround(x) + 0))
          })
        },
      ),
    )
  })
  it('answers any text with a mesh or a message, never with an exception; indices stay in range (property)', () => {
    const line = fc.oneof(
      fc.constantFrom('v 0 0 0', 'v 1 2 3', 'vn 0 1 0', 'f 1 2 3', 'f 1//1 2 3', 'f -1 -2 -3', 'g a', 'o', 's off', 'usemtl x'),
      fc.string({ maxLength: 30 }),
    )
    fc.assert(
      fc.property(fc.array(line, { maxLength: 30 }), (lines) => {
        const r = readObj(lines.join('\n'))
        if (r.ok) for (const i of r.value.indices) expect(i).toBeLessThan(r.value.positions.length / 3)
        else expect(r.problem.message.length).toBeGreaterThan(5)
      }),
      { numRuns: 400 },
    )
  })
})
describe('any mesh file', () => {
  it('is known by its content, whatever its name', async () => {
    expect((await readMesh(bytes(`${SQUARE}f 1 2 3`))).ok).toBe(true)
    for (const [data, message] of [
      [new Uint8Array(0), 'the file is empty'],
      [
        bytes('\u0000PNG\r\n'),
        'not a mesh that can be read: bring GLB (glTF 2.0), OBJ, PLY, STL or VDB, or a picture (PNG, JPEG, WebP, HDR, EXR)',
      ],
      [
        bytes('{"asset":{"version":"2.0"}}'),
        'not a mesh that can be read: bring GLB (glTF 2.0), OBJ, PLY, STL or VDB, or a picture (PNG, JPEG, WebP, HDR, EXR)',
      ],
      [
        bytes('hello world'),
        'not a mesh that can be read: bring GLB (glTF 2.0), OBJ, PLY, STL or VDB, or a picture (PNG, JPEG, WebP, HDR, EXR)',
      ],
    ] as const) {
      const r = await readMesh(data)
      expect(r.ok ? '' : r.problem.message).toBe(message)
    }
  })
  it('reads text that is not UTF-8 too', async () => {
    const data = new Uint8Array([...bytes(`# caf`), 0xe9, ...bytes(`\n${SQUARE}f 1 2 3`)])
    expect((await readMesh(data)).ok).toBe(true)
  })
})
