import { zlibSync } from 'fflate'
import { Bytes } from './bytes'
import { type Packing, type TreeOut, TreeWriter } from './treeWriter'

const LEVEL = { level: 3 } as const
const FLAGS = { none: 0, zip: 3, blosc: 6 } as const
export type VdbPacking = keyof typeof FLAGS

export interface VdbGridOut {
  name: string
  kind: 'fog volume' | 'level set' | 'staggered' | 'unknown'
  /** Of a grid of three numbers: a velocity goes along with a moved grid. */
  vector?: 'contravariant relative' | 'invariant'
  tree: TreeOut
}
export interface VdbOut {
  grids: readonly VdbGridOut[]
  /** Edge of a voxel, and where the middle of the voxel 0, 0, 0 lies, m. */
  voxel: number
  origin: readonly [number, number, number]
  half: boolean
  packing: VdbPacking
  /** What is said of the file. */
  metadata: Readonly<Record<string, string | number>>
  /** 36 letters; the same file twice has the same. */
  uuid: string
  /** Of bytes, with the header of zlib; without: our own, which is slower than that of a system. */
  deflate?: Packing['deflate']
}
/** A file of sparse grids, version 224, that the reference library reads. Of every grid the same transform. */
export function writeVdb(o: VdbOut): Uint8Array {
  const out = new Bytes()
  out.u32(0x56444220, 0, 224, 10, 0)
  out.u8(1)
  for (const l of o.uuid) out.u8(l.charCodeAt(0))
  notes(out, Object.entries(o.metadata))
  out.u32(o.grids.length)
  for (const g of o.grids) {
    out.text(g.name)
    out.text(`Tree_${g.tree.channels === 3 ? 'vec3s' : 'float'}_5_4_3${o.half ? '_HalfFloat' : ''}`)
    out.text('')
    const places = out.length
    out.zeros(24)
    out.setI64(places, out.length)
    out.u32(FLAGS[o.packing])
    notes(out, [
      ...[['name', g.name] as const, ['class', g.kind] as const, ['is_saved_as_half_float', o.half] as const],
      ...(g.vector ? [['vector_type', g.vector] as const] : []),
    ])
    const { voxel, origin } = o
    out.text('UniformScaleTranslateMap')
    for (const v of [...origin, ...[voxel, voxel, 1 / voxel, 1 / voxel ** 2, 0.5 / voxel].flatMap((x) => [x, x, x])]) out.f64(v)
    const tree = new TreeWriter(out, g.tree, { half: o.half, flags: FLAGS[o.packing], deflate: o.deflate ?? ((b) => zlibSync(b, LEVEL)) })
    tree.topology()
    out.setI64(places + 8, out.length)
    tree.buffers()
    out.setI64(places + 16, out.length)
  }
  return out.done()
}
function notes(out: Bytes, all: readonly (readonly [string, string | number | boolean])[]): void {
  out.u32(all.length)
  for (const [name, value] of all) {
    out.text(name)
    if (typeof value === 'string') {
      out.text('string')
      out.text(value)
    } else if (typeof value === 'boolean') {
      out.text('bool')
      out.u32(1)
      out.u8(value ? 1 : 0)
    } else if (Number.isInteger(value)) {
      out.text('int32')
      out.u32(4)
      out.i32(value)
    } else {
      out.text('double')
      out.u32(8)
      out.f64(value)
    }
  }
}
