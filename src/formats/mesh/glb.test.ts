import { Document, WebIO } from '@gltf-transform/core'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { boundsOf, motionAt, triangleCount } from '../../engine'
import { formatProblemText, readMesh } from '..'
import { readGlb } from './glb'

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
    const primitive = d
      .createPrimitive()
      .setAttribute('POSITION', d.createAccessor().setType('VEC3').setArray(new Float32Array(p.positions)).setBuffer(buffer))
    if (p.normals)
      primitive.setAttribute('NORMAL', d.createAccessor().setType('VEC3').setArray(new Float32Array(p.normals)).setBuffer(buffer))
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
function withJson(
  data: Uint8Array,
  change: (json: {
    accessors: Record<string, unknown>[]
    bufferViews: Record<string, unknown>[]
    buffers: Record<string, unknown>[]
    [k: string]: unknown
  }) => void,
): Uint8Array {
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
    const r = await readGlb(
      await glb([
        { name: 'Bell', positions: TRIANGLE, indices: [0, 1, 2], translate: [10, 0, 0] },
        { name: 'Clapper', positions: TRIANGLE, scale: [2, 2, 2] },
      ]),
    )
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
    const some = await readGlb(
      await glb([
        { name: 'a', positions: TRIANGLE, normals: up },
        { name: 'b', positions: TRIANGLE },
      ]),
    )
    expect(some.ok && some.value.normals).toBeNull()
  })
  it('says what it did not take over', async () => {
    const r = await readGlb(
      await glb(
        [
          { name: 'a', positions: TRIANGLE },
          { name: 'wire', positions: TRIANGLE, mode: 1 },
        ],
        (d) => {
          d.createAnimation('turn')
          d.createAnimation('nod')
          d.createTexture('bumps')
            .setImage(new Uint8Array([137, 80, 78, 71]))
            .setMimeType('image/png')
        },
      ),
    )
    if (!r.ok) throw new Error(r.problem.message)
    expect(r.ok && r.notes.sort()).toEqual([
      'not taken over: 1 further animation',
      'not taken over: points, lines and strips',
      'not taken over: textures beside base colour, normals, roughness and emission',
    ])
    expect(r.ok && triangleCount(r.value)).toBe(1)
  })
  it('refuses what is not right, with the place', async () => {
    const data = await glb([{ name: 'Bell', positions: TRIANGLE, indices: [0, 1, 2] }])
    expect(await wrong(data.subarray(0, 12))).toBe('byte 12: cut short: a GLB file has at least 20 bytes')
    expect(await wrong(data.subarray(0, data.length - 5))).toMatch(/^byte 8: cut short: the header says \d+ bytes, the file has \d+$/)
    const old = data.slice()
    old[4] = 1
    expect(await wrong(old)).toBe('byte 4: glTF version 1; only 2 is read')
    expect(await wrong(await glb([{ name: 'Bell', positions: [0, 0, Number.NaN, 1, 0, 0, 0, 1, 0] }]))).toBe(
      'vertex 0 of “Bell” is not a finite number',
    )
    expect(await wrong(await glb([{ name: 'Bell', positions: TRIANGLE, indices: [0, 1, 7] }]))).toBe(
      '“Bell” has an index 7, but only 3 vertices',
    )
    expect(await wrong(await glb([]))).toBe('the file has no triangles')
  })
  it('refuses claims of gigabytes before anything is allotted', async () => {
    const data = await glb([{ name: 'Bell', positions: TRIANGLE, indices: [0, 1, 2] }])
    expect(await wrong(withJson(data, (j) => void (j.accessors[0].count = 4e9)))).toBe('accessor 0 claims 4000000000 elements')
    expect(await wrong(withJson(data, (j) => void (j.accessors[0].count = -1)))).toBe('accessor 0 claims -1 elements')
    expect(await wrong(withJson(data, (j) => void (j.bufferViews[0].byteLength = 3e9)))).toBe('buffer view 0 reaches beyond the data')
    expect(await wrong(withJson(data, (j) => void (j.buffers[0].uri = '../../etc/passwd')))).toBe(
      'it refers to other files; export it as one GLB with everything inside',
    )
    const chunk = data.slice()
    new DataView(chunk.buffer).setUint32(12, 0x7fffffff, true)
    expect(await wrong(chunk)).toMatch(/^byte 12: a chunk claims 2147483647 bytes, but only \d+ are left$/)
  })
  it('says what a node puts beyond all numbers', async () => {
    const lone = await glb([{ name: 'Bell', positions: TRIANGLE, indices: [0, 1, 2], translate: [1, 2, 3] }])
    const put = (by: number) =>
      withJson(lone, (j) => {
        for (const node of j.nodes as { scale?: number[] }[]) node.scale = [by, by, by]
      })
    expect((await readMesh(put(1e30))).ok).toBe(true)
    expect(await wrong(put(1e39))).toMatch(/^vertex \d lies beyond 3.4e38 m/)
  })
  it('cut off anywhere, or with any byte changed, it answers with a mesh or a message (property)', async () => {
    const data = await glb([
      { name: 'Bell', positions: TRIANGLE, indices: [0, 1, 2] },
      { name: 'Yoke', positions: TRIANGLE, translate: [1, 2, 3] },
    ])
    for (let n = 0; n < data.length; n += 7) expect((await readMesh(data.subarray(0, n))).ok).toBe(false)
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.tuple(fc.nat({ max: data.length - 1 }), fc.nat({ max: 255 })), { minLength: 1, maxLength: 6 }),
        async (hits) => {
          const broken = data.slice()
          for (const [at, value] of hits) broken[at] = value
          const r = await readMesh(broken)
          if (r.ok) {
            for (const i of r.value.indices) expect(i).toBeLessThan(r.value.positions.length / 3)
            expect(r.value.positions.every(Number.isFinite)).toBe(true)
          } else expect(r.problem.message).not.toBe('')
        },
      ),
      { numRuns: 300 },
    )
  })
})

describe('what moves in a GLB', () => {
  const clip = (
    d: Document,
    target: ReturnType<Document['createNode']>,
    path: 'translation' | 'rotation' | 'scale' | 'weights',
    times: number[],
    values: number[],
    ease = 'LINEAR',
  ) => {
    const buffer = d.getRoot().listBuffers()[0]
    const sampler = d
      .createAnimationSampler()
      .setInput(d.createAccessor().setType('SCALAR').setArray(new Float32Array(times)).setBuffer(buffer))
      .setOutput(
        d
          .createAccessor()
          .setType(path === 'rotation' ? 'VEC4' : path === 'weights' ? 'SCALAR' : 'VEC3')
          .setArray(new Float32Array(values))
          .setBuffer(buffer),
      )
      .setInterpolation(ease as never)
    const animation = d.getRoot().listAnimations()[0] ?? d.createAnimation()
    animation.addSampler(sampler).addChannel(d.createAnimationChannel().setTargetNode(target).setTargetPath(path).setSampler(sampler))
  }
  const moving = async (extra: (d: Document) => void, pieces: Piece[] = [{ name: 'a', positions: TRIANGLE }]) => {
    const r = await readGlb(await glb(pieces, extra))
    if (!r.ok) throw new Error(r.problem.message)
    const m = r.value
    return { mesh: m, at: (t: number) => (m.motion ? [...motionAt(m.positions, m.motion, t)] : []) }
  }
  const node = (d: Document, name = 'a') =>
    d
      .getRoot()
      .listNodes()
      .find((n) => n.getName() === name) as ReturnType<Document['createNode']>
  it('a node with keys carries its vertices, under a parent with keys of its own', async () => {
    const { mesh, at } = await moving((d) => {
      const parent = d.createNode('arm')
      d.getRoot().listScenes()[0].removeChild(node(d)).addChild(parent)
      parent.addChild(node(d))
      clip(d, node(d), 'translation', [0, 2], [0, 0, 0, 4, 0, 0])
      clip(d, parent, 'scale', [0, 2], [1, 1, 1, 3, 3, 3])
    })
    expect(mesh.motion?.lengthS).toBe(2)
    expect([...mesh.positions]).toEqual(TRIANGLE)
    // At 1 s the arm is twice as large and the node 2 m out.
    expect(at(1)).toEqual(TRIANGLE.map((v, i) => v * 2 + (i % 3 === 0 ? 4 : 0)))
    expect(at(9)).toEqual(at(2))
    expect(at(-1)).toEqual(TRIANGLE)
  })
  it('rotation goes the shorter way and stays a rotation; steps hold, cubics meet their values with their slopes', async () => {
    const half = Math.SQRT1_2
    const { at } = await moving((d) => clip(d, node(d), 'rotation', [0, 1], [0, 0, 0, 1, 0, 0, -half, -half]))
    const p = at(0.5)
    // Half of a quarter turn about Z.
    expect(p[3]).toBeCloseTo(Math.cos(Math.PI / 4), 5)
    expect(p[4]).toBeCloseTo(Math.sin(Math.PI / 4), 5)
    const step = await moving((d) => clip(d, node(d), 'translation', [0, 1], [0, 0, 0, 5, 0, 0], 'STEP'))
    expect([step.at(0.99)[0], step.at(1)[0]]).toEqual([0, 5])
    const cubic = await moving((d) =>
      clip(d, node(d), 'translation', [0, 2], [0, 0, 0, 0, 0, 0, 1, 0, 0, 1, 0, 0, 2, 0, 0, 0, 0, 0], 'CUBICSPLINE'),
    )
    // Tangents of 1 m/s between 0 and 2 m over 2 s: a straight line.
    expect(cubic.at(0.5)[0]).toBeCloseTo(0.5, 6)
    expect(cubic.at(1.5)[0]).toBeCloseTo(1.5, 6)
  })
  it('morphs add their offsets by their weights', async () => {
    const { mesh, at } = await moving((d) => {
      const buffer = d.getRoot().listBuffers()[0]
      const target = d.createPrimitiveTarget().setAttribute(
        'POSITION',
        d
          .createAccessor()
          .setType('VEC3')
          .setArray(new Float32Array([0, 0, 1, 0, 0, 1, 0, 0, 3]))
          .setBuffer(buffer),
      )
      const m = node(d).getMesh()
      m?.listPrimitives()[0].addTarget(target)
      m?.setWeights([0.5])
      clip(d, node(d), 'weights', [0, 1], [0.5, 1])
    })
    expect([mesh.positions[2], mesh.positions[8]]).toEqual([0.5, 1.5])
    expect([at(1)[2], at(1)[8]]).toEqual([1, 3])
  })
  it('a skin follows its bones by their weights, wherever its own node stands', async () => {
    const { mesh, at } = await moving((d) => {
      const buffer = d.getRoot().listBuffers()[0]
      const [still, bone] = [d.createNode('still'), d.createNode('bone')]
      d.getRoot().listScenes()[0].addChild(still).addChild(bone)
      const list = (type: 'VEC4' | 'MAT4', array: Float32Array | Uint8Array) =>
        d
          .createAccessor()
          .setType(type)
          .setArray(array as never)
          .setBuffer(buffer)
      const one = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1]
      node(d)
        .getMesh()
        ?.listPrimitives()[0]
        .setAttribute('JOINTS_0', list('VEC4', new Uint8Array([0, 1, 0, 0, 0, 1, 0, 0, 0, 1, 0, 0])))
        .setAttribute('WEIGHTS_0', list('VEC4', new Float32Array([1, 0, 0, 0, 0, 1, 0, 0, 0.5, 0.5, 0, 0])))
      node(d)
        .setTranslation([9, 9, 9])
        .setSkin(
          d
            .createSkin()
            .addJoint(still)
            .addJoint(bone)
            .setInverseBindMatrices(list('MAT4', new Float32Array([...one, ...one]))),
        )
      clip(d, bone, 'translation', [0, 1], [0, 0, 0, 0, 2, 0])
    })
    expect([...mesh.positions]).toEqual(TRIANGLE)
    expect(at(1)).toEqual([0, 0, 0, 1, 2, 0, 0, 2, 0])
  })
  it('vertex colours come along, times the base colour of their material', async () => {
    const { mesh } = await moving((d) => {
      const buffer = d.getRoot().listBuffers()[0]
      d.getRoot()
        .listMeshes()[0]
        .listPrimitives()[0]
        .setMaterial(d.createMaterial().setBaseColorFactor([0.5, 1, 1, 1]))
        .setAttribute(
          'COLOR_0',
          d
            .createAccessor()
            .setType('VEC3')
            .setArray(new Float32Array([1, 0, 0, 0, 1, 0, 0, 0, 1]))
            .setBuffer(buffer),
        )
    })
    expect([...(mesh.colours ?? [])]).toEqual([0.5, 0, 0, 0, 1, 0, 0, 0, 1])
    expect(mesh.motion).toBeUndefined()
  })
  it('a base texture comes along with its places, on its part alone; one without places is named', async () => {
    const picture = new Uint8Array([137, 80, 78, 71, 1, 2, 3])
    const { mesh } = await moving(
      (d) => {
        const buffer = d.getRoot().listBuffers()[0]
        const material = d.createMaterial().setBaseColorTexture(d.createTexture('bark').setImage(picture).setMimeType('image/png'))
        d.getRoot()
          .listMeshes()[1]
          .listPrimitives()[0]
          .setMaterial(material)
          .setAttribute(
            'TEXCOORD_0',
            d
              .createAccessor()
              .setType('VEC2')
              .setArray(new Float32Array([0, 0, 1, 0, 0, 1]))
              .setBuffer(buffer),
          )
      },
      [
        { name: 'plain', positions: TRIANGLE },
        { name: 'bark', positions: TRIANGLE },
      ],
    )
    expect(mesh.textures).toEqual([{ part: 'bark', type: 'image/png', data: picture, brightness: null }])
    expect([...(mesh.uv ?? [])]).toEqual([0, 0, 0, 0, 0, 0, 0, 0, 1, 0, 0, 1])
    const bare = await readGlb(
      await glb([{ name: 'a', positions: TRIANGLE }], (d) => {
        d.getRoot()
          .listMeshes()[0]
          .listPrimitives()[0]
          .setMaterial(d.createMaterial().setBaseColorTexture(d.createTexture('bark').setImage(picture).setMimeType('image/png')))
      }),
    )
    expect(bare.ok && bare.notes).toEqual(['not taken over: textures without places on the mesh, or of a kind that is not read'])
    expect(bare.ok && bare.value.textures).toBeUndefined()
  })
  it('what a material is made of comes along with its pictures, on its part alone', async () => {
    const picture = (n: number) => new Uint8Array([137, 80, 78, 71, n])
    const { mesh } = await moving(
      (d) => {
        const buffer = d.getRoot().listBuffers()[0]
        const texture = (n: number) => d.createTexture(`t${n}`).setImage(picture(n)).setMimeType('image/png')
        const material = d
          .createMaterial()
          .setRoughnessFactor(0.4)
          .setMetallicFactor(0.9)
          .setEmissiveFactor([0.5, 0, 1])
          .setNormalTexture(texture(1))
          .setNormalScale(0.7)
          .setMetallicRoughnessTexture(texture(2))
          .setEmissiveTexture(texture(3))
        const at = d
          .createAccessor()
          .setType('VEC2')
          .setArray(new Float32Array([0, 0, 1, 0, 0, 1]))
          .setBuffer(buffer)
        d.getRoot().listMeshes()[1].listPrimitives()[0].setMaterial(material).setAttribute('TEXCOORD_0', at)
        d.getRoot()
          .listMeshes()[2]
          .listPrimitives()[0]
          .setMaterial(d.createMaterial().setRoughnessFactor(0.2).setMetallicFactor(0).setNormalTexture(texture(4)))
      },
      ['plain', 'tin', 'bare'].map((name) => ({ name, positions: TRIANGLE })),
    )
    const of = (n: number) => ({ type: 'image/png', data: picture(n) })
    expect(mesh.surfaces).toEqual([
      { part: 'tin', roughness: 0.4, metal: 0.9, glow: [0.5, 0, 1], normal: { ...of(1), scale: 0.7 }, rough: of(2), shines: of(3) },
      // Without places there are no pictures.
      { part: 'bare', roughness: 0.2, metal: 0, glow: [0, 0, 0] },
    ])
    expect(mesh.textures).toEqual([])
    expect([...(mesh.uv ?? [])].slice(6, 12)).toEqual([0, 0, 1, 0, 0, 1])
  })
})
