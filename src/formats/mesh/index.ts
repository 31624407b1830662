import type { Mesh } from '../../engine'
import { bad, LIMITS, type Read } from '../result'
import { readGlb } from './glb'
import { readObj } from './obj'

export type MeshFormat = 'glb' | 'obj'
/** By content, never by the name: GLB by its first bytes, OBJ when the beginning is text with OBJ lines. */
export function sniffMesh(bytes: Uint8Array): MeshFormat | null {
  if (bytes.byteLength >= 4 && bytes[0] === 0x67 && bytes[1] === 0x6c && bytes[2] === 0x54 && bytes[3] === 0x46) return 'glb'
  const start = bytes.subarray(0, 65536)
  if (start.includes(0)) return null
  return /^\s*(v|vn|vt|f|o|g|s|mtllib|usemtl)\s/m.test(new TextDecoder().decode(start)) ? 'obj' : null
}

/** Reads a mesh file of any supported format; the result is in metres, Y up, as the file has it. */
export async function readMesh(bytes: Uint8Array): Promise<Read<Mesh>> {
  if (bytes.byteLength > LIMITS.bytes) return bad(`larger than ${LIMITS.bytes / 1048576} MB`)
  if (bytes.byteLength === 0) return bad('the file is empty')
  switch (sniffMesh(bytes)) {
    case 'glb':
      return readGlb(bytes)
    case 'obj': {
      let text: string
      try {
        text = new TextDecoder('utf-8', { fatal: true }).decode(bytes)
      } catch {
        text = new TextDecoder('latin1').decode(bytes)
      }
      return readObj(text)
    }
    default:
      return bad('not a mesh that can be read: bring GLB (glTF 2.0) or OBJ')
  }
}
export { readGlb } from './glb'
export { readObj } from './obj'
