import { readFileSync } from 'node:fs'
import { Document, WebIO } from '@gltf-transform/core'
import { describe, expect, it } from 'vitest'
import { readGlbCameras } from './glbCameras'

type Cameras = Awaited<ReturnType<typeof readGlbCameras>>
const given = (r: Cameras) => {
  if (!r.ok) throw new Error(r.problem.message)
  return r
}
/** A camera that is 2 m up the arm of a crane that turns about Y from 0 to 90° within two seconds, and tilts down by 30°. */
async function crane(): Promise<Uint8Array> {
  const d = new Document()
  const buffer = d.createBuffer()
  const numbers = (type: 'SCALAR' | 'VEC4', list: number[]) =>
    d.createAccessor().setType(type).setArray(new Float32Array(list)).setBuffer(buffer)
  const turn = (degrees: number, axis: number) => {
    const a = (degrees * Math.PI) / 360
    return [0, 1, 2].map((k) => (k === axis ? Math.sin(a) : 0)).concat(Math.cos(a)) as [number, number, number, number]
  }
  const eye = d.createCamera('lens').setType('perspective').setYFov(0.6).setZNear(0.1)
  const head = d.createNode('walk').setCamera(eye).setTranslation([0, 2, 1]).setRotation(turn(-30, 0)).setScale([2, 2, 2])
  const flat = d
    .createNode('plan')
    .setCamera(d.createCamera('flat').setType('orthographic').setXMag(1).setYMag(1).setZNear(0.1).setZFar(10))
  const still = d.createNode('still').setCamera(eye).setTranslation([1, 2, 3])
  const arm = d.createNode('arm').setTranslation([5, 0, 0]).addChild(head)
  d.createScene().addChild(arm).addChild(flat).addChild(still)
  const sampler = d
    .createAnimationSampler()
    .setInput(numbers('SCALAR', [0, 1, 2]))
    .setOutput(numbers('VEC4', [...turn(0, 1), ...turn(45, 1), ...turn(90, 1)]))
    .setInterpolation('LINEAR')
  const channel = d.createAnimationChannel().setTargetNode(arm).setTargetPath('rotation').setSampler(sampler)
  d.createAnimation('swing').addSampler(sampler).addChannel(channel)
  return new WebIO().writeBinary(d)
}
const near = (a: readonly number[], b: readonly number[]) => a.forEach((v, i) => expect(v).toBeCloseTo(b[i], 6))

describe('cameras of a GLB', () => {
  it('that stands as the sample says it, with its angle of view', async () => {
    const { value } = given(await readGlbCameras(new Uint8Array(readFileSync('src/formats/mesh/samples/flag_animated.glb'))))
    expect(value.map((c) => [c.name, c.moves])).toEqual([['walk', false]])
    const c = value[0].at(0.5, 16 / 9)
    near(c.place, [0, 1.7, 6])
    near(c.forward, [0, 0, -1])
    near(c.up, [0, 1, 0])
    // Half the height over the distance is tan(yfov / 2), the width 16/9 of it, and the sensor 36 mm.
    expect(36 / 2 / (c.lens as number) / (16 / 9)).toBeCloseTo(Math.tan(0.3), 9)
  })
  it('that hangs in what moves goes along, at a millionth, whatever its scale', async () => {
    const { value, notes } = given(await readGlbCameras(await crane()))
    expect(notes).toEqual(['not taken over: cameras without perspective'])
    expect(value.map((c) => [c.name, c.moves, c.lengthS])).toEqual([
      ['walk', true, 2],
      ['still', false, 2],
    ])
    for (const [t, degrees] of [
      [0, 0],
      [1, 45],
      [2, 90],
      [9, 90],
    ]) {
      const c = value[0].at(t, 1)
      const a = (degrees * Math.PI) / 180
      const down = Math.PI / 6
      near(c.place, [5 + Math.sin(a), 2, Math.cos(a)])
      near(c.forward, [-Math.sin(a) * Math.cos(down), -Math.sin(down), -Math.cos(a) * Math.cos(down)])
      near(c.up, [-Math.sin(a) * Math.sin(down), Math.cos(down), -Math.cos(a) * Math.sin(down)])
    }
  })
  it('there are none in a file without, and one that is broken says where', async () => {
    const bare = new Document()
    bare.createScene()
    expect(given(await readGlbCameras(await new WebIO().writeBinary(bare))).value).toEqual([])
    const r = await readGlbCameras((await crane()).subarray(0, 30))
    expect(r.ok ? '' : r.problem.message).toMatch(/cut short/)
  })
})
