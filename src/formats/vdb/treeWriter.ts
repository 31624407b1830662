import { halfTable } from '../../engine'
import { toHalf } from '../image/light'
import { toBlosc } from './blosc'
import type { Bytes } from './bytes'
import { LEAF_VOXELS, type VdbTile, type VdbTree } from './types'

/** What a grid is written from: a tree, whose numbers may be halves already. */
export type TreeOut = Omit<VdbTree, 'values'> & { values: Float32Array | Uint16Array }
export interface Packing {
  half: boolean
  /** Bit 0: zip, 1: of what is not active nothing is stored, 2: blosc. */
  flags: number
  /** Of bytes, with the header of zlib. */
  deflate(b: Uint8Array): Uint8Array
}
interface Leaf {
  slot: number
  n: number
}
interface Inner {
  slot: number
  origin: [number, number, number]
  leaves: Leaf[]
  tiles: { slot: number; tile: VdbTile }[]
}
interface Child {
  origin: [number, number, number]
  inner: Map<string, Inner>
  tiles: { slot: number; tile: VdbTile }[]
}
const cut = (at: readonly number[], wide: number) => at.map((v) => Math.floor(v / wide) * wide) as [number, number, number]
const slotIn = (at: readonly number[], wide: number, log: number): number => {
  const last = (1 << log) - 1
  const [x, y, z] = at.map((v) => Math.floor(v / wide) & last)
  return (x << (2 * log)) | (y << log) | z
}
const isFull = (mask: Uint8Array): boolean => mask.every((b) => b === 255)

/** Writes trees in the order that readers want: first which nodes there are, then the numbers of leaves. Blocks of one value become tiles. */
export class TreeWriter {
  private readonly raw: Uint8Array
  private readonly background: number[]
  private readonly k: number
  private leaves: number[] = []

  constructor(
    private readonly out: Bytes,
    private readonly tree: TreeOut,
    private readonly how: Packing,
  ) {
    this.k = tree.channels
    this.raw = new Uint8Array(32768 * 4 * this.k)
    this.background = tree.background.map(Math.fround)
  }
  topology(): void {
    const { out, background } = this
    const { children, tiles } = this.nodes()
    out.i32(1)
    out.f32(...background)
    out.u32(tiles.length, children.length)
    for (const t of tiles) {
      out.i32(...t.origin)
      out.f32(...t.value)
      out.u8(t.active ? 1 : 0)
    }
    for (const c of children) {
      out.i32(...c.origin)
      const inner = [...c.inner.values()].sort((a, b) => a.slot - b.slot)
      this.inner(32768, inner, c.tiles)
      for (const n of inner) {
        n.leaves.sort((a, b) => a.slot - b.slot)
        this.inner(4096, n.leaves, n.tiles)
        for (const l of n.leaves) {
          out.add(this.mask(l.n))
          this.leaves.push(l.n)
        }
      }
    }
  }
  buffers(): void {
    const { out, k, tree } = this
    for (const n of this.leaves) {
      const mask = this.mask(n)
      out.add(mask)
      this.values(LEAF_VOXELS, mask, tree.values.subarray(n * LEAF_VOXELS * k, (n + 1) * LEAF_VOXELS * k))
    }
  }
  private mask = (n: number): Uint8Array => this.tree.masks.subarray(n * 64, n * 64 + 64)
  /** The one value of a leaf that is active everywhere; null: there are several. */
  private one(n: number): number[] | null {
    const { k, tree } = this
    if (!isFull(this.mask(n))) return null
    const at = n * LEAF_VOXELS * k
    const { values } = tree
    for (let i = k; i < LEAF_VOXELS * k; i++) if (values[at + i] !== values[at + (i % k)]) return null
    return Array.from({ length: k }, (_, a) => this.number(values, at + a))
  }
  private number = (values: TreeOut['values'], i: number): number => (values instanceof Uint16Array ? halfTable()[values[i]] : values[i])
  private nodes(): { children: Child[]; tiles: VdbTile[] } {
    const { tree } = this
    const children = new Map<string, Child>()
    const childAt = (at: readonly number[]): Child => {
      const origin = cut(at, 4096)
      const key = origin.join()
      const known = children.get(key) ?? { origin, inner: new Map<string, Inner>(), tiles: [] }
      children.set(key, known)
      return known
    }
    const innerAt = (at: readonly number[]): Inner => {
      const { inner } = childAt(at)
      const origin = cut(at, 128)
      const key = origin.join()
      const known = inner.get(key) ?? { slot: slotIn(at, 128, 5), origin, leaves: [], tiles: [] }
      inner.set(key, known)
      return known
    }
    for (let n = 0; n < tree.count; n++) {
      const at = [...tree.origins.subarray(n * 3, n * 3 + 3)]
      const node = innerAt(at)
      const slot = slotIn(at, 8, 4)
      const value = this.one(n)
      if (value) node.tiles.push({ slot, tile: { level: 1, origin: cut(at, 8), value, active: true } })
      else node.leaves.push({ slot, n })
    }
    for (const tile of tree.tiles) {
      if (tile.level === 1) innerAt(tile.origin).tiles.push({ slot: slotIn(tile.origin, 8, 4), tile })
      else if (tile.level === 2) childAt(tile.origin).tiles.push({ slot: slotIn(tile.origin, 128, 5), tile })
    }
    const by = (a: { origin: readonly number[] }, b: { origin: readonly number[] }) =>
      a.origin[0] - b.origin[0] || a.origin[1] - b.origin[1] || a.origin[2] - b.origin[2]
    return { children: [...children.values()].sort(by), tiles: tree.tiles.filter((t) => t.level === 3).sort(by) }
  }
  /** Bits of a node with so many slots, and the values of its tiles. */
  private inner(slots: number, children: readonly { slot: number }[], tiles: Inner['tiles']): void {
    const { out, k } = this
    const on = (which: readonly { slot: number }[]) => {
      const bits = new Uint8Array(slots >> 3)
      for (const { slot } of which) bits[slot >> 3] |= 1 << (slot & 7)
      return bits
    }
    const active = on(tiles.filter((t) => t.tile.active))
    out.add(on(children))
    out.add(active)
    const numbers = new Float32Array(slots * k)
    if (this.background.some((v) => v !== 0)) for (let i = 0; i < numbers.length; i++) numbers[i] = this.background[i % k]
    for (const { slot, tile } of tiles) numbers.set(tile.value, slot * k)
    // The slots of nodes below hold nothing: as the background they need not be stored.
    this.values(slots, active, numbers)
  }
  private values(n: number, mask: Uint8Array, numbers: Float32Array | Uint16Array): void {
    const { out, k, background, how } = this
    const isOn = (i: number) => (mask[i >> 3] >> (i & 7)) & 1
    let packs = (how.flags & 2) !== 0
    for (let i = 0; packs && i < n; i++)
      if (!isOn(i)) for (let a = 0; a < k; a++) if (this.number(numbers, i * k + a) !== background[a]) packs = false
    out.u8(packs ? 0 : 6)
    const view = new DataView(this.raw.buffer)
    const wide = how.half ? 2 : 4
    let at = 0
    for (let i = 0; i < n; i++) {
      if (packs && !isOn(i)) continue
      for (let a = 0; a < k; a++, at += wide) {
        const v = numbers[i * k + a]
        if (!how.half) view.setFloat32(at, numbers instanceof Uint16Array ? halfTable()[v] : v, true)
        else view.setUint16(at, numbers instanceof Uint16Array ? v : toHalf(v), true)
      }
    }
    this.block(this.raw.subarray(0, at))
  }
  private block(raw: Uint8Array): void {
    const { out, how } = this
    // Of nothing, grids of halves do not even say how long it is.
    if (!raw.length && how.half) return
    if (!(how.flags & 5)) {
      out.add(raw)
      return
    }
    const packed = raw.length ? (how.flags & 4 ? toBlosc(raw) : how.deflate(raw)) : null
    const gains = packed !== null && packed.length < raw.length
    out.i64(gains ? packed.length : -raw.length)
    out.add(gains ? packed : raw)
  }
}
