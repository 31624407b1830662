import { type Document, type Material, type Node, type Primitive, type Texture, WebIO } from '@gltf-transform/core'
import { type Mesh, type MeshPart, type MeshPicture, type MeshSurface, type MotionPiece, motionAt, normalsFor } from '../../engine'
import { grouped } from '../../shot'
import { brightnessOf } from '../image/brightness'
import { bad, LIMITS, type Read } from '../result'
import { checkGlbJson } from './glbJson'
import { motionOf, pieceOf } from './glbMotion'

const TRIANGLES = 4
/** Kinds of pictures that browsers decode. */
const PICTURES = ['image/png', 'image/jpeg', 'image/webp']

/**
 * glTF 2.0 binary. Nodes are placed, triangles joined into one mesh with a part for every node's mesh. Vertex colours, times the base
 * colours of the materials, and their textures come along (base colour, normals, roughness and metal, emission), and the first animation with its
 * skins and morphs.
 */
export async function readGlb(bytes: Uint8Array): Promise<Read<Mesh>> {
  const opened = await openGlb(bytes)
  if (!opened.ok) return opened
  const document = opened.value
  const root = document.getRoot()
  const scene = root.getDefaultScene() ?? root.listScenes()[0]
  if (!scene) return bad('the file has no scene')
  const notes = new Set<string>()
  if (root.listAnimations().length > 1)
    notes.add(`not taken over: ${root.listAnimations().length - 1} further animation${root.listAnimations().length > 2 ? 's' : ''}`)
  const used = new Set(
    root
      .listMaterials()
      .flatMap((m) => [m.getBaseColorTexture(), m.getNormalTexture(), m.getMetallicRoughnessTexture(), m.getEmissiveTexture()]),
  )
  if (root.listTextures().some((t) => !used.has(t)))
    notes.add('not taken over: textures beside base colour, normals, roughness and emission')
  const motion = motionOf(document)
  const moving: MotionPiece[] = []
  const pieces: { name: string; node: Node; primitive: Primitive; matrix: readonly number[] }[] = []
  let vertices = 0
  let corners = 0
  scene.traverse((node) => {
    for (const [i, primitive] of (node.getMesh()?.listPrimitives() ?? []).entries()) {
      const base = node.getName() || node.getMesh()?.getName() || `Part ${pieces.length + 1}`
      const name = i === 0 ? base : `${base} (${i + 1})`
      pieces.push({ name, node, primitive, matrix: node.getWorldMatrix() })
      vertices += primitive.getAttribute('POSITION')?.getCount() ?? 0
      corners += primitive.getIndices()?.getCount() ?? primitive.getAttribute('POSITION')?.getCount() ?? 0
    }
  })
  if (vertices > LIMITS.vertices || corners / 3 > LIMITS.triangles)
    return bad(`too large: ${grouped(vertices)} vertices and ${grouped(Math.floor(corners / 3))} triangles`)
  const positions = new Float32Array(vertices * 3)
  const normals = new Float32Array(vertices * 3)
  const indices = new Uint32Array(corners)
  const parts: MeshPart[] = []
  let hasNormals = pieces.length > 0
  const tinted = pieces.some(
    ({ primitive }) =>
      primitive.getAttribute('COLOR_0') ||
      primitive
        .getMaterial()
        ?.getBaseColorFactor()
        .slice(0, 3)
        .some((c) => c !== 1),
  )
  const colours = tinted ? new Float32Array(vertices * 3).fill(1) : null
  const uv = new Float32Array(vertices * 2)
  const textures: NonNullable<Mesh['textures']> = []
  const surfaces: MeshSurface[] = []
  const known = new Map<Uint8Array, Pick<NonNullable<Mesh['textures']>[number], 'type' | 'data' | 'brightness'>>()
  let v = 0
  let k = 0
  for (const { name, node, primitive, matrix: m } of pieces) {
    if (primitive.getMode() !== TRIANGLES) {
      notes.add('not taken over: points, lines and strips')
      continue
    }
    const position = primitive.getAttribute('POSITION')
    if (!position) continue
    const normal = primitive.getAttribute('NORMAL')
    if (!normal) hasNormals = false
    const count = position.getCount()
    const e = [0, 0, 0]
    const own = new Float32Array(count * 3)
    const base = primitive.getMaterial()?.getBaseColorFactor() ?? [1, 1, 1, 1]
    const colour = primitive.getAttribute('COLOR_0')
    const place = primitive.getAttribute('TEXCOORD_0')
    const picture = primitive.getMaterial()?.getBaseColorTexture()
    const data = picture?.getImage()
    const type = picture?.getMimeType() ?? ''
    if (place && data && PICTURES.includes(type)) {
      const one = known.get(data) ?? { type, data: data.slice(), brightness: brightnessOf(data, type) }
      known.set(data, one)
      textures.push({ part: name, ...one })
    }
    if (data && (!place || !PICTURES.includes(type)))
      notes.add('not taken over: textures without places on the mesh, or of a kind that is not read')
    const surface = surfaceOf(primitive.getMaterial(), name, !!place)
    if (surface) surfaces.push(surface)
    for (let i = 0; i < count; i++) {
      position.getElement(i, e)
      if (!e.every(Number.isFinite)) return bad(`vertex ${i} of “${name}” is not a finite number`)
      own.set(e.slice(0, 3), i * 3)
      if (place) {
        const at: number[] = []
        place.getElement(i, at)
        for (let a = 0; a < 2; a++) uv[(v + i) * 2 + a] = Number.isFinite(at[a]) ? at[a] : 0
      }
      if (colours) {
        const c = [1, 1, 1]
        if (colour) colour.getElement(i, c)
        for (let a = 0; a < 3; a++) colours[(v + i) * 3 + a] = Math.max(0, c[a] * base[a]) || 0
      }
      for (let a = 0; a < 3; a++) positions[(v + i) * 3 + a] = m[a] * e[0] + m[4 + a] * e[1] + m[8 + a] * e[2] + m[12 + a]
      if (normal) {
        normal.getElement(i, e)
        for (let a = 0; a < 3; a++) normals[(v + i) * 3 + a] = m[a] * e[0] + m[4 + a] * e[1] + m[8 + a] * e[2]
      }
    }
    const list = primitive.getIndices()
    const n = Math.floor((list?.getCount() ?? count) / 3) * 3
    for (let i = 0; i < n; i++) {
      const at = list ? list.getScalar(i) : i
      if (!(at >= 0 && at < count)) return bad(`“${name}” has an index ${at}, but only ${count} vertices`)
      indices[k + i] = v + at
    }
    const piece = pieceOf(node, primitive, v, own, motion)
    if (piece) moving.push(piece)
    parts.push({ name, firstTriangle: k / 3, triangleCount: n / 3 })
    v += count
    k += n
  }
  if (k === 0) return bad('the file has no triangles')
  // Copies, so that a mesh holds no more than it shows.
  const mesh: Mesh = {
    positions: positions.slice(0, v * 3),
    normals: hasNormals ? normals.slice(0, v * 3) : null,
    indices: indices.slice(0, k),
    parts,
    ...(colours ? { colours: colours.slice(0, v * 3) } : {}),
    ...(textures.length || surfaces.some((s) => s.normal || s.rough || s.shines) ? { uv: uv.slice(0, v * 2), textures } : {}),
    ...(surfaces.length ? { surfaces } : {}),
  }
  if (moving.length) {
    const posed = { kind: 'nodes' as const, lengthS: motion.lengthS, nodes: motion.nodes, channels: motion.channels, pieces: moving }
    // A skin stands where its bones stand, not where its vertices were made.
    const stood = motionAt(mesh.positions, posed, 0)
    mesh.normals = mesh.normals && normalsFor(mesh, stood)
    mesh.positions = stood
    if (motion.channels.length) mesh.motion = posed
  }
  return { ok: true, value: mesh, notes: [...notes] }
}

/** What a part is made of beside its colour; null for what a file says without meaning it: no material. */
function surfaceOf(m: Material | null, part: string, placed: boolean): MeshSurface | null {
  if (!m) return null
  const picture = (t: Texture | null): MeshPicture | undefined => {
    const data = t?.getImage()
    const type = t?.getMimeType() ?? ''
    return placed && data && PICTURES.includes(type) ? { type, data: data.slice() } : undefined
  }
  const [normal, rough, shines] = [m.getNormalTexture(), m.getMetallicRoughnessTexture(), m.getEmissiveTexture()].map(picture)
  return {
    ...{ part, roughness: clamp(m.getRoughnessFactor()), metal: clamp(m.getMetallicFactor()) },
    glow: m.getEmissiveFactor().map((v) => Math.max(0, v) || 0) as MeshSurface['glow'],
    ...(normal ? { normal: { ...normal, scale: m.getNormalScale() || 0 } } : {}),
    ...(rough ? { rough } : {}),
    ...(shines ? { shines } : {}),
  }
}
const clamp = (v: number) => Math.min(1, Math.max(0, v)) || 0

/** The document of a GLB file whose lengths hold. */
export async function openGlb(bytes: Uint8Array): Promise<Read<Document>> {
  const head = checkContainer(bytes)
  if (head) return head
  try {
    return { ok: true, value: await new WebIO().readBinary(bytes), notes: [] }
  } catch (error) {
    return bad(`the glTF data cannot be read: ${error instanceof Error ? error.message.split('\n')[0] : String(error)}`)
  }
}
/** The container's own lengths, before a library allots anything by them. */
function checkContainer(bytes: Uint8Array): ReturnType<typeof bad> | null {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  if (bytes.byteLength < 20) return bad('cut short: a GLB file has at least 20 bytes', { byte: bytes.byteLength })
  if (view.getUint32(0, true) !== 0x46546c67) return bad('does not begin with “glTF”', { byte: 0 })
  if (view.getUint32(4, true) !== 2) return bad(`glTF version ${view.getUint32(4, true)}; only 2 is read`, { byte: 4 })
  const total = view.getUint32(8, true)
  if (total > bytes.byteLength) return bad(`cut short: the header says ${total} bytes, the file has ${bytes.byteLength}`, { byte: 8 })
  let at = 12
  let json: string | null = null
  let binLength = 0
  while (at + 8 <= total) {
    const length = view.getUint32(at, true)
    if (at + 8 + length > total) return bad(`a chunk claims ${length} bytes, but only ${total - at - 8} are left`, { byte: at })
    if (json === null) json = new TextDecoder().decode(bytes.subarray(at + 8, at + 8 + length))
    else binLength = length
    at += 8 + length
  }
  let doc: unknown
  try {
    doc = JSON.parse(json ?? '')
  } catch {
    return bad('its JSON part cannot be read', { byte: 20 })
  }
  return checkGlbJson(doc, Math.max(binLength, bytes.byteLength))
}
