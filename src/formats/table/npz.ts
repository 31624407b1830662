import { zipSync } from 'fflate'
import type { Table } from './points'

/** Data of an array begin at a multiple of this. */
const ALIGN = 64
/**
 * One array as NPY 1.0: the magic word, the length of the head, the head as text, padded so that the data begin at a multiple of 64, then the
 * numbers, little-endian.
 */
export function npy(data: Float32Array | Uint32Array): Uint8Array {
  const type = data instanceof Float32Array ? '<f4' : '<u4'
  const head = `{'descr': '${type}', 'fortran_order': False, 'shape': (${data.length},), }`
  const length = Math.ceil((10 + head.length + 1) / ALIGN) * ALIGN - 10
  const out = new Uint8Array(10 + length + data.byteLength)
  out.set([0x93, 0x4e, 0x55, 0x4d, 0x50, 0x59, 1, 0, length & 255, length >> 8])
  out.set(new TextEncoder().encode(`${head.padEnd(length - 1)}\n`), 10)
  const view = new DataView(out.buffer)
  data.forEach((v, i) => {
    if (data instanceof Float32Array) view.setFloat32(10 + length + i * 4, v, true)
    else view.setUint32(10 + length + i * 4, v, true)
  })
  return out
}
/** A table as NPZ: a zip with an array for each column, stored as they are or deflated. The same table, the same bytes. */
export const tableNpz = ({ columns }: Table, level: 0 | 6 = 6): Uint8Array =>
  zipSync(Object.fromEntries(columns.map((c) => [`${c.name}.npy`, npy(c.data)])), { level, mtime: new Date(1980, 0, 1) })
