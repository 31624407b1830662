import * as z from 'zod'
import { bad, LIMITS } from '../result'

const index = z.int().min(0)
const bytes = z.int().min(0)
/** Of each list what readers count with; the rest is the library's to read. */
const shape = z.object({
  asset: z.object({ version: z.string() }).optional(),
  scene: index.optional(),
  scenes: z.array(z.object({ nodes: z.array(index).optional() })).optional(),
  nodes: z.array(z.object({ mesh: index.optional(), skin: index.optional(), children: z.array(index).optional() })).optional(),
  meshes: z
    .array(z.object({ primitives: z.array(z.object({ attributes: z.record(z.string(), index), indices: index.optional() })) }))
    .optional(),
  accessors: z
    .array(
      z.object({ count: z.number(), componentType: z.int(), type: z.string(), bufferView: index.optional(), byteOffset: bytes.optional() }),
    )
    .optional(),
  bufferViews: z
    .array(z.object({ buffer: index, byteOffset: bytes.optional(), byteLength: bytes, byteStride: z.int().min(1).max(252).optional() }))
    .optional(),
  buffers: z.array(z.object({ byteLength: bytes.optional(), uri: z.string().optional() })).optional(),
  materials: z.array(z.object({})).optional(),
  textures: z.array(z.object({})).optional(),
  images: z.array(z.object({})).optional(),
  skins: z.array(z.object({ joints: z.array(index) })).optional(),
  animations: z.array(z.object({ channels: z.array(z.object({})), samplers: z.array(z.object({})) })).optional(),
})
const COMPONENT_BYTES: Record<number, number> = { 5120: 1, 5121: 1, 5122: 2, 5123: 2, 5125: 4, 5126: 4 }
const COMPONENTS: Record<string, number> = { SCALAR: 1, VEC2: 2, VEC3: 3, VEC4: 4, MAT2: 4, MAT3: 9, MAT4: 16 }

/** A GLB's JSON before a library allots anything by it: types, and whether each accessor's elements can be in the file at all. */
export function checkGlbJson(json: unknown, bytesThere: number): ReturnType<typeof bad> | null {
  const r = shape.safeParse(json)
  if (!r.success) {
    const { path, message } = r.error.issues[0]
    return bad(`its JSON part is not glTF: ${path.join('.').slice(0, 80) || 'the whole'}: ${message.slice(0, 80)}`)
  }
  const doc = r.data
  if (doc.buffers?.some((b) => b.uri !== undefined && !b.uri.startsWith('data:')))
    return bad('it refers to other files; export it as one GLB with everything inside')
  const views = doc.bufferViews ?? []
  for (const [i, v] of views.entries())
    if ((v.byteOffset ?? 0) + v.byteLength > bytesThere) return bad(`buffer view ${i} reaches beyond the data`)
  // Elements without data are zeros, or the ground of a sparse list, which is of the file's own size or there is no reason for it.
  let bare = 0
  for (const [i, a] of (doc.accessors ?? []).entries()) {
    if (!Number.isInteger(a.count) || a.count < 0 || a.count > LIMITS.triangles * 3) return bad(`accessor ${i} claims ${a.count} elements`)
    const size = (COMPONENT_BYTES[a.componentType] ?? 1) * (COMPONENTS[a.type] ?? 1)
    if (a.bufferView === undefined) {
      bare += a.count * size
      if (bare > Math.max(65536, bytesThere * 16)) return bad(`accessor ${i} claims ${a.count} elements, but has no data`)
      continue
    }
    const v = views[a.bufferView]
    if (!v) return bad(`accessor ${i} names buffer view ${a.bufferView}, which is not there`)
    if (a.count && (a.byteOffset ?? 0) + (a.count - 1) * (v.byteStride ?? size) + size > v.byteLength)
      return bad(`accessor ${i} claims ${a.count} elements, which its buffer view does not hold`)
  }
  return null
}
