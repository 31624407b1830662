import { boundsOf, isClosed, type Mesh, type StoredGridFacts, triangleCount } from '../engine'
import { grouped } from '../shot'
import { drawAll, readFont } from './font/text'
import { lightAround, lightOf } from './image/light'
import { readMesh } from './mesh'
import { bad, guarded, LIMITS, type Read } from './result'
import { looksLikeFont, looksLikeSvg, outlineMesh, readOutlines } from './svg/outlines'

/** What a file is, and what it holds: said when it is brought in, before anything uses it. */
export interface AssetFacts {
  kind: 'mesh' | 'outline' | 'font'
  triangles: number
  vertices: number
  bounds: { min: number[]; max: number[] }
  closed: boolean
  /** It has colours of its own. */
  tinted: boolean
  /** Seconds that its own motion takes. */
  lengthS: number
  parts: string[]
  /** Its file says what it is made of beside its colours. */
  made?: boolean
  /** It is a picture on a plate. */
  plate?: boolean
  /** It is a picture of light: what it gives when it is all that is around, as `lightAround` has it. */
  light?: { size: [number, number]; above: [number, number, number]; below: [number, number, number] }
  /** It holds volumes: the grids of it that can be read, and the edge of a voxel of the first, m. */
  volume?: { grids: StoredGridFacts[]; voxel: number }
  notes: string[]
}
/** How a drawing is taken for its facts; an object says its own. */
const TRIED = { size: 1, depth: 0.1, bevel: 0, rings: 1, detail: 6 }

/** Names of parts and notes that the facts hold: enough to choose from, and of a length that is stored and shown. */
const MAX_PARTS = 1000
const MAX_NAME = 80
const MAX_NOTES = 20
const MAX_GRIDS = 40
const MAX_NOTE = 300
const short = (text: string, letters: number): string => (text.length > letters ? `${text.slice(0, letters - 1)}…` : text)

/** The shortest edge of a voxel of its first grid that has any, m. */
function voxelOf({ volume }: Mesh): number {
  for (const g of volume?.grids ?? []) {
    const grid = volume?.read(g.name)
    if (grid?.count) return Math.min(...grid.matrix.slice(0, 3).map((row) => Math.hypot(...row)))
  }
  return 0
}
/** Reads any file that a shot can use, recognised by its content. `known`: pictures are known to be whole and are not decoded. Never throws. */
export const inspectAsset = (bytes: Uint8Array, known = false): Promise<Read<AssetFacts>> => guarded(() => inspectAny(bytes, known))
async function inspectAny(bytes: Uint8Array, known: boolean): Promise<Read<AssetFacts>> {
  if (bytes.byteLength > LIMITS.bytes) return bad(`larger than ${LIMITS.bytes / 1048576} MB`)
  const facts = (kind: AssetFacts['kind'], m: Mesh, notes: string[]): AssetFacts => ({
    kind,
    triangles: triangleCount(m),
    vertices: m.positions.length / 3,
    bounds: boundsOf(m),
    closed: isClosed(m),
    tinted: !!m.colours || !!m.textures,
    lengthS: m.motion?.lengthS ?? 0,
    ...(m.surfaces?.length ? { made: true } : {}),
    ...(m.textures?.some((t) => t.cut) ? { plate: true } : {}),
    ...(m.volume
      ? { volume: { grids: m.volume.grids.slice(0, MAX_GRIDS).map((g) => ({ ...g, name: short(g.name, MAX_NAME) })), voxel: voxelOf(m) } }
      : {}),
    parts: m.parts.slice(0, MAX_PARTS).map((p) => short(p.name, MAX_NAME)),
    notes: [
      ...(m.parts.length > MAX_PARTS ? [`${grouped(m.parts.length)} parts; the first ${grouped(MAX_PARTS)} are named`] : []),
      ...notes,
    ]
      .slice(0, MAX_NOTES)
      .map((n) => short(n, MAX_NOTE)),
  })
  if (looksLikeFont(bytes)) {
    const r = readFont(bytes)
    const none: Mesh = { positions: new Float32Array(0), normals: null, indices: new Uint32Array(0), parts: [] }
    if (!r.ok) return r
    drawAll(r.value)
    return { ok: true, value: facts('font', none, []), notes: [] }
  }
  if (looksLikeSvg(bytes)) {
    const r = readOutlines(bytes, TRIED.detail)
    return r.ok ? { ok: true, value: facts('outline', outlineMesh(r.value, TRIED), r.notes), notes: r.notes } : r
  }
  const r = await readMesh(bytes, known)
  if (!r.ok) return r
  const picture = r.value.textures?.length === 1 ? lightOf(r.value.textures[0]) : null
  const light = picture ? { light: { size: [picture.width, picture.height] as [number, number], ...lightAround(picture) } } : {}
  return { ok: true, value: { ...facts('mesh', r.value, r.notes), ...light }, notes: r.notes }
}
