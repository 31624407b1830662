import type { Notice } from './errors'

export const POINT_COLUMNS = ['px', 'py', 'pz', 'vx', 'vy', 'vz', 'age', 'life', 'seed', 'id', 'phase'] as const
export type PointColumn = (typeof POINT_COLUMNS)[number] | 'qx' | 'qy' | 'qz' | 'qw'
/** Behind them, of systems whose particles are turned. */
export const TURNED_COLUMNS = ['qx', 'qy', 'qz', 'qw'] as const
export const ALL_POINT_COLUMNS = [...POINT_COLUMNS, ...TURNED_COLUMNS] as const
const WORDS: ReadonlySet<PointColumn> = new Set(['seed', 'id', 'phase'])

/**
 * Particles of one system. `data` holds the columns one behind the other, `count` words each, in the order of POINT_COLUMNS, then, when
 * they are turned, their unit quaternions.
 */
export interface PointsPart {
  kind: 'points'
  element: string
  count: number
  turned?: boolean
  data: ArrayBuffer
}
/** Later kinds: strips, meshes, instances, places, volumes. */
export type Part = PointsPart
export interface SystemStats {
  alive: number
  born: number
  died: number
  /** With colliders, and with each other. */
  contacts: number
  /** Contacts by the id of the object. */
  with: Record<string, number>
}
export const noStats = (): SystemStats => ({ alive: 0, born: 0, died: 0, contacts: 0, with: {} })
export interface Frame {
  frame: number
  parts: Part[]
  /** Where objects are that the simulation moves: own space to the shot, three rows of four. */
  poses: { element: string; matrix: number[] }[]
  stats: Record<string, SystemStats>
  notices: Notice[]
  /** Time the step took, milliseconds, put in by the host; never part of the result. */
  ms: number
}
export function pointColumn(part: PointsPart, name: PointColumn): Float32Array | Uint32Array {
  const at = ALL_POINT_COLUMNS.indexOf(name) * part.count * 4
  if (at >= part.data.byteLength && part.count) throw new Error(`the particles of ${part.element} have no ${name}`)
  return WORDS.has(name) ? new Uint32Array(part.data, at, part.count) : new Float32Array(part.data, at, part.count)
}
export const frameBytes = (f: Frame): number => f.parts.reduce((sum, p) => sum + p.data.byteLength, 256 + f.poses.length * 160)

/** A stable mark of all numbers in a frame, for comparing runs: FNV-1a over the bytes of every part. */
export function frameMark(f: Frame): string {
  let h = 0x811c9dc5
  const eat = (b: Uint8Array) => {
    for (let i = 0; i < b.length; i++) h = Math.imul(h ^ b[i], 0x01000193)
  }
  for (const p of f.parts) {
    eat(new TextEncoder().encode(`${p.element}:${p.count};`))
    eat(new Uint8Array(p.data))
  }
  for (const p of f.poses) {
    eat(new TextEncoder().encode(p.element))
    eat(new Uint8Array(Float64Array.from(p.matrix).buffer))
  }
  return (h >>> 0).toString(16).padStart(8, '0')
}
