import { Document, WebIO } from '@gltf-transform/core'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { boundsOf, triangleCount } from '../../engine'
import { formatProblemText, readGlb, readMesh } from '..'

interface Piece {
  name: string
  positions: number[]
  normals?: number[]
  indices?: number[]
  translate?: [number, number, number]
  scale?: [number, number, number]
  mode?: number
}
async function glb(pieces: Piece[], extra: (d: Document) => void = () => {}): Promise<Uint8Array> {
  const d = new Document()
  const buffer = d.createBuffer()
  const scene = d.createScene()
  for (const p of pieces) {
    const primitive = d.createPrimitive().setAttribute('POSITION', d.createAccessor().setType('VEC3').setArray(new Float32Array(p.positions)).setBuffer(buffer))
    if (p.normals) primitive.setAttribute('NORMAL', d.createAccessor().setType('VEC3').setArray(new Float32Array(p.normals)).setBuffer(buffer))
    if (p.indices) primitive.setIndices(d.createAccessor().setType('SCALAR').setArray(new Uint16Array(p.indices)).setBuffer(buffer))
    if (p.mode !== undefined) primitive.setMode(p.mode as never)
    const node = d.createNode(p.name).setMesh(d.createMesh(p.name).addPrimitive(primitive))
    if (p.translate) node.setTranslation(p.translate)
    if (p.scale) node.setScale(p.scale)
    scene.addChild(node)
  }
  extra(d)
  return new WebIO().writeBinary(d)
}
const TRIANGLE = [0, 0, 0, 1, 0, 0, 0, 1, 0]
const wrong = async (data: Uint8Array): Promise<string> => {
  const r = await readMesh(data)
  return r.ok ? 'was taken' : formatProblemText(r.problem)
}
/** The same file with its JSON part changed. */
function withJson(data: Uint8Array, change: (json: { accessors: Record<string, unknown>[]; bufferViews: Record<string, unknown>[]; buffers: Record<string, unknown>[]; [k: string]: unknown }) => void): Uint8Array {
  const v = new DataView(data.buffer, data.byteOffset)
  const length = v.getUint32(12, true)
  const json = JSON.parse(new TextDecoder().decode(data.subarray(20, 20 + length)))
  change(json)
  let text = JSON.stringify(json)
  while (new TextEncoder().encode(text).length % 4) text += ' '
  const body = new TextEncoder().encode(text)
  const rest = data.subarray(20 + length)
  const out = new Uint8Array(20 + body.length + rest.length)
  out.set(data.subarray(0, 20))
  out.set(body, 20)
  out.set(rest, 20 + body.length)
  const w = new DataView(out.buffer)
  w.setUint32(8, out.length, true)
  w.setUint32(12, body.length, true)
  return out
}

describe('reading GLB', () => {
  it('joins the nodes where they stand, a part for each', async () => {
    const r = await readGlb(await glb([
      { name: 'Bell', positions: TRIANGLE, indices: [0, 1, 2], translate: [10, 0, 0] },
      { name: 'Clapper', positions: TRIANGLE, scale: [2, 2, 2] },
    ]))
    if (!r.ok) throw new Error(r.problem.message)
    expect(r.value.parts).toEqual([
      { name: 'Bell', firstTriangle: 0, triangleCount: 1 },
      { name: 'Clapper', firstTriangle: 1, triangleCount: 1 },
    ])
    expect(boundsOf(r.value)).toEqual({ min: [0, 0, 0], max: [11, 2, 0] })
    expect([...r.value.indices]).toEqual([0, 1, 2, 3, 4, 5])
  })
  it('keeps normals when every piece has them', async () => {
    const up = [0, 0, 1, 0, 0, 1, 0, 0, 1]
    const both = await readGlb(await glb([{ name: 'a', positions: TRIANGLE, normals: up }]))
    expect(both.ok && both.value.normals?.length).toBe(9)
    const some = await readGlb(await glb([{ name: 'a', positions: TRIANGLE, normals: up }, { name: 'b', positions: TRIANGLE }]))
    expect(some.ok && some.value.normals).toBeNull()
  })
  it('says what it did not take over', async () => {
    const r = await readGlb(await glb([{ name: 'a', positions: TRIANGLE }, { name: 'wire', positions: TRIANGLE, mode: 1 }], (d) => {
      d.createAnimation('turn')
      d.createTexture('skin').setImage(new Uint8Array([137, 80, 78, 71])).setMimeType('image/png')
    }))
    if (!r.ok) throw new Error(r.problem.message)
    expect(r.ok && r.notes.sort()).toEqual(['not taken over: animations', 'not taken over: points, lines and strips', 'not taken over: textures'])
    expect(r.ok && triangleCount(r.value)).toBe(1)
  })
  it('refuses what is not right, with the place', async () => {
    const data = await glb([{ name: 'Bell', positions: TRIANGLE, indices: [0, 1, 2] }])
    expect(await wrong(data.subarray(0, 12))).toBe('byte 12: cut short: a GLB file has at least 20 bytes')
    expect(await wrong(data.subarray(0, data.length - 5))).toMatch(/^byte 8: cut short: the header says \d+ bytes, the file has \d+$/)
    const old = data.slice()
    old[4] = 1
    expect(await wrong(old)).toBe('byte 4: glTF version 1; only 2 is read')
    expect(await wrong(await glb([{ name: 'Bell', positions: [0, 0, Number.NaN, 1, 0, 0, 0, 1, 0] }]))).toBe('vertex 0 of “Bell” is not a finite number')
    expect(await wrong(await glb([{ name: 'Bell', positions: TRIANGLE, indices: [0, 1, 7] }]))).toBe('“Bell” has an index 7, but only 3 vertices')
    expect(await wrong(await glb([]))).toBe('the file has no triangles')
  })
  it('refuses claims of gigabytes before anything is allotted', async () => {
    const data = await glb([{ name: 'Bell', positions: TRIANGLE, indices: [0, 1, 2] }])
    expect(await wrong(withJson(data, (j) => void (j.accessors[0].count = 4e9)))).toBe('accessor 0 claims 4000000000 elements')
    expect(await wrong(withJson(data, (j) => void (j.accessors[0].count = -1)))).toBe('accessor 0 claims -1 elements')
    expect(await wrong(withJson(data, (j) => void (j.bufferViews[0].byteLength = 3e9)))).toBe('buffer view 0 reaches beyond the data')
    expect(await wrong(withJson(data, (j) => void (j.buffers[0].uri = '../../etc/passwd')))).toBe('it refers to other files; export it as one GLB with everything inside')
    const chunk = data.slice()
    new DataView(chunk.buffer).setUint32(12, 0x7fffffff, true)
    expect(await wrong(chunk)).toMatch(/^byte 12: a chunk claims 2147483647 bytes, but only \d+ are left$/)
  })
  it('cut off anywhere, or with any byte changed, it answers with a mesh or a message (property)', async () => {
    const data = await glb([{ name: 'Bell', positions: TRIANGLE, indices: [0, 1, 2] }, { name: 'Yoke', positions: TRIANGLE, translate: [1, 2, 3] }])
    for (let n = 0; n < data.length; n += 7) expect((await readMesh(data.subarray(0, n))).ok).toBe(false)
    await fc.assert(
      fc.asyncProperty(fc.array(fc.tuple(fc.nat({ max: data.length - 1 }), fc.nat({ max: 255 })), { minLength: 1, maxLength: 6 }), async (hits) => {
        const broken = data.slice()
        for (const [at, value] of hits) broken[at] = value
        const r = await readMesh(broken)
        if (r.ok) {
          for (const i of r.value.indices) expect(i).toBeLessThan(r.value.positions.length / 3)
          expect(r.value.positions.every(Number.isFinite)).toBe(true)
        } else expect(r.problem.message).not.toBe('')
      }),
      { numRuns: 300 },
    )
  })
})
