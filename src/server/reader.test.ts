import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { deflateSync } from 'node:zlib'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { inspectAsset } from '../formats'
import { bareEnv, inspect, READER_LIMITS, refusalText } from './reader'

/** Seconds of the processor that this process has had: what the kernel limits, on a busy machine too. */
const cpuSeconds = (): number => {
  const { user, system } = process.cpuUsage()
  return (user + system) / 1e6
}

const folder = mkdtempSync(join(tmpdir(), 'ember-reader-'))
beforeAll(() => {
  process.env.EMBER_ROOT ??= process.cwd()
})
afterAll(() => rmSync(folder, { recursive: true, force: true }))
const text = (s: string) => new TextEncoder().encode(s)
const u32 = (v: number) => {
  const b = Buffer.alloc(4)
  b.writeUInt32LE(v)
  return b
}
function glb(json: unknown, bin = Buffer.alloc(0)): Uint8Array {
  const head = Buffer.from(JSON.stringify(json))
  const a = Buffer.concat([head, Buffer.alloc((4 - (head.length % 4)) % 4, 32)])
  const b = Buffer.concat([bin, Buffer.alloc((4 - (bin.length % 4)) % 4)])
  const chunks = [u32(a.length), Buffer.from('JSON'), a, ...(b.length ? [u32(b.length), Buffer.from('BIN\0'), b] : [])]
  const length = 12 + chunks.reduce((s, c) => s + c.length, 0)
  return Buffer.concat([Buffer.from('glTF'), u32(2), u32(length), ...chunks])
}
const chunk = (type: string, data: Buffer) => {
  const length = Buffer.alloc(4)
  length.writeUInt32BE(data.length)
  return Buffer.concat([length, Buffer.from(type), data, Buffer.alloc(4)])
}
/** A PNG of one pixel whose profile unfolds to `mb` MB. */
function profiled(mb: number): Buffer {
  const head = Buffer.alloc(13)
  head.writeUInt32BE(1, 0)
  head.writeUInt32BE(1, 4)
  head.set([8, 2], 8)
  const profile = Buffer.concat([Buffer.from('a\0\0'), deflateSync(Buffer.alloc(mb * 1048576))])
  return Buffer.concat([
    Buffer.from([137, 80, 78, 71, 13, 10, 26, 10]),
    chunk('IHDR', head),
    chunk('iCCP', profile),
    chunk('IDAT', deflateSync(Buffer.alloc(4))),
    chunk('IEND', Buffer.alloc(0)),
  ])
}
function textured(picture: Buffer): Uint8Array {
  const places = Buffer.from(new Float32Array([0, 0, 0, 1, 0, 0, 0, 1, 0]).buffer)
  const uv = Buffer.from(new Float32Array([0, 0, 1, 0, 0, 1]).buffer)
  return glb(
    {
      asset: { version: '2.0' },
      scene: 0,
      scenes: [{ nodes: [0] }],
      nodes: [{ mesh: 0 }],
      meshes: [{ primitives: [{ attributes: { POSITION: 0, TEXCOORD_0: 1 }, material: 0 }] }],
      materials: [{ pbrMetallicRoughness: { baseColorTexture: { index: 0 } } }],
      textures: [{ source: 0 }],
      images: [{ bufferView: 2, mimeType: 'image/png' }],
      accessors: [
        { bufferView: 0, componentType: 5126, count: 3, type: 'VEC3', min: [0, 0, 0], max: [1, 1, 0] },
        { bufferView: 1, componentType: 5126, count: 3, type: 'VEC2' },
      ],
      bufferViews: [
        { buffer: 0, byteLength: 36 },
        { buffer: 0, byteOffset: 36, byteLength: 24 },
        { buffer: 0, byteOffset: 60, byteLength: picture.length },
      ],
      buffers: [{ byteLength: 60 + picture.length }],
    },
    Buffer.concat([places, uv, picture]),
  )
}
const ply = (header: string) => text(`ply\nformat ascii 1.0\n${header}\nend_header\n`)
const svg = (inside: string) => text(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 10 10">${inside}</svg>`)
const bare = (count: number) =>
  glb({
    asset: { version: '2.0' },
    scenes: [{ nodes: [0] }],
    nodes: [{ mesh: 0 }],
    meshes: [{ primitives: [{ attributes: { POSITION: 0 } }] }],
    accessors: [{ componentType: 5126, count, type: 'VEC3' }],
  })

describe('files that claim more than they hold', () => {
  it.each<[string, Uint8Array, RegExp]>([
    [
      'a PLY element without properties, 10¹⁵ times',
      ply(
        'element vertex 3\nproperty float x\nproperty float y\nproperty float z\nelement ghost 1000000000000000\nelement face 1\nproperty list uchar int vertex_indices',
      ),
      /ghost has no properties/,
    ],
    [
      'a PLY of 19 million vertices in no bytes',
      ply(
        'element vertex 19000000\nproperty float x\nproperty float y\nproperty float z\nelement face 1\nproperty list uchar int vertex_indices',
      ),
      /cut short: the header claims 19000000/,
    ],
    ['a GLB of 19 million vertices without data', bare(19_000_000), /accessor 0 claims 19000000 elements, but has no data/],
    ['a GLB whose nodes are a text', glb({ asset: { version: '2.0' }, nodes: 'many' }), /not glTF: nodes/],
    [
      'a GLB whose count is a text',
      glb({ asset: { version: '2.0' }, accessors: [{ count: '3', componentType: 5126, type: 'VEC3' }] }),
      /accessors.0.count/,
    ],
    ['a GLB that is null', glb(null), /not glTF/],
    [
      'a GLB whose nodes are their own children',
      glb({ asset: { version: '2.0' }, scenes: [{ nodes: [0] }], nodes: [{ children: [0] }] }),
      /./,
    ],
    ['a WOFF whose table unfolds to 1 GB', woff(1 << 30), /unfolds to more than 64 MB/],
  ])('%s', async (_name, bytes, message) => {
    const began = cpuSeconds()
    const r = await inspectAsset(bytes)
    expect(r.ok ? 'read' : r.problem.message).toMatch(message)
    expect(r.ok ? 0 : r.problem.message.length).toBeLessThan(300)
    expect(cpuSeconds() - began).toBeLessThan(READER_LIMITS.cpuS)
  })
})
function woff(unpacked: number): Uint8Array {
  const b = Buffer.alloc(44 + 20 + 16)
  b.write('wOFF', 0)
  b.writeUInt32BE(0x00010000, 4)
  b.writeUInt32BE(b.length, 8)
  b.writeUInt16BE(1, 12)
  b.write('head', 44)
  b.writeUInt32BE(64, 48)
  b.writeUInt32BE(16, 52)
  b.writeUInt32BE(unpacked, 56)
  return b
}
describe('files that would take for ever', () => {
  it('an SVG transform of 300,000 letters and a path of 20,000 outlines are read in the time of their length', async () => {
    const began = cpuSeconds()
    const letters = await inspectAsset(svg(`<rect width="1" height="1" transform="${'a'.repeat(300000)}"/>`))
    expect(letters.ok).toBe(true)
    const path = Array.from({ length: 20000 }, (_, i) => `M${i % 200} ${Math.floor(i / 200)}h.5v.5h-.5z`).join('')
    const many = await inspectAsset(svg(`<path d="${path}"/>`))
    expect(many.ok && many.value.triangles).toBe(20000 * 12)
    expect(cpuSeconds() - began).toBeLessThan(READER_LIMITS.cpuS)
  })
  it('transforms mean what they meant', async () => {
    const r = await inspectAsset(svg('<rect width="2" height="1" transform=" translate( 1 , 2 )  scale(3) , rotate(90) "/>'))
    expect(r.ok && r.value.bounds.max[0] - r.value.bounds.min[0]).toBeCloseTo(0.5, 5)
  })
  it('a picture whose profile unfolds to 512 MB is read for its pixels alone', async () => {
    const file = textured(profiled(512))
    const began = cpuSeconds()
    const r = await inspectAsset(file)
    expect(r.ok && r.value.tinted).toBe(true)
    expect(cpuSeconds() - began).toBeLessThan(READER_LIMITS.cpuS)
  })
  it('forty thousand groups are counted, and named as far as names are of use', async () => {
    const obj = `v 0 0 0\nv 1 0 0\nv 0 1 0\n${Array.from({ length: 40000 }, (_, i) => `g ${'part'.repeat(40)} ${i}\nf 1 2 3\n`).join('')}`
    const r = await inspectAsset(text(obj))
    expect(r.ok && [r.value.triangles, r.value.parts.length, r.value.notes[0]]).toEqual([
      40000,
      1000,
      '40,000 parts; the first 1,000 are named',
    ])
    expect(JSON.stringify(r.ok && r.value).length).toBeLessThan(200000)
  })
})
describe('the reader', () => {
  const file = (name: string, bytes: Uint8Array) => {
    const path = join(folder, name)
    writeFileSync(path, bytes)
    return path
  }
  it('is ended by the kernel when it takes too long, and says so shortly', async () => {
    // Outlines around each other: each lies in all before it.
    const rings = Array.from({ length: 30000 }, (_, i) => `M${i} ${i}H${200000 - i}V${200000 - i}H${i}z`).join('')
    const usual = READER_LIMITS.cpuS
    expect(usual).toBe(10)
    // Nobody waits for ten seconds in a test.
    READER_LIMITS.cpuS = 3
    try {
      await expect(inspect(file('rings.svg', svg(`<path d="${rings}"/>`)))).rejects.toMatchObject({
        status: 422,
        message: expect.stringMatching(/takes more than (3 s|3 GB of memory)/),
      })
    } finally {
      READER_LIMITS.cpuS = usual
    }
  })
  it('reads at most two at once, and the others in turn', async () => {
    const path = file('one.obj', text('v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n'))
    const all = await Promise.all(Array.from({ length: 6 }, () => inspect(path)))
    expect(all.map((r) => r.triangles)).toEqual([1, 1, 1, 1, 1, 1])
  })
  it('has nothing of ours around it', () => {
    process.env.DATABASE_URL = 'mariadb://secret'
    expect(JSON.stringify(bareEnv())).not.toContain('secret')
    delete process.env.DATABASE_URL
  })
  it('says why in a line', () => {
    expect(refusalText(null, 'SIGKILL', '')).toMatch(/10 s/)
    expect(refusalText(134, null, 'FATAL ERROR: Reached heap limit Allocation failed - JavaScript heap out of memory')).toMatch(/3 GB/)
    expect(refusalText(1, null, `line 3: ${'x'.repeat(5000)}\nmore`).length).toBe(300)
    expect(refusalText(1, null, 'line 3: no')).toBe('line 3: no')
  })
})
