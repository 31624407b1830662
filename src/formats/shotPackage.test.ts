import { createHash } from 'node:crypto'
import fc from 'fast-check'
import { zipSync } from 'fflate'
import { describe, expect, it } from 'vitest'
import { demoShot } from '../acts/testing/shots'
import { openPackage, packageEntries } from './shotPackage'
import { zipStream } from './zip'

const sha = (b: Uint8Array) => createHash('sha256').update(b).digest('hex')
const bytes = (n: number, seed: number) => Uint8Array.from({ length: n }, (_, i) => (i * 31 + seed * 17 + (i >> 8)) & 255)
const asset = (name: string, b: Uint8Array) => ({ hash: sha(b), name, bytes: b.length, read: async () => b })
async function packed(assets = [asset('bell.glb', bytes(5000, 1)), asset('lantern.glb', bytes(70000, 2))]) {
  const shot = demoShot()
  shot.assets = assets.map(({ hash, name }) => ({ hash, name }))
  const zip = new Uint8Array(await new Response(zipStream(packageEntries(shot, assets))).arrayBuffer())
  return { shot, zip }
}
describe('a packed shot', () => {
  it('is opened as it was, bit for bit, and packed again gives the same file', async () => {
    const { shot, zip } = await packed()
    const r = openPackage(zip)
    if (!r.ok) throw new Error(r.problem.message)
    expect(r.value.doc).toEqual(JSON.parse(JSON.stringify(shot)))
    expect(r.value.lost).toEqual([])
    expect(r.value.assets.map((a) => [a.name, sha(a.bytes) === a.hash])).toEqual([
      ['bell.glb', true],
      ['lantern.glb', true],
    ])
    expect(Buffer.from((await packed()).zip).equals(Buffer.from(zip))).toBe(true)
  })
  it('that is damaged says what is missing, and opens the rest', async () => {
    const { zip } = await packed()
    const bad = zip.slice()
    // Within the second asset.
    bad[bad.length - 30000] ^= 255
    const r = openPackage(bad)
    if (!r.ok) throw new Error(r.problem.message)
    expect(r.value.lost).toEqual(['lantern.glb is damaged'])
    expect(r.value.assets.map((a) => a.name)).toEqual(['bell.glb'])
    // Cut off in the middle of it.
    const cut = openPackage(zip.slice(0, zip.length - 40000))
    if (!cut.ok) throw new Error(cut.problem.message)
    expect(cut.value.lost).toEqual(['lantern.glb is missing'])
    expect(cut.value.assets.map((a) => a.name)).toEqual(['bell.glb'])
  })
  it('is refused in words where it is none, or where its document is gone', async () => {
    const { zip } = await packed()
    const said = (b: Uint8Array) => {
      const r = openPackage(b)
      return r.ok ? 'opened' : r.problem.message
    }
    expect(said(new Uint8Array(0))).toMatch(/is not a ZIP file/)
    expect(said(bytes(100, 3))).toMatch(/is not a ZIP file/)
    expect(said(zipSync({ 'a.txt': bytes(4, 1) }))).toMatch(/no manifest/)
    expect(said(zip.slice(0, 40))).toMatch(/no manifest/)
    const later = { kind: 'fox-ember-shot', version: 3, shot: { name: 'x', hash: 'a'.repeat(64) }, assets: [] }
    expect(said(zipSync({ 'manifest.json': new TextEncoder().encode(JSON.stringify(later)) }))).toMatch(/a later version/)
    const lost = { ...later, version: 1 }
    expect(said(zipSync({ 'manifest.json': new TextEncoder().encode(JSON.stringify(lost)) }))).toMatch(/document of x in it is missing/)
  })
  it('is opened or refused, and never fails otherwise, whatever bytes are changed (property)', async () => {
    const { zip } = await packed([asset('bell.glb', bytes(300, 1))])
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.integer({ min: 0, max: zip.length - 1 }), fc.integer({ min: 0, max: 255 })), { maxLength: 6 }),
        fc.nat(zip.length),
        (changes, end) => {
          const b = zip.slice(0, end || zip.length)
          for (const [at, v] of changes) if (at < b.length) b[at] = v
          const r = openPackage(b)
          if (r.ok) for (const a of r.value.assets) expect(sha(a.bytes)).toBe(a.hash)
          else expect(r.problem.message).not.toBe('')
        },
      ),
      { numRuns: 200 },
    )
  })
})
