import { unzlibSync } from 'fflate'

// What a font file is, before a library reads it: the library believes every count, and a damaged one keeps it busy for ever.
// Layout: Microsoft OpenType 1.9 (table directory, cmap, maxp, loca) and W3C WOFF 1.0.

/** What a packed font may unfold to, in bytes. */
const MAX_UNPACKED = 64 * 1024 * 1024
const WOFF = 0x774f4646
const WOFF_HEAD = 44
const WOFF_ENTRY = 20
const HEAD = 12
const ENTRY = 16
const MAX_TABLES = 256
/** Characters that there are at all. */
const CHARACTERS = 0x110000

interface Table {
  tag: string
  bytes: Uint8Array
}
const tagAt = (bytes: Uint8Array, at: number): string => String.fromCharCode(...bytes.subarray(at, at + 4))
const viewOf = (bytes: Uint8Array): DataView => new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)

function tablesOf(bytes: Uint8Array): { flavour: number; tables: Table[] } {
  const view = viewOf(bytes)
  const woff = view.getUint32(0) === WOFF
  const count = view.getUint16(woff ? 12 : 4)
  if (count > MAX_TABLES) throw new Error(`${count} tables`)
  const tables: Table[] = []
  let total = 0
  for (let i = 0; i < count; i++) {
    const o = woff ? WOFF_HEAD + i * WOFF_ENTRY : HEAD + i * ENTRY
    if (o + (woff ? WOFF_ENTRY : ENTRY) > bytes.byteLength) throw new Error('its table directory is cut short')
    const tag = tagAt(bytes, o)
    const at = view.getUint32(woff ? o + 4 : o + 8)
    const packed = view.getUint32(woff ? o + 8 : o + 12)
    const length = view.getUint32(o + 12)
    total += length
    if (total > MAX_UNPACKED) throw new Error(`it unfolds to more than ${MAX_UNPACKED / 1048576} MB`)
    if (at + packed > bytes.byteLength) throw new Error(`its table ${tag} reaches beyond the file`)
    const raw = bytes.subarray(at, at + packed)
    const table = packed < length ? unzlibSync(raw, { out: new Uint8Array(length) }) : raw
    if (table.length !== length) throw new Error(`its table ${tag} does not unfold to its length`)
    tables.push({ tag, bytes: table })
  }
  return { flavour: view.getUint32(woff ? 4 : 0), tables }
}
/** Counts of the tables that make readers loop, against what they hold. */
function checkTables(tables: readonly Table[]): void {
  const find = (tag: string) => tables.find((t) => t.tag === tag)?.bytes
  const maxp = find('maxp')
  const head = find('head')
  if (!maxp || maxp.length < 6 || !head || head.length < 54) throw new Error('it has no maxp or head table')
  const glyphs = viewOf(maxp).getUint16(4)
  const loca = find('loca')
  if (loca && loca.length < (glyphs + 1) * (viewOf(head).getInt16(50) ? 4 : 2))
    throw new Error('its loca table is too short for its glyphs')
  const cmap = find('cmap')
  if (!cmap) throw new Error('it has no cmap table')
  const view = viewOf(cmap)
  for (let i = 0; i < view.getUint16(2); i++) {
    const at = view.getUint32(4 + i * 8 + 4)
    const format = view.getUint16(at)
    if (format === 4 && at + 16 + view.getUint16(at + 6) * 4 > cmap.length) throw new Error('its cmap is cut short')
    if (format !== 12) continue
    const groups = view.getUint32(at + 12)
    if (at + 16 + groups * 12 > cmap.length) throw new Error('its cmap is cut short')
    let characters = 0
    for (let g = 0; g < groups; g++) {
      const [first, last] = [view.getUint32(at + 16 + g * 12), view.getUint32(at + 20 + g * 12)]
      characters += last - first + 1
      if (last < first || characters > CHARACTERS) throw new Error('its cmap names more characters than there are')
    }
  }
}
/**
 * A font file as plain tables: WOFF unfolded, what is outside of its own bounds refused. Throws an Error with the reason; a
 * RangeError of a view is one, too.
 */
export function plainFont(bytes: Uint8Array): Uint8Array {
  const { flavour, tables } = tablesOf(bytes)
  checkTables(tables)
  const out = new Uint8Array(HEAD + tables.length * ENTRY + tables.reduce((sum, t) => sum + Math.ceil(t.bytes.length / 4) * 4, 0))
  const view = viewOf(out)
  view.setUint32(0, flavour)
  view.setUint16(4, tables.length)
  let at = HEAD + tables.length * ENTRY
  for (const [i, t] of tables.entries()) {
    const o = HEAD + i * ENTRY
    for (let k = 0; k < 4; k++) out[o + k] = t.tag.charCodeAt(k)
    view.setUint32(o + 8, at)
    view.setUint32(o + 12, t.bytes.length)
    out.set(t.bytes, at)
    at += Math.ceil(t.bytes.length / 4) * 4
  }
  return out
}
