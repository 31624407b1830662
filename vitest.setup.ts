import { expect } from 'vitest'

// Pictures and columns of particles that are the same byte by byte are equal: to look at them value by value takes a thousand times as long. Where
// they differ the usual comparison says how.
expect.addEqualityTesters([
  (a, b) => {
    if (!ArrayBuffer.isView(a) || !ArrayBuffer.isView(b) || a.constructor !== b.constructor || a.byteLength !== b.byteLength)
      return undefined
    const bytes = (v: ArrayBufferView) => Buffer.from(v.buffer, v.byteOffset, v.byteLength)
    return bytes(a).equals(bytes(b)) ? true : undefined
  },
])
