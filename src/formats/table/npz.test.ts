import { unzipSync } from 'fflate'
import { describe, expect, it } from 'vitest'
import { npy, tableNpz } from '..'

/** What the head of an NPY says, and its numbers, read back by the format's own rules. */
function read(bytes: Uint8Array): { head: string; start: number; words: DataView } {
  expect([...bytes.subarray(0, 8)]).toEqual([0x93, 0x4e, 0x55, 0x4d, 0x50, 0x59, 1, 0])
  const length = bytes[8] + bytes[9] * 256
  const start = 10 + length
  return { head: new TextDecoder().decode(bytes.subarray(10, start)), start, words: new DataView(bytes.buffer, bytes.byteOffset + start) }
}
describe('NPZ', () => {
  it.each([0, 1, 7, 500])('an array of %i numbers: padded head that ends its line, data at a multiple of 64, every bit', (n) => {
    const data = Float32Array.from({ length: n }, (_, i) => Math.fround(Math.sin(i) * 10 ** (i % 9)))
    const { head, start, words } = read(npy(data))
    expect(start % 64).toBe(0)
    expect(head.endsWith('\n')).toBe(true)
    expect(head.trimEnd()).toBe(`{'descr': '<f4', 'fortran_order': False, 'shape': (${n},), }`)
    data.forEach((v, i) => expect(words.getFloat32(i * 4, true)).toBe(v))
  })
  it('whole numbers are unsigned, and ids beyond 2³¹ stay', () => {
    const { head, words } = read(npy(Uint32Array.of(0, 4294967295)))
    expect(head).toContain("'<u4'")
    expect(words.getUint32(4, true)).toBe(4294967295)
  })
  it.each([0, 6] as const)('a table is a zip with an array a column, the same bytes each time (level %i)', (level) => {
    const table = {
      rows: 3,
      columns: [
        { name: 'id', data: Uint32Array.of(1, 2, 3) },
        { name: 'px', data: Float32Array.of(0.1, 0.2, 0.3) },
      ],
    }
    const bytes = tableNpz(table, level)
    expect(tableNpz(table, level)).toEqual(bytes)
    const files = unzipSync(bytes)
    expect(Object.keys(files)).toEqual(['id.npy', 'px.npy'])
    expect(read(files['px.npy']).words.getFloat32(8, true)).toBe(Math.fround(0.3))
  })
})
