import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { pack, unpack } from './pack'

describe('packing', () => {
  it('gives back records with typed arrays of every kind, deep inside, empty ones too (property)', () => {
    fc.assert(
      fc.property(
        fc.array(fc.float({ noNaN: true }), { maxLength: 9 }),
        fc.array(fc.nat(65535), { maxLength: 9 }),
        fc.string(),
        (f, u, name) => {
          const value = {
            name,
            list: [{ a: new Float32Array(f), none: null }, new Uint16Array(u), new Uint8Array(u)],
            deep: { b: new Uint32Array(u), n: 3 },
          }
          expect(unpack(pack(value))).toEqual(value)
        },
      ),
    )
  })
  it('reads from the middle of a larger buffer', () => {
    const bytes = pack({ a: new Float32Array([1.5, -0]) })
    const larger = new Uint8Array(bytes.length + 7)
    larger.set(bytes, 5)
    expect(unpack(larger.subarray(5, 5 + bytes.length))).toEqual({ a: new Float32Array([1.5, -0]) })
  })
})
