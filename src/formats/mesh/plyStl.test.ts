import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { meshAsTaken } from '../../acts'
import { boundsOf, box, isClosed, type Mesh, runningAreas } from '../../engine'
import { formatProblemText, readMesh } from '..'

const bytes = (text: string) => new TextEncoder().encode(text)
const ok = async (data: Uint8Array): Promise<{ mesh: Mesh; notes: string[] }> => {
  const r = await readMesh(data)
  if (!r.ok) throw new Error(formatProblemText(r.problem))
  return { mesh: r.value, notes: r.notes }
}
const problem = async (data: Uint8Array) => {
  const r = await readMesh(data)
  return r.ok ? null : formatProblemText(r.problem)
}
const BOX = box(2, 3, 4)
const corner = (m: Mesh, i: number) => [...m.positions.subarray(m.indices[i] * 3, m.indices[i] * 3 + 3)]
const area = (m: Mesh) => runningAreas(m).at(-1)

function binaryStl(m: Mesh): Uint8Array {
  const n = m.indices.length / 3
  const out = new DataView(new ArrayBuffer(84 + n * 50))
  // Some writers begin a binary file with “solid”, too.
  bytes('solid of quay works').forEach((b, i) => out.setUint8(i, b))
  out.setUint32(80, n, true)
  for (let t = 0; t < n; t++)
    for (let c = 0; c < 3; c++) corner(m, t * 3 + c).forEach((x, k) => out.setFloat32(84 + t * 50 + 12 + c * 12 + k * 4, x, true))
  return new Uint8Array(out.buffer)
}
const textStl = (m: Mesh) =>
  `solid bell\n${Array.from({ length: m.indices.length / 3 }, (_, t) => `facet normal 0 0 0\n outer loop\n${[0, 1, 2].map((c) => `  vertex ${corner(m, t * 3 + c).join(' ')}`).join('\n')}\n endloop\nendfacet`).join('\n')}\nendsolid bell\n`

const SQUARE = (format: string) =>
  `ply\nformat ${format} 1.0\ncomment a lantern's lid\nelement vertex 4\nproperty float x\nproperty float y\nproperty float z\nproperty uchar red\nelement face 1\nproperty list uchar int vertex_indices\nend_header\n`
function binaryPly(little: boolean): Uint8Array {
  const head = bytes(SQUARE(little ? 'binary_little_endian' : 'binary_big_endian'))
  const body = new DataView(new ArrayBuffer(4 * 13 + 1 + 16))
  let at = 0
  for (const p of [
    [0, 0, 0],
    [2, 0, 0],
    [2, 0, 2],
    [0, 0, 2],
  ]) {
    for (const x of p) {
      body.setFloat32(at, x, little)
      at += 4
    }
    body.setUint8(at++, 200)
  }
  body.setUint8(at++, 4)
  for (const i of [3, 2, 1, 0]) {
    body.setInt32(at, i, little)
    at += 4
  }
  return new Uint8Array([...head, ...new Uint8Array(body.buffer)])
}

describe('STL', () => {
  it.each([
    ['binary', binaryStl(BOX)],
    ['text', bytes(textStl(BOX))],
  ])('%s: corners are joined, so that the box is closed', async (_name, data) => {
    const { mesh, notes } = await ok(data)
    expect(mesh.positions.length / 3).toBe(8)
    expect(isClosed(mesh)).toBe(true)
    expect(area(mesh)).toBeCloseTo(52, 4)
    expect(boundsOf(mesh)).toEqual(boundsOf(BOX))
    expect(notes).toEqual([])
  })
  it('leaves out faces without area, and says how many', async () => {
    const flat: Mesh = { ...BOX, indices: new Uint32Array([...BOX.indices, 0, 0, 1]) }
    expect((await ok(binaryStl(flat))).notes).toEqual(['left out: faces without area (1)'])
  })
  it.each([
    ['solid a\nfacet normal 0 0 1\nouter loop\nvertex 0 0\n', 'line 4: “vertex” needs three numbers'],
    ['solid a\nfacet normal 0 0 1\nouter loop\nvertex 0 0 x\n', 'line 4: “x” is not a finite number'],
    ['solid a\nfacet normal 0 0 1\nouter loop\nvertex 0 0 0\nvertex 1 0 0\n', 'line 6: cut short: the last facet has no three corners'],
    ['solid a\nfacet normal 0 0 1\nspoon\n', 'line 3: “spoon” is not a line of a text STL file; is it cut short, or another format?'],
    ['solid a\nendsolid a\n', 'the file has no triangle with an area'],
  ])('%j is refused', async (text, message) => {
    expect(await problem(bytes(text))).toBe(message)
  })
})
describe('PLY', () => {
  it.each([
    ['text', bytes(`${SQUARE('ascii')}0 0 0 9\n2 0 0 9\n2 0 2 9\n0 0 2 9\n4 3 2 1 0\n`)],
    ['little endian', binaryPly(true)],
    ['big endian', binaryPly(false)],
  ])('%s: a square becomes two triangles, and colours are named', async (_name, data) => {
    const { mesh, notes } = await ok(data)
    expect([...mesh.indices]).toEqual([3, 2, 1, 3, 1, 0])
    expect(area(mesh)).toBeCloseTo(4, 6)
    expect(notes).toEqual(['not taken over: red'])
  })
  it('takes normals', async () => {
    const text =
      'ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nproperty float y\nproperty float z\nproperty float nx\nproperty float ny\nproperty float nz\nelement face 1\nproperty list uchar int vertex_index\nend_header\n0 0 0 0 1 0\n1 0 0 0 1 0\n0 0 1 0 1 0\n3 0 2 1\n'
    expect([...((await ok(bytes(text))).mesh.normals as Float32Array)]).toEqual([0, 1, 0, 0, 1, 0, 0, 1, 0])
  })
  it.each([
    ['ply\nformat ascii 1.0\nelement vertex 1\n', 'the header has no “end_header”; is the file cut short?'],
    ['ply\nformat morse 1.0\nend_header\n', 'line 2: format “morse” is not known'],
    ['ply\nformat ascii 1.0\nelement vertex many\nend_header\n', 'line 3: element vertex says “many” instead of how many there are'],
    ['ply\nformat ascii 1.0\nelement vertex 1\nproperty quad x\nend_header\n', 'line 4: “property quad x” has a type that is not known'],
    [
      'ply\nformat ascii 1.0\nelement face 1\nproperty list uchar int vertex_indices\nend_header\n3 0 1 2\n',
      'it has no vertices with x, y and z',
    ],
    [`${SQUARE('ascii')}0 0 0 9\n2 0 0 9\n`, 'line 14: cut short: vertex 3 of 4 is missing or not whole'],
    [`${SQUARE('ascii')}0 0 0 9\n2 0 0 9\n2 0 2 9\n0 0 2 9\n4 0 1 2 7\n`, 'line 16: face 1 names vertex 7, but there are 4'],
  ])('%j is refused', async (text, message) => {
    expect(await problem(bytes(text))).toBe(message)
  })
  it('binary ones that are cut short say where', async () => {
    const whole = binaryPly(true)
    expect(await problem(whole.subarray(0, whole.length - 3))).toMatch(/^byte \d+: cut short: face 1 of 1/)
  })
})
it('whatever is broken in such a file, it is read or refused, never thrown (property)', async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.constantFrom(
        binaryStl(BOX),
        bytes(textStl(BOX)),
        binaryPly(true),
        bytes(`${SQUARE('ascii')}0 0 0 9\n2 0 0 9\n2 0 2 9\n0 0 2 9\n4 3 2 1 0\n`),
      ),
      fc.array(fc.tuple(fc.nat(2000), fc.nat(255)), { maxLength: 6 }),
      fc.nat(2000),
      async (file, changes, end) => {
        const data = file.slice(0, Math.max(1, file.length - (end % file.length)))
        for (const [at, v] of changes) if (at < data.length) data[at] = v
        const r = await readMesh(data)
        if (r.ok) expect(Math.max(...r.value.indices)).toBeLessThan(r.value.positions.length / 3)
        else expect(formatProblemText(r.problem).length).toBeGreaterThan(5)
      },
    ),
    { numRuns: 300 },
  )
})
it('a file in millimetres with Z up becomes metres with Y up, and stays closed and faced outwards', () => {
  const m = meshAsTaken(box(2000, 3000, 4000), { unit: 0.001, up: 'z' })
  expect(boundsOf(m).max.map((v) => Number(v.toFixed(6)))).toEqual([1, 2, 1.5])
  expect(isClosed(m)).toBe(true)
  const n = m.normals as Float32Array
  for (let i = 0; i < m.indices.length; i += 3) {
    const [a, b, c] = [0, 1, 2].map((k) => corner(m, i + k))
    const u = b.map((x, k) => x - a[k]),
      w = c.map((x, k) => x - a[k])
    const f = [u[1] * w[2] - u[2] * w[1], u[2] * w[0] - u[0] * w[2], u[0] * w[1] - u[1] * w[0]]
    expect(f.reduce((s, x, k) => s + x * n[m.indices[i] * 3 + k], 0)).toBeGreaterThan(0)
  }
  expect(meshAsTaken(BOX, { unit: 1, up: 'y' })).toBe(BOX)
  expect(meshAsTaken(BOX, { unit: 2, up: 'y' })).toBe(meshAsTaken(BOX, { unit: 2, up: 'y' }))
})
