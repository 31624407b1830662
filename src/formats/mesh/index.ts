import type { Mesh } from '../../engine'
import { bad, guarded, LIMITS, type Read } from '../result'
import { looksLikeVdb, readVdb } from '../vdb'
import { readObj } from './obj'
import { looksLikeLight, readLight, readPicture, sniffPicture } from './picture'
import { readPly } from './ply'
import { isBinaryStl, readStl } from './stl'

export type MeshFormat = 'glb' | 'obj' | 'ply' | 'stl'
/**
 * By content, never by the name: GLB and PLY by their first bytes, STL by its length or its words, OBJ when the beginning is text with OBJ
 * lines.
 */
export function sniffMesh(bytes: Uint8Array): MeshFormat | null {
  if (bytes.byteLength >= 4 && bytes[0] === 0x67 && bytes[1] === 0x6c && bytes[2] === 0x54 && bytes[3] === 0x46) return 'glb'
  if (bytes[0] === 0x70 && bytes[1] === 0x6c && bytes[2] === 0x79 && (bytes[3] === 0x0a || bytes[3] === 0x0d)) return 'ply'
  if (isBinaryStl(bytes)) return 'stl'
  const start = bytes.subarray(0, 65536)
  if (start.includes(0)) return null
  if (/^\s*solid\b/.test(new TextDecoder().decode(start)) && /\b(facet|endsolid)\b/.test(new TextDecoder().decode(start))) return 'stl'
  return /^\s*(v|vn|vt|f|o|g|s|mtllib|usemtl)\s/m.test(new TextDecoder().decode(start)) ? 'obj' : null
}

/**
 * Reads a mesh file of any supported format, a volume, or a picture as a plate; the result is in metres, Y up, as the file has it. `shown`: a
 * picture is for showing alone, and nobody asks how bright it is where, which takes longer than all else; of a volume nobody asks its shape.
 * Never throws.
 */
export const readMesh = (bytes: Uint8Array, shown = false): Promise<Read<Mesh>> => guarded(async () => within(await readAny(bytes, shown)))
/** What is finite in a file, or before its node scales it, may still be too large for single precision. */
function within(r: Read<Mesh>): Read<Mesh> {
  const at = r.ok ? r.value.positions.findIndex((x) => !Number.isFinite(x)) : -1
  return at < 0 ? r : bad(`vertex ${Math.floor(at / 3)} lies beyond 3.4e38 m, farther than a place can be`)
}
async function readAny(bytes: Uint8Array, shown: boolean): Promise<Read<Mesh>> {
  if (bytes.byteLength > LIMITS.bytes) return bad(`larger than ${LIMITS.bytes / 1048576} MB`)
  if (bytes.byteLength === 0) return bad('the file is empty')
  const picture = sniffPicture(bytes)
  if (picture) return readPicture(bytes, picture, shown)
  if (looksLikeLight(bytes)) return readLight(bytes)
  if (looksLikeVdb(bytes)) return readVdb(bytes, shown)
  switch (sniffMesh(bytes)) {
    // Larger than all the other readers together: loaded where there is one.
    case 'glb':
      return (await import('./glb')).readGlb(bytes)
    case 'obj': {
      let text: string
      try {
        text = new TextDecoder('utf-8', { fatal: true }).decode(bytes)
      } catch {
        text = new TextDecoder('latin1').decode(bytes)
      }
      return readObj(text)
    }
    case 'ply':
      return readPly(bytes)
    case 'stl':
      return readStl(bytes)
    default:
      return bad('not a mesh that can be read: bring GLB (glTF 2.0), OBJ, PLY, STL or VDB, or a picture (PNG, JPEG, WebP, HDR, EXR)')
  }
}

export { readObj } from './obj'
export { readPly } from './ply'
export { readStl } from './stl'
